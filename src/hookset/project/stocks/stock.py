"""All that a map's base game has, whatever it is kept in."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Protocol

from msgspec import Struct

from hookset.config.sheets import read_record
from hookset.model import CouldNotError
from hookset.project.stocks.database import StockDatabase
from hookset.project.stocks.listed import StockFile, StockList
from hookset.project.stocks.row import StockRow
from hookset.trees import read_regular

_LARGEST = 256 << 20
"""Bytes of a list."""

__all__ = ["Stock", "StockRow", "StockSource", "read_stock"]


class StockSource(Protocol):
    """One list of names."""

    @property
    def title(self) -> str: ...

    @property
    def size(self) -> int: ...

    def sides(self, kind: str, name: str) -> tuple[str, ...]: ...

    def folded(self, kind: str, name: str) -> str | None: ...

    def names(self, kind: str) -> Iterable[str]: ...

    def made(self, kind: str) -> Iterable[str]: ...

    def knows(self, kind: str) -> bool: ...

    def search(self, part: str, kind: str | None) -> Iterator[StockRow]: ...


class Stock(Struct, frozen=True):
    """Several lists as one."""

    sources: tuple[StockSource, ...] = ()
    state: str = ""
    """The same where the lists are files that are as they were; empty where that is not known."""

    def sides(self, kind: str, name: str) -> tuple[str, ...]:
        """The sides that the stock has this name on; empty if it does not contain it."""
        return tuple(side for source in self.sources for side in source.sides(kind, name))

    def folded(self, kind: str, name: str) -> str | None:
        """The stock's spelling of a name, whatever its letter case."""
        return next((found for source in self.sources if (found := source.folded(kind, name)) is not None), None)

    def names(self, kind: str) -> Iterator[str]:
        for source in self.sources:
            yield from source.names(kind)

    def made(self, kind: str) -> Iterator[str]:
        """The names of a kind that are made at run time: `*` in them stands for what only the game knows."""
        for source in self.sources:
            yield from source.made(kind)

    def knows(self, kind: str) -> bool:
        """Whether it has any name of this kind."""
        return any(source.knows(kind) for source in self.sources)

    def search(self, part: str, kind: str | None = None) -> Iterator[StockRow]:
        """Names that hold `part`, whatever their letter case."""
        for source in self.sources:
            yield from source.search(part, kind)


def read_stock(files: Iterable[Path]) -> Stock:
    """All the lists as one. Raises CouldNotError for one that is not there or no stock list."""
    named = tuple(files)
    state = f"{len(named)} files\n" + "".join(map(_state, named))
    return Stock(tuple(_source(file) for file in named), state)


def _state(file: Path) -> str:
    try:
        state = file.stat()
    except OSError:
        return ""
    return f"{file}\0{state.st_size} {state.st_mtime_ns} {state.st_ctime_ns} {state.st_ino}\n"


def _source(file: Path) -> StockSource:
    if not file.is_file():
        raise CouldNotError(
            "not-found",
            "the stock list cannot be read: there is no such file",
            where=str(file),
            why="without it every name of the base game would look missing",
            remedy="correct `stock` in hookset.toml; paths there count from the map's folder",
        )
    if file.suffix == ".stock":
        return StockDatabase(file)
    why = "without it every name of the base game would look missing"
    data = read_regular(file, _LARGEST, why, "name a *.stock.json or a *.stock")
    read = read_record(
        data, StockFile, str(file), title="stock list", why=why, remedy="name a *.stock.json or a *.stock"
    )
    return StockList(read.title, read.names)
