"""Tables as Markdown has them: cells between upright strokes, and a line of dashes below the titles."""

from __future__ import annotations

import re

__all__ = ["cells_of", "is_below_titles"]

_RULE = re.compile(r"\s*\|?(?:\s*:?-{2,}:?\s*\|)+[\s:-]*")


def cells_of(text: str) -> list[str]:
    """The cells of a row, without the marks around what is in them; one for what is no row."""
    return [cell.strip(" `*\t") for cell in text.strip().strip("|").split("|")]


def is_below_titles(text: str) -> bool:
    """Whether a line is the one of dashes."""
    return _RULE.fullmatch(text) is not None
