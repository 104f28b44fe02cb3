"""A value that a person has typed."""

from __future__ import annotations

import re
from typing import Any

__all__ = ["read_literal"]

_NUMBER = re.compile(r"[+-]?(?:\d[\d_]*)(?:\.\d+)?(?:[eE][+-]?\d+)?")
_FLAGS = (("true", "false"), ("yes", "no"), ("on", "off"), ("1", "0"))


def read_literal(written: str, kind: str) -> Any:
    """A value that a person has typed, as a setting's type. Raises ValueError, in words."""
    text = written.strip()
    if kind == "bool":
        for words in _FLAGS:
            if text.lower() in words:
                return text.lower() == words[0]
        raise ValueError(f"{written!r} is neither true nor false")
    if kind == "int":
        if not re.fullmatch(r"[+-]?\d{1,18}", text):
            raise ValueError(f"{written!r} is no whole number")
        return int(text)
    if kind == "float":
        if not _NUMBER.fullmatch(text):
            raise ValueError(f"{written!r} is no number")
        return float(text)
    return written
