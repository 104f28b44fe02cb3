"""From places to rules: which texts are references, to what, and how sure that is."""

from __future__ import annotations

import itertools
import posixpath
from collections import Counter
from collections.abc import Collection, Container, Iterable, Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.evidence import NUMBER, Band, band_of
from hookset.learning.exceptions import excepted, exception_of
from hookset.learning.filed import Files, FileWriting
from hookset.learning.known import Known
from hookset.learning.lists import SPLITS
from hookset.learning.lookup import Candidate, Lookup, called_alike, folder_of, stands
from hookset.learning.material import Material
from hookset.learning.modules import module_vocabularies
from hookset.learning.place import Place
from hookset.learning.places import places_of
from hookset.learning.things import thing_vocabularies
from hookset.learning.vocabulary import Vocabulary, vocabularies
from hookset.model import Where

__all__ = ["Evidence", "Guess", "Misfit", "Rules", "rules_of"]

_EACH = 0.8
"""Of the texts at each of several places: how many must be names for all to be one."""
_TELLING = 3
"""Different texts that a place has which is asked by itself whether it is one with others."""
_FEW_KEYS = 24
"""Keys that a record may have: a table by names has more, or other ones than the next."""
_SHOWN = 5
"""Texts that are no names, of those of a rule for which too little speaks."""
_MOST_ASKED = 50_000
"""Texts of such a rule of which it is asked whether others explain them."""
_COVERED = 0.8
"""Of the texts at a place: where rules that come first explain so many, it needs none of its own."""


class Misfit(Struct, frozen=True):
    """A text that is no name though its place refers to names."""

    path: str
    where: Where
    text: str


class Evidence(Struct, frozen=True):
    """What speaks for a rule, and what against it."""

    hits: int
    texts: int
    """How many texts stand at the place, and how many of them are names."""
    names: int
    """Different names that are used."""
    chance: float
    """The logarithm (base 10) of how likely that is by accident."""
    band: Band
    examples: tuple[str, ...]
    misfits: tuple[Misfit, ...]
    """Of a weak one only some."""
    runner_up: str = ""
    """What else it may be."""


class Guess(Struct, frozen=True, eq=False):
    """The texts at a place are names from there."""

    place: Place
    targets: tuple[Vocabulary, ...]
    """What defines them, the one that explains most first; none for files."""
    files: FileWriting | None
    evidence: Evidence
    split: str = ""
    """What stands between names where one text lists several."""
    bare: bool = False
    """Whether they are files that are written as mere words: names are often those of files, too."""
    endings: tuple[str, ...] = ()
    """Of several parts of a text: those with these endings are meant, and no others."""
    no_numbers: bool = False
    """Of several parts of a text: those that are numbers are not meant."""
    apart: str = ""
    """What files begin with that are not meant, since they are not at hand."""
    nothing: tuple[str, ...] = ()
    """Texts that are not meant, since they say that there is none."""
    counted_on: frozenset[str] = frozenset()
    """Texts that are there because the base game itself says them at the same place."""
    unless: Mapping[str, str] = {}
    """What stands beside texts that are not meant, and beside no others."""
    confirmed: bool = False
    """Whether a person has said that it is right."""

    @property
    def band(self) -> str:
        """How sure it is: `sure`, `likely`, `weak`, or `confirmed`."""
        return "confirmed" if self.confirmed else self.evidence.band


class Rules(Struct, frozen=True):
    """All that was found."""

    material: Material
    guesses: tuple[Guess, ...]
    places: int
    """How many places were looked at."""
    beyond: tuple[str, ...] = ()
    """Paths of files that the map may count on and has not itself."""


def rules_of(material: Material, further: Iterable[Material] = (), known: Known | None = None) -> Rules:
    """What the files of a map say of how they hang together. `further` are what the map may count on, such as the base
    game: names are looked up there, too. What a layout at hand sees, `known`, is left out."""
    written = [place for sort in material.sorts for place in places_of(sort)]
    places = [place for place in written if not known.sees(place)] if known is not None else written
    paths = {*material.tree.paths()}
    said: dict[tuple[str, ...], set[str]] = {}
    theirs: list[Place] = []
    for one in further:
        paths |= {*one.tree.paths()}
        theirs += (place for sort in one.sorts for place in places_of(sort))
    for place in theirs:
        said.setdefault(_way(place), set()).update(place.counts)
    elsewhere = {place: frozenset(said[way]) for place in places if (way := _way(place)) in said}
    mine = vocabularies(places, elsewhere=elsewhere)
    both = {_way(one.place) for one in mine}
    filed = (*module_vocabularies(material.sorts), *thing_vocabularies(material.sorts, material.media))
    named = [*mine, *filed, *(known.vocabularies if known is not None else ())]
    named += (one for one in vocabularies(theirs, outside=True) if _way(one.place) not in both)
    choice = _Choice(Lookup(written, named, Files(frozenset(paths)), elsewhere))
    beyond = tuple(sorted(paths - {*material.tree.paths()}))
    return Rules(material, tuple(map(_with_exception, choice.guesses(places))), len(places), beyond)


def _with_exception(guess: Guess) -> Guess:
    """The rule without the texts that are no names where something stands beside those, and beside no others."""
    evidence = guess.evidence
    misfits = {(one.path, one.where) for one in evidence.misfits}
    exception = exception_of(guess.place, misfits) if evidence.band != "weak" and not guess.split else None
    if exception is None:
        return guess
    without = excepted(guess.place, exception)
    left = tuple(one for one in evidence.misfits if (one.path, one.where) not in without)
    hits = evidence.hits - len(without - misfits)
    whole = hits + len(left)
    spelled = guess.files is not None and not guess.bare
    band = band_of(evidence.chance, hits / whole if whole else 0.0, evidence.names, len(left), whole, spelled)
    kept = replace(evidence, hits=hits, texts=whole, misfits=left, band=band)
    return replace(guess, evidence=kept, unless=dict((exception,)))


def _with_kin(guesses: Sequence[Guess]) -> Iterator[Guess]:
    """What is too rare to say much by itself is likely where the same word means the same in other files: what a call
    is given on the server, and on the clients."""
    known = {
        (guess.place.word, guess.place.form, target)
        for guess in guesses
        for target in guess.targets
        if guess.evidence.band != "weak"
    }
    for guess in guesses:
        alone = guess.evidence.band == "weak" and not guess.evidence.misfits and guess.place.word
        kin = any((guess.place.word, guess.place.form, target) in known for target in guess.targets)
        yield replace(guess, evidence=replace(guess.evidence, band="likely")) if alone and kin else guess


def _rank(place: Place) -> tuple[bool, int, int]:
    """Which of several places comes first: what stands beside texts says more than what they begin with."""
    return place.general is not None and "only" in place.asked, -len(place.said.texts), len(place.when)


def _by_place(guess: Guess) -> bool:
    """Whether texts are what files or folders are called, and perhaps no more than that."""
    called = guess.bare or any(target.place.form == "folder" for target in guess.targets[:1])
    return called and not _used_again(guess.place)


def _same_shape(target: Vocabulary, hits: Collection[str]) -> bool:
    """Whether a few keys are just those of another table: two records say the same of things, and refer to nothing."""
    return target.place.form == "key" and len(hits) <= _FEW_KEYS and len(hits) == len(target.names)


def _way(place: Place) -> tuple[str, ...]:
    """What is asked of which files: the same in the map and in the base game."""
    endings = {posixpath.splitext(glob)[1] for glob in place.sort.globs}
    return (place.sort.format, *sorted(endings), repr(dict(place.asked)), repr(dict(place.when)))


def _called_so(guess: Guess, target: Vocabulary) -> bool:
    """Whether a place and what it refers to, in other files, have the same word."""
    return (
        guess.evidence.band == "sure"
        and guess.place.form == "value"
        and guess.place.word.lower() == target.place.word.lower()
        and guess.place.sort is not target.place.sort
    )


def _used_again(place: Place) -> bool:
    """Whether what a call is given is given to it again and again: a use, whatever the call is called."""
    return place.form == "call" and 2 * len(place.counts) < len(place.said.texts)


def _guess_of(tried: Mapping[Place, Guess | None], place: Place) -> Guess | None:
    """What a place seems to be; where all of which it is a part are looked at together, what those are."""
    guess = tried.get(place)
    return tried.get(place.general) if guess is None and place.general is not None else guess


def _as_one(guess: Guess) -> bool:
    """Whether what explains several places together explains each of them."""
    if guess.evidence.band != "sure" or guess.split:
        return False
    misfits = {one.text for one in guess.evidence.misfits}
    return all(
        sum(text not in misfits for text in part.counts) >= _EACH * len(part.counts)
        for part in guess.place.parts
        if len(part.counts) >= _TELLING
    )


def _meant(guess: Guess, text: str) -> bool:
    """Whether a rule says anything of a text: not all that stand at its place need be names."""
    if guess.endings and not any(ending in text for ending in guess.endings):
        return False
    return not (guess.apart and folder_of(text) == guess.apart)


class _Choice(Struct, frozen=True):
    """Among what places may be: what they are, all taken together."""

    lookup: Lookup

    def guesses(self, places: Iterable[Place]) -> Iterator[Guess]:
        """The rules: first what each place seems to refer to, then without what is itself no definition."""
        tried = self._each(places, frozenset())
        no_definitions = frozenset(self._no_definitions(tried))
        covered: dict[int, set[tuple[str, Where]]] = {}
        unchanged = {
            place: guess
            for place, guess in tried.items()
            if guess is None or not any(self.lookup.number(one.place) in no_definitions for one in guess.targets)
        }
        votes = Counter(target for one in tried.values() if one is not None for target in one.targets[:1])
        settled = self._each(places, no_definitions, unchanged)
        again = [
            guess
            for guess in settled.values()
            if guess is not None
            and not self._reversed(guess, tried, votes)
            and (not guess.place.parts or _as_one(guess))
        ]
        defining = {target.place for guess in again if guess.evidence.band != "weak" for target in guess.targets}
        # Texts that are each there once are names themselves, though files are called after them.
        again = [
            one
            for one in again
            if one.place.general not in defining and not (_by_place(one) and self._defines(one.place, defining))
        ]
        again = list(_with_kin(again))
        order = {"sure": 0, "likely": 1, "weak": 2}
        again.sort(key=lambda one: (order[one.evidence.band], *_rank(one.place)))
        for guess in again:
            done = covered.setdefault(id(guess.place.sort), set())
            said = zip(guess.place.said.texts, stands(guess.place), strict=True)
            step = 1 if guess.evidence.band != "weak" else len(guess.place.said.texts) // _MOST_ASKED + 1
            mine = {stand for text, stand in itertools.islice(said, 0, None, step) if _meant(guess, text)}
            if len(mine & done) < _COVERED * len(mine):
                done |= mine
                yield guess

    def _each(
        self, places: Iterable[Place], without: frozenset[int], known: Mapping[Place, Guess | None] | None = None
    ) -> dict[Place, Guess | None]:
        """What each place seems to be, as far as it is not known. One sort of records is looked at by itself where all
        together are not sure, and so is each of several ways to the same key."""
        found: dict[Place, Guess | None] = {}
        seen: set[Place] = set()
        for place in sorted(places, key=lambda one: (not one.parts, one.general is not None)):
            general = found.get(place.general) if place.general is not None else None
            if place in seen or place.general in seen or (general is not None and general.evidence.band == "sure"):
                continue
            guess = known[place] if known is not None and place in known else self._tried(place, without)
            found[place] = guess
            if place.parts and guess is not None and _as_one(guess):
                seen.update(place.parts)
        return found

    def _no_definitions(self, tried: Mapping[Place, Guess | None]) -> Iterator[int]:
        """The vocabularies that are references themselves."""
        first = [(guess, guess.targets[0]) for guess in tried.values() if guess is not None and guess.targets]
        votes = Counter(target for _, target in first)
        # What is called the same where it is used defines it there, even if its names are of something else, too.
        called = {target for guess, target in first if _called_so(guess, target)}
        for number, vocabulary in enumerate(self.lookup.known):
            guess = tried.get(vocabulary.place)
            if guess is None or vocabulary in called or guess.evidence.band == "weak" or guess.bare:
                continue
            if guess.files is not None:
                # What is called as names are may be like the way to its file.
                if not (vocabulary.likeness and guess.files.suffix):
                    yield number
                continue
            other = guess.targets[0]
            back = _guess_of(tried, other.place)
            if back is not None and vocabulary in back.targets and self._first(vocabulary, other, votes) is vocabulary:
                continue
            yield number

    def _defines(self, place: Place, defining: Container[Place]) -> bool:
        """Whether a place looks like one of definitions, or others refer to it. A list of texts and nothing else names
        what is somewhere else."""
        listing = str(place.asked.get("at", "")).endswith("[*]") or not place.asked
        return self.lookup.number(place) >= 0 and (place in defining or not listing)

    def _first(self, one: Vocabulary, other: Vocabulary, votes: Mapping[Vocabulary, int]) -> Vocabulary:
        """Which of two that have the same names defines them."""

        def weight(it: Vocabulary) -> tuple[float, ...]:
            return (it.likeness + min(votes.get(it, 0), 4), len(it.names), -len(it.place.said.texts))

        return one if weight(one) >= weight(other) else other

    def _reversed(self, guess: Guess, tried: Mapping[Place, Guess | None], votes: Mapping[Vocabulary, int]) -> bool:
        """Whether what a place is said to refer to is rather what refers to it."""
        own = self.lookup.number(guess.place)
        if own < 0 or guess.files is not None:
            return False
        vocabulary, target = self.lookup.known[own], guess.targets[0]
        back = _guess_of(tried, target.place)
        if back is None or vocabulary not in back.targets:
            return False
        return self._first(vocabulary, target, votes) is vocabulary

    def _tried(self, place: Place, without: frozenset[int]) -> Guess | None:
        found = self.lookup.best(place, without)
        return None if found is None else self._guess(place, found)

    def _guess(self, place: Place, best: Candidate) -> Guess:
        evidence = self._evidence(place, best)
        bare = best.files is not None and not best.spelled
        targets = tuple(self.lookup.known[one] for one in best.targets)
        return Guess(
            place,
            targets,
            best.files,
            evidence,
            best.split,
            bare,
            best.endings,
            best.no_numbers,
            best.apart,
            best.nothing,
            best.counted_on,
        )

    def _evidence(self, place: Place, found: Candidate) -> Evidence:
        first = self.lookup.known[found.targets[0]] if found.targets else None
        met, whole, names = self._counted(place, found)
        share = min(len(found.hits) / len(found.texts), met / whole) if whole else 0.0
        told = band_of(found.chance, share, names, whole - met, whole, found.spelled)
        counted = sum(map(str.isdecimal, found.hits)) * 2 > len(found.hits)
        called_so = any(called_alike(place, self.lookup.known[one].place) for one in found.targets)
        # What a section is called behind the sort of thing that it is, that thing is called.
        own_name = place.form == "name" and "only" in place.asked
        # Numbers are everywhere: only what is called alike makes ids of them.
        shape = place.form == "key" and not place.used and first is not None and _same_shape(first, found.hits)
        weak = place.form == "function" or own_name or shape or (counted and not called_so)
        band = "weak" if weak else told
        # Of what is weak some are shown, and no more is asked.
        misfits = itertools.islice(self._misfits(place, found), _SHOWN if band == "weak" else None)
        return Evidence(
            met,
            whole,
            names,
            found.chance,
            band,
            tuple(text for text in found.texts if text in found.hits)[:3],
            tuple(misfits),
            found.runner_up,
        )

    def _counted(self, place: Place, found: Candidate) -> tuple[int, int, int]:
        """(how many of the texts at a place are names, how many there are, how many different names)"""
        met = whole = 0
        names: set[tuple[str, str]] = set()
        if not self._by_file(found):
            for text, often in place.counts.items():
                for part in _parts_meant(text, found):
                    whole += often
                    if part in found.hits:
                        met += often
                        names.add((part, ""))
            return met, whole, len(names)
        beside = found.files is not None and found.files.beside
        said = place.said
        for text, path in zip(said.texts, said.paths, strict=True):
            for part in _parts_meant(text, found):
                whole += 1
                if self._is_met(part, path, found):
                    met += 1
                    names.add((part, posixpath.dirname(path) if beside else ""))
        return met, whole, len(names)

    def _misfits(self, place: Place, found: Candidate) -> Iterator[Misfit]:
        """What at a place is no name, in file order."""
        by_file, said = self._by_file(found), place.said
        parts = {text: _parts_meant(text, found) for text in place.counts}
        if not by_file:
            parts = {text: [one for one in each if one not in found.hits] for text, each in parts.items()}
        for text, path, where in zip(said.texts, said.paths, said.wheres, strict=True):
            for part in parts[text]:
                if not (by_file and self._is_met(part, path, found)):
                    yield Misfit(path, where, part)

    def _by_file(self, found: Candidate) -> bool:
        """Whether the same text may be a name in one file and none in another."""
        own = bool(found.targets) and self.lookup.known[found.targets[0]].own
        return own or (found.files is not None and found.files.beside)

    def _is_met(self, part: str, path: str, found: Candidate) -> bool:
        """Whether a text is a name in a file."""
        if found.files is not None and found.files.beside and not self.lookup.files.found(part, path, found.files):
            return False
        first = self.lookup.known[found.targets[0]] if found.targets else None
        return part in found.hits and (first is None or not first.own or (path, part) in first.by_file)


def _parts_meant(text: str, found: Candidate) -> list[str]:
    """What is meant of a text: all of it, or some of the parts that it lists."""
    parts = [one.strip() for one in SPLITS[found.split].split(text)] if found.split else [text]
    return [
        part
        for part in parts
        if part
        and part not in found.nothing
        and (not found.endings or posixpath.splitext(part)[1] in found.endings)
        and not (found.apart and folder_of(part) == found.apart)
        and not (found.no_numbers and NUMBER.fullmatch(part))
    ]
