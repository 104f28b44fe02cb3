"""What a builder changed in a drafted sheet, carried over into the draft for a newer version of the pack.

A drafted sheet remembers each of its entries by a digest. What is in the sheet and is not remembered, the builder
wrote; what is remembered and is not in the sheet any more, the builder took out.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from typing import Any

import msgspec
from msgspec.structs import replace

from hookset.authoring.draft.cites import as_said
from hookset.authoring.draft.decisions import TABLES
from hookset.authoring.draft.draft import Draft, Reason
from hookset.authoring.draft.rows import Rows, sheet_of
from hookset.packs import HookSheet
from hookset.packs.hooksheet import DraftedEntry

__all__ = ["carried_over", "drafted_entry"]

_DIGITS = 12
_YOURS = Reason(True, as_said("yours, in the sheet before"))


def drafted_entry(sheet: HookSheet, sha256: str) -> DraftedEntry:
    """What a sheet has to remember of having been drafted for a pack."""
    return DraftedEntry(sha256=sha256, entries=tuple(_digest(*one) for one in _entries(sheet)))


def carried_over(old: HookSheet, draft: Draft) -> Draft:
    """The draft with what the builder changed in the sheet that was drafted before; the same where that is no drafted
    sheet."""
    known = set(old.drafted.entries)
    if not known:
        return draft
    there = {_digest(table, entry): (table, entry) for table, entry in _entries(old)}
    gone = known - there.keys()
    own = [one for digest, one in there.items() if digest not in known]
    if not gone and not own:
        return draft
    rows: Rows = {}
    for table in TABLES:
        entries = enumerate(getattr(draft.sheet, table))
        rows[table] = [(one, draft.reason(table, n)) for n, one in entries if _digest(table, one) not in gone]
        rows[table] += [(entry, _YOURS) for of, entry in own if of == table]
    yours = {entry[0]: entry[1] for of, entry in own if of == "pack"}
    drafted = _without_defaults(draft.sheet.pack)
    kept = {key: value for key, value in drafted.items() if key == "name" or _digest("pack", (key, value)) not in gone}
    head = msgspec.convert({**kept, **yours}, type(draft.sheet.pack))
    return replace(
        draft,
        sheet=msgspec.structs.replace(sheet_of(head, rows), drafted=draft.sheet.drafted),
        reasons={(table, n): reason for table, ones in rows.items() for n, (_, reason) in enumerate(ones)},
        heads={**draft.heads, **dict.fromkeys(yours, _YOURS.why)},
    )


def _entries(sheet: HookSheet) -> Iterator[tuple[str, Any]]:
    """(table, entry) of all that a sheet says; the keys of its head each by itself, but for what differs from version
    to version."""
    head = _without_defaults(sheet.pack)
    yield from (("pack", (key, value)) for key, value in head.items() if key != "version")
    for table in TABLES:
        yield from ((table, entry) for entry in getattr(sheet, table))


def _without_defaults(value: Any) -> Any:
    """An entry as plain data. What goes without saying is left out: a later Hook Set may know more keys."""
    if isinstance(value, msgspec.Struct):
        fields = ((field, getattr(value, field.name)) for field in msgspec.structs.fields(value))
        return {f.encode_name: _without_defaults(one) for f, one in fields if one not in (f.default, None, (), {}, "")}
    if isinstance(value, list | tuple):
        return [_without_defaults(one) for one in value]
    return {key: _without_defaults(one) for key, one in value.items()} if isinstance(value, dict) else value


def _digest(table: str, entry: Any) -> str:
    plain = json.dumps([table, _without_defaults(entry)], sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(plain.encode()).hexdigest()[:_DIGITS]
