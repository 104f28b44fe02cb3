"""What is too rare to say much by itself, and is likely by what is known of others."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.guess import Guess
from hookset.learning.place import Place
from hookset.learning.vocabulary import NAMING, Vocabulary

__all__ = ["with_kin"]

_WORDY = 4
"""Letters of a word that says what is meant."""
_NOT_ALL = -1.5
"""Logarithm (base 10) of the chance: what fits by accident as often as this, fits whatever it is called."""
_MOST = 0.75
"""Of the texts that begin in one way: how many must be names, where those that begin in another surely are."""
_OWN = 2
"""Other sorts of records that have others of their own sort under a word."""
_CONSTANT = re.compile(r"[A-Z][A-Z0-9]*(?:_[A-Z0-9]+)+")
_SURELY = 2
"""Places that surely use some of the constants of a header."""
_STEP = re.compile(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])")
_VALUES = NAMING | {"value", "ref"}
"""Words that do not say what is meant: what they stand in does."""
_SORTS = frozenset(("type", "kind", "class", "def", "definition"))
"""What stands behind the word of what there is one sort of: `unit-type`."""
_MAKING = frozenset(("add", "define", "declare", "register", "create", "new", "make", "load"))
"""What stands beside the word of what is made there: `TextureAdd`."""


class _Strong(Struct, frozen=True):
    """What the rules that are not weak say of others."""

    words: frozenset[tuple[str, str, Vocabulary]]
    """Which word, in which form, is a name of what."""
    own: Mapping[tuple[int, str], int]
    """By sort and word: how many sorts of records have others of their own sort there."""
    folders: frozenset[tuple[int, str]]
    """Which sort names files in which folder."""
    parts: frozenset[tuple[int, str, Vocabulary]]
    """In which sort what stands under a word surely is a name of what, where it begins in some way."""
    constants: frozenset[Vocabulary]
    """The constants of a header that are used in several places."""

    @classmethod
    def of(cls, guesses: Iterable[Guess]) -> _Strong:
        strong = [guess for guess in guesses if guess.evidence.band != "weak"]
        parts = [one for one in strong if one.evidence.band == "sure" and "only" in one.place.asked]
        used = Counter(target for one in strong for target in one.targets[:1])
        return cls(
            frozenset((one.place.word, one.place.form, target) for one in strong for target in one.targets),
            Counter((id(one.place.sort), one.place.word) for one in strong if _are_of_own_sort(one)),
            frozenset((id(one.place.sort), folder) for one in strong for folder in _folders(one)),
            frozenset((id(one.place.sort), one.place.word, target) for one in parts for target in one.targets),
            frozenset(one for one, often in used.items() if often >= _SURELY and one.place.word == "constant"),
        )

    def is_kin(self, guess: Guess) -> bool:
        """Whether a weak rule is like some of them, or is called after what it refers to."""
        place, first = guess.place, guess.targets[:1]
        if guess.evidence.misfits:
            met = any((id(place.sort), place.word, target) in self.parts for target in first)
            return met and "only" in place.asked and guess.evidence.hits >= _MOST * guess.evidence.texts
        if any((place.word, place.form, target) in self.words for target in guess.targets):
            return True
        if any((id(place.sort), folder) in self.folders for folder in _folders(guess)):
            return True
        if any(_is_word_of(place, target) for target in first):
            return True
        if any(target in self.constants for target in first) and _are_constants(place.counts):
            return True
        rare = guess.evidence.chance <= _NOT_ALL
        own = self.own.get((id(place.sort), place.word), 0) >= _OWN and _are_of_own_sort(guess)
        return rare and (own or any(_is_called_after(place, target) for target in first))


def with_kin(guesses: Sequence[Guess]) -> Iterator[Guess]:
    """What is rare, and fits, is likely where the same word means the same in other files: what a call is given on the
    server, and on the clients; where it is the word of what is named; where under the same word others, too, have one
    of their own sort: `extends`; where it is written as files are that others name in the same folder; where texts
    that begin otherwise surely mean the same; and where all are constants of those that others use."""
    strong = _Strong.of(guesses)
    for guess in guesses:
        likely = guess.evidence.band == "weak" and guess.place.word and strong.is_kin(guess)
        yield replace(guess, evidence=replace(guess.evidence, band="likely")) if likely else guess


def _are_constants(texts: Iterable[str]) -> bool:
    """Whether texts are written as constants are: `DAMAGE_BY_FIRE`."""
    return all(map(_CONSTANT.fullmatch, texts))


def _folders(guess: Guess) -> tuple[str, ...]:
    """Where files lie that are written as such: with their ending, or with steps."""
    return guess.files.under if guess.files is not None and not guess.bare else ()


def _is_word_of(place: Place, target: Vocabulary) -> bool:
    """Whether what names something is called as the records are that something is one of: `system` in a start, and
    what stands behind `system` or is its `name`."""
    around = target.place.word if target.place.form == "name" else target.place.around
    named = target.place.form == "name" or target.place.word.lower() in NAMING
    return named and place.form == "value" and len(around) >= _WORDY and place.word.lower() == around.lower()


def _are_of_own_sort(guess: Guess) -> bool:
    """Whether records of one sort have others of the same sort there."""
    place = guess.place
    named = (one.place for one in guess.targets[:1] if one.place.word.lower() in NAMING)
    return bool(place.around) and any(place.sort is one.sort and place.around == one.around for one in named)


def _is_called_after(place: Place, target: Vocabulary) -> bool:
    """Whether the word of a place begins or ends with what its target is called: `required-role` with `role`,
    `completeResearch` with the file `research`."""
    steps = _steps(place.around if place.around and place.word.lower() in _VALUES else place.word)
    theirs = _steps(_called(target))
    if len(theirs) > 1 and theirs[-1] in _SORTS | _MAKING:
        theirs = theirs[:-1]
    if not theirs or len("".join(theirs)) < _WORDY:
        return False
    return steps[: len(theirs)] == theirs or steps[-len(theirs) :] == theirs


def _called(target: Vocabulary) -> str:
    """What there is one sort of, in a word."""
    place = target.place
    if place.form in ("name", "thing", "folder") and "sections" not in place.asked:
        return place.word
    if place.form == "value" and place.word.lower() in NAMING and place.around:
        return place.around
    if place.form == "value" and _MAKING.intersection(_steps(place.word)[-1:]):
        return place.word
    files = place.sort.globs if place.form in ("key", "name") and not place.around else ()
    return posixpath.splitext(posixpath.basename(files[0]))[0] if len(files) == 1 else ""


def _steps(word: str) -> list[str]:
    """The words in a word, in small letters, one of each: `requiredStructures` is `required` and `structure`."""
    return [step.lower().rstrip("s") for step in _STEP.findall(word)]
