"""Commands that a user has seen and allowed, by what exactly they are: kept in the user's settings, never in a map."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from pathlib import Path

from msgspec import Struct

from hookset.project import read_settings, write_settings

__all__ = ["Asked", "allowed_together", "read_allowed", "write_allowed"]


class Asked(Struct, frozen=True):
    """A command that is to be allowed."""

    digest: str
    """Of all that it is and may do."""
    name: str
    command: tuple[str, ...]
    where: str
    """The file that says it."""
    told: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """What else there is to be seen of it, each under a word."""


class _Allowed(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    command: str
    """Its SHA-256."""
    name: str = ""
    runs: tuple[str, ...] = ()
    """For people: what was allowed."""


class _AllowedFile(Struct, frozen=True, forbid_unknown_fields=True):
    allowed: tuple[_Allowed, ...] = ()


def allowed_together(digests: Iterable[str]) -> str:
    """What several commands go by when they are allowed at once."""
    return hashlib.sha256("\n".join(sorted(digests)).encode()).hexdigest()[:12]


def read_allowed(file: Path) -> frozenset[str]:
    """The digests of all commands that the user has allowed. Raises CouldNotError for a file that cannot be read."""
    return frozenset(one.command for one in _read(file))


def write_allowed(file: Path, asked: Sequence[Asked]) -> None:
    """Allow these as well. Raises CouldNotError."""
    known = _read(file)
    digests = {one.command for one in known}
    new = tuple(
        _Allowed(command=one.digest, name=one.name, runs=one.command) for one in asked if one.digest not in digests
    )
    rows = ({"command": one.command, "name": one.name, "runs": list(one.runs)} for one in (*known, *new))
    head = "Commands that were seen and allowed. Delete one, and it is asked for again."
    write_settings(file, head, "allowed", list(rows))


def _read(file: Path) -> tuple[_Allowed, ...]:
    why, remedy = "it says which commands a build may run", "correct it, or delete it: each is asked for again then"
    return read_settings(file, _AllowedFile, why, remedy).allowed
