"""How a map is put together, beside what refers to what."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hookset.learning.descriptors import LearnedDescriptor, descriptor_of
from hookset.learning.guess import Guess
from hookset.learning.kinds import LearnedKind
from hookset.learning.loading import LearnedLoading, loading_of
from hookset.learning.manifests import LearnedManifest, manifest_of
from hookset.learning.material import Material
from hookset.learning.seats import LearnedSeat, seats_of
from hookset.learning.sides import LearnedSides, sides_of

__all__ = ["Arrangement", "arrangement_of"]


class Arrangement(Struct, frozen=True):
    """What is listed, what is loaded, where further entries go, what runs where."""

    manifest: LearnedManifest | None
    """The list of what the map has, if it has one."""
    loading: LearnedLoading | None
    """Which files the game loads only because others name them; None where all may be loaded."""
    seats: tuple[LearnedSeat, ...]
    sides: LearnedSides | None = None
    """What runs in different places, if anything does."""
    descriptor: LearnedDescriptor | None = None
    """Where the map says what it is called, if it does."""


def arrangement_of(
    material: Material, guesses: Sequence[Guess], kinds: Sequence[LearnedKind], follows: bool, name: str
) -> Arrangement:
    """All of it, for a map in a folder of that name. Without `follows` it is not said which files are loaded."""
    manifest = manifest_of(material.tree, guesses)
    loading = loading_of(material, guesses, manifest) if follows else None
    seats = seats_of(material, guesses, kinds, loading)
    sides, descriptor = sides_of(material, guesses, kinds), descriptor_of(material, name)
    return Arrangement(manifest, loading, seats, sides, descriptor)
