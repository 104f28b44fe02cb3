"""Addresses in JSON-like data: JSONPath (RFC 9535) to ask, JSON Pointer (RFC 6901) to say where.

Nearly all layouts ask only for names, indexes and wildcards, and ask it of scenes with hundreds of
thousands of nodes. Those are walked directly; anything else goes to the library.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator
from typing import Any

from hookset.formats.pointers import escaped

__all__ = ["checked", "find", "has_words", "leaves"]

_STEP = re.compile(
    r"\.(?P<name>[^\W\d]\w*)|\.(?P<every>\*)|\[(?P<all>\*)\]"
    r"|\[(?P<index>-?\d+)\]|\['(?P<quoted>[^'\\]*)'\]|\[\"(?P<double>[^\"\\]*)\"\]"
)
_EVERY = object()
_LONGEST_INDEX = 18
_OPEN_WORD = re.compile(r"\{\w[\w-]*\}")


@functools.lru_cache(maxsize=512)
def _simple(path: str) -> tuple[object, ...] | None:
    if not path.startswith("$"):
        raise ValueError(f"a JSONPath begins with $: {path}")
    steps: list[object] = []
    position = 1
    while position < len(path):
        match = _STEP.match(path, position)
        if match is None:
            return None
        if match["every"] or match["all"]:
            steps.append(_EVERY)
        elif match["index"] is not None:
            if len(match["index"]) > _LONGEST_INDEX:
                raise ValueError(f"no list has as many elements as {path[:80]!r} counts")
            steps.append(int(match["index"]))
        else:
            steps.append(next(g for g in (match["name"], match["quoted"], match["double"]) if g is not None))
        position = match.end()
    return tuple(steps)


def find(path: str, data: Any) -> Iterator[tuple[str, Any]]:
    """The pointer and value of everything that the JSONPath `path` names in `data`, in document order.

    One with `{words}` that a hook has not filled in yet names nothing. Raises ValueError for a path that is none.
    """
    steps = _simple(path)
    if steps is not None:
        yield from _walk(steps, 0, "", data)
        return
    if has_words(path):
        return
    from hookset.formats._jsonpaths import asked

    yield from asked(path, data)


def has_words(path: str) -> bool:
    """Whether there are `{words}` in a path, which a hook fills in."""
    return _OPEN_WORD.search(path) is not None


def checked(path: str) -> None:
    """Raises ValueError, in words, for what is no JSONPath, and for one that would take too long."""
    if _simple(path) is None:
        from hookset.formats._jsonpaths import compiled

        compiled(path)


def _walk(steps: tuple[object, ...], depth: int, at: str, data: Any) -> Iterator[tuple[str, Any]]:
    if depth == len(steps):
        yield at, data
        return
    step = steps[depth]
    if isinstance(data, dict):
        if step is _EVERY:
            for key, value in data.items():
                yield from _walk(steps, depth + 1, f"{at}/{escaped(key)}", value)
        elif isinstance(step, str) and step in data:
            yield from _walk(steps, depth + 1, f"{at}/{escaped(step)}", data[step])
    elif isinstance(data, list):
        if step is _EVERY:
            for index, value in enumerate(data):
                yield from _walk(steps, depth + 1, f"{at}/{index}", value)
        elif isinstance(step, int) and -len(data) <= step < len(data):
            yield from _walk(steps, depth + 1, f"{at}/{step % len(data)}", data[step])


def leaves(at: str, data: Any, name: str = "") -> Iterator[tuple[str, str, Any]]:
    """Dotted name, pointer and value of every value below `data` that is not itself an object."""
    if not isinstance(data, dict):
        yield name, at, data
        return
    for key, value in data.items():
        yield from leaves(f"{at}/{escaped(key)}", value, f"{name}.{key}" if name else key)
