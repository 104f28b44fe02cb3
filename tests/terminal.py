"""The program with somebody at a terminal."""

from __future__ import annotations

import os
import pty
import select
import signal
import sys
import time
from pathlib import Path

from tests.program import command_line


def at_terminal(folder: Path, arguments: list[str], answers: list[tuple[str, str]], **environment: str) -> str:
    """The program with somebody at the terminal, who gives each answer when its words have come."""
    child, handle = pty.fork()
    if child == 0:
        os.chdir(folder)
        os.environ |= {"NO_COLOR": "1", "TERM": "dumb", "COLUMNS": "140"} | environment
        words = command_line(*arguments)
        os.execv(sys.executable, words)
    said, seen, end = "", 0, time.monotonic() + 60
    left = list(answers)
    while time.monotonic() < end:
        if select.select([handle], [], [], 0.2)[0]:
            try:
                said += os.read(handle, 65536).decode(errors="replace")
            except OSError:
                break
        elif left and left[0][0] in said[seen:]:
            seen = len(said)
            os.write(handle, left.pop(0)[1].encode())
    if time.monotonic() >= end:
        os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return said


def interruptible() -> None:
    """For a process that is about to begin: Ctrl-C ends it, though the tests may run where that is ignored."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)
