"""What a step runs: by which digest it is allowed, and that nothing of a pack is among it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from posixpath import dirname

import msgspec

from hookset.config.layouts.rules import Step
from hookset.model import RefusedError

__all__ = ["command_digest", "refuse_brought"]


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


def refuse_brought(step: Step, files: Iterable[str], tools: Iterable[str], brought: Mapping[str, str]) -> None:
    """Raises RefusedError where a step would run a file of a pack, or one beside it: `brought` are the files that packs
    have brought, each with its pack."""
    places = {dirname(path) for path in tools}
    for path in files:
        if path in brought and dirname(path) in places:
            raise RefusedError(
                "command-not-allowed",
                f"the step `{step.entry.name}` would run files of the pack {brought[path]}",
                where=path,
                why="what a stranger has made is never run on this machine by a build",
                remedy="look at the file, and move a copy of it to a folder of your own, if it is to be run",
            )
