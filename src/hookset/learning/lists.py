"""What stands between names where one text lists several."""

from __future__ import annotations

import re

__all__ = ["SPLITS", "marks_of"]

SPLITS = {
    one: re.compile(pattern)
    for one, pattern in (
        (",", r"\s*,\s*"),
        (";", r"\s*;\s*"),
        ("|", r"\s*\|\s*"),
        ("^", r"\s*\^\s*"),
        ("+", r"\s*\+\s*"),
        (" ", r"\s+"),
        ('","', r"\"\s*,\s*\""),
        ("','", r"'\s*,\s*'"),
        (":1", r"(?<!\s)\s*(?:[:*=]\s*\d+(?:\.\d+)?%?\s*(?:[,;|]\s*|$)|[,;|]\s*)"),
    )
}
"""What may stand between names where one text lists several, and the pattern for it; `:1` with how many of each."""
_SPLIT_BY = {" ": " \t", '","': '"', "','": "'", ":1": ":*="}
"""One of these characters stands in texts that are split so, where that is not the comma or whatever it is."""


def marks_of(split: str) -> str:
    """The characters of which one stands in a text that is split so."""
    return _SPLIT_BY.get(split, split)
