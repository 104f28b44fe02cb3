"""What a program takes: seconds, CPU seconds of all its processes, and memory."""

from __future__ import annotations

import os
import resource
import subprocess
import time
from dataclasses import dataclass
from pathlib import Path

__all__ = ["Took", "timed"]


@dataclass(frozen=True)
class Took:
    """What a program that ran to its end took."""

    seconds: float
    cpu: float
    """Seconds of CPU time, in all processes."""
    memory: float
    """MB, at most in any one process."""


def timed(*command: str, folder: Path, cache: Path, codes: tuple[int, ...] = (0, 1)) -> Took:
    """Run a program to its end, which has to be with one of these codes."""
    settings = os.environ | {"XDG_CACHE_HOME": str(cache), "NO_COLOR": "1"}
    # Installed programs are compiled once, whatever the one who measures has set.
    settings.pop("PYTHONDONTWRITEBYTECODE", None)
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    start = time.perf_counter()
    process = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, env=settings)
    _, status, usage = os.wait4(process.pid, 0)
    process.returncode = os.waitstatus_to_exitcode(status)
    seconds = time.perf_counter() - start
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    if process.returncode not in codes:
        raise SystemExit(f"{command} ended with {process.returncode}")
    cpu = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return Took(seconds, cpu, usage.ru_maxrss / 1024)
