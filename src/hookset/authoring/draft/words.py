"""The words of notes in several languages, from `words.toml`, and what mends what word processors do to code."""

from __future__ import annotations

import functools
import html
import re
import textwrap
import tomllib
from collections.abc import Iterator
from importlib import resources
from typing import Any

__all__ = ["concepts", "language_of", "languages_said", "mends", "says", "sorts_said", "words"]

_QUOTES = str.maketrans(
    dict.fromkeys("“”„«»", '"') | dict.fromkeys("‘’‚", "'") | {"–": "-", "—": "-", "…": "...", "\u00a0": " "}
)
_PAIRS = {"(": ")", "[": "]", "{": "}"}
_ENTITY = re.compile(r"&(?:lt|gt|quot|amp|apos|#\d{2,4});")
_TAG = re.compile(
    r"<(?P<end>/?)(?P<name>[A-Za-z_][\w:.-]*)(?:\s+[\w:.-]+\s*=\s*(?:\"[^\"<]*\"|'[^'<]*'))*\s*(?P<empty>/?)>"
)
_LEFT_OPEN = 2
"""Brackets that somebody forgets at the end of a text."""


@functools.cache
def words() -> dict[str, Any]:
    """The whole table."""
    return tomllib.loads((resources.files(__package__) / "words.toml").read_text(encoding="utf-8"))


@functools.cache
def _patterns(table: str) -> tuple[tuple[str, re.Pattern[str]], ...]:
    return tuple((name, re.compile(rf"(?<![\w-])(?:{source})(?!\w)")) for name, source in words()[table].items())


@functools.lru_cache(maxsize=4096)
def concepts(text: str) -> frozenset[str]:
    """What the words of a text mean, whatever its language; words that have no meaning to us as they are, without the
    endings of English plurals."""
    lower = text.lower()
    known = {name for name, pattern in _patterns("concepts") if pattern.search(lower)}
    others = {word.removesuffix("s") for word in re.findall(r"[a-zäöüß]{4,}", lower)}
    return frozenset(known | others)


def says(what: str, text: str) -> bool:
    """Whether a text has a word of `[instructions]`: one that `tells` to do something, that `brings` files somewhere,
    or that means the `whole` pack."""
    return any(name == what and pattern.search(text.lower()) for name, pattern in _patterns("instructions"))


def sorts_said(text: str) -> list[tuple[int, str]]:
    """(where, which) of each sort of files that a text names."""
    lower = text.lower()
    return [(match.start(), name) for name, pattern in _patterns("sorts") for match in pattern.finditer(lower)]


def languages_said(text: str) -> tuple[str, ...]:
    """The languages that a text names, by their codes, the last one said last."""
    lower = text.lower()
    found = [
        (match.start(), name) for name, source in words()["languages"].items() for match in re.finditer(source, lower)
    ]
    return tuple(reversed(dict.fromkeys(name for _, name in sorted(found, reverse=True))))


def language_of(text: str) -> str:
    """The language that a text is written in, by its commonest words; English where nothing tells."""
    plain = re.findall(r"[^\W\d_]+", text.lower())
    common: dict[str, str] = words()["common"]
    counts = {name: sum(word in source.split() for word in plain) for name, source in common.items()}
    return max(counts, key=lambda name: (counts[name], name == "en"))


def mends(text: str) -> Iterator[tuple[str, str]]:
    """The text as it was meant to be, by and by: (text, what had to be mended)."""
    plain = textwrap.dedent(text.expandtabs(4) if "\t" not in text.strip() else text).strip("\n")
    yield plain, ""
    if _ENTITY.search(plain) and "<" not in plain:
        plain = html.unescape(plain)
        yield plain, "entities of HTML made plain"
    straight = plain.translate(_QUOTES)
    if straight != plain:
        yield straight, "typographic quotes made plain"
    ended = _with_end_tags(straight)
    if ended != straight:
        yield ended, "an end tag put in that was left out"
    if "\n" not in straight and re.search(r"\w[\"')]?\s*[,;]$", straight):
        yield straight.rstrip().rstrip(",;"), "a last comma taken off"
    commas = re.sub(r"([}\]\"\w])(\s*\n\s*)(?=[{\"])", r"\1,\2", re.sub(r",(\s*[}\]])", r"\1", straight))
    if commas != straight:
        yield commas, "commas put right"
    closed = _closed(commas)
    if closed != commas:
        yield closed, "a bracket closed that was left open"
    listed = _indented(straight)
    if listed != straight:
        yield listed, "lost indentation put back"
    bare = "\n".join(re.sub(r"^\s*(?:[-*•+>]|\d+[.)])\s+", "", line) for line in straight.split("\n"))
    if bare != straight:
        yield bare, ""
        if (listed := _indented(bare)) != bare:
            yield listed, "lost indentation put back"


def _with_end_tags(text: str) -> str:
    """The text with elements closed that are open at its end; one with nothing behind it closes itself."""
    open_: list[re.Match[str]] = []
    for tag in _TAG.finditer(text):
        if tag["end"] and open_ and open_[-1]["name"] == tag["name"]:
            open_.pop()
        elif tag["end"]:
            return text
        elif not tag["empty"]:
            open_.append(tag)
    # Without anything in it, a tag is only named.
    if not open_ or len(open_) > _LEFT_OPEN or not text.lstrip().startswith("<") or "=" not in text:
        return text
    if len(open_) == 1 and not text[open_[0].end() :].strip():
        return f"{text[: open_[0].end() - 1].rstrip()}/>"
    return text.rstrip() + "".join(f"\n</{tag['name']}>" for tag in reversed(open_))


def _closed(text: str) -> str:
    """The text with the brackets closed that are open at its end, outside of quotes."""
    open_: list[str] = []
    for match in re.finditer(r"\"(?:\\.|[^\"\\\n])*\"|'(?:\\.|[^'\\\n])*'|[\[\](){}]", text):
        found = match.group()
        if found in _PAIRS:
            open_.append(_PAIRS[found])
        elif open_ and found == open_[-1]:
            open_.pop()
        elif found in _PAIRS.values():
            return text
    return text + "".join(f"\n{bracket}" for bracket in reversed(open_)) if len(open_) <= _LEFT_OPEN else text


def _indented(text: str) -> str:
    """Keys below a `- key: value`, or below a `name:`, that have lost their indentation."""
    lines = text.split("\n")
    if re.fullmatch(r"[\w-]+:\s*", lines[0]) and not any(line.startswith((" ", "\t")) for line in lines):
        return "\n".join(line if re.fullmatch(r"[\w-]+:\s*", line) else f"  {line}" for line in lines)
    if not lines[0].startswith("- ") or any(line.startswith((" ", "\t")) for line in lines):
        return text
    return "\n".join(line if line.startswith("- ") else f"  {line}" for line in lines)
