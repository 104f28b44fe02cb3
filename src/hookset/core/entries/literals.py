"""Writing a value where another one stands, in the way that one is written."""

from __future__ import annotations

import re
from typing import Any

__all__ = ["read_literal", "respelt"]

_NUMBER = re.compile(r"[+-]?(?:\d[\d_]*)(?:\.\d+)?(?:[eE][+-]?\d+)?")
_FLAGS = (("true", "false"), ("yes", "no"), ("on", "off"), ("1", "0"))
_BARE = re.compile(r"[^\s\"'<>{}\[\],;#=&]*(?: [^\s\"'<>{}\[\],;#=&]+)*")


def respelt(old: str, value: Any) -> str | None:
    """`value`, written as `old` is: in its quotes, with its word for true. None where it cannot be."""
    quote = old[:1] if len(old) > 1 and old[:1] in "\"'`" and old[:1] == old[-1:] else ""
    inside = old[1:-1] if quote else old
    if isinstance(value, bool):
        for words in _FLAGS:
            for form in (str.lower, str.title, str.upper):
                if inside in (form(words[0]), form(words[1])):
                    return quote + form(words[0] if value else words[1]) + quote
        return None if inside and not quote else quote + ("true" if value else "false") + quote
    if isinstance(value, int | float):
        if not quote and inside and not _NUMBER.fullmatch(inside):
            return None
        return quote + repr(value) + quote
    text = str(value)
    if quote:
        return quote + text.replace("\\", "\\\\").replace(quote, f"\\{quote}").replace("\n", "\\n") + quote
    if _NUMBER.fullmatch(inside) and not _NUMBER.fullmatch(text):
        return None
    return text if _BARE.fullmatch(text) else None


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
