"""Sides: folders of scripts that run in different places, and which names belong to the side that defines them."""

from __future__ import annotations

import math
import posixpath
from collections import Counter
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.guess import Guess
from hookset.learning.kinds import LearnedKind
from hookset.learning.lists import SPLITS
from hookset.learning.material import Material, Sort

__all__ = ["LearnedSides", "sides_of"]

_PAIRS = (("server", "client"), ("sv", "cl"))
"""What the folders are called in which scripts of one side lie, whatever the letter case."""
_BOTH = ("shared", "common", "both", "sh")
"""The same of scripts that run on both."""
_MOST_FOLDERS = 3
"""Folders with sides that are named one by one."""
_ONE_IN, _SOME = 20, 8
"""One in so many uses may ask for a name that the other side has, which is a fault; and one in all, of so many."""
_LEAST = 4
"""Different names that only one side has, and that are used there."""
_WAYS = math.log2(3)
"""What a place may mean: the side that it is on, the one, the other. To choose one of them explains so many bits."""
_BITS = 4
"""How many must be left, where each name that only one side has might as well have been the other side's."""


class LearnedSides(Struct, frozen=True, dict=True):
    """The sides, where their files lie, and what belongs to one of them."""

    names: tuple[str, str]
    both: str
    """What stands for the side in paths of what both have; empty where there is no such folder."""
    tops: tuple[str, ...]
    """The folders in which those of the sides lie."""
    files: Mapping[str, str]
    """The side that each file in them is on; empty for both."""
    kinds: frozenset[str] = frozenset()
    """Those whose names count on the side that defines them only."""
    asked: Mapping[Guess, str] = {}
    """Rules that mean names of one side, wherever they are asked for."""
    sorts: frozenset[Sort] = frozenset()
    """The sorts of files in which such names are defined or asked for, and which lie on sides."""
    fits: int = 0
    uses: int = 0
    """How many uses of such names find them on the side on which they run, and how many there are."""

    @cached_property
    def fronts(self) -> tuple[str, ...]:
        """What patterns begin with that mean files of any side."""
        if len(self.tops) > _MOST_FOLDERS:
            return ("**/{side}",)
        return tuple(f"{top}/{{side}}" if top else "{side}" for top in self.tops)

    def globs(self, sort: Sort) -> tuple[str, ...]:
        """The patterns of a sort: those first that say the side."""
        sided = [f"{front}/**/*{ending}" for front in self.fronts for ending in self.endings(sort)]
        # Scripts as others ask for them, by the way from the folder of their side, are nowhere else.
        return (*sided, *(() if sided and _by_way(sort) else sort.globs))

    def endings(self, sort: Sort) -> tuple[str, ...]:
        """Those of files of a sort that are on a side, or on both."""
        return tuple(dict.fromkeys(posixpath.splitext(path)[1] for path in sort.paths if path in self.files))


def _by_way(sort: Sort) -> bool:
    """Whether its files are looked at for where they lie, and not for what they say."""
    return sort.format == "any"


def sides_of(material: Material, guesses: Sequence[Guess], kinds: Sequence[LearnedKind]) -> LearnedSides | None:
    """The sides; None where no folders are called so, or nothing that is used speaks for a difference between them."""
    paths = [path for sort in material.sorts for path in sort.paths]
    for one, other in _PAIRS:
        for names, both, tops in _folders(paths, one, other):
            words = {name: name for name in names} | ({both: ""} if both else {})
            files = {path: side for path in paths if (side := _side(path, words, tops)) is not None}
            found = LearnedSides(names, both, tops, files)
            endings = Counter(ending for sort in material.sorts for ending in found.endings(sort))
            mixed = frozenset(ending for ending, often in endings.items() if often > 1)
            belonging = [made for kind in kinds if (made := _belonging(found, kind, guesses, mixed)) is not None]
            if belonging:
                return replace(
                    found,
                    kinds=frozenset(made.kind for made in belonging),
                    asked={guess: side for made in belonging for guess, side in made.asked.items()},
                    sorts=frozenset(sort for made in belonging for sort in made.sorts),
                    fits=sum(made.fits for made in belonging),
                    uses=sum(made.uses for made in belonging),
                )
    return None


def _side(path: str, words: Mapping[str, str], tops: Sequence[str]) -> str | None:
    """The side that a file is on; empty for both, None for a file in none of the folders. Where those are many, the
    folders of one side alone are some of them."""
    if len(tops) > _MOST_FOLDERS:
        word = next((step for step in reversed(path.split("/")[:-1]) if step in words), None)
    else:
        above = (top for top in tops if path.startswith(f"{top}/" if top else ""))
        steps = (path[len(top) + 1 if top else 0 :].partition("/") for top in above)
        word = next((step for step, below, _ in steps if below and step in words), None)
    return words[word] if word is not None else None


def _folders(paths: Iterable[str], one: str, other: str) -> Iterator[tuple[tuple[str, str], str, tuple[str, ...]]]:
    """(names of the sides, of what both have, the folders in which those lie), for each way to spell them."""
    endings: dict[str, dict[str, set[str]]] = {}
    for path in paths:
        steps, ending = path.split("/")[:-1], posixpath.splitext(path)[1]
        for number, step in enumerate(steps):
            if step.lower() in (one, other, *_BOTH):
                endings.setdefault("/".join(steps[:number]), {}).setdefault(step, set()).add(ending)
    tops: dict[tuple[str, str], list[str]] = {}
    for top, there in endings.items():
        first = next((step for step in there if step.lower() == one), "")
        second = next((step for step in there if step.lower() == other), "")
        if first and second and there[first] & there[second]:
            tops.setdefault((first, second), []).append(top)
    for names, mine in tops.items():
        alike = Counter(step for top in mine for step in endings[top] if step.lower() in _BOTH)
        yield names, next((step for step, _ in alike.most_common(1)), ""), tuple(sorted(mine))


class _Belonging(Struct, frozen=True):
    """A kind of which each name belongs to the side that defines it."""

    kind: str
    asked: Mapping[Guess, str]
    sorts: frozenset[Sort]
    fits: int
    uses: int


class _Uses(Struct, frozen=True):
    """The uses of a rule, understood in one way."""

    side: str
    """The side whose names it means; empty for the one on which it is used."""
    fits: int
    uses: int
    telling: frozenset[str]
    """Names that only one side has, and that are used where that one is meant."""

    @property
    def fit(self) -> bool:
        """Whether nearly all find their name."""
        return self.uses - self.fits <= max(self.uses // _ONE_IN, int(self.uses >= _SOME))

    @property
    def bits(self) -> float:
        """How much of it is not to be explained by having chosen the way, and the faults."""
        return len(self.telling) - _WAYS - (self.uses - self.fits) * math.log2(max(2, self.uses))


def _belonging(
    sides: LearnedSides, kind: LearnedKind, guesses: Sequence[Guess], mixed: Container[str]
) -> _Belonging | None:
    """What belongs to a side of a kind; None where nothing does, or no pattern says it: `mixed` are endings of files on
    sides that are of several sorts."""
    mine = [guess for guess in guesses if guess.targets and guess.targets[0] in kind.vocabularies]
    sorts = {one.place.sort for one in kind.vocabularies} | {guess.place.sort for guess in mine}
    sided = frozenset(sort for sort in sorts if sides.endings(sort))
    if any(ending in mixed for sort in sided if not _by_way(sort) for ending in sides.endings(sort)):
        return None
    if any(one.own for one in kind.vocabularies):
        return None
    there: dict[str, set[str]] = {}
    for vocabulary in kind.vocabularies:
        for path, text in vocabulary.by_file if not vocabulary.outside else ():
            there.setdefault(text, set()).update({side} if (side := sides.files.get(path)) else sides.names)
    known = {text: frozenset(on) for text, on in there.items()}
    understood = {guess: _understood(sides, guess, known) for guess in mine}
    best = {guess: uses for guess, uses in understood.items() if uses is not None}
    if len(best) < len(mine):
        return None
    bits = sum(uses.bits for uses in best.values() if uses.telling)
    if len({name for uses in best.values() for name in uses.telling}) < _LEAST or bits < _BITS:
        return None
    asked = {guess: uses.side for guess, uses in best.items() if uses.side}
    fits, used = sum(one.fits for one in best.values()), sum(one.uses for one in best.values())
    return _Belonging(kind.name, asked, sided, fits, used)


def _understood(sides: LearnedSides, guess: Guess, known: Mapping[str, frozenset[str]]) -> _Uses | None:
    """What the uses of a rule mean; None where they mean now the one and now the other side."""
    ways = (_uses(sides, guess, known, side) for side in ("", *sides.names))
    right = [way for way in ways if way.fit]
    # Of two that fit as well the plain one is meant: what is used on one side only is of that side anyway.
    return max(right, key=lambda way: way.fits, default=None)


def _uses(sides: LearnedSides, guess: Guess, known: Mapping[str, frozenset[str]], side: str) -> _Uses:
    fits = uses = 0
    telling: set[str] = set()
    every = frozenset(sides.names)
    for text, path in zip(guess.place.said.texts, guess.place.said.paths, strict=True):
        here = side or sides.files.get(path, "")
        wanted = frozenset((here,)) if here else every
        for name in SPLITS[guess.split].split(text) if guess.split else (text,):
            has = known.get(name)
            if has is None:
                continue
            uses += 1
            if wanted <= has:
                fits += 1
                if has != every:
                    telling.add(name)
    return _Uses(side, fits, uses, frozenset(telling))
