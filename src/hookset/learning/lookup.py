"""What the texts at one place may be: names of vocabularies, files, or lists of either."""

from __future__ import annotations

import math
import posixpath
import re
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from typing import TypeVar

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.evidence import NUMBER, Pool, shape_of, tail
from hookset.learning.filed import Files, FileWriting
from hookset.learning.likeness import called_alike
from hookset.learning.lists import SPLITS, marks_of
from hookset.learning.place import Place, sample_of, standing_at
from hookset.learning.vocabulary import Vocabulary
from hookset.model import Where

__all__ = ["Candidate", "Lookup", "folder_of"]

_MOST_TEXTS = 4_000
"""Different texts of a place that are looked up."""
_FOLDER = re.compile(r"(?P<folder>[^/\\]+)[/\\]")
_ENDING = re.compile(r"\.[A-Za-z][A-Za-z0-9]{0,7}")
_FURTHER = 4
"""Places beside the best one that may define names of the same kind."""
_ENOUGH = 0.97
"""Of the texts: where so many are explained, nothing further is looked for."""
_AS_GOOD = 0.995
"""Of what records of all sorts explain: what those of one sort must, to be what is meant."""
_MOST_COMPARED = 24
"""Vocabularies that the texts at one place are compared with."""
_BARE = 4.0
"""By how much less likely files are that are named without their ending: other names are often the same."""
_STEPPED, _DOTTED = 0.002, 0.03
"""The chance that what is written like a path without its ending is one."""
_LIKE_FOLDER = 1.5
"""By how much likelier files are whose folder is called like what names them."""
_MOST_APART = 3
"""Files in one folder of which none is there: so many are no mistake."""
_LEAST_BARE = 0.02
"""The chance that a word is a file, at least: files are often called after what they are for."""
_EXPLAINED = 0.75
_FEW = 3
_NOTHING = frozenset(
    ("", "-", "--", "none", "null", "nil", "no", "yes", "never", "false", "true", "off", "on", "0", "-1")
)
"""Words that stand where there could be a name, and say that there is none, or whether there is one at all."""
_T = TypeVar("_T")
_ENOUGH_TOLD = 200
"""Texts of many that say what sort they are."""
_SELDOM = 0.25
"""Of those: where fewer are any names or files, nobody means them so."""
_ALL = 2.0
"""By how much likelier a vocabulary is that has all of the texts."""
_PLAIN_ENOUGH = -6.0
"""The logarithm of a chance that is so small that nothing else need be tried."""


class Candidate(Struct, frozen=True):
    """What the texts at a place may be."""

    chance: float
    """The logarithm (base 10)."""
    hits: frozenset[str]
    texts: Sequence[str]
    targets: tuple[int, ...] = ()
    files: FileWriting | None = None
    split: str = ""
    runner_up: str = ""
    spelled: bool = False
    """Whether they are files that are written as such: with an ending, or a folder."""
    endings: tuple[str, ...] = ()
    """Of parts of texts: those with these endings are meant."""
    no_numbers: bool = False
    """Texts, or parts of texts, that are numbers are not meant."""
    apart: str = ""
    """What files begin with that are not at hand, those of the base game for instance: they are not meant."""
    nothing: tuple[str, ...] = ()
    """Words among the texts that stand for none: they are not meant."""
    counted_on: frozenset[str] = frozenset()
    """What the base game itself says at the same place: what is there, though none of its files show it."""

    @property
    def share(self) -> float:
        """How many of the texts are explained."""
        return len(self.hits) / len(self.texts)

    @property
    def rank(self) -> tuple[bool, float]:
        """What explains most texts comes first, then what is least likely by accident."""
        return self.share < _EXPLAINED, self.chance + (0.0 if self.spelled or self.targets else _BARE)


class Lookup:
    """The vocabularies and files of a map, by the texts that name them."""

    def __init__(
        self,
        places: Sequence[Place],
        known: Sequence[Vocabulary],
        files: Files,
        elsewhere: Mapping[Place, frozenset[str]] | None = None,
    ) -> None:
        """`elsewhere` is what the base game says at the same places as the map."""
        self.known, self.files, self.elsewhere = known, files, elsewhere or {}
        self.pool = Pool.of(
            (text for place in places for text in place.counts),
            sum(map(_counts, known)),
        )
        self.index: dict[str, list[int]] = {}
        self.whole: dict[str, int] = {}
        for number, vocabulary in enumerate(known):
            for name in vocabulary.names:
                self.index.setdefault(name, []).append(number)
                if _counts(vocabulary):
                    self.whole[name] = self.whole.get(name, 0) + 1
        self.samples = [sample_of(one.place) for one in known]
        self.by_place = {one.place: number for number, one in enumerate(known)}

    def number(self, place: Place) -> int:
        """The number of the vocabulary that a place is; -1 for one that defines nothing."""
        return self.by_place.get(place, -1)

    def best(self, place: Place, without: frozenset[int]) -> Candidate | None:
        """What the texts at a place most likely are, looked up in all vocabularies but `without`; None where nothing
        speaks for anything."""
        texts = [text for text in place.counts if len(text) <= 200][:_MOST_TEXTS]
        found = self._meant(place, texts, without)
        also = self.elsewhere.get(place, frozenset())
        if found is None or found.split or not also:
            return found
        plain = {text.replace("\\", "/") for text in also} if found.files is not None else also
        neutral = {
            text
            for text in texts
            if text not in found.hits and (text in also or (plain is not also and text.replace("\\", "/") in plain))
        }
        own = self._best(place, [text for text in texts if text not in neutral], without) if neutral else found
        if own is None or own.split or own.share < _EXPLAINED:
            return found
        return replace(own, hits=own.hits | neutral, texts=texts, counted_on=also)

    def _meant(self, place: Place, texts: Sequence[str], without: frozenset[int]) -> Candidate | None:
        """The best for all texts, or for all but those that say that there is none, or but for numbers."""
        found = self._best(place, texts, without)
        words = [text for text in texts if not NUMBER.fullmatch(text)] if found and found.share < _EXPLAINED else texts
        if len(words) < len(texts) and place.form == "value" and not place.parts:
            own = self._best(place, words, without)
            if own is not None and own.share >= _EXPLAINED and not own.split:
                return replace(own, no_numbers=True)
        nothing = tuple(text for text in texts if text.casefold() in _NOTHING and found and text not in found.hits)
        if found is None or not nothing:
            return found
        own = self._best(place, [text for text in texts if text not in nothing], without)
        return replace(own, nothing=nothing) if own is not None and own.share > found.share else found

    def _best(self, place: Place, texts: Sequence[str], without: frozenset[int]) -> Candidate | None:
        if not texts:
            return None
        found = [one for one in (self._filed(place, texts), self._named(place, texts, without)) if one is not None]
        plain = [one for one in found if one.chance <= _PLAIN_ENOUGH and one.share >= _EXPLAINED]
        hits = max((one.hits for one in plain), key=len, default=frozenset[str]())
        # Once most texts are names, what lists several is among the others.
        left = [text for text in texts if text not in hits] if plain else texts
        whole = "\n".join(map(str.strip, left))
        for split in SPLITS:
            if any(mark in whole for mark in marks_of(split)):
                found += self._listed(place, texts, split, without, 1 if plain else len(texts) // 5)
        if plain:
            # All as before, and more.
            found = [one for one in found if not one.split or one.share > max(other.share for other in plain)]
            most = max(found, key=lambda one: (one.share, -one.chance))
            if most.split and most.chance <= _PLAIN_ENOUGH:
                return most
        return min(found, key=lambda one: (_often(place, one) < _EXPLAINED, *one.rank), default=None)

    def _filed(self, place: Place, texts: Sequence[str]) -> Candidate | None:
        if place.form not in ("value", "call", "key", "name") or all(map(NUMBER.fullmatch, texts)):
            return None
        found = self._files(texts, place.owners)
        if found is None or not found.spelled or found.share < 1 or not _like_folder(place.word, found.files):
            return found
        return replace(found, chance=found.chance - _LIKE_FOLDER)

    def _files(self, texts: Sequence[str], owners: Mapping[str, Sequence[str]]) -> Candidate | None:
        """The files that texts are; `owners` are files that say each of them."""
        wordy = [text for text in texts if any(map(str.isalpha, text))]
        if len(wordy) > _ENOUGH_TOLD and not self.files.any_called(_few(wordy), _SELDOM):
            return None
        said = [(text, path) for text in wordy for path in owners[text]]
        writing = self.files.writing_of([text for text, _ in said], [path for _, path in said]) if said else None
        if writing is None:
            return None
        hits = [text for text in texts if self.files.mostly_found(text, owners[text], writing)]
        if not hits or self.files.mostly_own(hits, owners, writing):
            return None
        # A path with an ending is no word that others use by accident; a bare word may be.
        chance = min(0.5, len(self.files.paths) / 20_000) if not writing.suffix else self._bare(texts, writing)
        marks = (writing.joint,) if writing.joint else ("/", "\\")
        written = ("." in text.rpartition("/")[2] or any(mark in text for mark in marks) for text in hits)
        spelled = sum(written) * 2 > len(hits)
        if spelled and writing.suffix:
            # A whole way to a file is no accident; a word with a dot in it may be.
            stepped = sum(any(mark in text for mark in marks) for text in hits) * 2 > len(hits)
            chance = _STEPPED if stepped else _DOTTED
        elif spelled:
            chance = min(chance, 0.05) * 0.02
        apart = _apart(texts, hits)
        if apart:
            texts = [text for text in texts if folder_of(text) != apart]
        met, asked = len(hits), len(texts)
        if writing.beside:
            # The same word in several folders is a file of its own in each.
            asked = sum(len(owners[text]) for text in texts)
            met = sum(self.files.found(text, path, writing) for text in texts for path in owners[text])
        log = min(0.0, tail(met, asked, min(0.9, chance)) + _log(writing.freedom))
        return Candidate(log, frozenset(hits), texts, files=writing, spelled=spelled, apart=apart)

    def _bare(self, texts: Sequence[str], writing: FileWriting) -> float:
        """How likely one of some words is a file by accident, whose ending it leaves out."""
        there = Counter(map(shape_of, self.files.called(writing)))
        asked = Counter(map(shape_of, texts))
        elsewhere = sum(self.whole.get(text, 0) for text in texts) / len(texts)
        return max(_LEAST_BARE, self.pool.chance(asked, elsewhere, there, 0.0))

    def _named(self, place: Place, texts: Sequence[str], without: frozenset[int], split: str = "") -> Candidate | None:
        own = self.number(place)
        asked = _Asked(Counter(map(shape_of, texts)), sum(self.whole.get(text, 0) for text in texts), len(texts))
        hits: dict[int, int] = {}
        for text in texts:
            numbers: Iterable[int] = self.index.get(text, ())
            if numbers and text.isdecimal():
                # What is no table of ids has numbers for other reasons.
                numbers = (number for number in numbers if self._numbered(place, number))
            for number in numbers:
                hits[number] = hits.get(number, 0) + 1
        meant = {
            number: count
            for number, count in hits.items()
            if number != own and number not in without and self._within_reach(number, place)
        }
        if most := max((often for one, often in meant.items() if self.known[one].place.form != "folder"), default=0):
            # What folders are called often says so itself, in the folder.
            meant = {
                one: often for one, often in meant.items() if self.known[one].place.form != "folder" or often > most
            }
        best_first = Counter(meant).most_common(_MOST_COMPARED)
        near = [number for number, _ in best_first if self.known[number].place.sort is place.sort]
        mine = standing_at(place, {stand for number in near for stand in self.samples[number]}) if near else frozenset()
        # Of what explains as much by as little chance, the smaller vocabulary is what is meant.
        scored = sorted(
            (self._score(place, number, count, asked), len(self.known[number].names), number)
            for number, count in best_first
            if number not in near or not self._same_place(place, mine, number)
        )
        if not scored:
            return None
        targets, covered = self._targets([number for *_, number in scored], texts)
        names: Counter[str] = Counter()
        for number in targets:
            names.update(self.known[number].shapes)
        density = max(self.known[number].density for number in targets)
        chance = self.pool.chance(asked.shapes, asked.elsewhere(len(covered)), names, density)
        log = min(0.0, tail(len(covered), len(texts), chance) + _log(len(targets) ** 2))
        if len(covered) == len(texts) and len(texts) >= _FEW:
            # What is called as what it refers to says so by that as well. The same word twice is as often used twice.
            first = self.known[targets[0]]
            twice = place.word.lower() == first.place.word.lower() and not first.likeness
            log -= 0.0 if twice else called_alike(place, first.place)
        runner = next(
            (number for *_, number in scored if number not in targets and 2 * hits[number] >= len(covered)), None
        )
        other = self.known[runner].place if runner is not None else None
        return Candidate(
            log,
            frozenset(covered),
            texts,
            tuple(targets),
            split=split,
            runner_up=f"{_called(other)} ({hits[runner or 0]})" if other is not None else "",
        )

    def _numbered(self, place: Place, number: int) -> bool:
        """Whether numbers can mean the names of a vocabulary: those of a table of ids, or of what is called so."""
        vocabulary = self.known[number]
        return vocabulary.counted or (vocabulary.numbers and called_alike(place, vocabulary.place) > 0)

    def _within_reach(self, number: int, place: Place) -> bool:
        """Whether a place can mean the names of a vocabulary: those of a file by what is in the file, and not
        those of things by what says how its own file is called."""
        vocabulary = self.known[number]
        of_things = vocabulary.place.form in ("thing", "folder")
        if of_things and place.says_its_own and vocabulary.place.folders & place.folders:
            return False
        return not vocabulary.own or (vocabulary.place.sort is place.sort and place.form == "value")

    def _targets(self, order: Sequence[int], texts: Sequence[str]) -> tuple[list[int], set[str]]:
        """The vocabularies that explain some texts, the best one first, and the texts that they explain."""
        best = order[0]
        covered = {text for text in texts if text in self.known[best].names}
        general = self._general(best)
        if general in order:
            more = {text for text in texts if text in self.known[general].names}
            if len(covered) < _AS_GOOD * len(more):
                best, covered = general, more
        targets = [best]
        for number in order:
            if len(covered) >= _ENOUGH * len(texts) or len(targets) > _FURTHER:
                break
            if number in targets or self._general(number) in targets:
                continue
            more = {text for text in texts if text in self.known[number].names} - covered
            if len(more) >= max(2, len(texts) // 20):
                targets.append(number)
                covered |= more
        return targets, covered

    def _general(self, number: int) -> int:
        """The vocabulary of records of all sorts, for one of a single sort; -1 where there is none."""
        general = self.known[number].place.general
        return -1 if general is None else self.number(general)

    def _score(self, place: Place, number: int, hits: int, asked: _Asked) -> float:
        """The smaller, the likelier."""
        vocabulary = self.known[number]
        chance = self.pool.chance(asked.shapes, asked.elsewhere(hits), vocabulary.shapes, vocabulary.density)
        log = tail(hits, asked.count, chance)
        alikeness = called_alike(place, vocabulary.place)
        bonus = 1.5 * vocabulary.likeness + 1.5 * alikeness + _ALL * (hits == asked.count)
        return log - bonus + 3.0 * bool(vocabulary.place.when)

    def _same_place(self, place: Place, mine: frozenset[tuple[str, Where]], number: int) -> bool:
        """Whether the names of a vocabulary are the very texts that are looked up; `mine` are those of the samples that
        stand at the place."""
        sample = self.samples[number]
        if sum(one in mine for one in sample) * 2 > len(sample):
            return True
        few = sample_of(place)
        return len(standing_at(self.known[number].place, few)) * 2 > len(few)

    def _listed(
        self, place: Place, texts: Sequence[str], split: str, without: frozenset[int], least: int
    ) -> Iterator[Candidate]:
        """Where `least` texts or more list several: names, perhaps among numbers, or files among other things."""
        if place.asked.keys() & {"only", "split"}:
            # What is a part of a text itself is one name.
            return
        apart = SPLITS[split]
        if sum(apart.search(text) is not None for text in texts) < max(1, least) or place.form not in ("value", "call"):
            return
        owners: dict[str, Sequence[str]] = {}
        for text, paths in _few(place.owners.items()):
            owners.update(dict.fromkeys(filter(None, map(str.strip, apart.split(text))), paths))
        if len(place.owners) > _ENOUGH_TOLD and not self._any_known(owners):
            return
        owners = {}
        for text, paths in place.owners.items():
            for part in apart.split(text):
                owners.setdefault(part.strip(), paths)
        parts = [part for part in owners if part][:_MOST_TEXTS]
        named = self._named(place, parts, without, split)
        if named is not None:
            yield named
        words = [part for part in parts if not NUMBER.fullmatch(part)]
        if words and len(words) < len(parts):
            named = self._named(place, words, without, split)
            if named is not None:
                yield replace(named, no_numbers=True)
        if split != " ":
            yield from self._listed_files(parts, words, owners, split)

    def _listed_files(
        self, parts: Sequence[str], words: Sequence[str], owners: Mapping[str, Sequence[str]], split: str
    ) -> Iterator[Candidate]:
        """Files among the parts of texts: those that are no numbers, or those with certain endings."""
        endings = Counter(posixpath.splitext(part)[1] for part in parts)
        known = frozenset(one for one in endings if _ENDING.fullmatch(one) and one.lower() in self.files.endings)
        filed = [part for part in parts if posixpath.splitext(part)[1] in known]
        files = self._files(filed, owners) if filed else None
        if files is not None:
            yield replace(files, split=split, endings=tuple(sorted(known)))
        bare = self._files(words, owners) if words and len(words) < len(parts) and not filed else None
        if bare is not None:
            yield replace(bare, split=split, no_numbers=True)

    def _any_known(self, parts: Iterable[str]) -> bool:
        """Whether some of the parts that texts have are names of anything, or files."""
        words = [part for part in parts if not NUMBER.fullmatch(part)]
        named = sum(part in self.index for part in words)
        return named >= _SELDOM * len(words) or self.files.any_called(words, _SELDOM)


def _counts(vocabulary: Vocabulary) -> bool:
    """Whether it says something that a text is in a vocabulary as well: not for a part of another one."""
    return vocabulary.place.general is None and not vocabulary.own and vocabulary.place.form != "folder"


def _few(texts: Iterable[_T]) -> Sequence[_T]:
    """Some of many, from all over."""
    whole = list(texts)
    return whole[:: max(1, len(whole) // _ENOUGH_TOLD)]


class _Asked(Struct, frozen=True):
    """Texts that are looked up together."""

    shapes: Mapping[str, int]
    known: int
    """In how many vocabularies they are, in all."""
    count: int

    def elsewhere(self, hits: int) -> float:
        """In how many vocabularies one is beside the one that is meant, on the average."""
        return max(0, self.known - hits) / max(1, self.count)


def _often(place: Place, found: Candidate) -> float:
    """In how many places the texts are explained: a few may stand in many."""
    if found.split:
        return found.share
    counts = [(often, text in found.hits) for text, often in place.counts.items()]
    return sum(often for often, hit in counts if hit) / sum(often for often, _ in counts)


def _like_folder(word: str, files: FileWriting | None) -> bool:
    """Whether what names files is called like the folder that they lie in: `sound_file` in `sounds/effects`."""
    steps = {
        step.lower().rstrip("s") for folder in (files.under if files is not None else ()) for step in folder.split("/")
    }
    return any(len(step) > 2 and step in word.lower() for step in steps)


def _apart(texts: Sequence[str], hits: Collection[str]) -> str:
    """The folder that several begin with which are not there, and none that is."""
    known = frozenset(hits)
    missing = Counter(folder for text in texts if text not in known and (folder := folder_of(text)))
    folder, often = missing.most_common(1)[0] if missing else ("", 0)
    alone = often >= _MOST_APART and often <= len(known) and not any(folder_of(text) == folder for text in known)
    return folder if alone else ""


def folder_of(text: str) -> str:
    """The folder that a path begins with, whichever slash it has."""
    found = _FOLDER.match(text)
    return found["folder"] if found is not None else ""


def _called(place: Place) -> str:
    """A place in a word."""
    word = place.word or place.around
    return word if word and not word.isdecimal() else f"{word} in {place.sort.globs[0]}".removeprefix(" in ")


def _log(ways: float) -> float:
    return math.log10(ways)
