"""The parts of notes, by their headings: those that tell how a thing is used, those that are left to the builder."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping

from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.said.conditions import since_always, unlabelled
from hookset.authoring.draft.words import words

__all__ = ["headings_in", "is_landmark", "is_mentioned", "is_optional", "is_usage"]

_RULE = re.compile(r"(?:[-=_*~#+.] ?){5,}")
_NEAREST = 100
_CAPITALS = re.compile(r"[A-ZÄÖÜÉ][A-ZÄÖÜÉ ,&-]{3,40}:?")
"""What parts of plain notes end or begin with."""


def headings_in(notes: Iterable[Notes]) -> Mapping[tuple[str, int], str]:
    """The heading that each line of notes is under: "PART A: you do not have the lanterns"."""
    return {place: heading for one in notes for place, heading in _headings(one)}


def is_usage(heading: str) -> bool:
    """Whether a part tells how something is used, once it is there."""
    return _is(heading, "usage")


def is_mentioned(chunk: Chunk) -> bool:
    """Whether a call within a sentence is only told of: "to stop it, call …"."""
    said = chunk.near[-1].text.partition(chunk.text)[0] if chunk.inline and chunk.near else ""
    return "(" in chunk.text and re.search(words()["parts"]["mentioned"], said, re.IGNORECASE) is not None


def is_landmark(chunk: Chunk) -> bool:
    """Whether a text within a sentence is only there to find the place by: "below `a.start()` add …"."""
    said = chunk.near[-1].text.partition(chunk.text)[0] if chunk.inline and chunk.near else ""
    source = rf"(?<!\w)(?:{words()['parts']['landmark']})[`\"'“„(]*$"
    return re.search(source, said[-_NEAREST:], re.IGNORECASE) is not None


def is_optional(chunk: Chunk, heading: str) -> bool:
    """Whether the notes leave it to the builder to set a text."""
    source, said = words()["parts"]["optional-said"], since_always(chunk.said)
    return _is(heading, "optional") or re.search(rf"(?<!\w)(?:{source})(?!\w)", said, re.I) is not None


def _headings(notes: Notes) -> Iterator[tuple[tuple[str, int], str]]:
    heading = ""
    for line in notes.lines:
        bare = line.text.strip()
        if not line.code and (line.heading or unlabelled(bare) != bare or _CAPITALS.fullmatch(bare)):
            heading = unlabelled(bare)
        elif _RULE.fullmatch(bare):
            heading = ""
        yield (notes.path, line.number), heading


def _is(heading: str, sort: str) -> bool:
    return re.fullmatch(rf"\W*(?:{words()['parts'][sort]})\W*", heading, re.IGNORECASE) is not None
