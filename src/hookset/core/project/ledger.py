"""`.hookset/ledger.json`: what was set, exactly. It goes into version control with the map."""

from __future__ import annotations

from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.core.model import CouldNotError
from hookset.core.project.places import LEDGER

__all__ = ["Ledger", "LedgerFile", "LedgerHook", "LedgerPack", "read_ledger", "written_ledger"]


class LedgerFile(Struct, frozen=True, kw_only=True):
    """A file that a pack brought."""

    path: str
    sha256: str
    was_there: bool = False
    """The same bytes lay there before: not ours to take away."""


class LedgerHook(Struct, frozen=True, kw_only=True):
    """An entry set in a file of the map. It is found again by its text and its neighbours, not by a line number."""

    seat: str
    path: str
    texts: tuple[str, ...] = ()
    before: tuple[str, ...] = ()
    """The line above each text, when it was set."""
    was_there: bool = False
    """The builder had it already."""


class LedgerPack(Struct, frozen=True, kw_only=True):
    """One installed pack."""

    name: str
    version: str
    title: str
    authors: tuple[str, ...] = ()
    license: str = ""
    source: str = ""
    """The name of the archive or folder it came from."""
    sha256: str = ""
    installed: str = ""
    """UTC, ISO 8601."""
    files: tuple[LedgerFile, ...] = ()
    hooks: tuple[LedgerHook, ...] = ()


class Ledger(Struct, frozen=True, kw_only=True):
    """All that was set in a map."""

    ledger: int = 1
    packs: tuple[LedgerPack, ...] = ()

    def pack(self, name: str) -> LedgerPack | None:
        return next((pack for pack in self.packs if pack.name == name), None)


def read_ledger(root: Path) -> Ledger:
    """The map's ledger; an empty one where nothing was set yet. Raises CouldNotError when it is damaged."""
    file = root / LEDGER
    try:
        return msgspec.json.decode(file.read_bytes(), type=Ledger)
    except FileNotFoundError:
        return Ledger()
    except (OSError, msgspec.MsgspecError) as error:
        raise CouldNotError(
            f"the ledger cannot be read: {error}",
            where=LEDGER,
            why="it is the only record of what packs have set in this map",
            remedy="restore it from version control or a copy of the map",
        ) from error


def written_ledger(ledger: Ledger) -> bytes:
    """Indented, so that version control shows what changed."""
    return msgspec.json.format(msgspec.json.encode(ledger), indent=1) + b"\n"
