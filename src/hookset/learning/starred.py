"""Patterns with a star for a folder: what holds for `factions/north` and `factions/south` holds for one that is new."""

from __future__ import annotations

import itertools
import posixpath
import re
from collections.abc import Iterator, Sequence

__all__ = ["starred_globs"]

_DEEPEST = 8
"""Folders of a path whose stars are tried: each more doubles the patterns."""
_MOST = 12
"""Patterns: with more, stars say no more than the names of the files."""


def starred_globs(mine: Sequence[str], others: Sequence[str]) -> tuple[str, ...]:
    """Patterns with stars that mean these paths and none of the others: for the first path that is left the one that
    means most, and of several such the one with the fewest stars. Empty where it would be too many, and where a path
    is meant by none but its own name."""
    found: list[str] = []
    tried: dict[str, frozenset[str]] = {}
    left = dict.fromkeys(mine)
    while left:
        if len(found) == _MOST:
            return ()
        best, most = "", frozenset[str]()
        for pattern in _patterns(next(iter(left))):
            if pattern not in tried:
                matches = _compiled(pattern).fullmatch
                wrong = any(map(matches, others))
                tried[pattern] = frozenset() if wrong else frozenset(filter(matches, mine))
            meant = tried[pattern] & left.keys()
            if (len(meant), -pattern.count("*"), len(pattern)) > (len(most), -best.count("*"), len(best)):
                best, most = pattern, meant
        if not most:
            return ()
        found.append(best)
        left = {path: None for path in left if path not in most}
    return tuple(found)


def _patterns(path: str) -> Iterator[str]:
    """Patterns that mean a path: some of its folders as stars, then all files below, those in the folder, one that
    is called so in each, and one that is called like its folder."""
    folder, name = posixpath.split(path)
    stem, ending = posixpath.splitext(name)
    steps = folder.split("/") if folder else []
    if not steps or len(steps) > _DEEPEST or not ending:
        return
    for depth in range(1, len(steps) + 1):
        for stars in itertools.product((False, True), repeat=depth - 1):
            # The folder at the top says which files are meant.
            top = "/".join(
                [steps[0], *("*" if star else step for star, step in zip(stars, steps[1:depth], strict=True))]
            )
            if not top.endswith("*"):
                yield f"{top}/**/*{ending}"
            if depth == len(steps) and "*" in top:
                yield f"{top}/{name}"
            if depth == len(steps):
                yield f"{top}/*{ending}"
            if depth == len(steps) - 1 and stem == steps[-1] and not top.endswith("*"):
                yield f"{top}/{{thing}}/{{thing}}{ending}"


def _compiled(pattern: str) -> re.Pattern[str]:
    source = ""
    for part in re.split(r"(\*\*/|\*|\{thing\})", pattern):
        if part == "**/":
            source += "(?:.*/)?"
        elif part == "*":
            source += "[^/]*"
        elif part == "{thing}":
            source += "(?P<thing>[^/]+)" if "<thing>" not in source else "(?P=thing)"
        else:
            source += re.escape(part)
    return re.compile(source)
