"""Texts that are names: in which vocabularies, and how likely that is by accident."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hookset.learning.candidate import Candidate
from hookset.learning.evidence import Pool, shape_of, tail
from hookset.learning.likeness import called_alike
from hookset.learning.place import Place, sample_of, standing_at
from hookset.learning.vocabulary import Vocabulary
from hookset.model import Where

__all__ = ["NamedTexts"]

_FURTHER = 4
"""Places beside the best one that may define names of the same kind."""
_ENOUGH = 0.97
"""Of the texts: where so many are explained, nothing further is looked for."""
_AS_GOOD = 0.995
"""Of what records of all sorts explain: what those of one sort must, to be what is meant."""
_SHARED = 0.3
"""Of the names of the smaller of two vocabularies: those of the other, where what they name is something else."""
_MOST_COMPARED = 24
"""Vocabularies that the texts at one place are compared with."""
_NO_THINGS = 0.25
"""Of what are the keys of texts: how many are no names of things, where texts are meant."""
_OF_TEXTS = 0.9
"""Of the texts at a place: how many are keys of texts for people, where those are meant and nothing beside them."""
_FEW = 3
_ALL = 2.0
"""By how much likelier a vocabulary is that has all of the texts."""


class NamedTexts:
    """The vocabularies of a map, by the texts that are names in them."""

    def __init__(self, places: Sequence[Place], known: Sequence[Vocabulary]) -> None:
        self.known = known
        whole = (text for place in places if not place.segment for text in place.counts)
        self.pool = Pool.of(whole, sum(map(_counts, known)))
        self.index: dict[str, list[int]] = {}
        """The numbers of the vocabularies that a text is in."""
        self.whole: dict[str, int] = {}
        """In how many of those that say something by that."""
        for number, vocabulary in enumerate(known):
            for name in vocabulary.names:
                self.index.setdefault(name, []).append(number)
                if _counts(vocabulary):
                    self.whole[name] = self.whole.get(name, 0) + 1
        named = filter(_names_things, known) if any(one.of_texts for one in known) else ()
        self.things = frozenset(name for one in named for name in one.names)
        self._samples = [sample_of(one.place) for one in known]
        self._by_place = {one.place: number for number, one in enumerate(known)}

    def number(self, place: Place) -> int:
        """The number of the vocabulary that a place is; -1 for one that defines nothing."""
        return self._by_place.get(place, -1)

    def best(self, place: Place, texts: Sequence[str], without: frozenset[int], split: str = "") -> Candidate | None:
        """The vocabularies, but for `without`, whose names most of the texts are."""
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
        meant = {one: often for one, often in meant.items() if self._is_meant(one, texts)}
        best_first = Counter(meant).most_common(_MOST_COMPARED)
        near = [number for number, _ in best_first if self.known[number].place.sort is place.sort]
        mine = (
            standing_at(place, {stand for number in near for stand in self._samples[number]}) if near else frozenset()
        )
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
        log = min(0.0, tail(len(covered), len(texts), chance) + math.log10(len(targets) ** 2))
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

    def _is_meant(self, number: int, texts: Sequence[str]) -> bool:
        """Whether texts may mean the names of a vocabulary: the keys of texts for people only where many are no names
        of things, which have texts that are called as they are."""
        vocabulary = self.known[number]
        if not vocabulary.of_texts:
            return True
        met = [text for text in texts if text in vocabulary.names]
        return sum(text not in self.things for text in met) >= _NO_THINGS * len(met)

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
        best = next((one for one in order if self._is_text_of_all(one, texts)), order[0])
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
            if number in targets or self._general(number) in targets or self.known[number].of_texts:
                continue
            met = {text for text in texts if text in self.known[number].names}
            more = met - covered
            another = 2 * len(met) < len(texts) and self._is_another(number, best)
            another |= self._is_small(number)
            if len(more) >= max(2, len(texts) // 20) and not another:
                targets.append(number)
                covered |= more
        return targets, covered

    def _is_text_of_all(self, number: int, texts: Sequence[str]) -> bool:
        """Whether a vocabulary is that of the keys of texts for people, and nearly all texts are such keys."""
        known = self.known[number]
        return known.of_texts and sum(text in known.names for text in texts) >= _OF_TEXTS * len(texts)

    def _is_small(self, number: int) -> bool:
        """Whether a vocabulary is two words of some table in a script: those define no names of a kind as well."""
        known = self.known[number]
        return len(known.names) < _FEW and not known.likeness and "assign" in known.place.asked

    def _is_another(self, number: int, best: int) -> bool:
        """Whether a vocabulary has many names of the best one, which stand elsewhere: an object that is called as its
        picture is. What defines more of the same things has names of its own."""
        one, other = self.known[number], self.known[best]
        if not (one.likeness and other.likeness) or one.place.asked == other.place.asked:
            return False
        few, more = sorted((one.names.keys(), other.names.keys()), key=len)
        return sum(name in more for name in few) >= _SHARED * len(few)

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
        sample = self._samples[number]
        if sum(one in mine for one in sample) * 2 > len(sample):
            return True
        few = sample_of(place)
        return len(standing_at(self.known[number].place, few)) * 2 > len(few)


def _names_things(vocabulary: Vocabulary) -> bool:
    """Whether its names are those of things, and not of the texts for people that things have."""
    return vocabulary.likeness > 0 and not (vocabulary.own or vocabulary.of_texts or vocabulary.place.form == "folder")


def _counts(vocabulary: Vocabulary) -> bool:
    """Whether it says something that a text is in a vocabulary as well: not for a part of another one."""
    return vocabulary.place.general is None and not vocabulary.own and vocabulary.place.form != "folder"


class _Asked(Struct, frozen=True):
    """Texts that are looked up together."""

    shapes: Mapping[str, int]
    known: int
    """In how many vocabularies they are, in all."""
    count: int

    def elsewhere(self, hits: int) -> float:
        """In how many vocabularies one is beside the one that is meant, on the average."""
        return max(0, self.known - hits) / max(1, self.count)


def _called(place: Place) -> str:
    """A place in a word."""
    word = place.word or place.around
    return word if word and not word.isdecimal() else f"{word} in {place.sort.globs[0]}".removeprefix(" in ")
