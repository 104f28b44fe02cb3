"""`*.stock`: a million names of a base game in one SQLite file, asked without loading them."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from hookset.core.model import CouldNotError
from hookset.core.project.stocks.row import StockRow

__all__ = ["StockDatabase", "write_database"]

_FORM = "1"
_TABLES = """
CREATE TABLE about (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE name (
    kind TEXT NOT NULL, name TEXT NOT NULL, side TEXT NOT NULL,
    folded TEXT NOT NULL, path TEXT NOT NULL, detail TEXT NOT NULL,
    PRIMARY KEY (kind, name, side, path)
) WITHOUT ROWID;
CREATE INDEX name_folded ON name (kind, folded);
"""


@dataclass(frozen=True)
class StockDatabase:
    """One such file, opened for reading when it is first asked."""

    file: Path

    @cached_property
    def _open(self) -> sqlite3.Connection:
        try:
            connection = sqlite3.connect(f"{self.file.resolve().as_uri()}?mode=ro", uri=True)
            form = connection.execute("SELECT value FROM about WHERE key = 'form'").fetchone()
        except sqlite3.Error as error:
            raise CouldNotError(
                "is no stock that can be read",
                where=str(self.file),
                why="without it every name of the base game would look missing",
                remedy="make it anew with `hookset stock make`",
            ) from error
        if form is None or form[0] != _FORM:
            raise CouldNotError("is a stock of another version", where=str(self.file), remedy="make it anew")
        return connection

    @cached_property
    def title(self) -> str:
        found = self._open.execute("SELECT value FROM about WHERE key = 'title'").fetchone()
        return str(found[0]) if found else self.file.stem

    @cached_property
    def size(self) -> int:
        return int(self._open.execute("SELECT count(*) FROM name").fetchone()[0])

    def sides(self, kind: str, name: str) -> tuple[str, ...]:
        found = self._open.execute("SELECT DISTINCT side FROM name WHERE kind = ? AND name = ?", (kind, name))
        return tuple(row[0] for row in found)

    def folded(self, kind: str, name: str) -> str | None:
        query = "SELECT name FROM name WHERE kind = ? AND folded = ? LIMIT 1"
        found = self._open.execute(query, (kind, name.casefold())).fetchone()
        return None if found is None else str(found[0])

    def names(self, kind: str) -> Iterator[str]:
        for row in self._open.execute("SELECT DISTINCT name FROM name WHERE kind = ?", (kind,)):
            yield row[0]

    def knows(self, kind: str) -> bool:
        return self._open.execute("SELECT 1 FROM name WHERE kind = ? LIMIT 1", (kind,)).fetchone() is not None

    def search(self, part: str, kind: str | None) -> Iterator[StockRow]:
        condition = "instr(folded, ?) > 0" + (" AND kind = ?" if kind is not None else "")
        query = f"SELECT kind, name, side, path, detail FROM name WHERE {condition} ORDER BY kind, name, side"
        values = (part.casefold(),) if kind is None else (part.casefold(), kind)
        for row in self._open.execute(query, values):
            yield StockRow(*row)


def write_database(file: Path, title: str, rows: Iterable[StockRow]) -> int:
    """Write the names to a new file, whole or not at all. Gives their number."""
    fresh = file.with_name(f"{file.name}.new")
    fresh.unlink(missing_ok=True)
    try:
        connection = sqlite3.connect(fresh)
        try:
            connection.executescript(_TABLES)
            connection.executemany("INSERT INTO about VALUES (?, ?)", [("form", _FORM), ("title", title)])
            connection.executemany(
                "INSERT OR IGNORE INTO name VALUES (?, ?, ?, ?, ?, ?)",
                ((r.kind, r.name, r.side, r.name.casefold(), r.path, r.detail) for r in rows),
            )
            count = int(connection.execute("SELECT count(*) FROM name").fetchone()[0])
            connection.commit()
        finally:
            connection.close()
        os.replace(fresh, file)
    except (OSError, sqlite3.Error) as error:
        raise CouldNotError(
            "the stock could not be written", where=str(file), remedy="name a folder that can be written to"
        ) from error
    finally:
        fresh.unlink(missing_ok=True)
    return count
