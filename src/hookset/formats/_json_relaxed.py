"""JSON as people write it by hand: with comments, with a comma after the last of several, with a key given twice.

The first two are blanked out, character by character, so that what is left is JSON whose offsets are those of the file.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from hookset.formats.base import Unreadable
from hookset.formats.pointers import escaped
from hookset.trees import excerpt

__all__ = ["JsonOptions", "between_comments", "plain_json", "repeated_keys", "rest_of_line", "unreadable"]

_TOKEN = re.compile(r'"(?:\\.|[^"\\\n])*"|//[^\r\n]*|/\*.*?\*/', re.DOTALL)
_COMMA = re.compile(r'"(?:\\.|[^"\\\n])*"|,(?=[ \t\r\n]*[}\]])')
_COMMENT = re.compile(r"[ \t]*(?://[^\r\n]*|/\*[^\r\n]*?\*/(?=[ \t]*(?:\r?\n|$)))")


class JsonOptions(Struct, frozen=True, forbid_unknown_fields=True):
    comments: bool = False
    """Whether the game reads over `// …` and `/* … */`."""
    trailing_commas: bool = False
    """Whether it reads over a comma after the last element."""


def plain_json(string: str, options: JsonOptions) -> str:
    """The same number of characters, without what only the options allow."""
    if options.comments and ("//" in string or "/*" in string):
        string = _TOKEN.sub(lambda found: _blanked(found[0]) if found[0][0] == "/" else found[0], string)
    if options.trailing_commas:
        string = _COMMA.sub(_without_comma, string)
    return string


def _without_comma(found: re.Match[str]) -> str:
    if found[0] != ",":
        return found[0]
    string, before = found.string, found.start() - 1
    while before >= 0 and string[before] in " \t\r\n":
        before -= 1
    return "," if before < 0 or string[before] in "[{," else " "


def repeated_keys(plain: str) -> list[str]:
    """Pointers of the keys that an object has once more, each as often as it is there once more."""
    found: list[str] = []
    waiting: list[tuple[str, Any]] = [("", json.loads(plain, object_pairs_hook=_Pairs))]
    while waiting:
        at, value = waiting.pop()
        if isinstance(value, _Pairs):
            known: set[str] = set()
            for key, below in value:
                where = f"{at}/{escaped(key)}"
                found += [where] if key in known else []
                known.add(key)
                waiting.append((where, below))
        elif isinstance(value, list):
            waiting += ((f"{at}/{index}", below) for index, below in enumerate(value))
    return found


class _Pairs(tuple[tuple[str, Any], ...]):
    """The keys and values of an object, in file order."""

    __slots__ = ()


def unreadable(plain: str, error: json.JSONDecodeError, options: JsonOptions) -> Unreadable:
    """What is wrong and where, as far as the parser's own words can be bettered."""
    before = plain[: error.pos].rstrip()
    if plain[error.pos : error.pos + 2] in {"//", "/*"}:
        if options.comments:
            return Unreadable("opens a comment that it does not close", error.pos)
        said = "has a comment, which JSON does not know; a layout allows them by `options = { comments = true }`"
        return Unreadable(said, error.pos)
    last = before.endswith(",") and before[:-1].rstrip()[-1:] not in "[{,"
    if plain[error.pos : error.pos + 1] in {"]", "}"} and last:
        said = "has a comma behind the last of several; a layout allows it by `options = { trailing_commas = true }`"
        return Unreadable(said, len(before) - 1)
    what, where = _mistake(plain, before, error.pos)
    return Unreadable(f"is not JSON: {what}", where)


def _mistake(plain: str, before: str, at: int) -> tuple[str, int]:
    """What is wrong where the parser could not go on, and where to say so; `before` is what stands before, less the
    blanks at its end."""
    here, last = plain[at : at + 1], before[-1:]
    if not here:
        return "it ends in the middle", len(plain)
    if here == '"' and plain.find('"', at + 1) < 0:
        return "a text is not closed", at
    if not before:
        return f"it begins with {here!r}, which begins no value", at
    if last in '"]}' or last.isalnum():
        # A comma that is missing is so after the value before, not where the parser notices.
        return f"a comma, a colon or a closing bracket is missing {excerpt(plain, at)}", len(before)
    if last == "{":
        return f"a key in double quotes is missing {excerpt(plain, at)}", at
    return f"a value is missing or not written as JSON {excerpt(plain, at)}", at


def rest_of_line(string: str, offset: int) -> int:
    """Where a comment ends that follows on the same line; `offset` where there is none."""
    found = _COMMENT.match(string, offset)
    return found.end() if found else offset


def between_comments(string: str, plain: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """The parts of a span that are no comment, with the blanks beside comments left alone."""
    if "/" not in string[start:end] or string[start:end] == plain[start:end]:
        yield start, end
        return
    part = plain_json(string[start:end], JsonOptions(comments=True))
    for found in re.finditer(r"\S+(?:[^\S\r\n]+\S+)*", part):
        yield start + found.start(), start + found.end()


def _blanked(comment: str) -> str:
    return re.sub(r"[^\r\n]", " ", comment)
