"""Reading TOML 1.0: the data by the standard library, and what is wrong with a file by a grammar.

The library tells the place of a mistake in words only, which differ from release to release.
"""

from __future__ import annotations

import re
import tomllib
from typing import Any, NamedTuple

from hookset.formats._numbers import LONG_NUMBER, long_number
from hookset.formats.base import Unreadable
from hookset.trees import Text, excerpt

__all__ = ["parsed", "read_toml"]

_LINES_UP = 6
"""Lines above the one in which a mistake shows that are looked at."""
_DEEP = re.compile(
    r"""(?m)(?:^|[{,\[])[ \t]*(?:(?:[A-Za-z0-9_-]+|"[^"\n]{0,200}"|'[^'\n]{0,200}')[ \t]*\.[ \t]*){100}"""
)
"""A key of a hundred parts: the parser takes time that grows with the square of their number."""


def parsed(data: bytes) -> Any:
    """Parse with the grammar, which goes on behind mistakes."""
    # Imported here: files that are only read need no grammar.
    import tree_sitter_toml
    from tree_sitter import Language, Parser

    return Parser(Language(tree_sitter_toml.language())).parse(data)


def read_toml(source: Text) -> dict[str, Any]:
    """The data of a TOML file. Raises Unreadable, with the place."""
    if deep := _DEEP.search(source.string):
        raise Unreadable("nests keys too deeply to be a file that somebody made", deep.start())
    try:
        return tomllib.loads(source.string)
    except tomllib.TOMLDecodeError as error:
        raise _mistake(source) from error
    except RecursionError as error:
        raise Unreadable("is nested too deeply to be a file that somebody made", 0) from error
    except ValueError as error:
        raise Unreadable(LONG_NUMBER, long_number(source.string)) from error


def _mistake(source: Text) -> Unreadable:
    """What is wrong in a file that does not parse, and where: the parser tells both in words only."""
    root = parsed(source.utf8).root_node
    broken = _first_error(root)
    if broken is not None:
        where = _broken_at(source, broken)
        return Unreadable(f"is not TOML: it cannot be read {excerpt(source.string, where)}", where)
    # Every statement reads by itself: the first one that does not go with those before it.
    ends = [node.end_byte for node in _statements(root)]
    low, high = 0, len(ends) - 1
    while low < high:
        middle = (low + high) // 2
        if _loads(source.utf8[: ends[middle]]):
            low = middle + 1
        else:
            high = middle
    starts = [node.start_byte for node in _statements(root)]
    where = source.char_at(starts[low]) if starts else 0
    said = "a key is set twice or is both a table and a value, or a value is not allowed,"
    return Unreadable(f"is not TOML: {said} {excerpt(source.string, where)}", where)


def _broken_at(source: Text, broken: Any) -> int:
    """The character offset at which a statement goes wrong that the grammar could not read."""
    # What the grammar has understood of it stands before what it could not go on with.
    known = broken.children[-1].end_byte if broken.children else broken.start_byte
    where = source.char_at(known)
    where += len(source.string[where:]) - len(source.string[where:].lstrip(" \t"))
    # A quote that is missing is so in a line above the one in which it shows.
    lines = source.string[:where].splitlines(keepends=True)
    for count in range(len(lines) - 1, max(len(lines) - _LINES_UP, 0) - 1, -1):
        head = "".join(lines[:count])
        if _loads(head.encode("utf-8", "surrogatepass")):
            return where if count == len(lines) - 1 else len(head)
    return where


def _loads(data: bytes) -> bool:
    try:
        tomllib.loads(data.decode("utf-8", "surrogatepass"))
    except ValueError:
        return False
    return True


def _first_error(root: Any) -> Any:
    """The first node at which the grammar could not go on; None where there is none."""
    waiting = [root] if root.has_error else []
    while waiting:
        node = waiting.pop()
        if node.type == "ERROR" or node.is_missing:
            return node
        waiting += [child for child in reversed(node.children) if child.has_error or child.is_missing]
    return None


def _statements(root: Any) -> list[Any]:
    """Pairs and headers, in file order."""
    found: list[Any] = []
    for node in root.named_children:
        if node.type in ("table", "table_array_element"):
            pairs = [child for child in node.named_children if child.type == "pair"]
            found += [_Header(node.start_byte, pairs[0].start_byte if pairs else node.end_byte), *pairs]
        elif node.type == "pair":
            found.append(node)
    return found


class _Header(NamedTuple):
    start_byte: int
    end_byte: int
