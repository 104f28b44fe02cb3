"""`*.stock`: a million names of a base game in one SQLite file, asked without loading them."""

from __future__ import annotations

import contextlib
import functools
import os
import secrets
import sqlite3
import time
from collections.abc import Iterable, Iterator
from functools import cached_property
from pathlib import Path

from msgspec import Struct

from hookset.model import CouldNotError
from hookset.project.stocks.row import StockRow
from hookset.trees import open_regular

__all__ = ["StockDatabase", "write_database"]

_FORM = "1"
_WHY = "without it every name of the base game would look missing"
_REMEDY = "make it again with `hookset stock make`"
_TABLES = """
CREATE TABLE about (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE name (
    kind TEXT NOT NULL, name TEXT NOT NULL, side TEXT NOT NULL,
    folded TEXT NOT NULL, path TEXT NOT NULL, detail TEXT NOT NULL,
    PRIMARY KEY (kind, name, side, path)
) WITHOUT ROWID;
CREATE INDEX name_folded ON name (kind, folded);
"""


_ROWS = """
SELECT type, name, coalesce(sql, '') FROM sqlite_master WHERE name NOT LIKE 'sqlite_%' ORDER BY name
"""
_SECONDS = 10.0
"""For one question; a stock of a million names answers in a tenth of one."""
_AT_ONCE = 10_000
"""Rows that are fetched together."""
_CHECKED = 32 << 20
"""Bytes of a stock that is looked through for damage before it is asked: more takes longer than the question."""


@functools.cache
def _expected() -> list[tuple[str, str, str]]:
    """What is in a stock beside its rows: only our own tables and index, no view and no trigger."""
    with contextlib.closing(sqlite3.connect(":memory:")) as made:
        made.executescript(_TABLES)
        return made.execute(_ROWS).fetchall()


class StockDatabase(Struct, frozen=True, dict=True):
    """One such file, opened for reading when it is first asked. Somebody else may have made it: every question raises
    CouldNotError where it is damaged or takes too long."""

    file: Path

    @cached_property
    def _open(self) -> sqlite3.Connection:
        with open_regular(self.file, _WHY, _REMEDY):
            pass
        try:
            connection = sqlite3.connect(f"{self.file.resolve().as_uri()}?mode=ro", uri=True)
            _guard(connection)
            if connection.execute(_ROWS).fetchall() != _expected():
                raise CouldNotError(
                    "unexpected-content",
                    "is no stock: it holds other tables",
                    where=str(self.file),
                    why=_WHY,
                    remedy=_REMEDY,
                )
            if (
                self.file.stat().st_size <= _CHECKED
                and connection.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok"
            ):
                raise _damaged(self.file)
            form = connection.execute("SELECT value FROM about WHERE key = 'form'").fetchone()
        except (sqlite3.Error, ValueError) as error:
            raise _damaged(self.file) from error
        if form is None or form[0] != _FORM:
            raise CouldNotError(
                "newer-form", "is a stock of another version", where=str(self.file), why=_WHY, remedy=_REMEDY
            )
        return connection

    def _rows(self, query: str, *values: str) -> Iterator[tuple[str, ...]]:
        """The rows of an answer, all of them texts."""
        connection = self._open
        try:
            _limit(connection)
            cursor = connection.execute(query, values)
            while rows := cursor.fetchmany(_AT_ONCE):
                if not all(isinstance(value, str) for row in rows for value in row):
                    raise _damaged(self.file)
                yield from rows
                # Again: what is done with the rows takes time as well.
                _limit(connection)
        except (sqlite3.Error, UnicodeError) as error:
            raise _damaged(self.file) from error

    @cached_property
    def title(self) -> str:
        return next((row[0] for row in self._rows("SELECT value FROM about WHERE key = 'title'")), self.file.stem)

    @cached_property
    def size(self) -> int:
        return int(next(self._rows("SELECT CAST(count(*) AS TEXT) FROM name"))[0])

    def sides(self, kind: str, name: str) -> tuple[str, ...]:
        found = self._rows("SELECT DISTINCT side FROM name WHERE kind = ? AND name = ?", _bound(kind), _bound(name))
        return tuple(row[0] for row in found)

    def folded(self, kind: str, name: str) -> str | None:
        query = "SELECT name FROM name WHERE kind = ? AND folded = ? LIMIT 1"
        return next((row[0] for row in self._rows(query, _bound(kind), _bound(name.casefold()))), None)

    def names(self, kind: str) -> Iterator[str]:
        for row in self._rows("SELECT DISTINCT name FROM name WHERE kind = ?", _bound(kind)):
            yield row[0]

    def made(self, kind: str) -> Iterator[str]:
        for row in self._rows("SELECT DISTINCT name FROM name WHERE kind = ? AND instr(name, '*') > 0", _bound(kind)):
            yield row[0]

    def knows(self, kind: str) -> bool:
        return any(True for _ in self._rows("SELECT '1' FROM name WHERE kind = ? LIMIT 1", _bound(kind)))

    def search(self, part: str, kind: str | None) -> Iterator[StockRow]:
        condition = "instr(folded, ?) > 0" + (" AND kind = ?" if kind is not None else "")
        query = f"SELECT kind, name, side, path, detail FROM name WHERE {condition} ORDER BY kind, name, side"
        values = (_bound(part.casefold()),) if kind is None else (_bound(part.casefold()), _bound(kind))
        for row in self._rows(query, *values):
            yield StockRow(*row)


def _bound(text: str) -> str:
    """A text that SQLite takes: bytes of a file's name that are no text stand for nothing in it."""
    return text.encode("utf-8", "replace").decode()


def _guard(connection: sqlite3.Connection) -> None:
    """What SQLite recommends for files that somebody else has made (https://sqlite.org/security.html)."""
    connection.execute("PRAGMA trusted_schema = OFF")
    connection.execute("PRAGMA cell_size_check = ON")
    connection.execute("PRAGMA mmap_size = 0")
    connection.execute("PRAGMA query_only = ON")
    connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, 16 << 20)


def _limit(connection: sqlite3.Connection) -> None:
    """Stop what comes next of a question when it takes too long."""
    begun = time.monotonic()
    connection.set_progress_handler(lambda: time.monotonic() - begun > _SECONDS, 100_000)


def _damaged(file: Path) -> CouldNotError:
    return CouldNotError(
        "unexpected-content", "is no stock that can be read", where=str(file), why=_WHY, remedy=_REMEDY
    )


def write_database(file: Path, title: str, rows: Iterable[StockRow]) -> int:
    """Write the names to a new file, whole or not at all. Gives their number."""
    fresh = file.with_name(f".{file.name}.{secrets.token_hex(6)}")
    try:
        connection = sqlite3.connect(fresh)
        try:
            connection.executescript(_TABLES)
            connection.executemany("INSERT INTO about VALUES (?, ?)", [("form", _FORM), ("title", title)])
            connection.executemany(
                "INSERT OR IGNORE INTO name VALUES (?, ?, ?, ?, ?, ?)",
                (tuple(map(_bound, (r.kind, r.name, r.side, r.name.casefold(), r.path, r.detail))) for r in rows),
            )
            count = int(connection.execute("SELECT count(*) FROM name").fetchone()[0])
            connection.commit()
        finally:
            connection.close()
        os.replace(fresh, file)
    except (OSError, sqlite3.Error) as error:
        raise CouldNotError(
            "not-writable",
            "the stock could not be written",
            where=str(file),
            remedy="name a folder that can be written to",
        ) from error
    finally:
        fresh.unlink(missing_ok=True)
    return count
