"""What a form of a built map can do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Protocol

from hookset.trees import Glob, Tree

__all__ = ["ArchiveForm", "is_stored"]

_PACKED = (".png", ".jpg", ".jpeg", ".ogg", ".opus", ".mp3", ".zip", ".webp", ".ktx2")
"""Already packed: packing again costs time and gains nothing."""


class ArchiveForm(Protocol):
    """A form of a built map."""

    @property
    def version(self) -> str:
        """Another one where the same content would give other bytes."""

    def write(
        self, tree: Tree, members: Sequence[str], stored: Sequence[Glob], target: Path, same: frozenset[str]
    ) -> int:
        """Write the members in their order, whole or not at all: equal content gives equal bytes. The `same` are in
        what lies at `target` as they would be written. Gives how many were packed now. Raises OSError."""

    def listed(self, target: Path, fresh: frozenset[str]) -> Mapping[str, int]:
        """What lies there: each member with its size, in order. The `fresh` ones are read to their end, where the form
        has sums to tell by whether they are whole. Raises OSError, or ValueError where something is damaged."""

    def state(self, target: Path) -> tuple[int, int, int]:
        """What is another value after any change. Raises OSError."""


def is_stored(path: str, stored: Sequence[Glob]) -> bool:
    """Whether a member is not packed."""
    return path.lower().endswith(_PACKED) or any(glob.matches(path) for glob in stored)
