"""Commands that a user has seen and allowed, by what exactly they are: kept in the user's settings, never in a map."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from posixpath import dirname

import msgspec
from msgspec import Struct

from hookset.config.layouts.rules import Step
from hookset.formats.toml import written
from hookset.model import CouldNotError, RefusedError
from hookset.project import save_file

__all__ = ["allowed_together", "command_digest", "read_allowed", "refuse_brought", "write_allowed"]


class _Allowed(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    command: str
    """Its SHA-256."""
    step: str = ""
    runs: tuple[str, ...] = ()
    """For people: what was allowed."""


class _AllowedFile(Struct, frozen=True, forbid_unknown_fields=True):
    allowed: tuple[_Allowed, ...] = ()


def command_digest(step: Step, tools: Mapping[str, str]) -> str:
    """The SHA-256 of what a step does: its command, the map's own files that this runs with their digests, what it
    finds and may write, its environment and its limits."""
    entry = step.entry
    asked = [[one.files.pattern, repr(one.selector)] for one in step.values]
    what = [
        entry.command, entry.tools, sorted(tools.items()), entry.reads, entry.kinds, entry.after, entry.writes,
        entry.needed_by, asked, sorted(entry.environment.items()), entry.seconds, entry.megabytes,
    ]  # fmt: skip
    return hashlib.sha256(msgspec.json.encode(what)).hexdigest()


def allowed_together(digests: Iterable[str]) -> str:
    """What several commands go by when they are allowed at once."""
    return hashlib.sha256("\n".join(sorted(digests)).encode()).hexdigest()[:12]


def read_allowed(file: Path) -> frozenset[str]:
    """The digests of all commands that the user has allowed. Raises CouldNotError for a file that cannot be read."""
    return frozenset(one.command for one in _read(file))


def write_allowed(file: Path, steps: Sequence[tuple[str, Step]]) -> None:
    """Allow these as well, each with its digest. Raises CouldNotError."""
    known = _read(file)
    new = tuple(
        _Allowed(command=digest, step=step.entry.name, runs=step.entry.command)
        for digest, step in steps
        if digest not in {one.command for one in known}
    )
    lines = ["# Commands of builds that were seen and allowed. Delete one, and it is asked for again."]
    for one in (*known, *new):
        lines += ["", "[[allowed]]", f"command = {written(one.command)}", f"step = {written(one.step)}"]
        lines.append(f"runs = {written(list(one.runs))}")
    save_file(file, ("\n".join(lines) + "\n").encode("utf-8", "surrogateescape"))


def _read(file: Path) -> tuple[_Allowed, ...]:
    try:
        return msgspec.toml.decode(file.read_bytes(), type=_AllowedFile).allowed
    except FileNotFoundError:
        return ()
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise CouldNotError(
            f"cannot be read: {error}",
            where=str(file),
            why="it says which commands a build may run",
            remedy="correct it, or delete it: each command is asked for again then",
        ) from error


def refuse_brought(step: Step, files: Iterable[str], tools: Iterable[str], brought: Mapping[str, str]) -> None:
    """Raises RefusedError where a step would run a file of a pack, or one beside it: `brought` are the files that packs
    have brought, each with its pack."""
    places = {dirname(path) for path in tools}
    for path in files:
        if path in brought and dirname(path) in places:
            raise RefusedError(
                f"the step `{step.entry.name}` would run files of the pack {brought[path]}",
                where=path,
                why="what a stranger has made is never run on this machine by a build",
                remedy="look at the file, and move a copy of it to a folder of your own, if it is to be run",
            )
