"""What notes say later: a name that is another by now, a piece of an entry that was wrong."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Sequence

from msgspec import Struct

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.found.seating import Known
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.sentences import Sentence, sentences_of
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import says
from hookset.model import Reference

__all__ = ["Correction", "corrections_in", "name_by_now", "said_later"]

_TOKEN = r"[`\"'“]?(?P<{0}>(?<!\w)\w+=\"[^\"\n]*\"|(?<![\w./:-])(?:\w+(?:[./:-]+\w+)+|[^\W_]*_\w*)(?:\(\))?)[`\"'”]?"
_AND_NOT = r"\b(?:and not|not|instead of|rather than|und nicht|nicht|statt|et non|au lieu de)\s+"
_NOT = re.compile(_TOKEN.format("right") + r"(?P<between>[^.;\n]{0,40}?)" + _AND_NOT + _TOKEN.format("wrong"))


class Correction(Struct, frozen=True):
    """A piece of a text to be copied that is to be another."""

    wrong: str
    right: str
    beside: frozenset[str]
    """Words of the sentence, of which one stands in the line that is meant."""
    line: int
    why: Why


def corrections_in(notes: Sequence[Notes]) -> Iterator[Correction]:
    """Each "it is A and not B"."""
    for sentence in sentences_of(notes):
        for match in _NOT.finditer(sentence.text):
            words = frozenset(re.findall(r"\w{3,}", match["between"]))
            if match["wrong"] != match["right"]:
                yield Correction(match["wrong"], match["right"], words, sentence.lines[-1], sentence.why)


def said_later(notes: Sequence[Notes]) -> tuple[Sentence, ...]:
    """The sentences that take something back, or say what it is by now."""
    return tuple(one for one in sentences_of(notes) if says("later", one.text))


def name_by_now(
    site: Site, reference: Reference, line: int, known: Known, later: Sequence[Sentence]
) -> tuple[str, Why] | None:
    """(name, where that is said) for a name that is nowhere: another of its kind that the pack has, which the notes
    name where they take it back, or say what it is called by now; `later` are those sentences."""
    own = [name for kind, name in known.defined if kind == reference.kind and (kind, name) not in known.asked]
    for sentence in later if own else ():
        if line in sentence.lines:
            continue
        there = [name for name in own if _names(sentence.text, name, reference.kind in site.layout.path_kinds)]
        old = _names(sentence.text, reference.written, False)
        if len(there) == 1 and (old or sentence.lines[0] > line):
            return there[0], sentence.why
    return None


def _names(text: str, name: str, path: bool) -> bool:
    words = [name, posixpath.basename(name), posixpath.splitext(posixpath.basename(name))[0]] if path else [name]
    return any(re.search(rf"(?<![\w.-]){re.escape(word)}(?![\w-])", text) is not None for word in words)
