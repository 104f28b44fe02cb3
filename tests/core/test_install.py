"""Planning: a pure value that says all that would happen, and stops at everything that should stop it."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.applying import Disk, apply_changes, changed_tree
from hookset.checks import judge
from hookset.model import CouldNotError
from hookset.packs import Pack, open_pack
from hookset.planning import (
    Choices,
    FileState,
    HookState,
    Outlook,
    Plan,
    map_now,
    outlook,
    plan_install,
    text_diffs,
)
from hookset.project import LEDGER, MapProject, open_project, read_ledger
from tests.conftest import snapshot
from tests.refusals import refused

SHEET = """
[pack]
name = "mooring"
version = "1.0"
layouts = ["split-lua"]
"""


def outlook_of(project: MapProject, plan: Plan) -> Outlook:
    return outlook(project, plan, map_now(project, plan.ledger_before))


def write_pack(folder: Path, sheet: str, files: dict[str, str] | None = None) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "hooksheet.toml").write_text(sheet, encoding="utf-8")
    for path, text in (files or {}).items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text, encoding="utf-8")
    return folder


@pytest.fixture
def planned(project: MapProject, tmp_path: Path) -> Callable[..., Plan]:
    """Plan a pack with these hooks (TOML) and files over the demo's map as it is now."""

    def plan(sheet: str, files: dict[str, str] | None = None, choices: Choices | None = None) -> Plan:
        pack = open_pack(write_pack(tmp_path / "mooring", SHEET + sheet, files))
        return make(project.root, [pack], choices)

    return plan


def make(root: Path, packs: list[Pack], choices: Choices | None = None) -> Plan:
    project = open_project(root)
    data = (root / LEDGER).read_bytes() if (root / LEDGER).exists() else None
    return plan_install(project, read_ledger(root), data, packs, choices or Choices(), "2026-01-01T00:00:00Z")


def carry_out(root: Path, plan: Plan) -> None:
    (root / ".hookset").mkdir(exist_ok=True)
    apply_changes(root, plan.all_changes, action="install", title="install", time="t", disk=Disk())


def demo_packs(root: Path, *names: str) -> list[Pack]:
    return [open_pack(root.parent / "packs" / f"{name}.zip") for name in names]


def test_planning_writes_nothing_and_the_plan_is_what_is_written(project: MapProject) -> None:
    root = project.root
    before = snapshot(root)
    plan = make(root, demo_packs(root, "lift-bridge", "fog-bell"))
    assert snapshot(root) == before
    assert not (root / ".hookset").exists()
    tree = changed_tree(project.tree, plan.changes)
    would = {path: tree.read(path) for path in tree.paths()}
    carry_out(root, plan)
    after = snapshot(root)
    after.pop("hookset.toml")
    assert after == would


def test_installing_twice_changes_nothing(packed: MapProject) -> None:
    plan = make(packed.root, demo_packs(packed.root, "lift-bridge", "fog-bell"))
    assert plan.all_changes == ()
    assert not plan.stops
    assert {hook.state for one in plan.packs for hook in one.hooks} == {HookState.THERE}
    assert {file.state for one in plan.packs for file in one.files} == {FileState.SAME}


def test_what_was_dropped_by_hand_is_set_again(packed: MapProject) -> None:
    root = packed.root
    whole = snapshot(root)
    main, manifest = root / "scripts/server/main.lua", root / "manifest.txt"
    main.write_text(main.read_text().replace("  lift_bridge.start()\n", ""))
    manifest.write_text(manifest.read_text().replace("sounds/bridge/horn.wav\n", ""))
    plan = make(root, demo_packs(root, "lift-bridge"))
    assert {change.path for change in plan.changes} == {"scripts/server/main.lua", "manifest.txt"}
    carry_out(root, plan)
    after = snapshot(root)
    assert sorted(after["manifest.txt"].splitlines()) == sorted(whole["manifest.txt"].splitlines())
    pack = read_ledger(root).pack("lift-bridge")
    assert pack is not None
    assert len([hook for hook in pack.hooks if hook.text == "lift_bridge.start()"]) == 2


def test_order_of_packs_does_not_matter_to_the_check(project: MapProject) -> None:
    for names in (("lift-bridge", "fog-bell"), ("fog-bell", "lift-bridge")):
        plan = make(project.root, demo_packs(project.root, *names))
        assert not plan.stops
        verdict = judge(changed_tree(project.tree, plan.changes), project.layout, project.stock, plan.ledger)
        assert verdict.findings == ()


def test_the_ledger_says_what_was_set(packed: MapProject) -> None:
    pack = read_ledger(packed.root).pack("fog-bell")
    assert pack is not None
    assert (pack.version, pack.license, pack.authors) == ("0.4", "CC0-1.0", ("Marrow & Tern",))
    assert [file.path for file in pack.files] == [
        "scripts/client/packs/fog_bell_captions.lua",
        "scripts/server/packs/fog_bell.lua",
    ]
    entry = next(hook for hook in pack.hooks if hook.seat == "server-start")
    (edit,) = entry.edits
    assert (edit.new, edit.old, edit.above) == ("\n  fog_bell.start(7)", "", "lift_bridge.start()")


def test_files_of_windows_keep_their_newlines(project: MapProject) -> None:
    main = project.root / "scripts/server/main.lua"
    main.write_bytes(main.read_bytes().replace(b"\n", b"\r\n"))
    texts = project.root / "texts/de.toml"
    texts.write_bytes(b"\xef\xbb\xbf" + texts.read_bytes())
    carry_out(project.root, make(project.root, demo_packs(project.root, "lift-bridge", "fog-bell")))
    assert b"\n" not in main.read_bytes().replace(b"\r\n", b"")
    assert texts.read_bytes().startswith(b'\xef\xbb\xbf"map.title"')
    assert "Brücke heben" in texts.read_text(encoding="utf-8-sig")


def test_old_encodings_stay(project: MapProject) -> None:
    texts = project.root / "texts/de.toml"
    script = project.root / "scripts/client/main.lua"
    script.write_bytes("-- Größe\nfunction start() end\n".encode("cp1252"))
    carry_out(project.root, make(project.root, demo_packs(project.root, "lift-bridge")))
    assert "Größe" in script.read_bytes().decode("cp1252")
    assert texts.read_text(encoding="utf-8")


def test_a_language_that_the_pack_has_not_gets_its_first_one(project: MapProject) -> None:
    plan = make(project.root, demo_packs(project.root, "fog-bell"))
    notes = [hook.note for hook in plan.packs[0].hooks if hook.path == "texts/de.toml"]
    assert notes == ["not in `de` in this pack: uses `en`, to be translated"]


# ---- what stops a plan ---------------------------------------------------------------------------------------------


def test_other_bytes_stop_and_can_be_chosen(planned: Callable[..., Plan], project: MapProject) -> None:
    files = '[[files]]\nfrom = "content/**"\n'
    mine = (project.root / "scripts/shared/tide.lua").read_bytes()
    stage_pack = {"content/scripts/shared/tide.lua": "return {}\n"}
    stopped = planned(files, stage_pack)
    assert [stop.code for stop in stopped.stops] == ["file-exists"]
    kept = planned(files, stage_pack, Choices(other_bytes="mine"))
    assert not kept.stops
    assert "scripts/shared/tide.lua" not in {change.path for change in kept.changes}
    taken = planned(files, stage_pack, Choices(other_bytes="theirs"))
    change = next(change for change in taken.changes if change.path == "scripts/shared/tide.lua")
    assert change.after is not None
    assert change.after.read() == b"return {}\n" != mine


def test_a_file_in_another_letter_case_stops(planned: Callable[..., Plan]) -> None:
    plan = planned('[[files]]\nfrom = "content/**"\n', {"content/scripts/shared/Tide.lua": "return {}\n"})
    assert [stop.code for stop in plan.stops] == ["other-case"]


@pytest.mark.parametrize(
    ("hook", "words", "detail"),
    [
        pytest.param('seat = "server-imports"\ntext = "x()"', "no seat called `server-imports`; did you mean `server-import`?", "", id="unknown-seat"),
        pytest.param('seat = "client-start"\ntext = "x("', "is not what goes into scripts/client/main.lua: statements in Lua", "the entry: x(", id="no-lua"),
        pytest.param('seat = "sound-table"\ntext = "x"', "is not what goes into sounds/aliases.toml: a record of keys and values", "the entry: x", id="wrong-form"),
        pytest.param('seat = "texts"\n[hook.each.en]\n"tide.high" = "Flood"', "an entry of the same name that says something else", "", id="other-words"),
    ],
)  # fmt: skip
def test_hooks_that_cannot_be_set_stop(hook: str, words: str, detail: str, planned: Callable[..., Plan]) -> None:
    plan = planned(f"[[hook]]\n{hook}\n")
    assert words in plan.stops[0].what
    assert not detail or any(detail in line for line in plan.stops[0].details)
    assert plan.stops[0].where.startswith("mooring/hooksheet.toml:6")


def test_a_seat_that_is_not_in_this_file_says_what_was_looked_for(
    planned: Callable[..., Plan], project: MapProject
) -> None:
    script = project.root / "scripts/server/main.lua"
    script.write_text(script.read_text().replace("function start()", "function begin()"))
    stop = planned('[[hook]]\nseat = "server-start"\ntext = "x()"\n').stops[0]
    assert stop.code == "seat-missing"
    assert stop.details == ("looked for: one function named start", "there are: begin")


def test_a_file_that_does_not_parse_is_not_edited(planned: Callable[..., Plan], project: MapProject) -> None:
    script = project.root / "scripts/server/main.lua"
    script.write_text(script.read_text() + "function (")
    stop = planned('[[hook]]\nseat = "server-start"\ntext = "x()"\n').stops[0]
    assert stop.code == "not-settable"


def test_a_file_in_another_encoding_is_not_edited(planned: Callable[..., Plan], project: MapProject) -> None:
    (project.root / "manifest.txt").write_bytes("Größe.png\n".encode("cp1252"))
    stop = planned('[[hook]]\nseat = "manifest"\ntext = "a.png"\n').stops[0]
    assert stop.code == "not-settable"


def test_a_seat_in_several_files_stops(planned: Callable[..., Plan], project: MapProject) -> None:
    (project.root / "scene/second.gltf").write_text('{"nodes": []}')
    stop = planned('[[hook]]\nseat = "scene-objects"\nrecord = { name = "x" }\n').stops[0]
    assert stop.details == ("scene/brackwater.gltf", "scene/second.gltf")


def test_conditions_leave_hooks_out(planned: Callable[..., Plan]) -> None:
    plan = planned('[[hook]]\nseat = "server-start"\ntext = "x()"\nwhen = { pack = "tide-gates" }\n')
    assert [hook.state for hook in plan.packs[0].hooks] == [HookState.LEFT_OUT]
    assert plan.changes == ()


def test_another_layout_and_another_version_stop(packed: MapProject, tmp_path: Path) -> None:
    other = write_pack(tmp_path / "a", '[pack]\nname = "lift-bridge"\nversion = "2.0"\nlayouts = ["old-quay"]\n')
    words = [stop.what for stop in make(packed.root, [open_pack(other)]).stops]
    assert words == [
        "lift-bridge 1.2.0 is installed already",
        "lift-bridge is made for old-quay; this map's layout is split-lua",
    ]


def test_packs_come_after_those_they_need(project: MapProject, tmp_path: Path) -> None:
    first = write_pack(
        tmp_path / "a", '[pack]\nname = "a"\nversion = "1"\n[[needs]]\nkind = "pack"\nname = "b"\nversion = ">=2"\n'
    )
    second = write_pack(tmp_path / "b", '[pack]\nname = "b"\nversion = "2.1"\n')
    plan = make(project.root, [open_pack(first), open_pack(second)])
    assert [one.name for one in plan.packs] == ["b", "a"]
    assert outlook_of(project, plan).unmet == ()
    unmet = outlook_of(project, make(project.root, [open_pack(first)])).unmet
    assert [state.by for state in unmet] == ["the pack b is not installed"]
    write_pack(tmp_path / "b", '[pack]\nname = "b"\nversion = "1"\n[[needs]]\nkind = "pack"\nname = "a"\n')
    with refused("circle-of-needs"):
        make(project.root, [open_pack(first), open_pack(second)])


def test_what_a_pack_brings_does_not_meet_its_own_need(project: MapProject, tmp_path: Path) -> None:
    sheet = SHEET + (
        '[[needs]]\nkind = "object-class"\nname = "tide-gauge"\n[[hook]]\nseat = "scene-objects"\n'
        'record = { extras = { class = "tide-gauge" } }\n'
    )
    plan = make(project.root, [open_pack(write_pack(tmp_path / "m", sheet))])
    assert [state.met for state in outlook_of(project, plan).needs["mooring"]] == [False]


def test_missing_references_are_seen_before_anything_is_written(
    planned: Callable[..., Plan], project: MapProject
) -> None:
    plan = planned('[[hook]]\nseat = "server-start"\ntext = "play_sound(\'no_such_sound\')"\n')
    broken = outlook_of(project, plan).broken
    assert [(finding.code, finding.name) for finding in broken] == [("missing-name", "no_such_sound")]


def test_what_was_missing_before_is_not_the_pack_s_fault(project: MapProject) -> None:
    (project.root / "sounds/harbour/gull_1.wav").unlink()
    view = outlook_of(project, make(project.root, demo_packs(project.root, "lift-bridge")))
    assert view.after.errors
    assert view.fresh == ()


def test_diffs_show_each_edited_file(project: MapProject) -> None:
    plan = make(project.root, demo_packs(project.root, "fog-bell"))
    diffs = {diff.path: diff.lines for diff in text_diffs(project.tree, plan.changes)}
    assert set(diffs) == {
        "manifest.txt", "scene/brackwater.gltf", "scripts/client/main.lua", "scripts/server/main.lua",
        "texts/de.toml", "texts/en.toml",
    }  # fmt: skip
    assert '+local fog_bell = require("packs.fog_bell")' in diffs["scripts/server/main.lua"]


# ---- packs that cannot be opened ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("sheet", "lines"),
    [
        pytest.param('[pack]\nname = "x"\nverison = "1"\n', ["hooksheet.toml:1: `version` is missing here", "hooksheet.toml:3: unknown key `verison`; did you mean `version`?"], id="misspelt-key"),
        pytest.param('[pack]\nname = "x"\nversion = "1"\n[[hook]]\nseat = "a"\ntext = "b"\n\n[[hook]]\nseat = "a"\nrecrod = 1\n', ["hooksheet.toml:10: unknown key `recrod`; did you mean `record`?"], id="line"),
        pytest.param('[pack]\nname = 1\nversion = 2\n', ["hooksheet.toml:2: `name` should be of type string, not a number", "hooksheet.toml:3: `version` should be of type string, not a number"], id="all-at-once"),
        pytest.param('[pack]\nname = "x"\nversion = "one"\n', ["hooksheet.toml:3: 'one' is no version; write it like 1.2.0"], id="version"),
        pytest.param('[pack]\nname = "x"\nversion = "1"\n[[hook]]\nseat = "a"\n', ["hooksheet.toml:4: a hook says one of text, record, each and fragment; this has none of them"], id="empty-hook"),
        pytest.param('[pack]\nname = "x"\nversion = "1"\n[[setting]]\nname = "a"\ntype = "integer"\ndefault = 1\n', ["hooksheet.toml:6: `type` cannot be 'integer'; did you mean `int`?"], id="choice"),
    ],
)  # fmt: skip
def test_mistakes_in_a_hook_sheet_are_told_with_their_lines(sheet: str, lines: list[str], tmp_path: Path) -> None:
    with pytest.raises(CouldNotError) as told:
        open_pack(write_pack(tmp_path / "p", sheet))
    assert [line.removeprefix("p/") for line in told.value.details] == lines


@pytest.mark.parametrize(
    ("to", "words"),
    [
        ("../..", "leads outside of the map"),
        (".hookset", "file of Hook Set's own"),
        ("/etc", "an absolute path"),
    ],
)
def test_files_that_would_land_elsewhere_are_refused(to: str, words: str, tmp_path: Path) -> None:
    pack = open_pack(write_pack(tmp_path / "p", SHEET + f'[[files]]\nfrom = "c/**"\nto = "{to}"\n', {"c/x.txt": "x"}))
    with pytest.raises(CouldNotError) as told:
        _ = pack.targets
    assert words in told.value.details[0]


def test_a_folder_with_a_link_is_refused(tmp_path: Path) -> None:
    folder = write_pack(tmp_path / "p", SHEET)
    (folder / "x").symlink_to("/etc/passwd")
    with refused("link"):
        open_pack(folder)


def test_an_archive_made_of_a_folder_is_the_same_pack(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "p.zip", "w") as archive:
        archive.writestr("mooring-1.0/hooksheet.toml", SHEET + '[[files]]\nfrom = "c/**"\n')
        archive.writestr("mooring-1.0/c/a.txt", "a")
    pack = open_pack(tmp_path / "p.zip")
    assert pack.targets == {"a.txt": "c/a.txt"}
    assert pack.leftovers == ()
