"""Taking packs out: what they set and nothing else, whatever was set or changed around it."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given

from hookset.applying import Disk, apply_changes
from hookset.packs import open_pack
from hookset.planning import Choices, FileState, HookState, Plan, plan_install, plan_remove
from hookset.project import LEDGER, MapProject, open_project, read_ledger
from tests.conftest import snapshot
from tests.core.test_any_pack import SLOW, brackwater, install, made, sheets


def taken_out(root: Path, *names: str, by_hand: str = "stop", anyway: bool = False) -> Plan:
    """Planned and, where nothing stands in the way, carried out."""
    project = open_project(root)
    data = (root / LEDGER).read_bytes()
    choices = Choices(by_hand=by_hand)  # type: ignore[arg-type]
    plan = plan_remove(project, read_ledger(root), data, names, choices, "2026-01-02T00:00:00Z", anyway)
    if not plan.stops:
        apply_changes(root, plan.all_changes, action="remove", title="remove", time="t", disk=Disk())
    return plan


@pytest.mark.no_cover
@SLOW
@given(sheets())
def test_what_was_set_is_taken_out_to_the_byte(sheet: tuple[str, str]) -> None:
    with brackwater() as project:
        before = snapshot(project.root)
        install(project, made(project, *sheet))
        assert not taken_out(project.root, sheet[0]).stops
        assert snapshot(project.root) == before


@pytest.mark.no_cover
@SLOW
@given(sheets(), sheets())
def test_one_taken_out_leaves_the_other_as_if_alone(first: tuple[str, str], second: tuple[str, str]) -> None:
    if first[0] == second[0]:
        return
    with brackwater() as both, brackwater() as alone:
        install(both, made(both, *first))
        install(both, made(both, *second))
        assert not taken_out(both.root, first[0]).stops
        install(alone, made(alone, *second))
        assert snapshot(both.root) == snapshot(alone.root)


def test_entries_are_found_where_the_builder_moved_and_indented_them(packed: MapProject) -> None:
    root = packed.root
    main = root / "scripts/server/main.lua"
    text = main.read_text()
    line = "  lift_bridge.start()\n"
    moved = text.replace(line, "").replace("function start()\n", f"function start()\n      {line.strip()}\n")
    assert moved != text
    main.write_text(moved)
    plan = taken_out(root, "lift-bridge")
    assert not plan.stops
    assert "lift_bridge" not in main.read_text()
    assert "fog_bell.start(7)" in main.read_text()


def test_what_the_builder_changed_is_shown_and_kept_or_dropped(packed: MapProject) -> None:
    root = packed.root
    texts = root / "texts/en.toml"
    changed = texts.read_text().replace('"Raise the bridge"', '"Heave the bridge up"')
    assert changed != texts.read_text()
    texts.write_text(changed)
    plan = taken_out(root, "lift-bridge")
    assert [(stop.code, stop.where.split(":")[0]) for stop in plan.stops] == [("changed-by-you", "texts/en.toml")]
    assert '+"lift_bridge.lever" = "Heave the bridge up"' in plan.stops[0].details
    assert texts.read_text() == changed
    plan = taken_out(root, "lift-bridge", by_hand="keep")
    assert not plan.stops
    assert '"lift_bridge.lever" = "Heave the bridge up"' in texts.read_text()
    assert "lift_bridge.down" not in texts.read_text()


def test_dropping_what_was_changed_leaves_nothing(packed: MapProject) -> None:
    root = packed.root
    texts, script = root / "texts/en.toml", root / "scripts/server/packs/lift_bridge.lua"
    texts.write_text(texts.read_text().replace('"Raise the bridge"', '"Heave the bridge up"'))
    script.write_text(script.read_text() + "-- mine\n")
    plan = taken_out(root, "lift-bridge")
    assert len(plan.stops) == 2
    assert not taken_out(root, "lift-bridge", by_hand="drop").stops
    assert "lift_bridge" not in texts.read_text()
    assert not script.exists()


def test_a_file_that_another_pack_has_stays_until_that_goes(project: MapProject, tmp_path: Path) -> None:
    root = project.root
    for name in ("first", "second"):
        folder = tmp_path / name / "content/textures"
        folder.mkdir(parents=True)
        (folder / "rope.png").write_bytes((root / "textures/iron.png").read_bytes())
        (tmp_path / name / "hooksheet.toml").write_text(
            f'[pack]\nname = "{name}"\nversion = "1"\n[[files]]\nfrom = "content/**"\n'
        )
    before = snapshot(root)
    for name in ("first", "second"):
        ledger = read_ledger(root)
        data = (root / LEDGER).read_bytes() if ledger.packs else None
        plan = plan_install(project, ledger, data, [open_pack(tmp_path / name)], Choices(), "t")
        (root / ".hookset").mkdir(exist_ok=True)
        apply_changes(root, plan.all_changes, action="install", title="i", time="t", disk=Disk())
    plan = taken_out(root, "first")
    assert [(file.state, file.note) for file in plan.packs[0].files] == [(FileState.STAYS, "second has it as well")]
    assert (root / "textures/rope.png").exists()
    assert "textures/rope.png" in (root / "manifest.txt").read_text()
    taken_out(root, "second")
    assert snapshot(root) == before


def test_what_others_need_is_not_taken_from_under_them(project: MapProject, tmp_path: Path) -> None:
    root = project.root
    for name, needs in (("first", ""), ("second", '[[needs]]\nkind = "pack"\nname = "first"\n')):
        (tmp_path / name).mkdir()
        (tmp_path / name / "hooksheet.toml").write_text(f'[pack]\nname = "{name}"\nversion = "1"\n{needs}')
    plan = plan_install(
        project, read_ledger(root), None, [open_pack(tmp_path / n) for n in ("first", "second")], Choices(), "t"
    )
    (root / ".hookset").mkdir(exist_ok=True)
    apply_changes(root, plan.all_changes, action="install", title="i", time="t", disk=Disk())
    assert [stop.code for stop in taken_out(root, "first").stops] == ["needed-by-others"]
    assert not taken_out(root, "first", "second").stops
    assert read_ledger(root).packs == ()


def test_states_say_what_happened(packed: MapProject) -> None:
    root = packed.root
    (root / "sounds/bridge/horn.wav").unlink()
    plan = taken_out(root, "lift-bridge", "fog-bell")
    states = {file.path: file.state for one in plan.packs for file in one.files}
    assert states["sounds/bridge/horn.wav"] is FileState.GONE
    assert set(states.values()) == {FileState.GONE, FileState.OUT}
    assert {hook.state for one in plan.packs for hook in one.hooks} == {HookState.OUT}
