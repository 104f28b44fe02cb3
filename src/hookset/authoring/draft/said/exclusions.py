"""What notes say a pack cannot stand beside: "never together with …", "this and … exclude each other"."""

from __future__ import annotations

import functools
import re
from collections import deque
from collections.abc import Iterator, Sequence

from msgspec import Struct

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.sentences import sentences_of
from hookset.authoring.draft.words import words

__all__ = ["Excluded", "exclusions_said"]

_REST = r"(?P<what>(?:[^.:;\n!]|\.(?=\w)){2,200})"
_HELD = r"(?P<what>(?:[^,.:;()\n!]|\.(?=\w)){2,60}?)"
_ENDS = re.compile(
    r"\s+(?:on|in|at|as|since|because|for|both|either|can|may|must|they|it|which|that|installed|hat|habt|hast|auf|weil"
    r"|da|denn|sur|dans|car)\b|\s+[–—-]+\s"
)
_ALSO = re.compile(r"\(\s*(?P<name>[\w.-]{4,40})\s*\)")
"""What else it is called: "the lift bridge (lift-bridge)"."""
_QUOTED = re.compile(
    r"(?:(?P<sort>[\w-]+) )?[`\"“„»«']+\s*(?P<name>[^`\"“”„»«'\n]{2,60}?)\s*[`\"”“«»']+"
    r"(?:\s+(?P<behind>object|node|type|thing|sound|buoy|objekt|knoten|typ|objet)\b)?",
    re.IGNORECASE,
)
_PATH = re.compile(r"(?<![\w/.-])(?:[\w.-]+/)*[\w-]+\.[A-Za-z]\w{1,4}(?![\w/.-]*\w)|(?<![\w/.-])(?:[\w.-]+/){2,}")
_BULLET = re.compile(r"\s*(?:[-*•+]|\d{1,2}[.)])\s+(?P<what>\S.*)")
_MOST_WORDS = 4
_LONGEST = 1_000
"""Characters of a sentence: what is longer is a listing."""
_BEFORE = 3
"""Sentences in which things are named of which the next one says that the two do not go together."""


class Excluded(Struct, frozen=True):
    """One thing that the pack cannot stand beside, in the words of the notes."""

    what: str
    """Without an article; with its version."""
    quoted: bool
    sort: str
    """What sort of thing it is, where that is said: `object`; empty: not said."""
    why: Why
    """The line that says so."""
    path: bool = False
    """Whether it is the path of a file, or of a folder."""


def exclusions_said(notes: Sequence[Notes]) -> Iterator[Excluded]:
    """Everything that the notes exclude, in order."""
    two = re.compile(rf"(?<!\w){words()['exclusions']['two']}", re.IGNORECASE)
    before: deque[str] = deque(maxlen=_BEFORE)
    for sentence in (one for one in sentences_of(notes) if len(one.text) <= _LONGEST):
        match = next(filter(None, (pattern.search(sentence.text) for pattern in _patterns())), None)
        if match is not None:
            yield from _things(match["what"], sentence.why)
        elif (both := two.search(sentence.text)) is not None:
            # "There may be a rail.yaml of the old one. Throw it out, the two cannot stand side by side."
            named = _PATH.findall(" ".join((*before, sentence.text[: both.start()])).replace("\\", "/"))
            yield from (Excluded(name, False, "", sentence.why, path=True) for name in named[-1:])
        before.append(sentence.text)
    for one in notes:
        yield from _listed(one)


def _listed(notes: Notes) -> Iterator[Excluded]:
    """The items of lists of which the head says that they are excluded."""
    heads = re.compile(rf"[\W_]*{words()['exclusions']['heads']}[\W_]*", re.IGNORECASE)
    below = False
    for line in notes.lines:
        item = _BULLET.match(line.text)
        if below and item is not None:
            yield from _things(item["what"], at_line(notes.path, line.number), alone=True)
        elif line.text.strip():
            below = heads.fullmatch(line.text) is not None


@functools.cache
def _patterns() -> tuple[re.Pattern[str], ...]:
    table = words()["exclusions"]
    article, own, behind = table["article"], table["own"], table["behind"]
    sources = [rf"(?<!\w)(?:{one})\s+{article}{_REST}" for one in table["before"]]
    sources += [
        rf"(?<!\w){table['have']} {article}{_HELD},[^.;]{{0,60}}?(?<!\w)(?:{table['instead']})",
        rf"^[\W_]*{table['heads']}[*_]*:[*_]*\s+{article}{_REST}",
        rf"(?<!\w){own} (?:and|und|et) {article}{_HELD} (?:{behind})",
        rf"(?<!\w){article}{_HELD} (?:and|und|et) {own} (?:{behind})",
        rf"(?<!\w){table['both']} (?:and|or|und|oder|et|ou) {article}{_REST}",
    ]
    return tuple(re.compile(source, re.IGNORECASE) for source in sources)


def _things(what: str, why: Why, alone: bool = False) -> Iterator[Excluded]:
    """The things that a piece of a sentence names. Behind the first, only what is written as a name is one; of an item
    of a list there is one thing."""
    table = words()["exclusions"]
    what = re.sub(rf"(?<=\d)(?:{table['newer']})(?!\w)", "+", what, flags=re.IGNORECASE)
    pieces = [what] if alone else [piece for piece in re.split(table["or"], what, flags=re.IGNORECASE) if piece.strip()]
    for number, piece in enumerate(pieces):
        one = _thing(piece, why, first=not number)
        if one is None:
            return
        yield one


def _thing(piece: str, why: Why, first: bool) -> Excluded | None:
    """One thing, by the surest sign that the words have of what it is called."""
    table = words()["exclusions"]
    if (path := _PATH.search(piece.replace("\\", "/"))) is not None:
        return Excluded(path.group(), False, "", why, path=True)
    called = re.search(table["called"], piece, re.IGNORECASE)
    rest = piece[called.end() :] if called is not None else piece
    quoted = _QUOTED.search(rest)
    also = _ALSO.search(rest)
    sort = called["sort"] if called else (quoted["behind"] or quoted["sort"]) if quoted else ""
    name = also["name"] if also else quoted["name"] if quoted else _ENDS.split(rest, maxsplit=1)[0].split("(")[0]
    name = re.sub(rf"^{table['article']}", "", name.strip(" *_`\"'“”„«».,:"), flags=re.IGNORECASE)
    marked = also or quoted or called or name[:1].isupper() or re.search(r"\w[-_.]\w", name)
    if not name or len(name.split()) > _MOST_WORDS or re.match(table["never"], name, re.I) or not (first or marked):
        return None
    return Excluded(name, quoted is not None and also is None, (sort or "").lower(), why)
