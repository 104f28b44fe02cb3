"""Runs the commands of a docs page and writes what they print into it, so that a page never shows what is not so.

A page's `console` blocks hold lines that begin with `$ `; everything below such a line is its output. A line
`$ cd FOLDER` changes the folder of those that follow. `python3 tools/…` and `cp`, `mkdir`, `sed` run as they are;
`hookset` is the program of this environment.

    python tools/fill_docs.py docs/own-layout.md
"""

from __future__ import annotations

import os
import re
import shlex
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).parent.parent
BLOCK = re.compile(r"```console\n(.*?)```", re.DOTALL)


Printing = Callable[[list[str], Path], str]
"""What the words of a command line print in a folder."""


def filled(page: str, start: Path, printed: Printing) -> str:
    """The page with every command's output as it is now, beginning in the folder `start`."""
    here = start

    def run(block: re.Match[str]) -> str:
        nonlocal here
        lines: list[str] = []
        for line in block[1].splitlines():
            if not line.startswith("$ "):
                continue
            lines.append(line)
            words = shlex.split(line[2:].replace("REPO", str(ROOT)))
            if words[0] == "cd":
                here = (here / words[1]).resolve()
                continue
            lines += printed(words, here).splitlines()
        return "```console\n" + "\n".join(lines) + "\n```"

    return BLOCK.sub(run, page)


def as_printed(words: list[str], folder: Path) -> str:
    command = {"hookset": [sys.executable, "-m", "hookset"], "python3": [sys.executable]}.get(words[0], [words[0]])
    done = subprocess.run(
        [*command, *words[1:]],
        cwd=folder,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        encoding="utf-8",
        env=os.environ | {"NO_COLOR": "1"},
        check=False,
    )
    return done.stdout


if __name__ == "__main__":
    for name in sys.argv[1:]:
        file = Path(name)
        with tempfile.TemporaryDirectory() as folder, tempfile.TemporaryDirectory() as remembered:
            # What the program remembers of other maps is of no page.
            os.environ |= {f"XDG_{what}_HOME": f"{remembered}/{what}" for what in ("CACHE", "CONFIG", "DATA", "STATE")}
            file.write_text(filled(file.read_text(encoding="utf-8"), Path(folder), as_printed), encoding="utf-8")
