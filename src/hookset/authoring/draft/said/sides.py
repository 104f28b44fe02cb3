"""For which side of a game a text is."""

from __future__ import annotations

import re

from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.words import words

__all__ = ["for_both"]


def for_both(chunk: Chunk, name: str) -> bool:
    """Whether the words just before a text say that it goes to both sides; `name` is that of a file there."""
    source = words()["sides"]["both"].format(re.escape(name))
    said = "\n".join(line.text for line in chunk.near[-1:])
    return re.search(rf"(?<!\w)(?:{source})(?!\w)", said, re.IGNORECASE) is not None
