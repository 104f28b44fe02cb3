"""Whatever a pack brings: what was set can be taken back, is set once, and is what the preview showed."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hookset.applying import Disk, apply_changes, changed_tree
from hookset.checks import judge
from hookset.formats.toml import written
from hookset.packs import Pack, open_pack
from hookset.planning import Choices, plan_install, plan_undo
from hookset.project import LEDGER, MapProject, open_project, read_ledger
from tests.conftest import snapshot
from tests.shipped import demo_in

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover

WORDS = st.text("abcdefgh", min_size=3, max_size=8)
SLOW = settings(max_examples=5, deadline=None, suppress_health_check=[HealthCheck.too_slow])


def hooks(word: str) -> dict[str, str]:
    """One entry for each seat of the layout, all of them about one made-up thing."""
    return {
        "server-import": f"text = 'local {word} = require(\"packs.{word}\")'",
        "client-import": f"text = 'local {word} = require(\"tide\")'",
        "server-start": f'text = "on(\\"{word}.use\\", function() log(\\"{word}\\") end)"',
        "client-start": f'text = "log(\\"{word}\\")"',
        "sound-table": f'record = {{ alias = "{word}", file = "harbour/gull_1.wav", reach = 3.5 }}',
        "scene-objects": f'record = {{ name = "{word}", extras = {{ key = "{word}", class = "lever", label = "{word}.label" }} }}',
        "texts": f'[hook.each.en]\n"{word}.label" = "The {word}"',
    }


@st.composite
def sheets(draw: st.DrawFn) -> tuple[str, str]:
    """A pack's name, and its hook sheet: any seats in any order. What an entry refers to always comes with it."""
    word = draw(WORDS)
    chosen = draw(st.lists(st.sampled_from(sorted(hooks(word))), unique=True))
    if "scene-objects" in chosen and "texts" not in chosen:
        chosen.append("texts")
    lines = ["[pack]", f"name = {written(word)}", 'version = "1"', "[[files]]", 'from = "content/**"']
    for seat in chosen:
        lines += ["[[hook]]", f'seat = "{seat}"', hooks(word)[seat]]
    return word, "\n".join(lines) + "\n"


@contextmanager
def brackwater() -> Iterator[MapProject]:
    with tempfile.TemporaryDirectory() as folder:
        yield open_project(demo_in(Path(folder) / "demo"))


def made(project: MapProject, word: str, sheet: str) -> Pack:
    folder = project.root.parent / word
    shutil.rmtree(folder, ignore_errors=True)
    script = folder / f"content/scripts/server/packs/{word}.lua"
    script.parent.mkdir(parents=True)
    script.write_text("return {}\n")
    (folder / "hooksheet.toml").write_text(sheet)
    return open_pack(folder)


def install(project: MapProject, *packs: Pack) -> Any:
    root = project.root
    data = (root / LEDGER).read_bytes() if (root / LEDGER).exists() else None
    plan = plan_install(project, read_ledger(root), data, packs, Choices(), "2026-01-01T00:00:00Z")
    assert not plan.stops, plan.stops
    would = changed_tree(project.tree, plan.changes)
    expected = {path: would.read(path) for path in would.paths()}
    if plan.all_changes:
        (root / ".hookset").mkdir(exist_ok=True)
        apply_changes(root, plan.all_changes, action="install", title="install", time="t", disk=Disk())
    after = snapshot(root)
    after.pop("hookset.toml")
    assert after == expected
    return plan


def undo(project: MapProject) -> None:
    plan = plan_undo(project.root)
    apply_changes(project.root, plan.changes, action="undo", title="u", time="t", disk=Disk(), undoes=plan.entry.id)


@SLOW
@given(sheets())
def test_what_was_set_can_be_taken_back_and_is_set_once(sheet: tuple[str, str]) -> None:
    with brackwater() as project:
        before = snapshot(project.root)
        install(project, made(project, *sheet))
        after = snapshot(project.root)
        assert install(project, made(project, *sheet)).all_changes == ()
        assert snapshot(project.root) == after
        undo(project)
        assert snapshot(project.root) == before


@SLOW
@given(sheets())
def test_nothing_is_broken_by_what_is_whole(sheet: tuple[str, str]) -> None:
    with brackwater() as project:
        install(project, made(project, *sheet))
        verdict = judge(project.tree, project.layout, project.stock, read_ledger(project.root))
        assert verdict.errors == ()
        assert [f.code for f in verdict.findings if f.code not in ("unused-file",)] == []


@SLOW
@given(sheets(), sheets())
def test_undo_goes_back_step_by_step(first: tuple[str, str], second: tuple[str, str]) -> None:
    if first[0] == second[0]:
        return
    with brackwater() as project:
        states = [snapshot(project.root)]
        for sheet in (first, second):
            install(project, made(project, *sheet))
            states.append(snapshot(project.root))
        for state in reversed(states[:-1]):
            undo(project)
            assert snapshot(project.root) == state


@SLOW
@given(sheets(), sheets())
def test_two_at_once_are_as_two_in_turn(first: tuple[str, str], second: tuple[str, str]) -> None:
    if first[0] == second[0]:
        return
    with brackwater() as together, brackwater() as apart:
        install(together, made(together, *first), made(together, *second))
        for sheet in (first, second):
            install(apart, made(apart, *sheet))
        assert snapshot(together.root) == snapshot(apart.root)
