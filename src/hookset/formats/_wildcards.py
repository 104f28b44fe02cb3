"""Names in which `*`, `?` and `[…]` stand for several, as `fnmatch` of the standard library has them. Most that rules
ask for have none of these, and are looked up."""

from __future__ import annotations

import fnmatch
import functools
import re
from collections.abc import Callable, Iterable, Iterator
from itertools import chain
from operator import itemgetter
from typing import Generic, TypeVar

__all__ = ["ByName", "is_plain", "meant"]

T = TypeVar("T")


def is_plain(pattern: str) -> bool:
    """Whether a pattern means one name only."""
    return "*" not in pattern and "?" not in pattern and "[" not in pattern


@functools.lru_cache(maxsize=8192)
def meant(pattern: str) -> Callable[[str], bool]:
    """Whether a name is one of those that a pattern means."""
    if is_plain(pattern):
        return pattern.__eq__
    match = re.compile(fnmatch.translate(pattern)).match
    return lambda name: match(name) is not None


class ByName(Generic[T]):
    """Things by name, each name as often as it is there, in order."""

    def __init__(self, things: Iterable[tuple[str, T]]) -> None:
        self._found: dict[str, list[tuple[int, T]]] = {}
        for number, (name, thing) in enumerate(things):
            self._found.setdefault(name, []).append((number, thing))

    def __contains__(self, pattern: str) -> bool:
        """Whether anything may have such a name."""
        return not is_plain(pattern) or pattern in self._found

    def of(self, pattern: str) -> Iterator[T]:
        """Those whose names a pattern means."""
        if is_plain(pattern):
            found = self._found.get(pattern, [])
        else:
            holds = meant(pattern)
            lists = [things for name, things in self._found.items() if holds(name)]
            found = lists[0] if len(lists) == 1 else sorted(chain.from_iterable(lists), key=itemgetter(0))
        return (thing for _, thing in found)
