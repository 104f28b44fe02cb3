"""What is learned of values that have names, of texts that are translated, and of lists that are mostly numbers."""

from __future__ import annotations

import time
from pathlib import Path

import pytest

from hookset.config.layouts.load import load_layout
from hookset.learning import learned, material
from hookset.learning.material import material_of
from hookset.learning.places import places_of, tables
from hookset.learning.places.numbered import numbered
from hookset.trees import FolderTree
from tests.core.test_learned_scripts import told
from tests.core.test_learning import rules, written

BOATS = ["cutter", "yawl", "smack", "ketch", "dinghy", "lugger", "wherry", "punt", "skiff", "barge"]
SOUNDS = ["creak", "splash", "horn", "gong", "drip"]
ERRANDS = [
    "Oil the hinge",
    "Paint the bow",
    "Rig the mast",
    "Coil a rope",
    "Ring the bell",
    "Sweep the pier",
    "Count gulls",
]


def boat(number: int) -> str:
    said = {
        "bow picture": f"{BOATS[number]}.bow",
        "noise": f"{SOUNDS[number % len(SOUNDS)]}.snd",
        "built by": f"the yard at pier {number}",
        "colour": f"{number * 7} 20 {number}",
    }
    values = "".join(f'    <property name="{name}" value="{value}"/>\n' for name, value in said.items())
    return f"<boat>\n  <part>\n{values}  </part>\n</boat>\n"


def test_values_are_looked_at_by_their_names(tmp_path: Path) -> None:
    files = {f"boats/{one}/{one}.xml": boat(number) for number, one in enumerate(BOATS)}
    files |= {f"boats/{one}/{one}.bow": "\1" for one in BOATS}
    files |= {f"data/noise/{one}.snd": "\1" for one in SOUNDS}
    tree = written(tmp_path / "quay", files)
    found = learned(tree, "quay")
    assert {key: sort for key, sort in rules(found).items() if "property" in key} == {
        "at=//property[@name='bow picture']/@value": ("file", "sure"),
        "at=//property[@name='noise']/@value": ("file", "sure"),
    }
    (tree.root / "data/noise/gong.snd").unlink()
    broken = {path for _, path, _ in told(FolderTree(tree.root), found)}
    assert broken == {"boats/ketch/ketch.xml", "boats/skiff/skiff.xml"}


def test_a_text_that_is_translated_is_a_name(tmp_path: Path) -> None:
    listed = "".join(f'  {{ errand_name = _"{one}", pay = {number} }},\n' for number, one in enumerate(ERRANDS))
    asked = "".join(
        f'function day{number}()\n  crew:says(_"Now: {one}!")\n  crew:give("{one}")\n  crew:done("{one}")\nend\n'
        for number, one in enumerate(ERRANDS)
    )
    tree = written(tmp_path / "quay", {"errands.lua": f"errand_list {{\n{listed}}}\n", "crew.lua": asked})
    found = learned(tree, "quay")
    assert {rules(found)[f"call=crew:{deed}"] for deed in ("give", "done")} == {("errand", "sure")}
    (tree.root / "crew.lua").write_text(asked.replace('crew:give("Rig the mast")', 'crew:give("Rig a mast")'))
    assert told(FolderTree(tree.root), found) == {("missing-name", "crew.lua", "Rig a mast")}


def test_names_with_numbers_are_no_words() -> None:
    posts = [f"post_{row}_phase_{phase}.png" for row in range(4) for phase in range(4)]
    assert numbered([*posts, "sound1", "sound2", "size"]) == frozenset(posts)


def test_the_frames_of_a_picture_say_nothing_each(tmp_path: Path) -> None:
    frames = [f"post_{row}_phase_{phase}.pic" for row in range(5) for phase in range(5)]

    def atlas(number: int) -> str:
        rows = "".join(
            f"{one} {row * 8} 0 {number + 231} {number + 231} off -{number + 17}\n" for row, one in enumerate(frames)
        )
        return f"sheet sheet{number}.bin {number + 3}\n{rows}"

    files = {f"posts/{number}/frames.atlas": atlas(number) for number in range(8)}
    files |= {f"posts/{number}/sheet{number}.bin": "\1" for number in range(8)}
    (sort,) = material_of(written(tmp_path / "quay", files)).sorts
    assert {place.word for place in places_of(sort) if place.asked.get("when")} == {"sheet"}


def mesh(number: int, lines: int) -> str:
    points = "".join(f"{number}.{line} -0.{line} {line % 7}e-05\n" for line in range(lines))
    return f"OBJECT poly\ntexture {BOATS[number]}.bow\ntexture {BOATS[number - 1]}.bow\nnumvert {lines}\n{points}"


def test_of_a_mesh_what_is_said_between_the_numbers_counts(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    files = {f"hulls/{one}.hull": mesh(number, 60) for number, one in enumerate(BOATS)}
    files |= {f"hulls/{one}.bow": "\1" for one in BOATS}
    tree = written(tmp_path / "quay", files)
    monkeypatch.setattr(tables, "_MANY", 100)
    by_place = rules(learned(tree, "quay"))
    assert [sort for key, sort in by_place.items() if "texture" in key] == [("file", "sure")]
    # What is more than anybody writes is left alone, and that is said.
    monkeypatch.setattr(material, "_MOST_NUMBERS", 1_000)
    found = learned(tree, "quay")
    assert not [key for key in rules(found) if "field" in key]
    assert [(one.ending, one.files) for one in found.unread if one.ending == ".hull"] == [(".hull", len(BOATS))]
    # The smallest are looked at, and the rest is meant as well.
    monkeypatch.setattr(material, "_MOST_NUMBERS", 6_500)
    found = learned(tree, "quay")
    (left,) = (one.files for one in found.unread if one.ending == ".hull")
    assert 0 < left < len(BOATS)
    assert [sort for key, sort in rules(found).items() if "texture" in key] == [("file", "sure")]
    assert [glob for sort in found.material.sorts for glob in sort.globs] == ["**/*.hull"]


def test_lines_without_end_of_digits_are_soon_looked_at(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(material, "_MOST_NUMBERS", 1_000)
    texts = ("1" * 60_000, "." * 60_000, "1." * 30_000, ".1" + " " * 60_000, ".1 " * 20_000)
    files = {f"odd/{number}.odd": text for number, text in enumerate(texts)}
    begun = time.process_time()
    material_of(written(tmp_path / "quay", files))
    assert time.process_time() - begun < 5


def test_a_list_of_remarks_is_no_trouble(tmp_path: Path) -> None:
    files = {f"{one}/crew": f"cook {one}_cook 3\nmate {one}_mate 4\nboy {one}_boy 1\n" for one in BOATS}
    files |= {f"{one}/KEEP": "# nobody yet\n\n# nobody at all\n" for one in BOATS[:3]}
    assert learned(written(tmp_path / "quay", files), "quay").text


def test_paths_beside_and_in_a_folder_for_all(tmp_path: Path) -> None:
    """What is not beside its file is in the folder for all."""
    shared = ["rope", "tar"]
    files = {f"boats/{one}/{one}.bow": "\1" for one in BOATS} | {f"common/{one}.bow": "\1" for one in shared}
    for number, one in enumerate(BOATS):
        parts = "".join(f'  <part is="{other}.bow"/>\n' for other in (one, shared[number % 2] if number < 4 else one))
        files[f"boats/{one}/{one}.xml"] = f"<boat>\n{parts}</boat>\n"
    tree = written(tmp_path / "quay", files)
    found = learned(tree, "quay")
    (files_of,) = (guess.files for guess in found.guesses if guess.place.asked == {"at": "//part/@is"})
    assert files_of is not None and (files_of.beside, files_of.under) == (True, ("common",))
    assert told(tree, found) == set()
    (tree.root / "common/tar.bow").unlink()
    assert {path for _, path, _ in told(FolderTree(tree.root), found)} == {
        "boats/yawl/yawl.xml",
        "boats/ketch/ketch.xml",
    }


def test_what_an_element_says_is_to_be_translated_is_no_name(tmp_path: Path) -> None:
    buttons = "".join(
        f'<Button name="{one}"><caption translatable="yes">{one}</caption><goes>{one}</goes></Button>'
        for one in ("Moor", "Cast", "Wait", "Sound", "Raise", "Lower")
    )
    page = f'<gui xmlns="made:gui"><a xmlns="">{buttons}</a></gui>'
    result = learned(written(tmp_path / "map", {f"gui/{n}.xml": page for n in range(2)}), "gui")
    assert not [one for one in rules(result) if "caption" in one]
    assert any("goes" in str(guess.place.asked) for guess in (*result.guesses, *result.weak))
    load_layout(result.text.encode(), "learned.toml")


def test_layouts_and_sheets_in_a_map_are_no_data_of_its_game(tmp_path: Path) -> None:
    steps = "".join(f'[[step]]\ntools = ["tool_{n}.lua"]\nsound = "{n % 3}.wav"\n' for n in range(8))
    rows = '[layout]\nname = "x"\n[[read]]\nfiles = "*.lua"\nformat = "lua"\n'
    files = {f"tools/tool_{n}.lua": "" for n in range(8)} | {f"{n}.wav": "" for n in range(3)}
    files |= {"quay.toml": rows + steps, "gull.hooksheet.toml": steps}
    result = learned(written(tmp_path / "map", files), "quay")
    assert not result.guesses
    assert [one.files for one in result.unread if one.ending == ".toml"] == [2]
    (tmp_path / "map/quay.toml").write_text(steps)
    assert rules(learned(FolderTree(tmp_path / "map"), "quay"))


def test_files_of_comments_and_sections_without_a_name_are_looked_at(tmp_path: Path) -> None:
    blocks = "".join(f"shed {n}\n  roof tin\n  door oak\n" for n in range(6))
    files = {"a.cfg": blocks, "b.cfg": blocks, "c.cfg": "# only a remark\n# and another\n"}
    files |= {"d.ini": "".join(f"[{name}]\nreach = 3\n" for name in ("", "Fog Bell", "Tide Bell", "Gale Bell"))}
    files |= {"remarks.rc": "# only a remark\n# and another\n", "inner.rc": "  all\n  further\n  in\n"}
    assert learned(written(tmp_path / "map", files), "yard").read > 0
