"""An open file that archives are read from."""

from __future__ import annotations

import tempfile
import weakref
from threading import Lock
from typing import BinaryIO, cast

__all__ = ["Source", "temporary"]


class Source:
    """Kept open as long as any tree is read from it, and closed with the last of them. Whoever moves its one position
    holds its lock."""

    def __init__(self, stream: BinaryIO) -> None:
        self.stream = stream
        self.lock = Lock()
        # Not by `__del__`: in a circle of garbage the stream could go before it, with a warning.
        weakref.finalize(self, stream.close)


def temporary() -> Source:
    """An empty file without a name, which is gone with the last who reads it."""
    return Source(cast(BinaryIO, tempfile.TemporaryFile()))
