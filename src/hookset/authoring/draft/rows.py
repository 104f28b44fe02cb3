"""What a draft consists of: entries of a hook sheet's tables, each with the reason for it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import msgspec

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.decided import Decided
from hookset.authoring.draft.decisions import Decision, Walk
from hookset.authoring.draft.draft import Reason
from hookset.authoring.draft.site import EntryFacts, Site
from hookset.config.sheets import typed
from hookset.formats import Body
from hookset.model import CouldNotError
from hookset.packs import HookSheet
from hookset.packs.hooksheet import PackEntry

__all__ = ["Row", "Rows", "head_as_decided", "in_order", "kept", "sheet_of", "told_as_decided", "with_decided"]

Row = tuple[Any, Reason]
Rows = dict[str, list[Row]]
"""By the sheet's table."""


def sheet_of(head: PackEntry, rows: Rows) -> HookSheet:
    """The hook sheet that the entries make."""
    tables = {table: tuple(entry for entry, _ in ones) for table, ones in rows.items()}
    return msgspec.structs.replace(HookSheet(pack=head), **tables)


def kept(rows: Iterable[Row], decided: Decided) -> list[Row]:
    """Those that nobody decided against."""
    return [(entry, reason) for entry, reason in rows if not decided.drops(reason.why, reason.sure)]


def with_decided(rows: Rows, decided: Decided) -> Rows:
    """With the entries that the decisions themselves have, each in place of one of its name."""
    found = {table: list(ones) for table, ones in rows.items()}
    for one in decided.steps:
        reason = Reason(True, _why(one))
        for table, entries in one.tables.items():
            names = {_name(entry) for entry in entries} - {""}
            before = [row for row in found.get(table, []) if _name(row[0]) not in names]
            found[table] = [*before, *((entry, reason) for entry in entries)]
    return found


def _why(one: Decision) -> Why:
    """The lines that a decision is about."""
    if one.stretch is None:
        return Why(words=(one.lines, "decided"))
    notes, first, last = one.stretch
    return Why(((notes, first),), ("decided",), last if last > first else 0)


def told_as_decided(site: Site, decided: Decided) -> Iterator[EntryFacts]:
    """What the entries that were decided say once they stand at their seats."""
    for hook in (hook for one in decided.steps for hook in one.hook):
        seat_file = next((one for one in site.seat_files if one.seat.name == hook.seat), None)
        if seat_file is not None and (hook.text is not None or hook.record is not None):
            yield site.told(seat_file, Body(text=hook.text, record=hook.record))


def _name(entry: Any) -> str:
    """What the sheet calls an entry; empty for those that have no name of their own."""
    name = str(getattr(entry, "name", ""))
    return f"{getattr(entry, 'kind', '')} {name}" if name else ""


def in_order(rows: Sequence[Row], notes: Sequence[str]) -> list[Row]:
    """Entries in the order of the notes; what no line says comes last."""
    ranks = {path: rank for rank, path in enumerate(notes)}
    last = (len(ranks), 0)

    def place(row: Row) -> tuple[int, int]:
        return next(((ranks[path], line) for path, line in row[1].why.lines if path in ranks), last)

    return sorted(rows, key=place)


def head_as_decided(head: PackEntry, walk: Walk) -> PackEntry:
    """The sheet's `[pack]` with what was decided of it. Raises CouldNotError for keys that it does not have."""
    found = typed({**msgspec.to_builtins(head), **walk.pack}, PackEntry)
    if isinstance(found, list):
        raise CouldNotError(
            "wrong-decision",
            "what was decided about the pack is nothing that a hook sheet can say",
            details=tuple(one.message for one in found),
            why="a key that is not understood would be a step that is silently not done",
            remedy="correct `[pack]` in the file of decisions",
        )
    return found
