"""`*.stock.json`: a list of names that somebody wrote, or a game's makers published."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import cached_property

from msgspec import Struct

from hookset.project.stocks.row import StockRow

__all__ = ["StockFile", "StockList", "StockNames"]


class StockNames(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Names of one kind in a stock list."""

    kind: str
    side: str = ""
    names: tuple[str, ...]


class StockFile(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """`*.stock.json`"""

    stock: int
    """The version of this form: 1."""
    title: str
    names: tuple[StockNames, ...]


class StockList(Struct, frozen=True, dict=True):
    """Names by kind, with the sides they are on."""

    title: str
    groups: tuple[StockNames, ...]

    @cached_property
    def _names(self) -> dict[str, dict[str, tuple[str, ...]]]:
        names: dict[str, dict[str, tuple[str, ...]]] = {}
        for group in self.groups:
            kind = names.setdefault(group.kind, {})
            for name in group.names:
                kind[name] = (*kind.get(name, ()), group.side)
        return names

    @cached_property
    def _folded(self) -> dict[str, dict[str, str]]:
        return {kind: {name.casefold(): name for name in names} for kind, names in self._names.items()}

    def sides(self, kind: str, name: str) -> tuple[str, ...]:
        return self._names.get(kind, {}).get(name, ())

    def folded(self, kind: str, name: str) -> str | None:
        return self._folded.get(kind, {}).get(name.casefold())

    def names(self, kind: str) -> Iterable[str]:
        return self._names.get(kind, {}).keys()

    def made(self, kind: str) -> Iterable[str]:
        return [name for name in self.names(kind) if "*" in name]

    def knows(self, kind: str) -> bool:
        return bool(self._names.get(kind))

    @property
    def size(self) -> int:
        return sum(len(group.names) for group in self.groups)

    def search(self, part: str, kind: str | None) -> Iterator[StockRow]:
        for group in self.groups:
            if kind is None or group.kind == kind:
                for name in group.names:
                    if part.casefold() in name.casefold():
                        yield StockRow(group.kind, name, group.side)
