"""A name in all the ways that it is written: `market-stall`, `market_stall`, `marketStall`, `MARKET_STALL` …"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from msgspec import Struct

__all__ = ["Form", "forms_of", "pattern_of", "words_of"]


class Form(Struct, frozen=True):
    """One way of writing, of the old name and of the new."""

    old: str
    new: str


def words_of(name: str) -> tuple[str, ...]:
    """The words of a name, however they are put together."""
    spaced = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", " ", name)
    return tuple(word.lower() for word in re.split(r"[\W_]+", spaced) if word)


def forms_of(old: Sequence[str], new: Sequence[str]) -> tuple[Form, ...]:
    """Each way of writing once, the longer ones first."""
    found: dict[str, str] = {}
    for was, is_ in zip(_written(old), _written(new), strict=True):
        # Of one word, several ways are the same; the plainest of them says what becomes of it.
        found.setdefault(was, is_)
    return tuple(Form(was, is_) for was, is_ in sorted(found.items(), key=lambda one: (-len(one[0]), one[0])))


def _written(words: Sequence[str]) -> Iterator[str]:
    titled = [word.capitalize() for word in words]
    upper = [word.upper() for word in words]
    for join in ("_", "-", ".", " "):
        yield join.join(words)
        yield join.join(upper)
        yield join.join(titled)
        yield join.join((titled[0], *words[1:]))
    yield words[0] + "".join(titled[1:])
    yield "".join(titled)
    yield "".join(words)
    yield "".join(upper)
    yield "".join((titled[0], *words[1:]))


def pattern_of(form: Form) -> re.Pattern[str]:
    """Where the form stands as a name of its own or as a part of one, and not as a part of a longer word."""
    text = form.old
    before = "(?<![A-Za-z0-9])"
    behind = "(?![A-Za-z0-9])"
    if text[0].isupper() and not text.isupper():
        # `openMarketStall`: a capital begins a word within a name.
        before = "(?<![A-Z])"
    if not text.isupper() and text[-1].islower():
        # `marketStallOpen`: so the next word begins with one; but `market_stalls` is another word.
        behind = "(?![a-z0-9])"
    if text.islower() and len(words_of(text)) == 1:
        behind = "(?![A-Za-z0-9])"
    return re.compile(before + re.escape(text) + behind)
