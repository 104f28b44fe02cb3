"""Programs of others, run in a folder of their own with limits on time, memory and what they print."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from msgspec import Struct

from hookset.model import CouldNotError

__all__ = ["Limits", "Program", "filled", "found_program", "start"]

_WORD = re.compile(r"\{(\w+)\}")
_MOST_PRINTED = 64 << 20
"""Bytes. A program that prints more repeats itself."""
_KEPT = ("PATH", "HOME", "LANG", "LC_ALL", "SYSTEMROOT", "SYSTEMDRIVE", "COMSPEC", "PATHEXT", "USERPROFILE")
"""What a program needs of the environment to start at all."""
_LIMITED = """
import os, resource, sys
most = int(sys.argv[1]) << 20
for one in (resource.RLIMIT_DATA, resource.RLIMIT_CORE):
    hard = resource.getrlimit(one)[1]
    asked = most if one == resource.RLIMIT_DATA else 0
    resource.setrlimit(one, (asked if hard == resource.RLIM_INFINITY else min(asked, hard), hard))
os.execv(sys.argv[2], sys.argv[3:])
"""
"""Started in the program's place, and replaced by it: the limits hold from its first moment on."""


class Limits(Struct, frozen=True):
    """What a program can have."""

    seconds: float
    megabytes: int
    """Of memory; kept where the system has such limits, which Windows has not."""


@dataclass(slots=True)
class Program:
    """A program that runs."""

    process: subprocess.Popen[bytes]
    log: Path
    stream: BinaryIO
    limits: Limits
    begun: float
    stopped: str = ""
    """Why it was stopped; empty where it was not."""

    @property
    def seconds(self) -> float:
        """How long it has run."""
        return time.monotonic() - self.begun

    def over(self) -> bool:
        """Whether it has ended. One that goes beyond its limits is stopped."""
        if self.process.poll() is not None:
            self._closed()
            return True
        if self.seconds > self.limits.seconds:
            self.stop(f"it did not end within {self.limits.seconds:.0f} s")
        elif self.log.stat().st_size > _MOST_PRINTED:
            self.stop(f"it printed more than {_MOST_PRINTED >> 20} MB")
        else:
            return False
        return True

    def stop(self, why: str) -> None:
        """End it, and all that it has started."""
        self.stopped = why
        _kill(self.process)
        self._closed()

    def printed(self) -> str:
        """What it has printed."""
        with self.log.open("rb") as stream:
            return stream.read(_MOST_PRINTED).decode("utf-8", "replace")

    def _closed(self) -> None:
        # What it has started and left running would write into a folder that is gone.
        _kill(self.process)
        self.stream.close()


def filled(text: str, words: Mapping[str, str]) -> str:
    """A text with what stands for its `{words}`; what that says itself is taken as it is."""
    return _WORD.sub(lambda match: words.get(match[1], match[0]), text)


def found_program(name: str, folder: Path) -> Path | None:
    """Where a program is: in the folder in which it runs, if it is named by a path, or where the system looks."""
    if "/" in name or os.sep in name:
        place = folder / name
        return place if place.is_file() else None
    found = shutil.which(name)
    return Path(found) if found else None


def start(command: Sequence[str], folder: Path, log: Path, environment: Mapping[str, str], limits: Limits) -> Program:
    """Start a program in `folder`; what it prints goes into the file `log`. It has no standard input, and of the
    environment only what programs need to start. Raises CouldNotError where it cannot be started."""
    place = found_program(command[0], folder)
    if place is None:
        raise CouldNotError(
            "program-not-found",
            f"there is no program `{command[0]}`",
            why="it was to be run, and nothing else does its work",
            remedy="install it, or say in `command` where it is",
        )
    whole = [str(place), *command[1:]]
    if os.name == "posix":
        whole = [sys.executable, "-I", "-S", "-c", _LIMITED, str(limits.megabytes), str(place), *command]
    surroundings = {name: os.environ[name] for name in _KEPT if name in os.environ}
    surroundings |= environment
    stream = log.open("wb")
    try:
        process = subprocess.Popen(
            whole,
            cwd=folder,
            env=surroundings,
            stdin=subprocess.DEVNULL,
            stdout=stream,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )
    except OSError as error:
        stream.close()
        raise CouldNotError(
            "program-failed",
            f"`{command[0]}` cannot be started: {error.strerror or error}",
            where=str(place),
            remedy="run it by hand, in the map's folder, and see what it lacks",
        ) from error
    return Program(process, log, stream, limits, time.monotonic())


def _kill(process: subprocess.Popen[bytes]) -> None:
    """A program, and all that are in its group."""
    with suppress(OSError):
        if os.name == "posix":
            os.killpg(process.pid, signal.SIGKILL)
        else:
            process.kill()
    process.wait()
