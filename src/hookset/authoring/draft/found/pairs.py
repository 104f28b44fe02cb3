"""Keys with their values, as they stand in the text of an entry, whatever its format."""

from __future__ import annotations

import functools
import html
import re
from collections.abc import Container, Iterator, Mapping, Sequence
from itertools import pairwise

from msgspec import Struct

from hookset.authoring.draft.found.map_texts import Stretch, folded, whole_lines
from hookset.authoring.draft.said.assignments import Assignment, about_that

__all__ = ["Place", "bare", "same", "value_in", "written_as"]

_ANSWER = r"\"(?:[^\"\\\n]|\\.)*\"|'(?:[^'\\\n]|\\.)*'"
_GIVEN = re.compile(
    rf"(?P<key>[\w.:-]+)[\"']?\]?[ \t]*(?:=>|:=|=|:)[ \t]*(?P<value>{_ANSWER}|[^\s,;{{}}\[\]()<>/\"']+)"
    rf"|^[ \t]*(?P<word>[A-Za-z_]\w*)[ \t]+(?P<behind>{_ANSWER}|[\w./-]+)[ \t]*;?[ \t]*$",
    re.MULTILINE,
)
"""A key with its value, as scripts, tables, data, blocks and elements have them."""
_WITHIN = re.compile(r"<(?P<tag>[\w:-]+)(?:\s[^<>]*)?>(?P<within>[^<>\n]+)</")


class Place(Struct, frozen=True):
    """A value in a file, with its quotes."""

    stretch: Stretch
    start: int
    end: int
    key: str
    ahead: str = ""
    """What goes in front of a value that is not there yet."""
    quote: str = ""
    """Around such a value, where it is a text."""
    many: bool = False
    """Whether it stands in several places that are all to be changed."""


def value_in(
    text: str, stretch: Stretch, name: str, one: Assignment, record: Mapping[str, object] | None = None
) -> Place | None:
    """The value of an entry that is meant: that of a key that the words name; or the only one besides its name.
    `record` is what the entry says, where it has keys that do not stand in it."""
    given = _given(text, stretch)
    said = (*one.what, *one.before) if about_that(one.what) else one.what
    called = {folded(word) for word in said if word != name}
    by_key = [place for place in given if folded(place.key) in called] or _beside_keys(text, given, called)
    if len(by_key) > 1 and one.old:
        by_key = [place for place in by_key if same(bare(text, place), one.old)]
    elif len(by_key) > 1:
        # The name itself stays, though the words may say what it is a name of.
        by_key = [place for place in by_key if bare(text, place) != name]
    if not by_key and not stretch.whole:
        own = [place for place in given if place.key == name]
        others = [place for place in given if bare(text, place) != name]
        was = [place for place in others if one.old and same(bare(text, place), one.old)]
        words_only = [place for place in others if re.search(r"[^\W\d]", bare(text, place)) and " " in one.value]
        by_key = was or own or (words_only if len(others) == 1 else [])
    if not by_key and not stretch.whole:
        by_key = list(_cells(text, stretch, record, called))
    if not by_key and one.new and given and not stretch.whole:
        by_key = list(_behind(text, given[-1], one.new))
    return by_key[0] if len(by_key) == 1 and written_as(text, by_key[0], one.value) is not None else None


@functools.lru_cache(maxsize=256)
def _given(text: str, stretch: Stretch) -> tuple[Place, ...]:
    """All keys with their values in a part of a text: the same for each sentence that may speak of it."""
    return tuple(
        Place(stretch, *match.span(part), match[key])
        for pattern in (_GIVEN, _WITHIN)
        for match in pattern.finditer(text, stretch.start, stretch.end)
        for key, part in (("key", "value"), ("word", "behind"), ("tag", "within"))
        if match.groupdict().get(key) is not None
    )


def _cells(text: str, stretch: Stretch, record: Mapping[str, object] | None, called: Container[str]) -> Iterator[Place]:
    """Values of a row whose keys stand above the table."""
    row = text[stretch.start : stretch.end]
    for key, value in (record or {}).items():
        if folded(key) in called and value != "" and row.count(str(value)) == 1:
            at = stretch.start + row.index(str(value))
            yield Place(stretch, at, at + len(str(value)), key)


def _behind(text: str, last: Place, key: str) -> Iterator[Place]:
    """The place for a key that an entry does not have yet: behind its last one where they stand on one line, or else
    on a line below it."""
    inside = text[last.stretch.start : last.stretch.end].strip().rstrip(",")
    if inside[:1] == "{" and inside[-1:] == "}" and "\n" not in inside:
        before = re.search(
            r"(?P<quote>[\"']?)[\w-]+[\"']?(?P<equals>\s*[:=]\s*)$", text[last.stretch.start : last.start]
        )
        if before is not None:
            quote = before["quote"]
            ahead = f", {quote}{key}{quote}{before['equals']}"
            yield Place(last.stretch, last.end, last.end, key, ahead, quote or '"')
        return
    start, end = whole_lines(text, last.start, last.end)
    line = re.fullmatch(r"(?P<indent>\s*)[\w\"'-]+(?P<equals>\s*[:=]\s*)\S.*?", text[start:end].rstrip())
    if line is not None:
        at = start + len(text[start:end].rstrip())
        yield Place(last.stretch, at, at, key, f"\n{line['indent']}{key}{line['equals']}")


def _beside_keys(text: str, given: Sequence[Place], called: Container[str]) -> list[Place]:
    """Values of keys that are values themselves: `<number key="weight" is="1200.5"/>`."""
    return [
        value
        for key, value in pairwise(given)
        if folded(bare(text, key)) in called and "\n" not in text[key.end : value.start]
    ]


def bare(text: str, place: Place) -> str:
    """A value without its quotes."""
    return text[place.start : place.end].strip("\"'")


def same(one: str, other: str) -> bool:
    """Whether two values are the same; numbers by what they are, also with a comma for a point."""
    try:
        return float(one) == float(other.replace(",", "."))
    except ValueError:
        return one == other


def written_as(text: str, place: Place, value: str) -> str | None:
    """A value as it is written in the place of another one; None where it is of another sort."""
    if place.ahead:
        bare_so = not place.quote or re.fullmatch(r"-?\d+(?:\.\d+)?|true|false", value) is not None
        written = value if bare_so else f"{place.quote}{value}{place.quote}"
        return f"{place.ahead}{written}" if re.fullmatch(r"[\w.+-]+", value) else None
    old = text[place.start : place.end]
    if text[place.start - 1 : place.start] == ">":
        return html.escape(value, quote=False)
    quote = old[0] if old[:1] in ("'", '"') else ""
    if quote:
        return f"{quote}{value}{quote}" if quote not in value and "\\" not in value else None
    number = re.fullmatch(r"-?\d+(\.\d+)?", old)
    if number is not None:
        plain = value.replace(",", ".")
        whole = re.fullmatch(r"-?\d+", plain) is not None
        if re.fullmatch(r"-?\d+(?:\.\d+)?", plain) is None:
            return None
        return f"{plain}.0" if whole and number[1] is not None else plain
    return value if re.fullmatch(r"[\w./:-]+", value) and not value[:1].isdigit() else None
