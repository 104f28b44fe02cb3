"""What of a map is shown in a figure, and where on paper a place is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from hookset.model import Finding
from hookset.scene.scene import Scene
from hookset.space.plan import plan_axes

__all__ = ["Frame", "PlanView", "along_ground", "frame_of"]

Floats = NDArray[np.float64]


class PlanView(Struct, frozen=True, kw_only=True):
    """What is to be seen of one map."""

    scene: Scene
    title: str
    owners: Mapping[int, str] = field(default_factory=dict)
    """By row: the pack that has set a thing."""
    pack: str = ""
    """The pack whose things stand out."""
    fresh: frozenset[int] = frozenset()
    """Or the rows of things that do, since they are new."""
    findings: Sequence[Finding] = ()
    links: Mapping[int, str] = field(default_factory=dict)
    """By the number of a finding in that row: where a mark leads to."""
    around: Floats | None = None
    """The middle of what is shown; None for all of it."""
    within: float = 0.0
    """So far around it."""
    side: bool = False
    """Seen from the side, from the south, rather than from above."""


class Frame(Struct, frozen=True):
    """Which numbers of a place go to the right and up, and what part of the map is shown."""

    right: tuple[int, int]
    up: tuple[int, int]
    low: Floats
    high: Floats

    def of(self, at: Floats) -> Floats:
        """Places, (n, 3), on paper, (n, 2)."""
        return np.stack([at[:, self.right[0]] * self.right[1], at[:, self.up[0]] * self.up[1]], axis=1)

    def flat(self, points: Floats, first: int) -> Floats:
        """Places of two numbers along the ground, the first along the axis `first`, on paper seen from above."""
        ordered = points if self.right[0] == first else points[:, ::-1]
        return ordered * [self.right[1], self.up[1]]

    def shows(self, points: Floats) -> NDArray[np.bool_]:
        return np.asarray(((points >= self.low) & (points <= self.high)).all(axis=1))


def frame_of(view: PlanView) -> Frame:
    space = view.scene.layout.positions.space
    right, north = plan_axes(space.up, space.hand, space.north)
    above = view.scene.up
    up = (above, 1) if view.side and above is not None else north
    bare = Frame(right, up, np.zeros(2), np.zeros(2))
    if view.around is not None:
        middle = bare.of(view.around[None])[0]
        reach = np.array([view.within, view.within])
        return Frame(right, up, middle - reach, middle + reach)
    things = view.scene.things
    placed = [thing.index for thing in things.rows if thing.placed]
    parts = [bare.of(things.at[placed])] if placed else []
    if not view.side:
        first = min(right[0], up[0])
        parts += [bare.flat(volume.shape.seen_from_above(), first) for volume in view.scene.volumes]
        parts += [bare.flat(along_ground(track.points, above), first) for track in view.scene.tracks]
    points = np.vstack(parts) if parts else np.zeros((1, 2))
    low, high = points.min(axis=0), points.max(axis=0)
    margin = np.maximum((high - low) * 0.06, 1.0)
    return Frame(right, up, low - margin, high + margin)


def along_ground(points: Floats, up: int | None) -> Floats:
    return points if points.shape[1] == 2 else np.delete(points, 2 if up is None else up, axis=1)
