"""What is being done, for `-v`, and the file that keeps it."""

from __future__ import annotations

import sys
import traceback
from datetime import datetime
from typing import TYPE_CHECKING

from msgspec import Struct

from hookset.model.visible import visible

if TYPE_CHECKING:
    from pathlib import Path

__all__ = ["Notes", "log_file", "write_bug"]


def log_file() -> Path:
    """The user's own log of this program."""
    # Imported here: only runs with -v, or with a bug, write a log.
    from platformdirs import user_log_path

    return user_log_path("hookset", appauthor=False) / "hookset.log"


def _append(text: str) -> None:
    file = log_file()
    file.parent.mkdir(parents=True, exist_ok=True)
    with file.open("a", encoding="utf-8") as stream:
        stream.write(text)


class Notes(Struct, frozen=True):
    """With `-v`: each note goes to standard error and into the log file."""

    wanted: bool

    def add(self, words: str) -> None:
        if self.wanted:
            words = visible(words)
            sys.stderr.write(f"hookset: {words}\n")
            try:
                _append(f"{datetime.now().isoformat(timespec='seconds')} {words}\n")
            except OSError:
                # A log that cannot be written must not stop the work; the words are on the screen.
                return


def write_bug(error: BaseException, arguments: list[str]) -> Path | None:
    """The traceback of a bug of ours, into the log file; None where that cannot be written."""
    told = "".join(traceback.format_exception(error))
    try:
        _append(f"\n{datetime.now().isoformat(timespec='seconds')} hookset {' '.join(arguments)}\n{told}")
    except OSError:
        return None
    return log_file()
