"""Numbers in files: which ones are too long to be read."""

from __future__ import annotations

import re
import sys

__all__ = ["LONG_NUMBER", "long_number", "whole_number"]

LONG_NUMBER = "holds a number of thousands of digits"
_DIGITS = re.compile(r"[\d_]{300,}")
_MOST = 300
"""Digits. Python reads up to 4,300 (`sys.int_info`), in time that grows with their square; no game reads 300."""


def long_number(string: str) -> int:
    """The character offset of the first number that is too long; 0 where there is none."""
    found = _DIGITS.search(string)
    return found.start() if found else 0


def whole_number(written: str) -> int | None:
    """A whole number as it is written in decimal digits; None for anything else, and for one that is too long."""
    plain = written.strip()
    if len(plain) > min(_MOST, sys.int_info.default_max_str_digits):
        return None
    return int(plain) if re.fullmatch(r"[+-]?[0-9]+", plain) else None
