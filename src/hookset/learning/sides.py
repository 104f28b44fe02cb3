"""Sides: folders of scripts that run in different places, and which names belong to the side that defines them."""

from __future__ import annotations

import math
import posixpath
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

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
    kinds: frozenset[str]
    """Those whose names count on the side that defines them only."""
    asked: Mapping[Guess, str]
    """Rules that mean names of one side, wherever they are asked for."""
    sorts: frozenset[Sort] = frozenset()
    """The sorts of files in which such names are defined or asked for, and which lie on sides."""
    fits: int = 0
    uses: int = 0
    """How many uses of such names find them on the side on which they run, and how many there are."""

    def side_of(self, path: str) -> str | None:
        """The side that a file is on; empty for both, None for a file in none of the folders."""
        for top in self.tops:
            inner = path[len(top) + 1 if top else 0 :] if path.startswith(f"{top}/" if top else "") else ""
            step, below, _ = inner.partition("/")
            if below and step in self._words:
                return "" if step == self.both else step
        return None

    @cached_property
    def _words(self) -> frozenset[str]:
        return frozenset((*self.names, self.both)) - {""}

    @cached_property
    def fronts(self) -> tuple[str, ...]:
        """What patterns begin with that mean files of any side."""
        if len(self.tops) > _MOST_FOLDERS:
            return ("**/{side}",)
        return tuple(f"{top}/{{side}}" if top else "{side}" for top in self.tops)

    def globs(self, sort: Sort) -> tuple[str, ...]:
        """The patterns of a sort: those first that say the side."""
        endings = dict.fromkeys(posixpath.splitext(path)[1] for path in sort.paths if self.side_of(path) is not None)
        sided = [f"{front}/**/*{ending}" for front in self.fronts for ending in endings]
        # Scripts as others ask for them, by the way from the folder of their side, are nowhere else.
        return (*sided, *(() if sided and _by_way(sort) else sort.globs))

    def can_say(self, sort: Sort, others: Iterable[Sort]) -> bool:
        """Whether patterns with a side mean the files of a sort only, if they mean any of them."""
        mine = {posixpath.splitext(path)[1] for path in sort.paths if self.side_of(path) is not None}
        theirs = (path for other in others if other is not sort for path in other.paths)
        return _by_way(sort) or not any(
            posixpath.splitext(path)[1] in mine and self.side_of(path) is not None for path in theirs
        )


def _by_way(sort: Sort) -> bool:
    """Whether its files are looked at for where they lie, and not for what they say."""
    return sort.format == "any"


def sides_of(material: Material, guesses: Sequence[Guess], kinds: Sequence[LearnedKind]) -> LearnedSides | None:
    """The sides; None where no folders are called so, or nothing that is used speaks for a difference between them."""
    paths = [path for sort in material.sorts for path in sort.paths]
    for one, other in _PAIRS:
        for names, both, tops in _folders(paths, one, other):
            found = LearnedSides(names, both, tops, frozenset(), {})
            belonging = [made for kind in kinds if (made := _belonging(found, kind, guesses, material)) is not None]
            if belonging:
                return LearnedSides(
                    names,
                    both,
                    tops,
                    frozenset(made.kind for made in belonging),
                    {guess: side for made in belonging for guess, side in made.asked.items()},
                    frozenset(sort for made in belonging for sort in made.sorts),
                    sum(made.fits for made in belonging),
                    sum(made.uses for made in belonging),
                )
    return None


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
    sides: LearnedSides, kind: LearnedKind, guesses: Sequence[Guess], material: Material
) -> _Belonging | None:
    mine = [guess for guess in guesses if guess.targets and guess.targets[0] in kind.vocabularies]
    sorts = {one.place.sort for one in kind.vocabularies} | {guess.place.sort for guess in mine}
    if any(one.own for one in kind.vocabularies) or not all(sides.can_say(sort, material.sorts) for sort in sorts):
        return None
    there: dict[str, set[str]] = {}
    for vocabulary in kind.vocabularies:
        for path, text in vocabulary.by_file if not vocabulary.outside else ():
            there.setdefault(text, set()).update({side} if (side := sides.side_of(path)) else sides.names)
    known = {text: frozenset(on) for text, on in there.items()}
    understood = {guess: _understood(sides, guess, known) for guess in mine}
    best = {guess: uses for guess, uses in understood.items() if uses is not None}
    if len(best) < len(mine):
        return None
    bits = sum(uses.bits for uses in best.values() if uses.telling)
    if len({name for uses in best.values() for name in uses.telling}) < _LEAST or bits < _BITS:
        return None
    asked = {guess: uses.side for guess, uses in best.items() if uses.side}
    sided = frozenset(sort for sort in sorts if any(sides.side_of(path) is not None for path in sort.paths))
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
        here = side or sides.side_of(path) or ""
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
