"""What is kept between runs under a key, in a map's cache: one SQLite file, in the user's cache folder.

Whatever goes wrong with it, the map is judged as if nothing were kept.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from msgspec import Struct

__all__ = ["KeptRows", "opened"]


class KeptRows(Struct, frozen=True):
    """Values under keys, of which the latest are kept."""

    file: Path
    table: str
    most: int

    def said(self, key: str) -> bytes | None:
        """What is kept under this key."""
        try:
            with opened(self.file) as connection:
                # The table is named by the code.
                asked = f"SELECT said FROM {self.table} WHERE key = ?"
                found = connection.execute(asked, (key,)).fetchone()
            return bytes(found[0]) if found else None
        except (sqlite3.Error, OSError):
            return None

    def keep(self, key: str, said: bytes) -> None:
        """Keep it for the next time, and of what was kept earlier the latest."""
        table = self.table
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            with opened(self.file) as connection:
                connection.execute(
                    f"CREATE TABLE IF NOT EXISTS {table} (number INTEGER PRIMARY KEY, key TEXT NOT NULL, said BLOB)"
                )
                connection.execute(f"DELETE FROM {table} WHERE key = ?", (key,))
                connection.execute(f"INSERT INTO {table} (key, said) VALUES (?, ?)", (key, said))
                connection.execute(
                    f"DELETE FROM {table} WHERE number <= (SELECT MAX(number) FROM {table}) - ?",
                    (self.most,),
                )
        except (sqlite3.Error, OSError):
            return


@contextmanager
def opened(file: Path) -> Iterator[sqlite3.Connection]:
    """The cache of a map: what is written counts once all of it is, and nothing stays open. Raises sqlite3.Error."""
    with closing(sqlite3.connect(file, timeout=1.0)) as connection:
        # The cache may be lost in a power cut: it is made again.
        connection.execute("PRAGMA synchronous = OFF")
        with connection:
            yield connection
