"""The stock: the names that the base game defines, so that a map need not."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.core.model import CouldNotError

__all__ = ["Stock", "StockFile", "StockNames", "read_stock"]


class StockNames(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    kind: str
    side: str = ""
    names: tuple[str, ...]


class StockFile(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """`*.stock.json`"""

    stock: int
    """The version of this form: 1."""
    title: str
    names: tuple[StockNames, ...]


@dataclass(frozen=True)
class Stock:
    """Names by kind, with the sides they are on."""

    titles: tuple[str, ...]
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
        """The sides that the stock has this name on; empty when it has not got it."""
        return self._names.get(kind, {}).get(name, ())

    def folded(self, kind: str, name: str) -> str | None:
        """The stock's spelling of a name, whatever its letter case."""
        return self._folded.get(kind, {}).get(name.casefold())

    def names(self, kind: str) -> Iterable[str]:
        return self._names.get(kind, {}).keys()

    @property
    def size(self) -> int:
        return sum(len(group.names) for group in self.groups)


def read_stock(files: Iterable[Path]) -> Stock:
    """All the lists as one. Raises CouldNotError for one that is not there or no stock list."""
    titles: list[str] = []
    groups: list[StockNames] = []
    for file in files:
        try:
            read = msgspec.json.decode(file.read_bytes(), type=StockFile)
        except OSError as error:
            raise CouldNotError(
                f"the stock list cannot be read: {error.strerror}",
                where=str(file),
                why="without it every name of the base game would look missing",
                remedy="correct `stock` in hookset.toml; paths there count from the map's folder",
            ) from error
        except msgspec.MsgspecError as error:
            raise CouldNotError(
                f"is no stock list: {error}",
                where=str(file),
                remedy="name a *.stock.json that lists names by kind",
            ) from error
        titles.append(read.title)
        groups += read.names
    return Stock(tuple(titles), tuple(groups))
