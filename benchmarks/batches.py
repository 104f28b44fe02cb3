"""Many small trials, in processes of their own, on all cores: what came of each is a line of JSON."""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

__all__ = ["Done", "asked_for", "in_batches", "limited"]


@dataclass(frozen=True)
class Done:
    """What came of all batches."""

    rows: list[dict[str, Any]]
    peak: int
    """The most memory that one of the processes took, in KB."""
    lost: list[tuple[int, int, str]]
    """(first trial, exit code, last words) of processes that ended badly."""


def asked_for(count: int) -> tuple[int, int]:
    """How many trials, and with which seed, by the command line."""
    return int(sys.argv[1]) if len(sys.argv) > 1 else count, int(sys.argv[2]) if len(sys.argv) > 2 else 1


def limited(memory: int) -> int:
    """Limit the address space to so many bytes beyond what the program takes by itself. Gives the latter."""
    held = int(Path("/proc/self/statm").read_text().split()[0]) * os.sysconf("SC_PAGE_SIZE")
    resource.setrlimit(resource.RLIMIT_AS, (held + memory, held + memory))
    return held


def in_batches(script: str, place: Path, count: int, seed: int, size: int) -> Done:
    """Run `script --worker FOLDER FIRST COUNT SEED` for each batch, in a folder of its own with a folder `in`."""
    rows: list[dict[str, Any]] = []
    peaks: list[int] = []
    lost: list[tuple[int, int, str]] = []
    running: list[tuple[int, subprocess.Popen[str]]] = []
    starts = list(range(0, count, size))
    while starts or running:
        while starts and len(running) < (os.cpu_count() or 1):
            first = starts.pop(0)
            folder = place / str(first) / "work"
            (folder / "in").mkdir(parents=True)
            asked = (str(folder), str(first), str(min(size, count - first)), str(seed))
            command = [sys.executable, script, "--worker", *asked]
            running.append((first, subprocess.Popen(command, stdout=-1, stderr=-1, text=True)))
        first, process = running.pop(0)
        out, err = process.communicate()
        lines = [json.loads(line) for line in out.splitlines()]
        peaks += [line["peak"] for line in lines if "peak" in line]
        rows += [line for line in lines if "number" in line]
        if process.returncode:
            lost.append((first, process.returncode, err[-300:]))
        print(f"{len(rows)} of {count}", file=sys.stderr)
    return Done(rows, max(peaks, default=0), lost)
