"""From a layout file's [manifest] to the rules by which rows are asked for and set."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from hookset.config.layouts._compiler import PATH_PARTS, LayoutCompiler
from hookset.config.layouts.listing import Manifest, RowRule
from hookset.config.layouts.schema import ManifestEntry, RowEntry
from hookset.trees import Glob

__all__ = ["manifest_rule"]


def manifest_rule(compiler: LayoutCompiler) -> Manifest | None:
    """The [manifest] of a layout."""
    entry = compiler.entry.manifest
    if entry is None:
        return None
    compiler.known_kind(entry.row, "/manifest/row")
    if not entry.must_list and not entry.rows:
        compiler.complain("/manifest", "neither `must_list` nor `rows`: no file would need a row")
    compiler.known_seat(entry.seat, "/manifest/seat")
    rules = [_rule(compiler, entry, row, f"/manifest/rows/{index}") for index, row in enumerate(entry.rows)]
    if entry.must_list:
        plain = RowEntry(files=entry.must_list, seat=entry.seat)
        rules.append(_rule(compiler, entry, plain, "/manifest"))
    return Manifest(
        file=entry.file,
        kind=entry.row,
        rules=tuple(rules),
        seats=frozenset(rule.seat for rule in rules if rule.seat),
        patterns=tuple(glob.pattern for rule in rules for glob in rule.files),
        must_not=entry.must_not_list,
        lists=tuple(Glob(file) for file in dict.fromkeys((entry.file, *_files_of(compiler, rules)))),
    )


def _files_of(compiler: LayoutCompiler, rules: list[RowRule]) -> Iterator[str]:
    seats = {rule.seat for rule in rules}
    return (seat.file for seat in compiler.entry.seat if seat.name in seats)


def _rule(compiler: LayoutCompiler, entry: ManifestEntry, row: RowEntry, at: str) -> RowRule:
    if bool(row.files) == bool(row.kind):
        compiler.complain(at, "one of `files` and `kind` says what needs such a row")
    if row.text is not None and row.record is not None:
        compiler.complain(at, "one of `text` and `record` says what is set")
    if row.kind:
        compiler.known_kind(row.kind, f"{at}/kind")
    compiler.known_seat(row.seat, f"{at}/seat")
    globs = tuple(Glob(pattern) for pattern in ((row.files,) if isinstance(row.files, str) else row.files))
    known = PATH_PARTS | {word for glob in globs for word in glob.words} if globs else frozenset({"value"})
    return RowRule(
        files=globs,
        kind=row.kind,
        own=row.own,
        row=compiler.words(row.row or ("{value}" if row.kind else "{path}"), known, f"{at}/row"),
        seat=row.seat or entry.seat,
        text=None if row.text is None else compiler.words(row.text, known, f"{at}/text"),
        record=None if row.record is None else dict(_worded(compiler, row.record, known, f"{at}/record")),
    )


def _worded(
    compiler: LayoutCompiler, record: Mapping[str, Any], known: frozenset[str], at: str
) -> Iterator[tuple[str, Any]]:
    for key, value in record.items():
        if isinstance(value, str):
            yield key, compiler.words(value, known, f"{at}/{key}")
        elif isinstance(value, dict):
            yield key, dict(_worded(compiler, value, known, f"{at}/{key}"))
        else:
            yield key, value
