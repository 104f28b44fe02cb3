"""JSONPath (RFC 9535) beyond names and wildcards, by a library, in time that grows with the data and not with its
square: whoever wrote the path may have meant us harm."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator
from typing import Any

# Imported here: it costs 90 ms, and few layouts need it. This module is imported by those only.
import jsonpath
from jsonpath.filter import UNDEFINED
from jsonpath.function_extensions import ExpressionType, FilterFunction

from hookset.trees import Pattern, pattern_of

__all__ = ["asked", "compiled"]

_LONGEST = 2_000
_QUOTED = re.compile(r"\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])*'")
_PATTERN = re.compile(r"\b(?:match|search)\s*\([^\"']*,\s*(?P<quoted>\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])*')\s*\)")
_FROM_THE_TOP = re.compile(r"\$[^\s,)=<>!&|]*(?:\*|\.\.)")
_MOST_FOUND = 2_000_000
"""Values that one path may name in one file."""


@functools.lru_cache(maxsize=256)
def _pattern(source: str) -> Pattern | None:
    try:
        return pattern_of(source, re.DOTALL)
    except ValueError:
        return None


class _Matches(FilterFunction):
    """`match` and `search`: regular expressions with a limit on the time they take. What is none matches nothing."""

    arg_types = [ExpressionType.VALUE, ExpressionType.VALUE]  # noqa: RUF012 - the library wants a list
    return_type = ExpressionType.LOGICAL

    def __init__(self, whole: bool) -> None:
        self.whole = whole

    def __call__(self, value: object, source: object) -> bool:
        if not isinstance(value, str) or not isinstance(source, str):
            return False
        pattern = _pattern(source)
        if pattern is None:
            return False
        return (pattern.fullmatch(value) if self.whole else pattern.search(value)) is not None


@functools.cache
def _environment() -> jsonpath.JSONPathEnvironment:
    made = jsonpath.JSONPathEnvironment()
    made.function_extensions["match"] = _Matches(whole=True)
    made.function_extensions["search"] = _Matches(whole=False)
    return made


@functools.lru_cache(maxsize=256)
def compiled(path: str) -> Any:
    """Raises ValueError, in words."""
    if len(path) > _LONGEST:
        raise ValueError(f"a JSONPath of {len(path):,} characters is not asked; {_LONGEST:,} are the most")
    plain = _QUOTED.sub("_", path)
    if "=~" in plain:
        # No part of RFC 9535, and nothing limits how long such a pattern takes.
        raise ValueError(f"{path!r} compares by =~: use match() or search()")
    filters = plain.partition("[?")[2]
    if plain.count("..") > 1 or ".." in filters or _FROM_THE_TOP.search(filters):
        raise ValueError(f"{path!r} looks through all the data for each value: use `..` once, and not in a condition")
    for found in _PATTERN.finditer(path):
        try:
            pattern_of(found["quoted"][1:-1].replace("\\\\", "\\"))
        except ValueError as error:
            raise ValueError(f"{path!r} has a pattern that is no regular expression: {error}") from error
    try:
        return _environment().compile(path)
    except (jsonpath.JSONPathError, RecursionError, ArithmeticError, ValueError) as error:
        raise ValueError(f"{path!r} is no JSONPath") from error


def asked(path: str, data: Any) -> Iterator[tuple[str, Any]]:
    """The JSON Pointer and value of everything that the path names. Raises ValueError for what is none."""
    from hookset.formats.pointers import pointer

    made = compiled(path)
    try:
        for number, match in enumerate(made.finditer(data)):
            if number >= _MOST_FOUND:
                raise ValueError(f"{path!r} names more than {_MOST_FOUND:,} values")
            if match.obj is not UNDEFINED:
                yield pointer(tuple(match.parts)), match.obj
    except (jsonpath.JSONPathError, RecursionError) as error:
        raise ValueError(f"{path!r} cannot be asked of this data") from error
