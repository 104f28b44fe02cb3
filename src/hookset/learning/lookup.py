"""What the texts at one place may be: names of vocabularies, files, or lists of either."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec.structs import replace

from hookset.learning.candidate import EXPLAINED, Candidate
from hookset.learning.evidence import NUMBER
from hookset.learning.filed import Files
from hookset.learning.filed_texts import FiledTexts
from hookset.learning.languages import are_translations
from hookset.learning.lists import SPLITS, marks_of
from hookset.learning.named_texts import NamedTexts
from hookset.learning.place import Place
from hookset.learning.sampling import ENOUGH_TOLD, SELDOM, few
from hookset.learning.vocabulary import Vocabulary

__all__ = ["Lookup"]

_MOST_TEXTS = 4_000
"""Different texts of a place that are looked up."""
_ENDING = re.compile(r"\.[A-Za-z][A-Za-z0-9]{0,7}")
_NOTHING = frozenset(
    ("", "-", "--", "none", "null", "nil", "no", "yes", "never", "false", "true", "off", "on", "0", "-1")
)
"""Words that stand where there could be a name, and say that there is none, or whether there is one at all."""
_WORD = re.compile("[a-z]+")
_SOME_NAMES, _OFTEN, _FEW_WORDS = 8, 3, 2
"""Names at a place, how often a word must be there, and how many such words there may be, for one of the game's."""
_FRONT = re.compile(r"[\w.\-]+:(?=.)")
_FRONTED = 8
"""Texts of another sort that begin alike, at least; and among so many texts at a place, one such, at least."""
_FILED, _AMONG, _ALL_BUT_FEW = 3, 4, 0.9
"""Texts with an ending, among so many times as many others without at most, and how many of them must be files."""
_SPELT = re.compile(r"[./\\]")
"""What is in a text that is perhaps meant as a file."""
_PLAIN_ENOUGH = -6.0
"""The logarithm of a chance that is so small that nothing else need be tried."""


def _key_words(place: Place, found: Candidate) -> frozenset[str]:
    """Words of the game's own that stand again and again where there could be a name: `destination` among systems. They
    are written as no name there is."""
    asked = " ".join(map(str, place.asked.values())).removeprefix("**/")
    names = [text for text in found.hits if text]
    # Where any key will do, others are read as well, and what those say are words.
    if place.form not in ("value", "name") or "*" in asked.replace("[*]", ""):
        return frozenset()
    if len(names) < _SOME_NAMES or any(map(_WORD.fullmatch, names)):
        return frozenset()
    words = {text: often for text, often in place.counts.items() if text not in found.hits and _WORD.fullmatch(text)}
    return (
        frozenset(words)
        if len(words) <= _FEW_WORDS and all(often >= _OFTEN for often in words.values())
        else frozenset()
    )


def _front(place: Place, found: Candidate) -> str:
    """The word before a colon that several texts begin with which are no names, and no name there does: `group:soft`
    among `quay:lamp` and `reed:post`."""
    if not found.targets or found.split or 2 * sum(":" in text for text in found.hits) < len(found.hits):
        return ""
    fronts: Counter[str] = Counter()
    for text, often in place.counts.items():
        if text not in found.hits and (mark := _FRONT.match(text)) is not None:
            fronts[mark[0]] += often
    front, often = fronts.most_common(1)[0] if fronts else ("", 0)
    many = often >= _FRONTED and _FRONTED * often >= len(place.said.texts)
    return front if many and not any(text.startswith(front) for text in found.hits) else ""


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
        self.known, self.files, self._elsewhere = known, files, elsewhere or {}
        self._named = NamedTexts(places, known)
        self._anywhere = frozenset(number for number, one in enumerate(known) if one.anywhere)
        self._others = frozenset(range(len(known))) - self._anywhere
        self._filed = FiledTexts(files, self._named.pool, self._named.whole)

    def number(self, place: Place) -> int:
        """The number of the vocabulary that a place is; -1 for one that defines nothing."""
        return self._named.number(place)

    def best(self, place: Place, without: frozenset[int]) -> Candidate | None:
        """What the texts at a place most likely are, looked up in all vocabularies but `without`; None where nothing
        speaks for anything."""
        texts = [text for text in place.counts if len(text) <= 200][:_MOST_TEXTS]
        found = self._meant(place, texts, without)
        if found is not None and found.targets and are_translations(place.said.texts, place.said.paths):
            return None
        also = self._elsewhere.get(place, frozenset())
        if found is None or found.split or not also:
            return found
        plain = {text.replace("\\", "/") for text in also} if found.files is not None else also
        neutral = {
            text
            for text in texts
            if text not in found.hits and (text in also or (plain is not also and text.replace("\\", "/") in plain))
        }
        own = self._best(place, [text for text in texts if text not in neutral], without) if neutral else found
        if own is None or own.split or own.share < EXPLAINED:
            return found
        return replace(own, hits=own.hits | neutral, texts=texts, counted_on=also)

    def _meant(self, place: Place, texts: Sequence[str], without: frozenset[int]) -> Candidate | None:
        """The best for all texts, or for all but those that say that there is none, or but for numbers."""
        found = self._best(place, texts, without)
        words = [text for text in texts if not NUMBER.fullmatch(text)] if found and found.share < EXPLAINED else texts
        if len(words) < len(texts) and place.form == "value" and not place.parts:
            own = self._best(place, words, without)
            if own is not None and own.share >= EXPLAINED and not own.split:
                return replace(own, no_numbers=True)
        if found is None:
            return None
        front = _front(place, found)
        if front:
            own = self._best(place, [text for text in texts if not text.startswith(front)], without)
            if own is not None and own.share >= EXPLAINED and own.targets and not own.split:
                return replace(own, apart=front)
        key_words = _key_words(place, found)
        nothing = tuple(
            text for text in texts if text not in found.hits and (text.casefold() in _NOTHING or text in key_words)
        )
        if not nothing:
            return found
        own = self._best(place, [text for text in texts if text not in nothing], without)
        return replace(own, nothing=nothing) if own is not None and own.share > found.share else found

    def _best(self, place: Place, texts: Sequence[str], without: frozenset[int]) -> Candidate | None:
        if not texts:
            return None
        found = self._best_known(place, texts, without | self._anywhere)
        if not self._anywhere or (found is not None and found.share >= EXPLAINED):
            return found
        named = [one for one in self._named_files(place, texts) if one is not None and one.share >= EXPLAINED]
        return max(named, key=lambda one: (one.share, -one.chance)) if named else found

    def _named_files(self, place: Place, texts: Sequence[str]) -> Iterator[Candidate | None]:
        """Pictures or sounds in any folder, one in each text or several."""
        yield self._named.best(place, texts, self._others)
        whole = "\n".join(texts)
        for split in SPLITS:
            if any(mark in whole for mark in marks_of(split)):
                listed = self._listed(place, texts, split, self._others, 1)
                yield from (one for one in listed if one.targets)

    def _best_known(self, place: Place, texts: Sequence[str], without: frozenset[int]) -> Candidate | None:
        found = [
            one for one in (self._filed.best(place, texts), self._named.best(place, texts, without)) if one is not None
        ]
        plain = [one for one in found if one.chance <= _PLAIN_ENOUGH and one.share >= EXPLAINED]
        hits = max((one.hits for one in plain), key=len, default=frozenset[str]())
        # Once most texts are names, what lists several is among the others.
        left = [text for text in texts if text not in hits] if plain else texts
        whole = "\n".join(map(str.strip, left))
        for split in SPLITS:
            if any(mark in whole for mark in marks_of(split)):
                found += self._listed(place, texts, split, without, 1 if plain else len(texts) // 5)
        found += () if plain else self._with_endings(place, texts)
        if plain:
            # All as before, and more.
            found = [one for one in found if not one.split or one.share > max(other.share for other in plain)]
            most = max(found, key=lambda one: (one.share, -one.chance))
            if most.split and most.chance <= _PLAIN_ENOUGH:
                return most
        return min(found, key=lambda one: (_often(place, one) < EXPLAINED, *one.rank), default=None)

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
        for text, paths in few(place.owners.items()):
            owners.update(dict.fromkeys(filter(None, map(str.strip, apart.split(text))), paths))
        if len(place.owners) > ENOUGH_TOLD and not self._any_known(owners):
            return
        owners = {}
        for text, paths in place.owners.items():
            for part in apart.split(text):
                owners.setdefault(part.strip(), paths)
        parts = [part for part in owners if part][:_MOST_TEXTS]
        named = self._named.best(place, parts, without, split)
        if named is not None:
            yield named
        words = [part for part in parts if not NUMBER.fullmatch(part)]
        if words and len(words) < len(parts):
            named = self._named.best(place, words, without, split)
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
        files = self._filed.among(filed, owners) if filed else None
        if files is not None:
            yield replace(files, split=split, endings=tuple(sorted(known)))
        bare = self._filed.among(words, owners) if words and len(words) < len(parts) and not filed else None
        if bare is not None:
            yield replace(bare, split=split, no_numbers=True)

    def _with_endings(self, place: Place, texts: Sequence[str]) -> Iterator[Candidate]:
        """Files among texts that may as well be names of something else, without an ending and without folders. Where
        more is known of a form, it is told by what stands beside them."""
        if place.sort.format != "text" or place.parts or place.asked.keys() & {"only", "split"}:
            return
        known = {posixpath.splitext(text)[1] for text in texts if "." in text}
        known = {one for one in known if _ENDING.fullmatch(one) and one.lower() in self.files.endings}
        filed = [text for text in texts if posixpath.splitext(text)[1] in known]
        many = len(filed) >= _FILED and _AMONG * len(filed) >= len(texts) > len(filed)
        if many and not any(_SPELT.search(text) for text in {*texts} - {*filed}):
            files = self._filed.among(filed, place.owners)
            if files is not None and files.spelled and files.share >= _ALL_BUT_FEW:
                yield replace(files, endings=tuple(sorted(known)))

    def _any_known(self, parts: Iterable[str]) -> bool:
        """Whether some of the parts that texts have are names of anything, or files."""
        words = [part for part in parts if not NUMBER.fullmatch(part)]
        named = sum(part in self._named.index for part in words)
        return named >= SELDOM * len(words) or self.files.any_called(words, SELDOM)


def _often(place: Place, found: Candidate) -> float:
    """In how many places the texts are explained: a few may stand in many."""
    if found.split:
        return found.share
    counts = [(often, text in found.hits) for text, often in place.counts.items()]
    return sum(often for often, hit in counts if hit) / sum(often for often, _ in counts)
