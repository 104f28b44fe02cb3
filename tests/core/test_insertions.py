"""Entries that are set together into a large file leave what they would leave one after the other."""

from __future__ import annotations

import difflib
import importlib
import re
from pathlib import Path
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace

from hookset.applying import Change
from hookset.edits import Insertions
from hookset.formats import Edit, spliced
from hookset.planning import Choices, Plan, plan_install, plan_remove, plan_upgrade, text_diffs
from hookset.project import LedgerHook, read_ledger
from hookset.trees import EmptyTree, Inline, Overlay, sha256_of
from tests.core.test_every_layout import FEW, LAYOUTS, every_seat, given_map, install, map_of, pack_of, sheets

take = Insertions.take
# The package has a function of that name.
replaying = importlib.import_module("hookset.edits.replay")
taken: list[bool] = []


def together(self: Insertions, hook: LedgerHook) -> Insertions | None:
    """Entries wait for each other in small files as well."""
    result = take(replace(self, large=0), hook)
    taken.append(result is not None)
    return result


def planned(root: Path, name: str, hooks: list[str]) -> Plan:
    project, data = given_map(root)
    return plan_install(project, read_ledger(root), data, [pack_of(root, name, "1", hooks)], Choices(), "t")


def said(plan: Plan) -> tuple[object, ...]:
    """All that a plan would do, and what it tells."""
    changes = {change.path: change.after.read() if change.after else None for change in plan.changes}
    (pack,) = plan.packs
    told = [(step.seat, step.path, step.state, step.shown, step.note) for step in pack.hooks]
    return changes, plan.ledger, [stop.what for stop in plan.stops], told, pack.values


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_together_is_as_one_by_one(layout: str, monkeypatch: pytest.MonkeyPatch) -> None:
    @FEW
    @given(sheets(layout, "q"), sheets(layout, "q"))
    @example(every_seat(layout, "q"), every_seat(layout, "z"))
    def holds(one: dict[str, list[str]], other: dict[str, list[str]]) -> None:
        hooks = [*one["1"], *one["2"], *other["1"]]
        with map_of(layout) as root:
            monkeypatch.setattr(Insertions, "take", lambda *_: None)
            alone = said(planned(root, "pack", hooks))
            monkeypatch.setattr(Insertions, "take", together)
            assert said(planned(root, "pack", hooks)) == alone

    taken.clear()
    holds()
    assert any(taken)


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_taken_out_at_once_is_as_in_turn(layout: str, monkeypatch: pytest.MonkeyPatch) -> None:
    at_once = replaying._at_once
    made: list[bool] = []

    def noted(*asked: Any) -> Any:
        result = at_once(*asked)
        made.append(result is not None)
        return result

    @FEW
    @given(sheets(layout, "q"), sheets(layout, "z"))
    @example(every_seat(layout, "q"), every_seat(layout, "z"))
    def holds(one: dict[str, list[str]], other: dict[str, list[str]]) -> None:
        with map_of(layout) as root:
            install(root, pack_of(root, "first", "1", one["1"]))
            install(root, pack_of(root, "second", "1", other["1"]))
            project, data = given_map(root)

            def removed() -> tuple[object, ...]:
                plan = plan_remove(project, read_ledger(root), data, ["first"], Choices(), "t")
                return {change.path: change.after for change in plan.changes}, plan.ledger, plan.stops, plan.packs

            monkeypatch.setattr(replaying, "_at_once", lambda *_: None)
            in_turn = removed()
            monkeypatch.setattr(replaying, "_at_once", noted)
            assert removed() == in_turn

    holds()
    assert any(made)


SCENE = {
    "the same twice": ["text = '<Thing key=\"a\"/>'", "text = '<Thing key=\"a\"/>'"],
    "one within another": ["text = '<Thing key=\"a\"/>'", 'at = { node = "a" }\ntext = \'<Thing key="b"/>\''],
    "an id that the pack gives itself": [
        'text = \'<Source no="700" from="assets/own.gltf"/>\'',
        'text = \'<Thing key="a" form="{lookup:file-id:assets/own.gltf}" noise="{listed:file-id:assets/new.wav}"/>\'',
        'text = \'<Thing key="b" form="{listed:file-id:assets/new.wav}"/>\'',
    ],
    "above the water": ["text = '<Thing key=\"a\"/>'", "text = '<Thing key=\"b\"/>'"],
}


@pytest.mark.parametrize("title", SCENE)
def test_entries_that_go_by_each_other(title: str, monkeypatch: pytest.MonkeyPatch) -> None:
    seats = {
        "one within another": ("nodes", "on-node"),
        "an id that the pack gives itself": ("files", "nodes", "nodes"),
        "above the water": ("water", "water"),
    }.get(title, ("nodes", "nodes"))
    hooks = [f'[[hook]]\nseat = "{seat}"\n{body}' for seat, body in zip(seats, SCENE[title], strict=True)]
    with map_of("scene-graph") as root:
        monkeypatch.setattr(Insertions, "take", lambda *_: None)
        alone = said(planned(root, "pack", hooks))
        monkeypatch.setattr(Insertions, "take", together)
        assert said(planned(root, "pack", hooks)) == alone
        assert alone[2] == []


def test_a_row_that_a_changed_entry_needs_leaves_the_change(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Insertions, "take", together)
    thing = '[[hook]]\nseat = "nodes"\ntext = \'<Thing key="a" noise="{listed:file-id:assets/%s.wav}" dim="1.5"/>\''
    with map_of("scene-graph") as root:
        install(root, pack_of(root, "pack", "1", [thing % "one"]))
        project, data = given_map(root)
        packs = [pack_of(root, "pack", "2", [thing % "other"])]
        plan = plan_upgrade(project, read_ledger(root), data, packs, Choices(), "t")
        (scene,) = [change.after.read() for change in plan.changes if change.after and b"<Thing" in change.after.read()]
    assert plan.stops == ()
    rows = re.findall(rb'<Source no="(\d+)" from="assets/(one|other).wav"', scene)
    assert [(name, b'noise="%s"' % number in scene) for number, name in rows] == [(b"other", True)]


LINES = st.lists(st.sampled_from(["a", "b", "c", "@@ -1 +1 @@", ""]), max_size=30)


@given(LINES, LINES, LINES, LINES)
def test_a_diff_tells_what_changes(head: list[str], one: list[str], other: list[str], tail: list[str]) -> None:
    old, new = [*head, *one, *tail], [*head, *other, *tail]
    before, after = Inline("\n".join([*old, ""]).encode()), Inline("\n".join([*new, ""]).encode())
    change = Change(path="a.txt", before=sha256_of(before), after=after)
    (diff,) = text_diffs(Overlay(EmptyTree(), {"a.txt": before}), [change])
    assert patched(old, list(diff.lines)) == new
    assert len(diff.lines) <= len(list(difflib.unified_diff(old, new, n=2))) + len(old) + len(new)


def patched(lines: list[str], diff: list[str]) -> list[str]:
    """What a unified diff makes of lines."""
    done: list[str] = []
    at = 0
    for line in diff[2:]:
        hunk = re.fullmatch(r"@@ -(\d+)(?:,(\d+))? \+\d+(?:,\d+)? @@", line)
        if hunk is not None:
            start = int(hunk[1]) - (hunk[2] != "0")
            done += lines[at:start]
            at = start
        elif line[0] in " -":
            assert lines[at] == line[1:]
            done += [line[1:]] if line[0] == " " else []
            at += 1
        else:
            done.append(line[1:])
    return [*done, *lines[at:]]


@given(st.text("abc\n", max_size=40), st.lists(st.tuples(st.integers(0, 40), st.text("xyz", max_size=3)), max_size=6))
def test_insertions_leave_the_rest(string: str, inserted: list[tuple[int, str]]) -> None:
    edits = [Edit(min(at, len(string)), min(at, len(string)), text) for at, text in inserted]
    result = spliced(string, edits)
    assert len(result) == len(string) + sum(len(edit.text) for edit in edits)
    assert re.sub("[xyz]", "", result) == string
