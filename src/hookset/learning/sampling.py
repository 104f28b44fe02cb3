"""Some of many texts, which say of what sort all of them are."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Sequence
from typing import TypeVar

__all__ = ["ENOUGH_TOLD", "SELDOM", "few"]

ENOUGH_TOLD = 200
"""Texts of many that say what sort they are."""
SELDOM = 0.25
"""Of those: where fewer are any names or files, nobody means them so."""
_T = TypeVar("_T")


def few(texts: Collection[_T]) -> Sequence[_T]:
    """Some of many, from all over."""
    return list(itertools.islice(texts, 0, None, max(1, len(texts) // ENOUGH_TOLD)))
