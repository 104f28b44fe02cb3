"""From a map to a layout that runs."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from hookset.config.layouts import Layout
from hookset.learning.arrangement import Arrangement, arrangement_of
from hookset.learning.filed import Files, files_named
from hookset.learning.guess import Guess
from hookset.learning.kinds import FILE, LearnedKind, free_name, kept_apart, kinds_of
from hookset.learning.known import Known
from hookset.learning.layout_text import addition_text, layout_text
from hookset.learning.material import Material, Sort, Unread, material_of
from hookset.learning.rules import rules_of
from hookset.trees import Tree

__all__ = ["Learned", "learned"]


class Learned(Struct, frozen=True, dict=True):
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
    known: Known | None = None
    """The layout at hand that is completed, if there is one."""

    @cached_property
    def kind_of(self) -> Mapping[Guess, str]:
        """The kind that each rule refers to."""
        kinds = {vocabulary: kind.name for kind in self.kinds for vocabulary in kind.vocabularies}
        return {
            guess: self._kind_of_files(guess) if guess.files is not None else kinds[guess.targets[0]]
            for guess in self.guesses
        }

    @property
    def in_order(self) -> tuple[Guess, ...]:
        """The rules in the order in which the layout file has them."""
        sorts = {sort: number for number, sort in enumerate(dict.fromkeys(self._sorts))}
        return tuple(sorted(self.guesses, key=lambda guess: sorts[guess.place.sort]))

    @property
    def _sorts(self) -> Iterator[Sort]:
        yield from self.material.sorts
        yield from (guess.place.sort for guess in self.guesses)

    @cached_property
    def _files(self) -> Files:
        return Files(frozenset(self.material.tree.paths()))

    def _kind_of_files(self, guess: Guess) -> str:
        if self.known is None or guess.files is None:
            return FILE
        files, said = self._files, guess.place.said
        named = {
            path
            for text, owner in zip(said.texts, said.paths, strict=True)
            for part in (text.split(guess.split) if guess.split else (text,))
            if (path := files.path_of(part.strip(), owner, guess.files)) is not None
        }
        taken = {name for name, kind in self.known.layout.kinds.items() if name.startswith(FILE)}
        return self.known.kind_of_files(named, guess.files) or free_name(FILE, taken)

    @property
    def outside(self) -> Mapping[str, tuple[str, ...]]:
        """By kind: the names that are not the map's own."""
        found: dict[str, dict[str, None]] = {FILE: dict.fromkeys(self.beyond)} if self.known is None else {}
        for kind in self.kinds:
            for vocabulary in kind.vocabularies:
                if vocabulary.outside:
                    found.setdefault(kind.name, {}).update(dict.fromkeys(vocabulary.names))
                found.setdefault(kind.name, {}).update(dict.fromkeys(sorted(vocabulary.beyond)))
        for guess in self.guesses:
            names = self.kind_of[guess]
            paths = files_named(sorted(guess.counted_on), guess.files) if guess.files is not None else ()
            found.setdefault(names, {}).update(dict.fromkeys(paths or sorted(guess.counted_on)))
        return {kind: tuple(names) for kind, names in found.items() if names}

    @cached_property
    def text(self) -> str:
        """The layout file."""
        if self.known is None:
            return layout_text(self.name, self.material, self.kind_of, self.kinds, self.arrangement, self.weak)
        kinds = self.known.layout.kinds
        added = addition_text(self.material, self.kind_of, self.kinds, self.arrangement, self.weak, kinds)
        return self.known.source.rstrip("\n") + "\n" + added

    @cached_property
    def arrangement(self) -> Arrangement:
        """How the map is put together: of a layout at hand, where it has nothing yet."""
        follows = self.follows and self.known is None
        found = arrangement_of(self.material, self.guesses, self.kinds, follows, self.name)
        return found if self.known is None else _lacking(found, self.known.layout)

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
        return replace(self, guesses=guesses, kinds=self._kinds_of(guesses)) if numbers else self

    def _kinds_of(self, guesses: Sequence[Guess]) -> tuple[LearnedKind, ...]:
        """The kinds that are left, called as they are called now."""
        names = {vocabulary: kind.name for kind in self.kinds for vocabulary in kind.vocabularies}
        found = kinds_of(guesses, self.weak, self.kinds_at_hand)
        return tuple(replace(kind, name=names.get(kind.vocabularies[0], kind.name)) for kind in found)

    def about(self, paths: Collection[str]) -> Learned:
        """The same with those rules only that look into some files."""
        there = {number for number, guess in enumerate(self.guesses, 1) if _looks_into(guess, paths)}
        weak = tuple(guess for guess in self.weak if _looks_into(guess, paths))
        return replace(self.without({*range(1, len(self.guesses) + 1)} - there), weak=weak)

    def confirmed(self, numbers: Collection[int]) -> Learned:
        """The same with some of the rules confirmed by a person, by their number from one."""
        guesses = tuple(
            replace(guess, confirmed=guess.confirmed or number in numbers)
            for number, guess in enumerate(self.guesses, 1)
        )
        return replace(self, guesses=guesses) if numbers else self

    @property
    def kinds_at_hand(self) -> Collection[str]:
        """The kinds of the layout that is completed."""
        return self.known.layout.kinds.keys() if self.known is not None else ()

    def called(self, names: Mapping[str, str]) -> Learned:
        """The same with other names of kinds, by the name that each has."""
        kinds = tuple(
            replace(kind, name=kind.name if kind.known else names.get(kind.name, kind.name)) for kind in self.kinds
        )
        return replace(self, kinds=kinds) if names else self


def learned(tree: Tree, name: str, further: Sequence[Tree] = (), known: Known | None = None) -> Learned:
    """Learn a layout called `name` from a map; `further` are what it may count on, such as the base game's folders.
    What a layout at hand sees, `known`, is not learned again."""
    material = material_of(tree, known.layout if known is not None else None)
    rules = rules_of(material, [material_of(one) for one in further], known)
    guesses = kept_apart(rules.guesses)
    kept = tuple(guess for guess in guesses if guess.evidence.band != "weak")
    weak = tuple(guess for guess in guesses if guess.evidence.band == "weak")
    kinds = kinds_of(kept, weak, known.layout.kinds if known is not None else ())
    return Learned(name, material, kept, weak, kinds, rules.places, rules.beyond, known=known)


def _looks_into(guess: Guess, paths: Collection[str]) -> bool:
    return not {*guess.place.said.paths.different}.isdisjoint(paths)


def _lacking(found: Arrangement, layout: Layout) -> Arrangement:
    """What a layout has nothing of yet: seats in files where it has none, and where the map says what it is called."""
    seats = [
        replace(one, name=free_name(one.name, layout.seats))
        for one in found.seats
        if not any(seat.file.matches(one.file) for seat in layout.seats.values())
    ]
    return Arrangement(None, None, tuple(seats), None, found.descriptor if layout.descriptor is None else None)
