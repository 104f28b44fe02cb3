"""Texts of digits as the numbers that they say."""

from __future__ import annotations

__all__ = ["natural_number"]

_DIGITS = 18
"""No game counts further, and Python itself refuses to read numbers of some thousand digits."""


def natural_number(text: str) -> int | None:
    """The number that a text of ASCII digits says; None for any other text, such as `²`, which `str.isdigit` takes for
    a digit and `int` does not."""
    return int(text) if text.isascii() and text.isdigit() and len(text) <= _DIGITS else None
