"""Addresses in JSON-like data: JSONPath (RFC 9535) to ask, JSON Pointer (RFC 6901) to say where.

Nearly all layouts ask only for names, indexes, wildcards and names at any depth, and ask it of scenes with hundreds of
thousands of nodes, or of thousands of files by hundreds of rules. Those are walked directly, each way that several
paths begin with once; anything else goes to the library.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct

from hookset.formats.pointers import escaped

__all__ = ["Walked", "checked", "find", "has_words", "leaves"]

_STEP = re.compile(
    r"\.\.(?P<deep>[^\W\d]\w*)|\.(?P<name>[^\W\d]\w*)|\.(?P<every>\*)|\[(?P<all>\*)\]"
    r"|\[(?P<index>-?\d+)\]|\['(?P<quoted>[^'\\]*)'\]|\[\"(?P<double>[^\"\\]*)\"\]"
)
_EVERY = object()
_EVERYWHERE = object()
_SCANNED = 2
"""Names that are looked for one after the other before all that a level has are noted."""
_LONGEST_INDEX = 18
_OPEN_WORD = re.compile(r"\{\w[\w-]*\}")


_Node = tuple[str, Any]
"""(pointer, value)"""


class _Deep(Struct, frozen=True):
    """A name at any depth."""

    name: str


class _Branch(Struct, frozen=True):
    """Where several paths go on from what they have in common."""

    names: dict[str, _Branch]
    others: dict[object, _Branch]
    """By steps that are not names."""
    ends: list[int]
    """The paths that go no further, by their numbers."""

    def below(self, step: object) -> _Branch:
        """One step further, which is made if it is not there."""
        if isinstance(step, str):
            return self.names.setdefault(step, _Branch({}, {}, []))
        return self.others.setdefault(step, _Branch({}, {}, []))


@functools.lru_cache(maxsize=64)
def _branches(paths: tuple[str, ...]) -> tuple[_Branch, tuple[int, ...]]:
    """What some paths have in common, and the numbers of those that the library has to follow."""
    trunk, hard = _Branch({}, {}, []), []
    for number, path in enumerate(paths):
        steps = _simple(path)
        if steps is None:
            hard.append(number)
            continue
        functools.reduce(_Branch.below, steps, trunk).ends.append(number)
    return trunk, tuple(hard)


@functools.lru_cache(maxsize=8192)
def _simple(path: str) -> tuple[object, ...] | None:
    if not path.startswith("$"):
        raise ValueError(f"a JSONPath begins with $: {path}")
    steps: list[object] = []
    position = 1
    while position < len(path):
        match = _STEP.match(path, position)
        if match is None:
            return None
        if match["deep"]:
            if any(isinstance(step, _Deep) for step in steps):
                return None
            steps.append(_Deep(match["deep"]))
        elif match["every"] or match["all"]:
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
    return Walked(data).find(path)


class Walked:
    """Data that several paths are asked of: what they have in common is walked once."""

    def __init__(self, data: Any) -> None:
        self.data = data
        self.top = _Level([("", data)])

    def find(self, path: str) -> Iterator[_Node]:
        """As the function of that name."""
        steps = _simple(path)
        if steps is not None:
            level = self.top
            for step in steps:
                level = level.below(step)
                if not level.nodes:
                    return
            yield from level.nodes
            return
        if has_words(path):
            return
        from hookset.formats._jsonpaths import asked

        yield from asked(path, self.data)

    def leading(self, paths: tuple[str, ...]) -> frozenset[int]:
        """The numbers of those paths that lead to something, as far as that is known without the library: of hundreds
        of paths, most lead to nothing in one file."""
        trunk, hard = _branches(paths)
        return frozenset((*hard, *_followed(self.top, trunk)))


def _followed(level: _Level, branch: _Branch) -> Iterator[int]:
    """The paths whose ends are reached from here."""
    yield from branch.ends
    for step, further in level.shared(branch):
        below = level.below(step)
        if below.nodes:
            yield from _followed(below, further)


def has_words(path: str) -> bool:
    """Whether there are `{words}` in a path, which a hook fills in."""
    return _OPEN_WORD.search(path) is not None


def checked(path: str) -> None:
    """Raises ValueError, in words, for what is no JSONPath, and for one that would take too long."""
    if _simple(path) is None:
        from hookset.formats._jsonpaths import compiled

        compiled(path)


class _Level:
    """What the first steps of some paths lead to, in document order."""

    __slots__ = ("known", "named", "nodes", "scanned")

    def __init__(self, nodes: list[_Node]) -> None:
        self.nodes = nodes
        self.known: dict[object, _Level] = {}
        self.named: dict[str, list[_Node]] | None = None
        """The nodes that have each name, once many names were looked for."""
        self.scanned = 0

    def below(self, step: object) -> _Level:
        """What one more step leads to."""
        if self.named is not None and isinstance(step, str) and step not in self.named:
            return _NOTHING
        found = self.known.get(step)
        if found is None:
            found = self.known[step] = _Level(list(self._stepped(step)))
        return found

    def _stepped(self, step: object) -> Iterator[_Node]:
        if isinstance(step, str):
            name = escaped(step)
            return ((f"{at}/{name}", data[step]) for at, data in self._with(step))
        if isinstance(step, int):
            lists = ((at, data) for at, data in self.nodes if isinstance(data, list))
            return ((f"{at}/{step % len(data)}", data[step]) for at, data in lists if -len(data) <= step < len(data))
        if isinstance(step, _Deep):
            return self._deep(step.name)
        return (child for node in self.nodes for child in _children(node))

    def _with(self, name: str) -> Iterator[_Node]:
        """The objects here that have a name."""
        if self.named is None and self.scanned < _SCANNED:
            self.scanned += 1
            return ((at, data) for at, data in self.nodes if isinstance(data, dict) and name in data)
        return iter(self._names().get(name, ()))

    def _names(self) -> Mapping[str, list[_Node]]:
        """The objects here, by the names that they have."""
        if self.named is None:
            self.named = {}
            for node in self.nodes:
                for key in node[1] if isinstance(node[1], dict) else ():
                    self.named.setdefault(key, []).append(node)
        return self.named

    def shared(self, branch: _Branch) -> Iterator[tuple[object, _Branch]]:
        """The steps on which paths go on that may lead somewhere from here."""
        yield from branch.others.items()
        if len(branch.names) <= _SCANNED:
            yield from branch.names.items()
            return
        named = self._names()
        few, many = (named, branch.names) if len(named) < len(branch.names) else (branch.names, named)
        yield from ((name, branch.names[name]) for name in few if name in many)

    def _deep(self, name: str) -> Iterator[_Node]:
        """What has a name at any depth, by what it stands in."""
        inside = self.known.get(_EVERYWHERE)
        if inside is None:
            inside = self.known[_EVERYWHERE] = _Level(list(self._everything()))
        return inside._stepped(name)

    def _everything(self) -> Iterator[_Node]:
        """All objects here and below, before what is in them."""
        waiting = self.nodes[::-1]
        while waiting:
            at, data = waiting.pop()
            inner: list[_Node] = []
            # The address of a plain value is asked for by nobody.
            if isinstance(data, dict):
                yield at, data
                inner = [(f"{at}/{escaped(key)}", one) for key, one in data.items() if isinstance(one, (dict, list))]
            elif isinstance(data, list):
                inner = [(f"{at}/{index}", one) for index, one in enumerate(data) if isinstance(one, (dict, list))]
            waiting += reversed(inner)


_NOTHING = _Level([])


def _children(node: _Node) -> Iterator[_Node]:
    at, data = node
    if isinstance(data, dict):
        return ((f"{at}/{escaped(key)}", value) for key, value in data.items())
    if isinstance(data, list):
        return ((f"{at}/{index}", value) for index, value in enumerate(data))
    return iter(())


def leaves(at: str, data: Any, name: str = "") -> Iterator[tuple[str, str, Any]]:
    """Dotted name, pointer and value of every value below `data` that is not itself an object."""
    if not isinstance(data, dict):
        yield name, at, data
        return
    for key, value in data.items():
        yield from leaves(f"{at}/{escaped(key)}", value, f"{name}.{key}" if name else key)
