"""Rows of the manifest for names that a pack uses and that do not belong to its files."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence, Set

from hookset.edits import replay
from hookset.formats import Unreadable
from hookset.model import CouldNotError
from hookset.planning.naming.rewriting import added_names, facts_of
from hookset.planning.pipeline.request import HookRequest
from hookset.planning.pipeline.requests import row_requests
from hookset.planning.plan import Stop
from hookset.planning.state import PlanState
from hookset.project import LedgerHook
from hookset.trees import Overlay

__all__ = ["Name", "entry_names", "name_rows"]

Name = tuple[str, str]
"""(kind, name)"""


def entry_names(state: PlanState, hook: LedgerHook, entries: Sequence[LedgerHook]) -> tuple[set[Name], set[Name]]:
    """What an entry that is set defines, and what it refers to: seen by taking it out again. `entries` are all that
    stand in its file."""
    if not hook.edits:
        return set(), set()
    try:
        after = facts_of(state.tree, state.layout, hook.path)
        without = replay(state.layout, state.tree, hook.path, entries, {hook.order: None}, "drop")
        before = facts_of(Overlay(state.tree, {hook.path: without.content}), state.layout, hook.path)
    except (Unreadable, CouldNotError):
        return set(), set()
    defined, referred = added_names(before, after)
    return {(one[0], one[1]) for one in defined}, {(one[0], one[1]) for one in referred}


def name_rows(
    state: PlanState, name: str, files: Iterable[str], hooks: Iterable[LedgerHook], listed: Set[str]
) -> Iterator[HookRequest | Stop]:
    """Yield a row for each name, of the kinds that need one, in a pack's planned files and entries; not for what is
    `listed` in the pack's own lists."""
    manifest = state.layout.manifest
    if manifest is None or not manifest.kinds:
        return
    used: dict[Name, None] = {}
    for path in files:
        references = facts_of(state.tree, state.layout, path).references if state.tree.has(path) else ()
        used |= dict.fromkeys((r.kind, r.name) for r in references if r.use and not r.pattern)
    own = {hook.order: hook for hook in hooks}
    for hook in own.values():
        others = [one for one in state.entries_in(hook.path) if one.order not in own]
        here = [*others, *(one for one in own.values() if one.path == hook.path)]
        used |= dict.fromkeys(sorted(entry_names(state, hook, here)[1]))
    defined = _defined(state, {kind for kind, _ in used if manifest.only_own(kind)})
    wanted = (one for one in used if one[0] in manifest.kinds)
    rows = (manifest.row_of_name(*one) for one in wanted if not manifest.only_own(one[0]) or one in defined)
    needed = (row for row in rows if row is not None and row.name not in listed)
    yield from row_requests(state.layout, state.tree, name, needed)


def _defined(state: PlanState, kinds: Set[str]) -> set[Name]:
    """The names of some kinds that the planned map defines itself."""
    if not kinds:
        return set()
    facts = (facts_of(state.tree, state.layout, path) for path in state.tree.paths())
    return {(block.kind, name) for one in facts for block in one.defined if block.kind in kinds for name in block.names}
