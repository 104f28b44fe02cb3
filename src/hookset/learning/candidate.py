"""What the texts at one place may be: names of vocabularies, files, or lists of either."""

from __future__ import annotations

import re
from collections.abc import Sequence

from msgspec import Struct

from hookset.learning.filed import FileWriting

__all__ = ["EXPLAINED", "Candidate", "folder_of", "is_apart"]

EXPLAINED = 0.75
"""Of the texts: how many something must explain to come before what explains fewer."""
_BARE = 4.0
"""By how much less likely files are that are named without their ending: other names are often the same."""
_WHOLE = 1.0
"""By how much likelier it is what explains every text."""


_FOLDER = re.compile(r"(?P<folder>[^/\\]+)[/\\]")


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
    """What texts begin with that are not meant: a folder of files that are not at hand, those of the base game for
    instance, or a word with its colon, of things of another sort."""
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
        bare = 0.0 if self.spelled or self.targets else _BARE
        return self.share < EXPLAINED, self.chance + bare - (_WHOLE if self.share == 1 else 0.0)


def folder_of(text: str) -> str:
    """The folder that a path begins with, whichever slash it has."""
    found = _FOLDER.match(text)
    return found["folder"] if found is not None else ""


def is_apart(text: str, apart: str) -> bool:
    """Whether a text begins with what is not meant."""
    return bool(apart) and (text.startswith(apart) if apart.endswith(":") else folder_of(text) == apart)
