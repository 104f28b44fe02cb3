"""tree-sitter queries of a layout: checked when it is read, asked together, and with a limit on how long their patterns
take: whoever wrote them may have meant us harm.

Patterns (`#match?` and its kin) would be looked for without any limit by the library. It leaves predicates that it does
not know to its caller, so they get a name of our own. A few repeated wildcards
in a row take minutes, too, and are refused.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Collection, Mapping, Sequence
from typing import Literal

from tree_sitter import Language, Node, Query, QueryCursor, QueryError

from hookset.trees import Pattern, pattern_of

__all__ = ["Captured", "captures", "check", "query"]

_Captures = dict[str, list[Node]]

_STRING = re.compile(r'"(?:\\.|[^"\\])*"')
_COMMENT = re.compile(r'(?P<kept>"(?:\\.|[^"\\])*")|;[^\n]*')
_PREDICATE = re.compile(r'"(?:\\.|[^"\\])*"|(?P<name>#[\w-]+[?!]?)')
_MATCH = re.compile(r'"(?:\\.|[^"\\])*"|#(?P<form>(?:any-)?(?:not-)?)match\?')
_WHOLE = re.compile(r'#(?:any-)?(?:not-)?match\?\s+@[\w.-]+\s+"(?P<source>(?:\\.|[^"\\])*)"\s*\)', re.DOTALL)
_ESCAPE = re.compile(r"\\(.)", re.DOTALL)
_ESCAPED = {"n": "\n", "r": "\r", "t": "\t", "0": "\0"}
_KNOWN = frozenset(
    f"#{front}{test}?" for front in ("", "not-", "any-", "any-not-") for test in ("eq", "match")
) | {"#any-of?", "#not-any-of?", "#set!"}  # fmt: skip


def check(language: Language, title: str, source: str) -> None:
    """Raises ValueError for what is no query of this language, or captures nothing that is read."""
    plain = _without_comments(source)
    named = [found["name"] for found in _PREDICATE.finditer(plain) if found["name"]]
    for name in named:
        if name not in _KNOWN:
            raise ValueError(f"query asks {name}, which is no predicate; there are: {', '.join(sorted(_KNOWN))}")
    if len(re.findall(r"[*+]", _STRING.sub("", plain))) > 1:
        raise ValueError("query repeats more than one part by * or +, which takes minutes on some files")
    patterns = _WHOLE.findall(plain)
    if len(patterns) != sum("match" in name for name in named):
        raise ValueError('query has a pattern that is not written as (#match? @value "pattern")')
    for pattern in patterns:
        try:
            _pattern(_ESCAPE.sub(lambda found: _ESCAPED.get(found[1], found[1]), pattern))
        except ValueError as error:
            raise ValueError(f"query has a pattern that is no regular expression: {error}") from error
    try:
        made = query(language, source)
    except QueryError as error:
        raise ValueError(
            f"query is no tree-sitter query of {title}: a bracket may be missing, or a node type or a field be"
            f" one that the grammar of {title} does not have"
        ) from error
    if "value" not in map(made.capture_name, range(made.capture_count)):
        raise ValueError("query captures no @value: write @value behind the node that is the name")


def _without_comments(source: str) -> str:
    return _COMMENT.sub(lambda found: found["kept"] or "", source)


@functools.cache
def query(language: Language, source: str) -> Query:
    """Raises tree_sitter.QueryError."""
    own = _MATCH.sub(
        lambda found: found[0] if found["form"] is None else f"#{found['form']}pattern?", _without_comments(source)
    )
    return Query(language, own)


Captured = tuple[Node, Mapping[str, Node]]
"""What a query captures as `@value`, and by their names what else the same match captures."""


def captures(language: Language, sources: Collection[str], root: Node) -> dict[str, list[Captured]]:
    """What each query captures, in file order, in one pass over the tree. Raises SlowPatternError."""
    owners = [source for source in sources for _ in range(query(language, source).pattern_count)]
    found: dict[str, dict[int, Captured]] = {source: {} for source in sources}
    raised: list[BaseException] = []

    def stays(
        predicate: str,
        args: list[tuple[str, Literal["capture", "string"]]],
        pattern_index: int,  # noqa: ARG001 - the library calls with these names
        captures: _Captures,
    ) -> bool:
        # The library turns what is raised in here into an error of its own.
        try:
            return not raised and _stays(predicate, captures.get(args[0][0], ()), args[1][0])
        except BaseException as error:  # noqa: BLE001
            raised.append(error)
            return False

    cursor = QueryCursor(query(language, "\n".join(sources)))
    matches = cursor.matches(root, stays) if "match?" in "".join(sources) else cursor.matches(root)
    for number, nodes in matches:
        others = {name: held[0] for name, held in nodes.items() if name != "value" and held}
        for node in nodes.get("value", ()):
            found[owners[number]].setdefault(node.id, (node, others))
    if raised:
        raise raised[0]
    return {source: sorted(held.values(), key=lambda one: one[0].start_byte) for source, held in found.items()}


def _stays(predicate: str, nodes: Sequence[Node], source: str) -> bool:
    """Whether a match is one, by one of its patterns."""
    pattern = _pattern(source)
    wanted = "not-" not in predicate
    texts = ((node.text or b"").decode("utf-8", "replace") for node in nodes)
    held = ((pattern.search(text) is not None) == wanted for text in texts)
    return any(held) if predicate.startswith("any-") else all(held)


@functools.lru_cache(maxsize=256)
def _pattern(source: str) -> Pattern:
    return pattern_of(source)
