"""The manifest of a layout, ready for use: what needs a row, what that row is called, and what is set where."""

from __future__ import annotations

import posixpath
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hookset.config.layouts.template import Template
from hookset.trees import Glob, GlobMatch

__all__ = ["Manifest", "Row", "RowRule", "path_parts"]


class Row(Struct, frozen=True):
    """One row of a manifest: what it is called, and how it is written at its seat."""

    name: str
    seat: str
    """Empty where the layout does not say where rows are set."""
    text: str | None
    record: dict[str, Any] | None


class RowRule(Struct, frozen=True):
    """The rows of one sort of thing."""

    files: tuple[Glob, ...]
    kind: str
    own: bool
    """Only names that the map defines itself."""
    row: Template
    seat: str
    text: Template | None
    record: dict[str, Any] | None
    """With wordings for its texts, however deep."""

    def made(self, parts: Mapping[str, str]) -> Row:
        """Build the row from the parts of a path or name."""
        text = None if self.record is not None else (self.text or self.row).of(parts)
        return Row(self.row.of(parts), self.seat, text, None if self.record is None else _filled(self.record, parts))


class Manifest(Struct, frozen=True):
    """The list, or the lists, of what a build ships."""

    file: str
    """The one that messages name where no seat says which."""
    kind: str
    """That its rows define."""
    rules: tuple[RowRule, ...]
    seats: frozenset[str]
    """Where rows are set."""
    patterns: tuple[str, ...]
    """Files that need a row, as the layout has them."""
    lists: tuple[Glob, ...]
    """The lists themselves."""
    must_not: tuple[str, ...] = ()
    """Patterns of rows that there must not be."""

    def row_of_file(self, path: str) -> Row | None:
        """The row that a file needs; None for files that need none."""
        for rule in self.rules:
            for glob in rule.files:
                if (match := glob.match(path)) is not None:
                    return rule.made(path_parts(path, match))
        return None

    def row_of_name(self, kind: str, name: str) -> Row | None:
        """The row that a name needs."""
        return next((rule.made({"value": name}) for rule in self.rules if rule.kind == kind), None)

    def only_own(self, kind: str) -> bool:
        """Whether only those names of a kind need a row that the map defines itself."""
        return any(rule.own for rule in self.rules if rule.kind == kind)

    @property
    def kinds(self) -> frozenset[str]:
        """Kinds of which names need a row."""
        return frozenset(rule.kind for rule in self.rules if rule.kind)


def path_parts(path: str, match: GlobMatch) -> dict[str, str]:
    """What names can be made of: the parts of a path that a pattern matches."""
    stem, ext = posixpath.splitext(posixpath.basename(path))
    return {
        "path": path,
        "stem": stem,
        "name": stem + ext,
        "ext": ext,
        "base": posixpath.basename(path).partition(".")[0],
        "parent": posixpath.dirname(path),
        "folder": posixpath.basename(posixpath.dirname(path)),
        "above": posixpath.basename(posixpath.dirname(posixpath.dirname(path))),
        "outer": posixpath.dirname(posixpath.dirname(path)),
        "inner": posixpath.splitext(match.inner)[0],
        "module": posixpath.splitext(match.inner)[0].replace("/", "."),
        **match.words,
    }


def _filled(record: Mapping[str, Any], parts: Mapping[str, str]) -> dict[str, Any]:
    return {
        key: value.of(parts)
        if isinstance(value, Template)
        else _filled(value, parts)
        if isinstance(value, dict)
        else value
        for key, value in record.items()
    }
