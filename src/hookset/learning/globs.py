"""Patterns that mean the files of a sort, and no others."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Sequence

from hookset.learning.starred import starred_globs

__all__ = ["MOST_GLOBS", "globs_for", "meets"]

MOST_GLOBS = 60
"""Patterns after which no more are looked for: files are then named one by one."""
_FEW_GLOBS = 2
"""Patterns that need no wider ones, which mean folders that are not there yet as well."""


def globs_for(mine: Sequence[str], others: Sequence[str]) -> tuple[str, ...]:
    """The fewest patterns that mean these paths and none of the others."""
    found: list[str] = []
    left = list(mine)
    while left:
        right = (one for one in _patterns(left[0]) if not any(meets(one, other) for other in others))
        meant = {pattern: {path for path in left if meets(pattern, path)} for pattern in right}
        pattern = max(meant, key=lambda one: len(meant[one]))
        found.append(pattern)
        if len(found) > MOST_GLOBS:
            return tuple(mine)
        left = [path for path in left if path not in meant[pattern]]
    plain = tuple(dict.fromkeys(found))
    if len(plain) <= _FEW_GLOBS:
        return plain
    stars = starred_globs(mine, others)
    return stars if stars and len(stars) < len(plain) else plain


def _patterns(path: str) -> Iterator[str]:
    """Patterns that mean a path, the widest first; files that are called alike may lie in many folders."""
    folder, name = posixpath.split(path)
    ending = posixpath.splitext(name)[1]
    steps = folder.split("/") if folder else []
    for depth in range(0 if ending else 1, len(steps) + 1):
        top = "/".join(steps[:depth])
        yield f"{top}/**/*{ending}" if top else f"**/*{ending}"
    if ending or folder:
        yield f"{folder}/*{ending}" if folder else f"*{ending}"
    yield from (f"{'/'.join([*steps[:depth], '**'])}/{name}" for depth in range(len(steps)))
    yield path


def meets(pattern: str, path: str) -> bool:
    """Whether a pattern means a path."""
    if "*" not in pattern:
        return path == pattern
    if "**/*" in pattern:
        top, _, ending = pattern.partition("**/*")
        return path.startswith(top) and path.endswith(ending)
    if "**" in pattern:
        top, _, name = pattern.partition("**/")
        return path.startswith(top) and f"/{path[len(top) :]}".endswith(f"/{name}")
    top, _, ending = pattern.partition("*")
    return path.startswith(top) and path.endswith(ending) and "/" not in path[len(top) :]
