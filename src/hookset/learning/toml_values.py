"""Values as TOML writes them, and texts of a map in its comments."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Any

__all__ = ["one_line", "shortened", "value_text"]

_LONGEST = 60
_BARE = re.compile(r"[A-Za-z0-9_-]+")


def value_text(value: Any) -> str:
    """A value as TOML writes it."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int):
        return str(value)
    if isinstance(value, str):
        if "\\" in value and "'" not in value and value.isprintable():
            return f"'{value}'"
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, Mapping):
        pairs = (
            f"{key if _BARE.fullmatch(str(key)) else json.dumps(str(key))} = {value_text(one)}"
            for key, one in value.items()
        )
        return "{ " + ", ".join(pairs) + " }"
    return "[" + ", ".join(map(value_text, value)) + "]"


def shortened(text: str) -> str:
    """As much of a text as fits into a comment."""
    shown = " ".join("".join(one if one.isprintable() else " " for one in text).split())
    return shown if len(shown) <= _LONGEST else shown[: _LONGEST - 1] + "…"


def one_line(text: str) -> str:
    """A text in which nothing ends a comment."""
    return "".join(one if one.isprintable() else " " for one in text)
