"""Values as texts: what every format's own way of writing them begins with."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from typing import Any

__all__ = ["NUMBER", "as_words", "flag_like", "flat_record", "is_number", "means", "plain_words", "reads_as_number"]

NUMBER = re.compile(r"[+-]?(?:\d[\d_]*\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")
_FLAGS = (("true", "false"), ("yes", "no"), ("on", "off"), ("1", "0"))


def is_number(value: Any) -> bool:
    """Whether a value is a number; `True` is none."""
    return isinstance(value, int | float) and not isinstance(value, bool)


def reads_as_number(text: str) -> bool:
    """Whether a text is a number as most languages write it."""
    return len(text) <= 300 and NUMBER.fullmatch(text.strip()) is not None


def flag_like(old: str, value: bool) -> str | None:
    """`value` in the words for true and false that `old` is one of: `yes`, `No`, `ON`, `1`; None for other words."""
    for words in _FLAGS:
        for form in (str.lower, str.title, str.upper):
            if old in (form(words[0]), form(words[1])):
                return form(words[0] if value else words[1])
    return None


def as_words(value: Any, old: str = "") -> str | None:
    """A value as the text that stands within quotes; None for a number that no text stands for, and for lists and
    tables. `old` is the text whose words for true and false are used."""
    if isinstance(value, bool):
        return flag_like(old, value) or ("true" if value else "false")
    if is_number(value):
        return repr(value) if math.isfinite(value) else None
    return str(value) if isinstance(value, str) else None


def flat_record(record: Mapping[Any, Any]) -> tuple[dict[str, str], str]:
    """A record as words, for formats in which a key has one value; and the first key whose value is a list, a table or
    no number that can be written, empty where there is none."""
    words = {str(key): as_words(value) for key, value in record.items()}
    said = {key: text for key, text in words.items() if text is not None}
    return said, next((key for key in words if key not in said), "")


def plain_words(old: str, value: Any) -> Iterator[str]:
    """`value` where a word without quotes stands, in formats in which everything is text. A number stays a number, and
    a word for true or false stays one."""
    words = as_words(value, old)
    if words is None or (isinstance(value, bool) and old and flag_like(old, value) is None):
        return
    if reads_as_number(old) and not reads_as_number(words) and not isinstance(value, bool):
        return
    if words.strip() == words and words:
        yield words


def means(read: Any, value: Any) -> bool:
    """Whether a value that was read is the one that was to be written."""
    if isinstance(value, bool):
        words = str(read).strip().lower()
        return read is value or (isinstance(read, str | int) and any(words == pair[not value] for pair in _FLAGS))
    if is_number(value):
        if is_number(read):
            return bool(read == value)
        return isinstance(read, str) and reads_as_number(read) and float(read.replace("_", "")) == value
    return (isinstance(read, str) and read == str(value)) or (is_number(read) and str(read) == str(value))
