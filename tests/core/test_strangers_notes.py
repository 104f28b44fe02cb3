"""What notes of authors who thought of nobody's tool are understood to say."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from hookset.authoring.draft import Decision, Draft, Mark, drafted, sheet_text, with_mark
from hookset.packs import open_pack, with_sheet
from hookset.packs.hooksheet import HookEntry, SettingEntry
from hookset.project import Stock
from hookset.trees import FolderTree
from tests.published import site_for

SOUND = "RIFF\x24\x00\x00\x00WAVEfmt \x10\x00\x00\x00"
PICTURE = "\x89PNG\r\n\x1a\n"


def drafts(folder: Path, layout: str, notes: str, files: dict[str, str] | None = None) -> Draft:
    """A draft for the demo's map of a layout."""
    for path, text in {"notes.txt": notes, **(files or {})}.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_bytes(text.encode("latin-1") if text[:1] in "\x89R" else text.encode())
    return drafted(site_for(layout), open_pack(folder))


def targets(draft: Draft, folder: Path) -> dict[str, str]:
    pack = with_sheet(open_pack(folder), sheet_text(draft).encode(), "draft")
    return {path: target for target, path in pack.targets.items()}


def left(draft: Draft) -> dict[str, bool]:
    return {one.path: one.sure for one in draft.left if one.path != "notes.txt"}


def texts_of(draft: Draft) -> dict[str, Any]:
    return next((dict(hook.each) for hook in draft.sheet.hook if hook.each is not None), {})


POST = "thing: winch_post\nsort: post\nshape: winch_post\n"


def test_a_thing_goes_where_its_like_are_with_all_that_belongs_to_it(tmp_path: Path) -> None:
    files = {
        "winch_post.yaml": POST,
        "winch_post.gltf": "{}",
        "winch_post.bin": "x",
        "sloop/sloop.yaml": "thing: sloop\nsort: boat\nshape: sloop\n",
        "sloop/paint.png": PICTURE,
    }
    draft = drafts(tmp_path, "mirrored-folders", "Things.\n", files)
    assert targets(draft, tmp_path) == {
        "winch_post.yaml": "quay/posts/winch_post.yaml",
        "winch_post.gltf": "quay/posts/winch_post.gltf",
        "winch_post.bin": "quay/posts/winch_post.bin",
        "sloop/sloop.yaml": "craft/boats/sloop.yaml",
        "sloop/paint.png": "craft/boats/paint.png",
    }


@pytest.mark.parametrize(
    "notes",
    [
        "assets/planks.png: please never overwrite yours.\n",
        "If you have no planks.png take mine.\nIf you have a planks.png already leave it.\n",
        "The boat is painted with planks.png. If there is none yet, take mine.\n",
        "planks.png nicht überschreiben!\n",
        "| `assets/` | only those that your map does not have |\n",
    ],
)
def test_what_is_only_for_maps_without_it(notes: str, tmp_path: Path) -> None:
    draft = drafts(tmp_path, "scene-graph", notes, {"assets/planks.png": PICTURE, "code/mast.lua": "Mast = {}\n"})
    assert {one.from_: one.keep_mine for one in draft.sheet.files} == {"assets/**": True, "code/**": False}


@pytest.mark.parametrize(
    "notes",
    [
        "Leave the tools folder alone, it is only for me.\n",
        "The folder called tools is a mess. Leave it where it is.\n",
        "| What | Where |\n| --- | --- |\n| `tools/` | no |\n",
        "tools/|my own drawings|no|\n",
    ],
)
def test_what_the_notes_leave_out(notes: str, tmp_path: Path) -> None:
    draft = drafts(tmp_path, "scene-graph", notes, {"tools/bang.wav": SOUND, "assets/bell.wav": SOUND})
    assert left(draft) == {"tools/bang.wav": True}
    assert list(targets(draft, tmp_path)) == ["assets/bell.wav"]


MODEL = '{"asset": {"version": "2.0"}, "images": [{"uri": "ball.png"}]}'


@pytest.mark.parametrize(
    ("notes", "pictures", "choices"),
    [
        ("The ball is black or red, call it ball.png.\n", ("ball_red.png", "ball_black.png"), ("black", "red")),
        ("Choose a skin, and put its ball.png beside it.\n", ("skins/oak/ball.png", "skins/iron/ball.png"), None),
        (
            "Choose one of them as assets/ball.png:\n- stripes/tarred.png\n- stripes/plain.png\n",
            ("stripes/tarred.png", "stripes/plain.png"),
            ("tarred", "plain"),
        ),
    ],
)
def test_of_several_files_one_is_chosen(
    notes: str, pictures: tuple[str, ...], choices: tuple[str, ...] | None, tmp_path: Path
) -> None:
    files = dict.fromkeys(pictures, PICTURE) | {"assets/mast.gltf": MODEL}
    draft = drafts(tmp_path, "scene-graph", notes, files)
    (setting,) = draft.sheet.setting
    assert setting.choices == (choices or setting.choices) and setting.default == setting.choices[0]
    chosen = {one.from_: one.when.equals for one in draft.sheet.files if one.when is not None}
    assert sorted(chosen) == sorted(pictures) and sorted(chosen.values()) == sorted(setting.choices)
    pack = with_sheet(open_pack(tmp_path), sheet_text(draft).encode(), "draft")
    assert sorted(path for path, _ in pack.alternatives["assets/ball.png"]) == sorted(pictures)


MAST = 'Mast = {}\nfunction Mast.hoist(who) write_text("mast.up") end\n'
NODE = """<Thing key="mast" form="1" at="1 0 1">
<call key="onUse" is="Mast.raise"/>
<text key="label" is="mast.use"/>
</Thing>
"""


@pytest.mark.parametrize(
    ("said", "language"),
    [
        ("Texts mast.use = Hoist it, mast.up = It is up.\n", "en"),
        ('There are two, mast.use is "Hoist it" and mast.up is "It is up". They go with the others.\n', "en"),
        ('texts mast.use and mast.up ("Hoist it" / "It is up"), others do yourself\n', "en"),
        ("Deutsche Texte: mast.use = Hoist it, mast.up = It is up.\n", "de"),
        ("The rest.\nSomebody sent German texts, thanks!! mast.use = Hoist it, mast.up = It is up.\n", "de"),
    ],
)
def test_texts_are_taken_out_of_prose(said: str, language: str, tmp_path: Path) -> None:
    draft = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{NODE}\n{said}", {"code/mast.lua": MAST})
    assert texts_of(draft) == {language: '<Text key="mast.use">Hoist it</Text>\n<Text key="mast.up">It is up</Text>'}
    assert [line.fate.value for line in draft.lines if "mast.up" in line.text] == ["done"]


def test_a_later_text_holds(tmp_path: Path) -> None:
    said = "Texts mast.use = Hoist, mast.up = Up.\n\nEDIT: mast.up = It is up.\n"
    draft = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{NODE}\n{said}", {"code/mast.lua": MAST})
    assert ">It is up<" in texts_of(draft)["en"] and ">Up<" not in texts_of(draft)["en"]


@pytest.mark.parametrize(
    "said",
    [
        "1.2 Mast.raise is Mast.hoist now\n",
        "1.2 Mast.raise heißt Mast.hoist\n",
        "EDIT: sorry, it's Mast.hoist since I renamed the function\n",
    ],
)
def test_names_are_what_the_notes_say_later(said: str, tmp_path: Path) -> None:
    draft = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{NODE}\n{said}", {"code/mast.lua": MAST})
    (hook,) = (one for one in draft.sheet.hook if "onUse" in str(one.text))
    assert 'is="Mast.hoist"' in str(hook.text)
    place = draft.sheet.hook.index(hook)
    assert ("notes.txt", len(NODE.splitlines()) + 4) in draft.reason("hook", place).why.lines


def test_a_piece_that_is_taken_back_is_put_right(tmp_path: Path) -> None:
    said = 'EDIT: it is at="2 0 2" for the mast and not at="1 0 1".\n'
    draft = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{NODE}\n{said}", {"code/mast.lua": MAST})
    (hook,) = (one for one in draft.sheet.hook if "onUse" in str(one.text))
    assert 'at="2 0 2"' in str(hook.text) and 'at="1 0 1"' not in str(hook.text)


def test_what_comes_to_be_inside_a_sentence(tmp_path: Path) -> None:
    notes = 'Then tell the game of it, in my map with   <Run source="50"/>   . I forgot it once.\n'
    notes = f'The list of files:\n\n<Source no="50" from="code/mast.lua"/>\n\n{notes}'
    draft = drafts(tmp_path, "scene-graph", notes, {"code/mast.lua": MAST})
    assert [hook.seat for hook in draft.sheet.hook] == ["scripts"]
    assert str(draft.sheet.hook[0].text) == '<Run source="{listed:file-id:code/mast.lua}"/>'


def test_prose_behind_a_text_to_be_copied_is_left_off(tmp_path: Path) -> None:
    notes = f"[code]{NODE}the spot is yours, 1 was only mine to begin with[/code]\n"
    draft = drafts(tmp_path, "scene-graph", notes, {"code/mast.lua": MAST})
    (hook,) = (one for one in draft.sheet.hook if "onUse" in str(one.text))
    assert str(hook.text).rstrip().endswith("</Thing>")


def test_the_map_that_a_pack_was_made_in(tmp_path: Path) -> None:
    notes = "Under [scripts] in course.ini:\n\n    fog = courses/far_sound_cup/code/fog.lua\n"
    script = 'moment("fog", function() play("courses/far_sound_cup/sounds/gun.wav") end)\n'
    draft = drafts(tmp_path, "numbered-marks", notes, {"code/fog.lua": script, "sounds/gun.wav": SOUND})
    assert [(hook.seat, hook.record) for hook in draft.sheet.hook] == [
        ("scripts", {"fog": "courses/{map:folder}/code/fog.lua"})
    ]
    assert draft.sheet.pack.published.map == "far_sound_cup"


def test_sections_of_a_file_are_named_like_code(tmp_path: Path) -> None:
    notes = "course.ini, under [course]:\n\n    fog = 45\n\nand under [moments]:\n\n    fog = fog_rolls_in\n"
    draft = drafts(tmp_path, "numbered-marks", notes, {"code/fog.lua": 'moment("fog_rolls_in", nil)\n'})
    assert [(hook.seat, hook.record) for hook in draft.sheet.hook if hook.record != {}][:2] == [
        ("options", {"fog": "45"}),
        ("moments", {"fog": "fog_rolls_in"}),
    ]


BOTH = """Have you got the lanterns?

PART A: you do not have the lanterns

Server, imports:
    local gate = require("packs.gate")

PART B: you have the lanterns

Server, imports:
    local gate = require("packs.gate_lit")

- - - - - - - - - - - -
SOUNDS

    [[sound]]
    alias = "gate_creak"
    file = "gate/creak.wav"
"""


def test_parts_for_maps_with_and_without(tmp_path: Path) -> None:
    script = "local gate = {}\nreturn gate\n"
    files = {
        "without lanterns/scripts/server/packs/gate.lua": script,
        "with lanterns/scripts/server/packs/gate_lit.lua": script,
    }
    draft = drafts(tmp_path, "split-lua", BOTH, files)
    files_when = {one.from_.split("/")[0]: one.when for one in draft.sheet.files}
    hooks_when = {hook.text: hook.when for hook in draft.sheet.hook}
    without, with_ = files_when["without lanterns"], files_when["with lanterns"]
    assert without is not None and with_ is not None
    assert (without.without, with_.pack) == ("lanterns", "lanterns")
    assert hooks_when['local gate = require("packs.gate")'] == without
    assert hooks_when['local gate = require("packs.gate_lit")'] == with_
    assert [hook.when for hook in draft.sheet.hook if hook.seat == "sound-table"] == [None]


@pytest.mark.parametrize(
    "sentence",
    [
        "dans start(), tout de suite après rail.start(); (pas avant, pas à la fin)",
        "in start(), right after harbour.open(); (not before, not at the end)",
        "It is red, not blue, rather large, and as old as the quay; nobody knows why.",
    ],
)
def test_sentences_with_commas_and_calls_are_no_code(sentence: str, tmp_path: Path) -> None:
    draft = drafts(tmp_path, "split-lua", f"Gate 1.0\n\n{sentence}\n", {"scripts/server/packs/gate.lua": "return {}\n"})
    assert not [hook for hook in draft.sheet.hook if sentence in str(hook)]


@pytest.mark.parametrize("said", ["The spot is yours.", "1 0 1 is mine.", "Hinstellen, wo ihr wollt."])
def test_what_is_the_authors_own_is_asked_about(said: str, tmp_path: Path) -> None:
    notes = NODE.replace("Mast.raise", "Mast.hoist")
    draft = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{notes}\n{said}\n", {"code/mast.lua": MAST})
    (place,) = (n for n, one in enumerate(draft.sheet.hook) if "onUse" in str(one.text))
    assert not draft.reason("hook", place).sure
    without = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{notes}\n", {"code/mast.lua": MAST})
    (place,) = (n for n, one in enumerate(without.sheet.hook) if "onUse" in str(one.text))
    assert not [doubt for doubt in without.reason("hook", place).doubts if "author" in doubt]


def test_marks_are_kept_and_reach_entries_of_ones_own() -> None:
    first, second = Mark(text="4", becomes="{setting:a}"), Mark(text="7", becomes="{setting:b}")
    setting = SettingEntry(name="a", type="text", default="4")
    decision = with_mark(with_mark(Decision(lines="n:1"), first, (setting,)), second)
    assert (decision.mark, decision.setting) == ((first, second), (setting,))
    own = Decision(
        lines="n:1", do="instead", hook=(HookEntry(seat="x", text="go(4)"), HookEntry(seat="y", record={"a": "4"}))
    )
    marked = with_mark(own, first)
    assert marked.do == "instead"
    assert [(hook.text, hook.record) for hook in marked.hook] == [
        ("go({setting:a})", None),
        (None, {"a": "{setting:a}"}),
    ]


@pytest.mark.parametrize("text", ["Ebb & flow", "Say <now>"])
def test_a_text_that_would_damage_a_file_is_not_written(text: str, tmp_path: Path) -> None:
    said = f"Texts mast.use = {text}, mast.up = Up.\n"
    draft = drafts(tmp_path, "scene-graph", f"Into the nodes:\n\n{NODE}\n{said}", {"code/mast.lua": MAST})
    assert texts_of(draft) == {"en": '<Text key="mast.up">Up</Text>'}
    assert any(name == "mast.use" for _, name in draft.missing)


@pytest.mark.parametrize(
    ("said", "key", "row"),
    [
        ("Server, in harbour right under the line with ring.bell: on_ring()", "after", 'play("ring.bell")'),
        ("In harbour.lua, above ring.bell: on_ring()", "before", 'play("ring.bell")'),
    ],
)
def test_a_text_beside_a_line_of_another_file(said: str, key: str, row: str, tmp_path: Path) -> None:
    harbour = tmp_path / "map/scripts/server/harbour.lua"
    harbour.parent.mkdir(parents=True)
    harbour.write_text(f"local harbour = {{}}\nfunction harbour.open()\n  {row}\nend\nreturn harbour\n")
    (harbour.parent / "main.lua").write_text('local harbour = require("harbour")\nfunction start()\nend\n')
    site = replace(site_for("split-lua"), tree=FolderTree(tmp_path / "map"), stock=Stock())
    (tmp_path / "pack").mkdir()
    (tmp_path / "pack/notes.txt").write_text(f"Ringer\n\n{said}\n")
    (hook,) = (one for one in drafted(site, open_pack(tmp_path / "pack")).sheet.hook if one.file)
    assert (hook.file, hook.text, getattr(hook, key)) == ("scripts/server/harbour.lua", "on_ring()", row)
