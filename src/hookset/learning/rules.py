"""From places to rules: which texts are references, to what, and how sure that is."""

from __future__ import annotations

import itertools
import posixpath
from collections import Counter
from collections.abc import Container, Iterable, Iterator, Mapping
from functools import cached_property
from typing import TypeGuard

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.aliases import with_aliases
from hookset.learning.candidate import Candidate, is_apart
from hookset.learning.evidence import band_of
from hookset.learning.exceptions import excepted, exception_of
from hookset.learning.filed import Files
from hookset.learning.filed_texts import FILED
from hookset.learning.guess import Guess
from hookset.learning.kin import with_kin
from hookset.learning.known import Known
from hookset.learning.likeness import called_alike
from hookset.learning.lookup import Lookup
from hookset.learning.material import Material
from hookset.learning.modules import module_vocabularies
from hookset.learning.named_files import named_file_vocabularies
from hookset.learning.namespaces import namespaced_vocabularies
from hookset.learning.place import Place
from hookset.learning.places import places_of
from hookset.learning.things import thing_vocabularies
from hookset.learning.vocabulary import NAMING, Vocabulary, vocabularies
from hookset.learning.weighing import evidence_of
from hookset.learning.wholes import EACH, explains_each, is_explained
from hookset.model import Where

__all__ = ["Rules", "rules_of"]

_MOST_ASKED = 50_000
"""Texts of a weak rule of which it is asked whether others explain them."""
_EXPLAINED = 0.99
"""Of the texts of a rule: what another vocabulary must have of them to be as good."""
_ONCE = 0.9
"""Of the texts in a list: how many must be in it once."""
_SOME_FILES, _OFTEN, _ONE_IN = 3, 5, 20
"""Different files that a call names in a way in which another one surely does; how often two of them; and of how many
texts one may be none."""
_COVERED = 0.8
"""Of the texts at a place: where rules that come first explain so many, it needs none of its own."""


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
    elsewhere = {place: frozenset(said[way]) for place in places if said and (way := _way(place)) in said}
    mine = vocabularies(places, elsewhere=elsewhere)
    both = {_way(one.place) for one in mine} if theirs else set()
    filed = (
        *module_vocabularies(material.sorts),
        *thing_vocabularies(material.sorts, material.media),
        *named_file_vocabularies(material.media),
        *namespaced_vocabularies(written, material.tree.paths()),
    )
    named = [*mine, *filed, *(known.vocabularies if known is not None else ())]
    named += (one for one in vocabularies(theirs, outside=True) if _way(one.place) not in both)
    lookup = Lookup(written, named, Files(frozenset(paths)), elsewhere)
    guesses = with_aliases(_Choice(lookup).guesses(places), places, lookup)
    beyond = tuple(sorted(paths - {*material.tree.paths()}))
    return Rules(material, tuple(map(_with_exception, guesses)), len(places), beyond)


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


def _with_known_files(tried: Mapping[Place, Guess | None]) -> Iterator[tuple[Place, Guess | None]]:
    """What places seem to be: where one call surely names files in one way, so does another that is given
    hardly anything else, in files of the same sort."""
    known = {
        (id(place.sort), replace(guess.files, folded=False)): guess.files
        for place, guess in tried.items()
        if guess is not None
        and guess.files is not None
        and guess.files.suffix
        and guess.evidence.band == "sure"
        and place.form == "call"
    }
    for place, guess in tried.items():
        if guess is not None and guess.files is not None and guess.bare and place.form == "call":
            files = known.get((id(place.sort), replace(guess.files, folded=False)))
            evidence = guess.evidence
            if files is not None and _names_some(guess):
                band = "likely" if evidence.band == "weak" else evidence.band
                guess = replace(guess, files=files, bare=False, evidence=replace(evidence, band=band))
        yield place, guess


def _names_some(guess: Guess) -> bool:
    """Whether a call is given several names and hardly anything else."""
    evidence = guess.evidence
    several = evidence.names >= _SOME_FILES or (evidence.names > 1 and evidence.hits >= _OFTEN)
    return several and len(evidence.misfits) <= max(1 if evidence.hits >= _OFTEN else 0, evidence.texts // _ONE_IN)


def _rank(place: Place) -> tuple[bool, int, int]:
    """Which of several places comes first: what stands beside texts says more than what they begin with."""
    return place.general is not None and "only" in place.asked, -len(place.said.texts), len(place.when)


def _by_place(guess: Guess) -> bool:
    """Whether texts are what files or folders are called, and perhaps no more than that."""
    folders = (one.place for one in guess.targets[:1] if one.place.form == "folder")
    called = guess.bare or any("{name}" not in one.asked.values() for one in folders)
    again = _used_again(guess.place) or FILED.search(guess.place.word) is not None
    return called and not again and not _called_as_folder(guess)


def _called_as_folder(guess: Guess) -> bool:
    """Whether the word of a place is that of a folder in which all of its texts are: `course`, and `courses/reef`."""
    place = guess.place
    word = place.around if place.around and place.word.lower() in NAMING else place.word
    folders = guess.files.under if guess.files is not None else guess.targets[0].place.folders
    steps = {step.lower().rstrip("s") for folder in folders for step in folder.split("/")}
    return len(word) > 2 and not guess.evidence.misfits and word.lower().rstrip("s") in steps


def _way(place: Place) -> tuple[str, ...]:
    """What is asked of which files: the same in the map and in the base game."""
    endings = {posixpath.splitext(glob)[1] for glob in place.sort.globs}
    return (place.sort.format, *sorted(endings), repr(dict(place.asked)), repr(dict(place.when)))


def _contradicted(guess: Guess, explained: Mapping[str, Container[Where]]) -> bool:
    """Whether most of what a likely rule would call missing is something else, by rules that are surer."""
    misfits = guess.evidence.misfits
    known = sum(one.where in explained.get(one.path, ()) for one in misfits)
    return guess.evidence.band == "likely" and known > 0 and 2 * known >= len(misfits)


def _called_so(guess: Guess, target: Vocabulary) -> bool:
    """Whether a place and what it refers to, in other files, have the same word; or what is named there is called so:
    `category` in a thing, and `name` in a `Category`."""
    word, said = guess.place.word.lower(), target.place
    named = said.word.lower() in NAMING and word == said.around.lower()
    return (
        guess.evidence.band == "sure"
        and guess.place.form == "value"
        and (word == said.word.lower() or named)
        and guess.place.sort is not said.sort
    )


def _lost_by(guess: Guess, other: Vocabulary) -> bool:
    """Whether a rule that leaves nothing unexplained would leave a few, by the names of another vocabulary."""
    texts = guess.place.counts
    met = sum(text in other.names for text in texts)
    return not guess.split and EACH * len(texts) < met < _EXPLAINED * len(texts)


def _used_again(place: Place) -> bool:
    """Whether what a call is given is given to it again and again: a use, whatever the call is called."""
    return place.form == "call" and 2 * len(place.counts) < len(place.said.texts)


def _is_list_of_scripts(guess: Guess | None) -> TypeGuard[Guess]:
    """Whether a place is a list given to a call, each in it once, of scripts: `guests { "ann", "bob" }`."""
    if guess is None or guess.evidence.band == "weak" or not guess.targets:
        return False
    place = guess.place
    once = len(place.counts) >= _ONCE * len(place.said.texts)
    scripts = all(target.place.form == "module" for target in guess.targets)
    return scripts and once and "call" in place.asked and place.asked.get("field") == "*" and not place.used


def _guess_of(tried: Mapping[Place, Guess | None], place: Place) -> Guess | None:
    """What a place seems to be; where all of which it is a part are looked at together, what those are."""
    guess = tried.get(place)
    return tried.get(place.general) if guess is None and place.general is not None else guess


def _with_parts(tried: Mapping[Place, Guess | None]) -> Mapping[Place, Guess | None]:
    """What each place seems to be, those as well that are explained together with others, as uses."""
    wholes = ((place, guess) for place, guess in tried.items() if guess is not None and place.used)
    parts = {part: guess for place, guess in wholes for part in place.parts if part not in tried}
    return parts | {**tried}


def _voting(tried: Mapping[Place, Guess | None]) -> Iterator[Guess]:
    """What refers to names. Parts of places count where they are not weak, and say something else than the whole."""
    for place, guess in tried.items():
        if guess is not None and guess.targets:
            whole = tried.get(place.general) if place.general is not None and place.when else None
            part = place.general is not None and bool(place.when)
            same = whole is not None and whole.targets[:1] == guess.targets[:1]
            if not part or not (same or guess.evidence.band == "weak"):
                yield guess


def _meant_at(guess: Guess) -> Mapping[str, set[Where]]:
    """Where the texts stand, file by file, of which a rule says something: not all that stand at its place need be
    names. Of very many of a weak rule a part."""
    said = guess.place.said
    step = 1 if guess.evidence.band != "weak" else len(said.texts) // _MOST_ASKED + 1
    found: dict[str, set[Where]] = {}
    if step == 1 and not (guess.endings or guess.apart):
        for path, rows in guess.place.by_path.items():
            found[path] = {where for start, end in rows for where in said.wheres[start:end]}
        return found
    every = zip(said.texts, said.paths, said.wheres, strict=True)
    for text, path, where in itertools.islice(every, 0, None, step):
        if _meant(guess, text):
            found.setdefault(path, set()).add(where)
    return found


def _meant(guess: Guess, text: str) -> bool:
    """Whether a rule says anything of a text."""
    if guess.endings and not any(ending in text for ending in guess.endings):
        return False
    return not is_apart(text, guess.apart)


def _shared(mine: Mapping[str, set[Where]], done: Mapping[str, set[Where]]) -> int:
    """How many of some texts stand where others do."""
    return sum(len(wheres & done[path]) for path, wheres in mine.items() if path in done)


class _Choice(Struct, frozen=True, dict=True):
    """Among what places may be: what they are, all taken together."""

    lookup: Lookup

    @cached_property
    def _called_by(self) -> frozenset[tuple[int, str]]:
        """Sorts, and what records in them are that have a name of their own."""
        named = (one.place for one in self.lookup.known if one.likeness)
        return frozenset((id(one.sort), one.word if one.form == "name" else one.around) for one in named)

    def guesses(self, places: Iterable[Place]) -> Iterator[Guess]:
        """The rules: first what each place seems to refer to, then without what is itself no definition."""
        tried = self._each(places, frozenset())
        tried = dict(_with_known_files(tried))
        with_parts = _with_parts(tried)
        no_definitions = frozenset(self._no_definitions(with_parts))
        covered: dict[tuple[int, int], dict[str, set[Where]]] = {}
        unchanged = self._without(tried, no_definitions)
        votes = Counter(guess.targets[0] for guess in _voting(tried))
        settled = self._by_lists(self._each(places, no_definitions, unchanged), no_definitions)
        settled = dict(_with_known_files(settled))
        again = [
            guess
            for guess in settled.values()
            if guess is not None
            and not self._reversed(guess, with_parts, votes)
            and (not guess.place.parts or explains_each(guess))
        ]
        defining = {target.place for guess in again if guess.evidence.band != "weak" for target in guess.targets}
        # Texts that are each there once are names themselves, though files are called after them.
        again = [
            one
            for one in again
            if one.place.general not in defining and not (_by_place(one) and self._defines(one, defining))
        ]
        again = list(with_kin(again))
        order = {"sure": 0, "likely": 1, "weak": 2}
        again.sort(key=lambda one: (order[one.evidence.band], *_rank(one.place)))
        for guess in again:
            sort, segment = id(guess.place.sort), guess.place.segment
            # Each name of several in a text is one by itself; a text that is a name as a whole has none in it.
            done, whole = (covered.setdefault((sort, number), {}) for number in (segment, 0))
            mine = _meant_at(guess)
            free = max(_shared(mine, done), _shared(mine, whole)) < _COVERED * sum(map(len, mine.values()))
            if free and not _contradicted(guess, done):
                for path, wheres in mine.items():
                    done.setdefault(path, set()).update(wheres)
                yield guess

    def _each(
        self, places: Iterable[Place], without: frozenset[int], known: Mapping[Place, Guess | None] | None = None
    ) -> dict[Place, Guess | None]:
        """What each place seems to be, as far as it is not known. One sort of records is looked at by itself where all
        together are not sure, and so is each of several ways to the same key."""
        found: dict[Place, Guess | None] = {}
        seen: set[Place] = set()
        for place in sorted(places, key=lambda one: (not one.parts, one.general is not None)):
            if place in seen or place.general in seen or is_explained(place, found):
                continue
            guess = known[place] if known is not None and place in known else self._tried(place, without)
            found[place] = guess
            if place.parts and guess is not None and explains_each(guess):
                seen.update(place.parts)
        return found

    def _without(self, tried: Mapping[Place, Guess | None], numbers: frozenset[int]) -> Mapping[Place, Guess | None]:
        """What places seem to be that refer to none of some vocabularies."""
        return {
            place: guess
            for place, guess in tried.items()
            if guess is None or not any(self.lookup.number(one.place) in numbers for one in guess.targets)
        }

    def _no_definitions(self, tried: Mapping[Place, Guess | None]) -> Iterator[int]:
        """The vocabularies that are references themselves."""
        once = {id(guess): guess for guess in _voting(tried)}
        first = [(guess, guess.targets[0]) for guess in once.values()]
        votes = Counter(target for _, target in first)
        # What is called the same where it is used defines it there, even if its names are of something else, too.
        called = {target for guess, target in first if _called_so(guess, target)}
        whole: dict[Vocabulary, list[Guess]] = {}
        for one, target in first:
            plain = one.evidence.band == "sure" and one.evidence.hits == one.evidence.texts
            if plain and 2 * one.evidence.names > len(target.names) and called_alike(one.place, target.place):
                whole.setdefault(target, []).append(one)
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
            if guess.evidence.band == "likely" and any(_lost_by(one, other) for one in whole.get(vocabulary, ())):
                continue
            back = _guess_of(tried, other.place)
            if back is not None and vocabulary in back.targets and self._first(vocabulary, other, votes) is vocabulary:
                continue
            yield number

    def _by_lists(self, settled: Mapping[Place, Guess | None], without: frozenset[int]) -> Mapping[Place, Guess | None]:
        """What names scripts that are all in a list refers to the list: a script that it leaves out is not there."""
        numbers = ((one, self.lookup.number(place)) for place, one in settled.items() if _is_list_of_scripts(one))
        lists = {one: self.lookup.known[number] for one, number in numbers if number >= 0}
        found = dict(settled)
        for place, guess in settled.items() if lists else ():
            for listing, vocabulary in lists.items():
                if guess is None or place is listing.place or not guess.targets:
                    continue
                if {*guess.targets} <= {*listing.targets} and all(text in vocabulary.names for text in place.counts):
                    scripts = {self.lookup.number(one.place) for one in listing.targets}
                    own = self._tried(place, (without | scripts) - {self.lookup.number(listing.place)})
                    if own is not None and own.targets[:1] == (vocabulary,):
                        found[place] = own
        return found

    def _defines(self, guess: Guess, defining: Container[Place]) -> bool:
        """Whether a place looks like one of definitions, or others refer to it. A list of texts and nothing else names
        what is somewhere else; and so does what is a file each time, beside what its record is called by."""
        place, number = guess.place, self.lookup.number(guess.place)
        if number < 0:
            return False
        listing = str(place.asked.get("at", "")).endswith("[*]") or not place.asked
        beside = guess.files is not None and place.form == "value" and not self.lookup.known[number].likeness
        elsewhere = listing or (beside and (id(place.sort), place.around) in self._called_by)
        return place in defining or not elsewhere

    def _first(self, one: Vocabulary, other: Vocabulary, votes: Mapping[Vocabulary, int]) -> Vocabulary:
        """Which of two that have the same names defines them."""

        def weight(it: Vocabulary) -> tuple[float, float, int, int, str]:
            path = min(it.place.said.paths, default="")
            votes_for = min(votes.get(it, 0), 4)
            # Of `berths` and `berths_text`, which are about the same, the former are what there is.
            return -(it.likeness + votes_for), -len(it.names), len(it.place.said.texts), len(path), path

        return one if weight(one) <= weight(other) else other

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
        number = self.lookup.number(place)
        if number >= 0 and self.lookup.known[number].of_texts:
            # Whatever its key is called like, a text is what is below it.
            return None
        found = self.lookup.best(place, without)
        return None if found is None else self._guess(place, found)

    def _guess(self, place: Place, best: Candidate) -> Guess:
        evidence = evidence_of(self.lookup, place, best)
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
