"""What the last logs told, so that the next shows what is new. Kept in the map's folder, never shipped."""

from __future__ import annotations

import hashlib
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.building.logs.report import LogReport
from hookset.project import OUR_FOLDER

__all__ = ["LOG_MEMORY", "Memory", "read_memory", "remembered", "written_memory"]

LOG_MEMORY = f"{OUR_FOLDER}/log.json"
_KEPT = 2


class Run(Struct, frozen=True):
    """One log."""

    sha256: str
    keys: tuple[str, ...]


class Memory(Struct, frozen=True):
    """What is stored of the last log, for comparison."""

    runs: tuple[Run, ...] = ()
    """The newest last."""

    def before(self, log: bytes) -> tuple[str, ...] | None:
        """What the newest log but this one told; None where there is none."""
        sha = hashlib.sha256(log).hexdigest()
        return next((run.keys for run in reversed(self.runs) if run.sha256 != sha), None)


def read_memory(root: Path) -> Memory:
    """The stored log; empty if it is missing or damaged, since it serves only for comparison."""
    try:
        return msgspec.json.decode((root / LOG_MEMORY).read_bytes(), type=Memory)
    except (OSError, msgspec.DecodeError, msgspec.ValidationError):
        return Memory()


def remembered(memory: Memory, log: bytes, report: LogReport) -> Memory:
    """With this log as the newest."""
    sha = hashlib.sha256(log).hexdigest()
    run = Run(sha, tuple(one.key for one in report.troubles))
    others = tuple(one for one in memory.runs if one.sha256 != sha)
    return Memory((*others[-(_KEPT - 1) :], run))


def written_memory(memory: Memory) -> bytes:
    """Encode it as JSON."""
    return msgspec.json.format(msgspec.json.encode(memory), indent=1) + b"\n"
