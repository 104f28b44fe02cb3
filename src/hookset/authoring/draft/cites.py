"""Places in notes, as reasons name them: `README.md:12`."""

from __future__ import annotations

import re
from collections.abc import Iterator

__all__ = ["cited"]

_CITED = re.compile(r"(?P<notes>[^\s:,][^:,]*):(?P<line>\d+)")


def cited(why: str) -> Iterator[tuple[str, int]]:
    """Each (file, line) that a reason names."""
    for match in _CITED.finditer(why):
        yield match["notes"], int(match["line"])
