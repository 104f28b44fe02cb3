"""A draft as the text of a hook sheet, every entry under the reason for it."""

from __future__ import annotations

import textwrap
from collections.abc import Iterator, Mapping
from typing import Any

import msgspec

from hookset.authoring.draft.coverage import Fate
from hookset.authoring.draft.decisions import TABLES
from hookset.authoring.draft.draft import Draft, Reason
from hookset.formats.toml import written

__all__ = ["entry_text", "sheet_text"]

_LONG = 100


def sheet_text(draft: Draft) -> str:
    """TOML. What is unsure is marked with `?`."""
    lines = [
        "# Drafted by Hook Set" + (f" from {', '.join(draft.notes)} and from what is in the pack." if draft.notes else
                                   " from what is in the pack: it came without notes."),
        "# Look at the lines marked with `?` before you set it in; whatever is wrong can be changed here.",
        *(f"# ? {line}" for item in draft.decide for line in textwrap.wrap(item, _LONG)),
        "",
        "[pack]",
        *_head(draft),
    ]  # fmt: skip
    for table in TABLES:
        for index, entry in enumerate(getattr(draft.sheet, table)):
            lines += ["", *_reason(draft.reason(table, index)), *_entry(table, entry)]
    known = draft.sheet.drafted
    if known.sha256:
        lines += ["", "# For a newer version of the pack: what you change above is carried over then.", "[drafted]"]
        lines += [f"sha256 = {written(known.sha256)}", f"entries = {written(list(known.entries))}"]
    if draft.not_understood:
        lines += ["", "# Not understood: do it by hand, or say it in an entry of your own."]
        lines += (f"#   {one.notes}:{one.number}: {one.text[:_LONG]}" for one in draft.not_understood)
    for fate, header in ((Fate.BY_HAND, "To be done by hand:"), (Fate.LEFT_OUT, "Left out, as decided:")):
        if lines_so := draft.with_fate(fate):
            lines += ["", f"# {header}", *(f"#   {one.notes}:{one.number}: {one.text[:_LONG]}" for one in lines_so)]
    if draft.left:
        lines += ["", "# Stays out of the map:", *(f"#   {one.path}: {one.why}" for one in draft.left)]
    return "\n".join(lines) + "\n"


def entry_text(table: str, entry: Any) -> str:
    """One entry of a table as TOML."""
    return "\n".join(_entry(table, entry))


def _head(draft: Draft) -> Iterator[str]:
    for key, value in _plain(draft.sheet.pack).items():
        if value not in ("", [], {}) or key in ("name", "version"):
            why = draft.heads.get(key)
            yield f"{key} = {written(value)}" + (f"  # {why}" if why else "")


def _reason(reason: Reason) -> Iterator[str]:
    if reason.why:
        yield f"# {'' if reason.sure else '? '}{reason.why}"
    for doubt in reason.doubts:
        yield from (f"# ? {line}" for line in textwrap.wrap(doubt, _LONG))


def _entry(table: str, entry: Any) -> Iterator[str]:
    yield f"[[{table}]]"
    below: list[tuple[str, Mapping[str, Any]]] = []
    for key, value in _plain(entry).items():
        if key in ("record", "each") and isinstance(value, Mapping) and _wide(value):
            below += _tables(f"{table}.{key}", value) if key == "each" else [(f"{table}.{key}", value)]
        elif isinstance(value, str) and "\n" in value:
            yield f"{key} = {_block(value)}"
        else:
            yield f"{key} = {written(value)}"
    for header, values in below:
        yield f"[{header}]"
        for key, value in values.items():
            name = key if key.isidentifier() else written(key)
            yield f"{name} = {_block(value) if isinstance(value, str) and chr(10) in value else written(value)}"


def _tables(header: str, each: Mapping[str, Any]) -> list[tuple[str, Mapping[str, Any]]]:
    if all(isinstance(value, Mapping) for value in each.values()):
        return [(f"{header}.{variant}", value) for variant, value in each.items()]
    return [(header, each)]


def _wide(value: Mapping[str, Any]) -> bool:
    return len(written(value)) > _LONG - 10 or any(isinstance(inner, Mapping) for inner in value.values())


def _block(value: str) -> str:
    """A text of several lines."""
    if "'''" in value or (not value.isprintable() and any(not c.isprintable() and c not in "\n\t" for c in value)):
        return written(value)
    return f"'''\n{value}'''"


def _plain(entry: Any) -> dict[str, Any]:
    """What is said in an entry, without what goes without saying."""
    found: dict[str, Any] = {}
    for field in msgspec.structs.fields(entry):
        value = getattr(entry, field.name)
        if isinstance(value, msgspec.Struct):
            value = _plain(value)
        elif isinstance(value, tuple):
            value = [_plain(one) if isinstance(one, msgspec.Struct) else one for one in value]
        # An empty text says something where none at all is what goes without saying.
        empty = value in ("", [], {}) and not (value == "" and field.default is None)
        if value is not None and (not empty or field.required) and value != field.default:
            found[field.encode_name] = value
    return found
