"""From a map to a layout that runs."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from hookset.learning.arrangement import Arrangement, arrangement_of
from hookset.learning.filed import files_named
from hookset.learning.kinds import FILE, LearnedKind, kinds_of
from hookset.learning.layout_text import layout_text
from hookset.learning.material import Material, Unread, material_of
from hookset.learning.rules import Guess, rules_of
from hookset.trees import Tree

__all__ = ["Learned", "learned"]


@dataclass(frozen=True)
class Learned:
    """What was found out about a map."""

    name: str
    material: Material
    guesses: tuple[Guess, ...]
    """The rules that the layout has: those that are sure, then those that are likely."""
    weak: tuple[Guess, ...]
    """Those for which too little speaks."""
    kinds: tuple[LearnedKind, ...]
    places: int
    """How many places were looked at."""
    beyond: tuple[str, ...] = ()
    """Paths of files that the map may count on and has not itself."""
    follows: bool = True
    """Whether it is said which files are loaded."""

    @property
    def outside(self) -> Mapping[str, tuple[str, ...]]:
        """By kind: the names that are not the map's own."""
        found: dict[str, dict[str, None]] = {FILE: dict.fromkeys(self.beyond)}
        kinds = {vocabulary: kind.name for kind in self.kinds for vocabulary in kind.vocabularies}
        for kind in self.kinds:
            for vocabulary in kind.vocabularies:
                if vocabulary.outside:
                    found.setdefault(kind.name, {}).update(dict.fromkeys(vocabulary.names))
                found.setdefault(kind.name, {}).update(dict.fromkeys(sorted(vocabulary.beyond)))
        for guess in self.guesses:
            names = kinds[guess.targets[0]] if guess.targets else FILE
            paths = files_named(sorted(guess.counted_on), guess.files) if guess.files is not None else ()
            found.setdefault(names, {}).update(dict.fromkeys(paths or sorted(guess.counted_on)))
        return {kind: tuple(names) for kind, names in found.items() if names}

    @cached_property
    def text(self) -> str:
        """The layout file."""
        return layout_text(self.name, self.material, self.guesses, self.kinds, self.arrangement, self.weak)

    @cached_property
    def arrangement(self) -> Arrangement:
        """How the map is put together."""
        return arrangement_of(self.material, self.guesses, self.kinds, self.follows)

    @property
    def unread(self) -> tuple[Unread, ...]:
        """What was not looked into."""
        return self.material.unread

    @property
    def read(self) -> int:
        """How many files were looked into."""
        return sum(len(sort.documents) for sort in self.material.sorts)

    def without(self, numbers: Collection[int]) -> Learned:
        """The same without some of the rules, by their number from one."""
        guesses = tuple(guess for number, guess in enumerate(self.guesses, 1) if number not in numbers)
        return replace(self, guesses=guesses, kinds=kinds_of(guesses, self.weak)) if numbers else self

    def called(self, names: Mapping[str, str]) -> Learned:
        """The same with other names of kinds, by the name that each has."""
        kinds = tuple(replace(kind, name=names.get(kind.name, kind.name)) for kind in self.kinds)
        return replace(self, kinds=kinds) if names else self


def learned(tree: Tree, name: str, further: Sequence[Tree] = ()) -> Learned:
    """Learn a layout called `name` from a map; `further` are what it may count on, such as the base game's folders."""
    material = material_of(tree)
    rules = rules_of(material, [material_of(one) for one in further])
    kept = tuple(guess for guess in rules.guesses if guess.evidence.band != "weak")
    weak = tuple(guess for guess in rules.guesses if guess.evidence.band == "weak")
    return Learned(name, material, kept, weak, kinds_of(kept, weak), rules.places, rules.beyond)
