"""Words that are one but for their numbers: `t1`, `t2` and so on are names of things, not words for what they say."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection

__all__ = ["numbered"]

_DIGITS = re.compile(r"\d+")
_MOST = 8
"""Words for things of which there are a few may have numbers: `sound1` to `sound8`."""


def numbered(words: Collection[str]) -> frozenset[str]:
    """Those that are told from many others by numbers alone."""
    forms = {word: _DIGITS.sub("0", word) for word in words if _DIGITS.search(word)}
    often = Counter(forms.values())
    return frozenset(word for word, form in forms.items() if often[form] > _MOST)
