"""What files said when they were last read, so that a file whose bytes did not change need not be read again.

One SQLite file per map, in the user's cache folder. Whatever goes wrong with it, the map is read as if there were none.
"""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterable, Mapping
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset import __version__
from hookset.config.layouts import Layout
from hookset.formats import format_named
from hookset.model import CouldNotError, Spot, Where
from hookset.symbols.facts import FileFacts
from hookset.trees import Tree
from hookset.verdicts import VerdictCache
from hookset.verdicts.ground import code_state
from hookset.verdicts.rows import KeptRows, opened

__all__ = ["UNREAD", "FactsCache", "Read", "facts_key"]

_READING = ("config", "formats", "model", "project", "symbols", "trees")
"""The packages that what a file says depends on."""
_MOST = 4
"""How many of what was found are kept: of the map as it is, and as it was before the latest changes."""
_TABLES = """
CREATE TABLE IF NOT EXISTS about (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS spots (path TEXT PRIMARY KEY, stamp BLOB NOT NULL, said BLOB NOT NULL);
CREATE TABLE IF NOT EXISTS facts (path TEXT PRIMARY KEY, stamp BLOB NOT NULL, sha BLOB NOT NULL, said BLOB NOT NULL);
"""


class Read(Struct, frozen=True):
    """A file that was read: what it said, and the SHA-256 of the bytes in which it did."""

    facts: FileFacts
    sha: bytes
    """Empty for a file of which only the path counts."""


UNREAD = b"unread"
"""Instead of that of bytes that could not be read, or that nobody has looked at: the file is read again next time."""


class FactsCache(Struct, frozen=True):
    """The cache of one map."""

    file: Path

    def kept(self, tree: Tree, layout: Layout, words: Mapping[str, str]) -> dict[str, Read]:
        """What is known of the tree's files, by path. Those that look changed and are not are known as well."""
        if not _cacheable(layout):
            return {}
        try:
            with opened(self.file) as connection:
                if _about(connection) != _fingerprint(layout, words):
                    return {}
                rows = connection.execute("SELECT path, stamp, sha, said FROM facts").fetchall()
            return _still_true(tree, rows)
        except (sqlite3.Error, OSError, msgspec.MsgspecError, UnicodeError):
            return {}

    @property
    def verdicts(self) -> VerdictCache:
        """What was told of the map."""
        return VerdictCache(self.file)

    @property
    def standing(self) -> KeptRows:
        """What was found of where things stand."""
        return KeptRows(self.file, "standing", _MOST)

    @property
    def settled(self) -> KeptRows:
        """What became of the references."""
        return KeptRows(self.file, "met", 1)

    def spots(self, tree: Tree, layout: Layout, words: Mapping[str, str]) -> dict[tuple[str, Where], Spot]:
        """The lines and columns that were told last, of files that are as they were."""
        if not _cacheable(layout):
            return {}
        try:
            with opened(self.file) as connection:
                if _about(connection) != _fingerprint(layout, words):
                    return {}
                rows = connection.execute("SELECT path, stamp, said FROM spots").fetchall()
            decode = msgspec.msgpack.Decoder(dict[int | str, tuple[int, int]]).decode
            return {
                (path, where): Spot(path, *place)
                for path, stamp, said in rows
                if stamp and tree.has(path) and tree.stamp(path) == stamp
                for where, place in decode(said).items()
            }
        except (sqlite3.Error, OSError, msgspec.MsgspecError, UnicodeError):
            return {}

    def keep_spots(self, tree: Tree, spots: Mapping[tuple[str, Where], Spot]) -> None:
        """Remember these, and no others."""
        by_path: dict[str, dict[Where, tuple[int, int]]] = {}
        for (path, where), spot in spots.items():
            by_path.setdefault(path, {})[where] = (spot.line, spot.column)
        try:
            with opened(self.file) as connection:
                connection.executescript(_TABLES)
                connection.execute("DELETE FROM spots")
                rows = ((path, tree.stamp(path), msgspec.msgpack.encode(said)) for path, said in by_path.items())
                connection.executemany("INSERT INTO spots VALUES (?, ?, ?)", rows)
        except (sqlite3.Error, OSError, UnicodeError):
            return

    def keep(self, tree: Tree, layout: Layout, words: Mapping[str, str], fresh: Iterable[Read]) -> None:
        """Add what was read now, and forget the files that are no more."""
        if not _cacheable(layout):
            return
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            with opened(self.file) as connection:
                connection.executescript(_TABLES)
                fingerprint = _fingerprint(layout, words)
                if _about(connection) != fingerprint:
                    connection.execute("DELETE FROM facts")
                    connection.execute("DELETE FROM spots")
                    connection.execute("INSERT OR REPLACE INTO about VALUES ('fingerprint', ?)", (fingerprint,))
                else:
                    there = connection.execute("SELECT path FROM facts").fetchall()
                    lost = [row for row in there if not tree.has(row[0])]
                    connection.executemany("DELETE FROM facts WHERE path = ?", lost)
                encode = msgspec.msgpack.Encoder().encode
                connection.executemany(
                    "INSERT OR REPLACE INTO facts VALUES (?, ?, ?, ?)",
                    ((one.facts.path, tree.stamp(one.facts.path), one.sha, encode(one.facts)) for one in fresh),
                )
        except (sqlite3.Error, OSError, UnicodeError):
            return


def _about(connection: sqlite3.Connection) -> str:
    try:
        found = connection.execute("SELECT value FROM about WHERE key = 'fingerprint'").fetchone()
    except sqlite3.OperationalError:
        return ""
    return str(found[0]) if found else ""


def _still_true(tree: Tree, rows: Iterable[tuple[str, bytes, bytes, bytes]]) -> dict[str, Read]:
    decode = msgspec.msgpack.Decoder(FileFacts).decode
    found: dict[str, Read] = {}
    for path, stamp, sha, said in rows:
        if tree.has(path) and (not sha or (stamp and tree.stamp(path) == stamp) or _same(tree, path, sha)):
            found[path] = Read(decode(said), sha)
    return found


def _same(tree: Tree, path: str, sha: bytes) -> bool:
    try:
        return hashlib.sha256(tree.read(path)).digest() == sha
    except CouldNotError:
        return False


def _cacheable(layout: Layout) -> bool:
    """Formats of other packages can change without our knowing."""
    own = all(type(format_named(rule.format)).__module__.startswith("hookset.") for rule in layout.reads)
    return bool(layout.fingerprint) and own


def facts_key(layout: Layout, words: Mapping[str, str]) -> str:
    """Of all that what files say rests on but the files; empty where it cannot be kept."""
    return _fingerprint(layout, words) if _cacheable(layout) else ""


def _fingerprint(layout: Layout, words: Mapping[str, str]) -> str:
    said = repr((__version__, _code(), layout.fingerprint, sorted(words.items())))
    return hashlib.sha256(said.encode()).hexdigest()


@cache
def _code() -> str:
    """The reading code itself: a cache of an earlier version's is none."""
    packages = Path(__file__).parent.parent
    return "".join(code_state(str(packages / name)) for name in _READING)
