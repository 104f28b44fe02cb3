"""Verdicts as they are kept in a map's cache."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct

from hookset.verdicts.rows import KeptRows, opened

__all__ = ["KeptVerdict", "VerdictCache"]

_MOST = 4
"""How many verdicts are kept: of the map as it is, and as it was before the latest changes, which may be undone."""
_TABLE = """
CREATE TABLE IF NOT EXISTS verdicts (number INTEGER PRIMARY KEY, key TEXT NOT NULL, rest TEXT NOT NULL,
    files BLOB NOT NULL, said BLOB NOT NULL);
"""


class KeptVerdict(Struct, frozen=True):
    """A verdict as it is kept."""

    key: str
    """Of all that it rests on, by the stamps of files; empty where one has none."""
    rest: str
    """Of all that it rests on but the files."""
    files: bytes
    """What the files were."""
    said: bytes


class VerdictCache(Struct, frozen=True):
    """The verdicts in the cache of one map."""

    file: Path

    @property
    def memos(self) -> KeptRows:
        """What is known of a map before it is opened."""
        return KeptRows(self.file, "memos", _MOST)

    def recalled(self, key: str) -> bytes | None:
        """What a verdict said that is kept under this key."""
        return KeptRows(self.file, "verdicts", _MOST).said(key)

    def resting_on(self, rest: str) -> Iterator[KeptVerdict]:
        """Those that rest on the same but for the files, the latest first."""
        try:
            with opened(self.file) as connection:
                rows = connection.execute(
                    "SELECT key, rest, files, said FROM verdicts WHERE rest = ? ORDER BY number DESC", (rest,)
                ).fetchall()
        except (sqlite3.Error, OSError):
            return
        yield from (KeptVerdict(*row) for row in rows)

    def remember(self, verdict: KeptVerdict) -> None:
        """Keep a verdict, and of the earlier ones the latest."""
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            with opened(self.file) as connection:
                connection.executescript(_TABLE)
                connection.execute(
                    "DELETE FROM verdicts WHERE (key = ? AND key != '') OR (rest = ? AND files = ?)",
                    (verdict.key, verdict.rest, verdict.files),
                )
                connection.execute(
                    "INSERT INTO verdicts (key, rest, files, said) VALUES (?, ?, ?, ?)",
                    (verdict.key, verdict.rest, verdict.files, verdict.said),
                )
                connection.execute(
                    "DELETE FROM verdicts WHERE number <= (SELECT MAX(number) FROM verdicts) - ?", (_MOST,)
                )
        except (sqlite3.Error, OSError):
            return
