"""Names that a newer version calls otherwise, changed in the whole map: also where the builder has used them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from typing import Any

from msgspec.structs import replace
from packaging.version import Version

from hookset.config.layouts import Layout
from hookset.edits.find import EntryState, found, found_exactly
from hookset.edits.place import RENAMED, line_above, line_below, opened, seat_at
from hookset.formats import Body, Edit, Unreadable, spliced
from hookset.formats.document import standing_at
from hookset.model import CouldNotError
from hookset.packs import SheetedPack
from hookset.planning.naming.rewriting import NameMap, RewrittenFile, rewrite_names
from hookset.planning.plan import HookState, HookStep
from hookset.planning.state import PlanState, as_set, unsure_names
from hookset.project import LedgerEdit, LedgerHook
from hookset.trees import sha256_of

_CONTEXT = 8
"""Characters before a name that tell it from the same word elsewhere in an entry."""

__all__ = ["rename_everywhere", "rename_since", "with_rewritten"]


def rename_since(state: PlanState, pack: SheetedPack, installed: str) -> tuple[PlanState, tuple[HookStep, ...]]:
    """What the pack renamed after the version that is installed; what was done in each file. What stood in the
    builder's own lines is remembered as an entry of the pack: it goes back when the pack goes."""
    sheet = pack.sheet
    names = {
        (entry.kind, entry.from_, ""): entry.to
        for entry in sheet.renamed
        if entry.kind in state.layout.kinds and Version(entry.since or sheet.pack.version) > Version(installed)
    }
    own = state.ledger.pack(pack.name)
    brought = {file.path for file in own.files} if own else set()
    state, results = rename_everywhere(state, NameMap.of(state.layout, names), brought)
    for path, result in results.items():
        state = _remembered(state, pack.name, path, result)
    said = ", ".join(f"{old} → {new}" for (_, old, _), new in names.items())
    steps = (
        HookStep(
            seat="",
            title="renamed",
            path=path,
            state=HookState.REPLACED,
            shown=said,
            note=plural_places(len(result.edits)),
        )
        for path, result in results.items()
    )
    return state, tuple(steps)


def plural_places(count: int) -> str:
    return f"renamed in {count} place{'s' if count != 1 else ''}"


def _remembered(state: PlanState, name: str, path: str, result: RewrittenFile) -> PlanState:
    """The changes that no entry and no pack's file holds, as an entry of their own."""
    pack = state.ledger.pack(name)
    if pack is None or result.text is None or any(f.path == path for one in state.ledger.packs for f in one.files):
        return state
    string = result.text.string
    changed = spliced(string, result.edits)
    held = [found(changed, edit) for hook in state.entries_in(path) for edit in hook.edits]
    made: list[LedgerEdit] = []
    shift = 0
    for edit in sorted(result.edits, key=lambda one: one.start):
        start = edit.start + shift
        end = start + len(edit.text)
        shift += len(edit.text) - (edit.end - edit.start)
        if any(one.standing is not EntryState.GONE and one.start <= start and end <= one.end for one in held):
            continue
        above, below = line_above(changed, start), line_below(changed, end)
        made.append(LedgerEdit(new=edit.text, old=string[edit.start : edit.end], above=above, below=below))
    if not made:
        return state
    ask = {RENAMED: ", ".join(f"{one.old} → {one.new}" for one in made)}
    key = f"renamed {state.order}"
    hook = LedgerHook(order=state.order, ask=ask, path=path, key=key, record=dict(ask), edits=tuple(made))
    return state.with_next_order().with_row(replace(pack, hooks=(*pack.hooks, hook)))


def rename_everywhere(
    state: PlanState, names: NameMap, but: Set[str] = frozenset()
) -> tuple[PlanState, dict[str, RewrittenFile]]:
    """Every reference to a name, and its definition where it stands in a file of the builder's; what became of each
    file that changes. The files of `but` stay as they are."""
    results: dict[str, RewrittenFile] = {}
    if not names:
        return state, results
    kinds = {kind for kind, _ in names.names}
    for path in state.tree.paths():
        if path in but or not _concerned(state.layout, path, kinds):
            continue
        result = rewrite_names(state.tree, state.layout, path, names)
        state = state.with_unsure(unsure_names(state.tree, state.layout, path, result.left))
        if result.content is not None:
            state = with_rewritten(state, path, result)
            results[path] = result
    return state, results


def with_rewritten(state: PlanState, path: str, result: RewrittenFile) -> PlanState:
    """The plan with rewritten names in a file, and the ledger as well: nobody has changed the file by hand."""
    if result.content is None or result.text is None:
        return state
    before, sha = state.sha(path), sha256_of(result.content)
    hooks = [_followed(hook, result.text.string, result.edits) for hook in state.entries_in(path)]
    state = state.with_contents({path: result.content})
    state = state.with_entries(path, [_as_it_stands(state, hook) for hook in hooks])
    for pack in state.ledger.packs:
        if any(file.path == path and file.sha256 == before for file in pack.files):
            files = tuple(replace(file, sha256=sha) if file.path == path else file for file in pack.files)
            state = state.with_kept(as_set(result.content)).with_row(replace(pack, files=files))
    return state


def _as_it_stands(state: PlanState, hook: LedgerHook) -> LedgerHook:
    """An entry of data, with the values that it has in the file now: one word may stand in it as a name and as
    something else."""
    seat = state.layout.seats.get(hook.seat)
    if seat is None or hook.record is None or not hook.edits:
        return hook
    try:
        opened_ = opened(state.layout, state.tree, hook)
    except (Unreadable, CouldNotError):
        return hook
    if opened_ is None:
        return hook
    text, document = opened_
    spans = [found_exactly(text.string, edit) for edit in hook.edits]
    near = [(span.start, span.end) for span in spans if span is not None]
    record = standing_at(document, seat_at(seat, hook.at), Body(record=hook.record), near) if near else None
    return replace(hook, record=record) if isinstance(record, dict) and record.keys() == hook.record.keys() else hook


def _followed(hook: LedgerHook, string: str, edits: Sequence[Edit]) -> LedgerHook:
    """An entry whose text was changed by these edits of its file."""
    changed = spliced(string, edits)
    every: list[Edit] = []
    made: list[LedgerEdit] = []
    for edit in hook.edits:
        span = found(string, edit)
        if span.standing is EntryState.GONE:
            made.append(edit)
            continue
        inside = [one for one in edits if span.start <= one.start and one.end <= span.end]
        every += inside
        shifted = [Edit(one.start - span.start, one.end - span.start, one.text) for one in inside]
        start = span.start + sum(len(one.text) - (one.end - one.start) for one in edits if one.end <= span.start)
        if span.standing is EntryState.CHANGED:
            new = _alike(edit.new, string, inside)
            made.append(replace(edit, new=new))
            continue
        new = spliced(string[span.start : span.end], shifted)
        above, below = line_above(changed, start), line_below(changed, start + len(new))
        made.append(LedgerEdit(new=new, old=edit.old, above=above, below=below))
    text = None if hook.text is None else _alike(hook.text, string, every)
    record = _values(hook.record, {string[one.start : one.end]: one.text for one in every})
    return replace(hook, edits=tuple(made), text=text, record=record)


def _values(value: Any, names: Mapping[str, str]) -> Any:
    """A record with the new names in each value that is a name, or a path that contains one."""
    if isinstance(value, Mapping):
        return {key: _values(below, names) for key, below in value.items()}
    if isinstance(value, list | tuple):
        return [_values(below, names) for below in value]
    if not isinstance(value, str):
        return value
    whole = names.get(value)
    parts = (value.replace(old, new) for old, new in names.items() if "/" in old and old in value)
    return whole if whole is not None else next(parts, value)


def _alike(text: str, string: str, edits: Sequence[Edit]) -> str:
    """The same edits made in what an entry was before the builder changed it, where the same stands around them."""
    for one in edits:
        lead = string[max(one.start - _CONTEXT, 0) : one.start]
        old = lead + string[one.start : one.end]
        if text.count(old) == 1:
            text = text.replace(old, lead + one.text)
    return text


def _concerned(layout: Layout, path: str, kinds: set[str]) -> bool:
    rules = [rule for rule in layout.reads if rule.format != "any" and rule.match(path) is not None]
    named = {one.kind for rule in rules for one in rule.defines} | {one.kind for rule in rules for one in rule.refers}
    return bool(named & kinds)
