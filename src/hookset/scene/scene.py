"""A map as a place: its things, volumes and tracks, each read when somebody first asks."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.config.layouts.positions import TrackRule, VolumeRule
from hookset.scene.prefabs import Instances, instances_of
from hookset.scene.reading import things_of
from hookset.scene.things import Misplaced, Things
from hookset.scene.volumes import Track, Volume, read_tracks, read_volumes
from hookset.trees import Tree

__all__ = ["Scene"]


class Scene(Struct, frozen=True, dict=True):
    """Where everything stands in one tree, by its layout."""

    tree: Tree
    layout: Layout

    @cached_property
    def things(self) -> Things:
        """The things."""
        return things_of(self.tree, self.layout)

    @cached_property
    def _volumes(self) -> tuple[tuple[Volume, ...], tuple[Misplaced, ...]]:
        return read_volumes(self.tree, self.layout, self._instances(self.layout.positions.volumes))

    @cached_property
    def _tracks(self) -> tuple[tuple[Track, ...], tuple[Misplaced, ...]]:
        return read_tracks(self.tree, self.layout, self._instances(self.layout.positions.tracks))

    def _instances(self, rules: Iterable[VolumeRule | TrackRule]) -> Instances:
        """Where prefabs stand, if any of these rules is of what is in them."""
        return instances_of(self.things) if any(rule.entry.in_prefabs for rule in rules) else {}

    @property
    def volumes(self) -> tuple[Volume, ...]:
        """The spaces that mean something."""
        return self._volumes[0]

    @property
    def tracks(self) -> tuple[Track, ...]:
        """Lines along the ground."""
        return self._tracks[0]

    @cached_property
    def misplaced(self) -> tuple[Misplaced, ...]:
        """Whatever is said of a place and cannot be."""
        return (*self.things.misplaced, *self._volumes[1], *self._tracks[1])

    @property
    def up(self) -> int | None:
        """The index of the axis that goes up; None in maps that are seen from above only."""
        return {"x": 0, "y": 1, "z": 2, "": None}[self.layout.positions.space.up]
