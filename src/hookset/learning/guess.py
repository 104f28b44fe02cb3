"""A rule that was found, with what speaks for it and against it."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hookset.learning.evidence import Band
from hookset.learning.filed import FileWriting
from hookset.learning.place import Place
from hookset.learning.vocabulary import Vocabulary
from hookset.model import Where

__all__ = ["Evidence", "Guess", "Misfit"]


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
    """Texts, or parts of texts, that are numbers are not meant."""
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
