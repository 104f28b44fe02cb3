"""Drafts of hook sheets: against those that a person wrote for the same packs, and piece by piece."""

from __future__ import annotations

import time
from pathlib import Path

import pytest

from hookset.applying import Disk, apply_changes
from hookset.authoring.draft import Draft, Site, drafted, likeliest_site, sheet_text
from hookset.authoring.draft.carrying import drafted_entry
from hookset.authoring.draft.found.about import about, name_of
from hookset.authoring.draft.notes import is_licence, is_notes, read_notes
from hookset.authoring.draft.said import chunks_of, condition_of
from hookset.authoring.draft.said.holes import replacements
from hookset.packs import open_pack, sheet_beside, with_sheet
from hookset.packs.hooksheet import FilesEntry, HookEntry, HookSheet, PackEntry
from hookset.planning import Choices, plan_install, plan_remove
from hookset.project import LEDGER, open_project, read_ledger
from hookset.trees import FolderTree
from tests.conftest import snapshot
from tests.published import draft_of, folder_of, laid_out, names, right_sheet, score, site_for

LACKING = {"kite": 1, "reed-screen": 3, "kelp-drift": 1, "schleusen-glocke": 2,
           "fog-horn": 1, "fog-race": 1, "quiet-wheel": 1,
           "heron": 1, "bosun": 1, "calm-sea": 1, "gull-choir": 1,
           "weather-vane": 1, "bell-hour": 2}  # fmt: skip
"""Entries that nothing in a pack says (how far its sound is heard), or that it says in words only: a row to be copied and
changed, a thing described. They are told as missing, not made up."""
GUESSED = {"town-clock": 1, "bell-hour": 2}
"""Entries that are wrong, and told to be unsure: what notes leave to the builder."""


@pytest.mark.no_cover
@pytest.mark.parametrize("name", names())
def test_a_draft_is_the_sheet_that_a_person_wrote(name: str) -> None:
    draft = draft_of(name)
    found = score(name, draft)
    assert found.wrong_sure == ()
    assert (found.files_wrong, found.files_lacking) == ((), ())
    assert (len(found.wrong_unsure), len(found.lacking)) == (GUESSED.get(name, 0), LACKING.get(name, 0))
    right = right_sheet(name).pack
    head = draft.sheet.pack
    assert (head.version, head.authors, head.license) == (right.version, right.authors, right.license)
    wanted, found_settings = (
        {(write.file, write.assign) for one in sheet.setting for write in one.write if write.assign}
        for sheet in (right_sheet(name), draft.sheet)
    )
    assert wanted <= found_settings


@pytest.mark.parametrize("name", names())
def test_a_draft_is_a_hook_sheet_that_reads(name: str) -> None:
    draft = draft_of(name)
    pack = with_sheet(open_pack(folder_of(name)), sheet_text(draft).encode(), "draft")
    assert pack.sheet == draft.sheet
    placed = {path for ones in pack.alternatives.values() for path, _ in ones}
    assert placed | set(pack.leftovers) == set(pack.tree.paths())


@pytest.mark.no_cover
@pytest.mark.parametrize("name", names())
def test_a_drafted_pack_goes_without_a_trace(name: str, tmp_path: Path) -> None:
    right = right_sheet(name).pack
    root = laid_out(right.layouts[0], tmp_path)
    (root / ".hookset").mkdir()
    before = snapshot(root)
    pack = with_sheet(open_pack(folder_of(name)), sheet_text(draft_of(name)).encode(), "draft")
    project, file = open_project(root), root / LEDGER
    plan = plan_install(project, read_ledger(root), None, [pack], Choices(), "t")
    assert not any(stop.question is None for stop in plan.stops)
    apply_changes(root, plan.all_changes, action="test", title="test", time="2026-01-01T00:00:00Z", disk=Disk())
    assert snapshot(root) != before
    out = plan_remove(open_project(root), read_ledger(root), file.read_bytes(), [pack.sheet.pack.name], Choices(), "t")
    apply_changes(root, out.all_changes, action="test", title="test", time="2026-01-01T00:00:00Z", disk=Disk())
    assert snapshot(root) == before


@pytest.mark.parametrize("name", names())
def test_every_entry_says_where_it_is_from(name: str) -> None:
    draft = draft_of(name)
    paths = open_pack(folder_of(name)).tree.paths()
    for index in range(len(draft.sheet.hook)):
        why = draft.reason("hook", index).why
        assert why.words or why.lines
        assert all(path in paths and line >= 1 for path, line in why.lines)


def test_without_a_map_it_goes_by_the_layout() -> None:
    site = likeliest_site(open_pack(folder_of("lift-bridge")))
    assert site is not None and site.layout.name == "split-lua"
    draft = drafted(site, open_pack(folder_of("lift-bridge")))
    assert {"server-import", "server-start", "sound-table", "texts", "scene-objects"} <= {
        h.seat for h in draft.sheet.hook
    }


def made(folder: Path, notes: str | bytes, files: dict[str, str] | None = None, called: str = "readme.txt") -> Draft:
    """A draft for Brackwater of a pack that is a script and its notes."""
    pack = folder / "bell_ringer_v2.1"
    for path, text in {"scripts/server/packs/ringer.lua": RINGER, **(files or {})}.items():
        (pack / path).parent.mkdir(parents=True, exist_ok=True)
        (pack / path).write_text(text, encoding="utf-8")
    (pack / called).write_bytes(notes if isinstance(notes, bytes) else notes.encode())
    return drafted(site_for("split-lua"), open_pack(pack))


RINGER = 'local ringer = {}\nfunction ringer.start() on("ringer.pull", function() end) end\nreturn ringer\n'
IMPORT = 'local ringer = require("packs.ringer")'


@pytest.mark.parametrize(
    "text",
    [
        pytest.param(f"Put this under the last import of scripts/server/main.lua:\n\n    {IMPORT}\n", id="english"),
        pytest.param(f"Unter die letzte require-Zeile im Hauptskript des Servers:\n{IMPORT}\n", id="german"),
        pytest.param(f"Avec les autres imports du serveur :\n\n{IMPORT}\n", id="french"),
        pytest.param(f"# Server imports\n\n```lua\n{IMPORT}\n```\n", id="fence"),
        pytest.param(f"1) server imports: {IMPORT}\n", id="within a line"),
        pytest.param(f"Add `{IMPORT}` to the imports of the server.\n", id="ticked"),
        pytest.param(IMPORT.replace('"', "”") + "\n", id="typographic quotes alone"),
        pytest.param(f"[b]server imports[/b]\n[code]{IMPORT}[/code]\n", id="forum"),
        pytest.param(f"<html><body>Server, imports:<pre>{IMPORT}</pre></body></html>", id="html"),
        pytest.param(f"{{\\rtf1\\ansi Server, imports:\\par {IMPORT}\\par}}", id="rtf"),
        pytest.param(f"server imports\r\n\r\n\t{IMPORT}\r\n".encode("utf-16"), id="utf-16"),
        pytest.param(f"Für den Server, Importe:\r\n{IMPORT}\r\n".encode("cp1252"), id="cp1252"),
    ],
)
def test_one_import_in_many_notes(text: str | bytes, tmp_path: Path) -> None:
    hooks = {hook.seat: hook.text for hook in made(tmp_path, text).sheet.hook}
    assert hooks["server-import"] == IMPORT


def test_what_the_notes_forget_is_proposed_and_marked(tmp_path: Path) -> None:
    draft = made(tmp_path, "Just copy it over.\n")
    hooks = {hook.seat: (hook.text, draft.reason("hook", i)) for i, hook in enumerate(draft.sheet.hook)}
    assert hooks["server-import"][0] == IMPORT
    assert hooks["server-start"][0] == "ringer.start()"
    assert not any(reason.sure for _, reason in hooks.values())


def test_what_is_nowhere_makes_an_entry_unsure(tmp_path: Path) -> None:
    draft = made(tmp_path, 'server main.lua, imports:\nlocal other = require("packs.other_thing")\n')
    reasons = [draft.reason("hook", i) for i, h in enumerate(draft.sheet.hook) if "other_thing" in str(h.text)]
    assert reasons and not reasons[0].sure and "packs.other_thing" in reasons[0].doubts[-1]


def test_notes_that_name_what_is_not_there(tmp_path: Path) -> None:
    draft = made(tmp_path, f"Copy ringer_extra.lua, too.\nserver imports:\n{IMPORT}\n")
    assert any("ringer_extra.lua" in one and "readme.txt:1" in one for one in draft.decide)
    assert any("licence" in one for one in draft.decide)


def test_what_nothing_names_is_told(tmp_path: Path) -> None:
    draft = made(tmp_path, f"server imports:\n{IMPORT}\n")
    assert any("registers the callback ringer.pull" in one for one in draft.decide)


def test_files_that_are_each_asked_for_are_no_alternatives(tmp_path: Path) -> None:
    model = '{"asset": {"version": "2.0"}, "images": [{"uri": "signs/en/sign.png"}, {"uri": "signs/de/sign.png"}]}'
    files = {"models/ringer.gltf": model, "models/signs/en/sign.png": "a", "models/signs/de/sign.png": "b"}
    draft = made(tmp_path, "Copy models and scripts into your map. sign.png is in two languages.\n", files)
    assert not draft.sheet.setting
    assert not any(one.when for one in draft.sheet.files)


def test_prose_sets_nothing(tmp_path: Path) -> None:
    prose = (
        "This pack (v2.1) was made in one evening; I hope you like it. Note: do not use it with others.\n"
        "Known bugs: none. Thanks to: everybody! See scripts/server/main.lua for how it works.\n"
        "Call me at start() of the week - or never = always.\n"
    )
    assert [h for h in made(tmp_path, prose).sheet.hook if h.text not in (IMPORT, "ringer.start()")] == []


def test_programs_and_pictures_of_the_pack_stay_out(tmp_path: Path) -> None:
    draft = made(
        tmp_path, "", {"setup.bat": "del *", "preview.png": "x", "src/ringer.psd": "x", "LICENSE": "MIT License"}
    )
    left = {one.path: one.why for one in draft.left}
    assert set(left) == {"setup.bat", "preview.png", "src/ringer.psd", "LICENSE", "readme.txt"}
    assert "program" in left["setup.bat"]
    assert draft.sheet.pack.license == "MIT"


def test_folders_are_found_at_any_depth_and_in_any_letter_case(tmp_path: Path) -> None:
    pack = tmp_path / "x"
    (pack / "Put in map/Scripts/Server/packs").mkdir(parents=True)
    (pack / "Put in map/Scripts/Server/packs/ringer.lua").write_text(RINGER)
    (pack / "notes.txt").write_text("hello")
    draft = drafted(site_for("split-lua"), open_pack(pack))
    assert with_sheet(open_pack(pack), sheet_text(draft).encode(), "x").targets == {
        "scripts/server/packs/ringer.lua": "Put in map/Scripts/Server/packs/ringer.lua"
    }


@pytest.mark.no_cover
@pytest.mark.parametrize(
    "text",
    [
        "\t" * 4000 + "\n",
        "a = " * 1000 + "\n",
        "{" * 4000 + "\n",
        "\"'`“" * 1000 + "\n",
        "<a " * 1300 + "\n",
        '`require("a")` ' * 250 + "\n",
        "a_b.c-" * 300 + "!\n",
        "if you have a not a.b now " * 70 + "\n",
        "never with the old " * 30 + ".\n\n",
        "a_b is c_d. Make it e_f. " * 60 + "\n",
    ],
    ids=["tabs", "equals", "braces", "quotes", "tags", "ticks", "joints", "conditions", "articles", "sentences"],
)
def test_notes_made_to_keep_a_reader_busy(text: str, tmp_path: Path) -> None:
    begun = time.process_time()
    draft = made(tmp_path, text * (32_000 // len(text)))
    assert time.process_time() - begun < 10
    assert not any("longer than notes are" in one for one in draft.decide)


@pytest.mark.no_cover
def test_of_notes_that_are_a_book_only_the_beginning_is_read(tmp_path: Path) -> None:
    text = "a_b is c_d. Make it e_f. " * 60 + "\n"
    begun = time.process_time()
    draft = made(tmp_path, text * (2_000_000 // len(text)))
    assert time.process_time() - begun < 60
    assert any("longer than notes are" in one for one in draft.decide)


# ---- pieces ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("stem", "name", "version"),
    [
        ("Lift_Bridge_v1.2-final(3)", "lift-bridge", "1.2"),
        ("FogBell 0.4", "fog-bell", "0.4"),
        ("lamp-row-2.0.0", "lamp-row", "2.0.0"),
        ("silt", "silt", ""),
        ("kite_v3", "kite", "3"),
    ],
)
def test_names_of_archives(stem: str, name: str, version: str) -> None:
    assert name_of(stem) == (name, version)


@pytest.mark.parametrize(
    ("text", "license_"),
    [
        ("License: CC BY-SA 4.0", "CC-BY-SA-4.0"),
        ("Creative Commons Attribution-NonCommercial 4.0", "CC-BY-NC-4.0"),
        ("released under the GNU General Public License, version 3", "GPL-3.0-or-later"),
        ("GPLv2 or later", "GPL-2.0-or-later"),
        ("MIT OR Apache-2.0", "MIT OR Apache-2.0"),
        ("mit dem Server verbinden", ""),
        ("no rights reserved, public domain (CC0)", "CC0-1.0"),
        ("you may use it if you ask me", ""),
    ],
)
def test_licences_in_prose(text: str, license_: str, tmp_path: Path) -> None:
    (tmp_path / "readme.txt").write_text(f"A thing\nby Somebody Else\n{text}\n")
    notes = read_notes(FolderTree(tmp_path), ("readme.txt",))
    assert about("x", notes, ()).license == license_


@pytest.mark.parametrize(
    ("said", "pack", "without", "version"),
    [
        ("Only if you have Lift Bridge 1.2 or newer:", "lift-bridge", False, ">=1.2"),
        ("if you also have the lift-bridge installed then use", "lift-bridge", False, ""),
        ("without Lift Bridge:", "lift-bridge", True, ""),
        ("If you do not have Lift Bridge, instead:", "lift-bridge", True, ""),
        ("Nur wenn du Lift Bridge hast:", "lift-bridge", False, ""),
        ("ohne Lift Bridge:", "lift-bridge", True, ""),
    ],
)
def test_conditions(said: str, pack: str, without: bool, version: str) -> None:
    found = condition_of(said, ("lift-bridge",), None)
    assert found is not None
    assert (found.pack, found.without, found.version, found.known) == (pack, without, version, True)


@pytest.mark.parametrize(
    "said", ["if you like it, tell me", "only with care", "put it in without thinking", "at the end:"]
)
def test_no_conditions(said: str) -> None:
    assert condition_of(said, ("lift-bridge",), None) is None


@pytest.mark.parametrize(
    ("said", "word", "by"),
    [
        ("Replace NN with the next free number of your landings.", "NN", "the next free number of your landings"),
        ("WHEEL is the id that assets/wheel.gltf has.", "WHEEL", "the id that assets/wheel.gltf has"),
        ("LIEGEPLATZ durch einen freien Platz ersetzen", "LIEGEPLATZ", "einen freien Platz"),
        ("take the next free slot for SLOT", "SLOT", "the next free slot"),
        ("Replace S1 and S2 with free slots", "S2", "free slots"),
    ],
)
def test_words_to_be_replaced(said: str, word: str, by: str) -> None:
    assert (word, by) in {(one, what) for one, what, _ in replacements(iter([(1, said)]), "")}


def test_what_is_notes() -> None:
    assert all(
        map(is_notes, ["readme.txt", "README", "Install notes.rtf", "LIESMICH.txt", "docs/how to install.md", "x.pdf"])
    )
    assert not any(map(is_notes, ["manifest.txt", "maps/list.txt", "old/readme.txt", "scripts/a.lua", "LICENSE.txt"]))
    assert is_licence("LICENSE.txt") and is_licence("docs/COPYING") and not is_licence("licensed_sound.wav")


def test_notes_keep_their_line_numbers(tmp_path: Path) -> None:
    (tmp_path / "readme.md").write_text("# Title\n\nText\n\n```\na = 1\n```\n\nserver:\n\n    b = 2\n")
    (notes,) = read_notes(FolderTree(tmp_path), ("readme.md",))
    assert [(chunk.first, chunk.text.strip()) for chunk in chunks_of(notes)] == [(6, "a = 1"), (11, "b = 2")]


def test_sheets_lie_beside_archives(tmp_path: Path) -> None:
    for name in ("lamps.zip", "lamps.tar.gz", "lamps.7z"):
        assert sheet_beside(tmp_path / name).name == "lamps.hooksheet.toml"
    (tmp_path / "lamps v1.2").mkdir()
    assert sheet_beside(tmp_path / "lamps v1.2").name == "lamps v1.2.hooksheet.toml"


def test_a_site_without_a_map_has_seats() -> None:
    site = Site(site_for("split-lua").layout)
    assert {"server-import", "sound-table", "texts"} <= {seat_file.seat.name for seat_file in site.seat_files}


# ---- packs by other hands --------------------------------------------------------------------------------------------


def pack_of(folder: Path, notes: str, **files: str) -> Draft:
    """A draft for the map of the layout `mirrored-folders` or, with tables, of `type-table`."""
    for path, text in {"notes.txt": notes, **{name.replace("__", "."): text for name, text in files.items()}}.items():
        (folder / path).write_text(text)
    layout = "type-table" if any(name.endswith("__csv") for name in files) else "mirrored-folders"
    return drafted(site_for(layout), open_pack(folder))


def test_keys_that_lost_their_indentation_are_entries(tmp_path: Path) -> None:
    draft = pack_of(tmp_path, "Into noises:\n\ntackle_run:\nfile: tackle.wav\ntimes: 0\ntackle_drop:\nfile: drop.wav\n")
    assert [hook.record for hook in draft.sheet.hook] == [
        {"tackle_run": {"file": "tackle.wav", "times": 0}},
        {"tackle_drop": {"file": "drop.wav"}},
    ]


def test_rows_in_a_file_of_the_pack_are_entries(tmp_path: Path) -> None:
    rows = "type,x,y,z,turn,group\npost,40,7.5,12,0,pier\npost,41,7.5,13,90,pier\n"
    draft = pack_of(tmp_path, "rows from places_add to the end of yours\n", places_add__csv=rows)
    assert [(hook.seat, (hook.record or {})["x"]) for hook in draft.sheet.hook] == [("places", "40"), ("places", "41")]
    assert [one.path for one in draft.left if one.path.endswith(".csv")] == ["places_add.csv"]
    assert draft.sheet.files == ()


@pytest.mark.parametrize(
    ("notes", "targets"),
    [
        ("wav in noises, everything else with your code.", {"a.wav": "noises/a.wav", "b.lua": "code/b.lua"}),
        ("Töne nach noises; *.lua nach code.", {"a.wav": "noises/a.wav", "b.lua": "code/b.lua"}),
        ("a.wav w/ your noises, b.lua w/ your code and in the list", {"a.wav": "noises/a.wav", "b.lua": "code/b.lua"}),
    ],
)
def test_folders_that_notes_give_to_files_of_a_sort(notes: str, targets: dict[str, str], tmp_path: Path) -> None:
    draft = pack_of(
        tmp_path, notes, a__wav="RIFF\x24\x00\x00\x00WAVEfmt \x10\x00\x00\x00", b__lua="local b = {}\nreturn b\n"
    )
    pack = with_sheet(open_pack(tmp_path), sheet_text(draft).encode(), "draft")
    assert {path: target for target, path in pack.targets.items()} == targets
    assert all(draft.reason("files", number).sure for number in range(len(draft.sheet.files)))


def test_a_bracket_left_open_is_closed(tmp_path: Path) -> None:
    rows = '    { "type": "tern", "shape": "tern", "rank": "bird", "reach": 25\n'
    draft = pack_of(tmp_path, f"Into the types:\n\n{rows}", x__csv="")
    assert [(hook.seat, (hook.record or {})["type"]) for hook in draft.sheet.hook] == [("types", "tern")]


def test_digests_of_a_drafted_sheet_do_not_depend_on_what_goes_without_saying() -> None:
    head = PackEntry(name="x", version="1")
    plain = HookSheet(pack=head, hook=(HookEntry(seat="a", text="b"),), files=(FilesEntry(from_="c"),))
    said = HookSheet(
        pack=head,
        hook=(HookEntry(seat="a", text="b", at={}, fragment="", fill=True),),
        files=(FilesEntry(from_="c", to=".", keep_mine=False),),
    )
    other = HookSheet(pack=head, hook=(HookEntry(seat="a", text="b", fill=False),), files=(FilesEntry(from_="c"),))
    assert drafted_entry(plain, "0") == drafted_entry(said, "0") != drafted_entry(other, "0")
    # As the first Hook Set wrote them: its sheets are known again.
    assert drafted_entry(plain, "0").entries == ("78951be035a7", "c99c125e88f8", "70fa16617f67")
