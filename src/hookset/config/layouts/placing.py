"""What a layout says of where things stand: `[space]`, `[[placed]]`, `[[volume]]`, `[[track]]`, `[[stand]]`.

A *way* names a value of a record, as the record's format does: `extras/key` in JSON-like data and scripts, a column of
a table, `@at` or `child/@at` in XML. A number that stands with others in one value is named by its place: `at 2`.
"""

from __future__ import annotations

from typing import Any, Literal

from msgspec import field

from hookset.config.layouts.tables import PartEntry, Table

__all__ = [
    "CopiesEntry",
    "NearEntry",
    "PlacedEntry",
    "PointEntry",
    "SpaceEntry",
    "StandEntry",
    "TrackEntry",
    "TurnEntry",
    "VolumeEntry",
]


class SpaceEntry(Table, frozen=True):
    """The axes of the map: `[space]`."""

    up: Literal["x", "y", "z", ""] = "y"
    """The axis that goes up; empty for maps that are only seen from above, by x and y."""
    hand: Literal["right", "left"] = "right"
    """Whether the axes x, y, z lie as the thumb, the forefinger and the middle finger of the right or the left hand."""
    north: Literal["x", "y", "z", "-x", "-y", "-z", ""] = ""
    """Where a figure has its upper edge; without it -z where y goes up, else y."""
    unit: str = ""
    """What one of the numbers is: `m`."""


class PointEntry(Table, frozen=True):
    """Three numbers, of which those that are left out are 0."""

    x: str = ""
    """The way to a number: `pos/x`; `at 1` for the first of several in one value."""
    y: str = ""
    z: str = ""


class TurnEntry(Table, frozen=True):
    """How a turn is written."""

    from_: str | tuple[str, ...] = field(name="from")
    """The way to the value that has all its numbers, or the ways to each."""
    as_: Literal["degrees", "radians", "quaternion", "matrix"] = field(name="as", default="degrees")
    about: str = ""
    """Of angles: the axes that they are about, in the order in which the turns are made. Small letters are the axes
    of the space, capitals those that turn with the thing: `y`, `xyz`, `ZYX`."""
    order: Literal["xyzw", "wxyz", "rows", "columns"] | None = None
    """Of quaternions: the order of their numbers, without it `xyzw`. Of matrices of 9 or 16 numbers: whether rows or
    columns stand together, without it `rows`."""
    clockwise: bool = False
    """Whether a positive angle turns against the rule of the space's hand."""


class CopiesEntry(Table, frozen=True):
    """How the names of further copies are made: by what is added to a name, or counted on in it."""

    by: Literal["number", "letter"] = "number"
    between: str = "_"
    """What stands between a name and a suffix that it did not have."""
    width: int = 0
    """Of numbers: so many digits at least."""


class PlacedEntry(PartEntry, frozen=True, kw_only=True):
    """Things that stand somewhere: `[[placed]]`."""

    name: str
    """What these are called: `objects`."""
    title: str
    file: str
    ask: dict[str, Any]
    """What the file's format is asked with: the records that stand for the things."""
    when: dict[str, str | bool | tuple[str, ...]] = {}
    """Only records that say so: by way, a value, values, or whether there is one."""
    key: str = ""
    """The way to what other things call it; `0#` for the record's own key."""
    kind: str = ""
    """The kind of names that those are."""
    class_: str = field(name="class", default="")
    """The way to its sort."""
    class_kind: str = ""
    """The kind of names that its sort is: where letter case means nothing in that, it means nothing in classes."""
    at: str | PointEntry
    """The way to the numbers of its position, or to each of them."""
    turn: TurnEntry | None = None
    size: str | PointEntry = ""
    """By what it is stretched: one number, or one for each axis."""
    matrix: str = ""
    """The way to 16 numbers that say position, turn and size in one, columns first, for records that have those
    instead."""
    nested: bool = False
    """Whether records within a record stand by its position and turn."""
    holds: str = ""
    """The way to the indexes of the records that stand by this one's position and turn."""
    inside: str = ""
    """The way to the key of the thing that it stands by."""
    group: str = ""
    """The way to what it belongs to."""
    links: tuple[str, ...] = ()
    """Ways to the keys of other things that it works on."""
    reach: str = ""
    """The way to how far it works, is heard or is felt."""
    ties: tuple[str, ...] = ()
    """Ways to what must differ in a copy, beside the key."""
    prefab: str = ""
    """The way to the file for which it stands: the things of that file stand by it, each time it is named."""
    prefab_file: str = "{value}"
    """The file's path, of what is said there; `{folder}` is the folder of the file that says it."""
    text: str = ""
    """How a further record is written that stands for a file: `{prefab}` is what it says of the file. Its numbers are
    written over."""
    record: dict[str, Any] = {}
    """The same in a format that has records."""
    in_prefabs: bool = False
    """Whether these stand in such files: nowhere by themselves, only where a record names their file."""
    numbered: dict[str, str] = {}
    """Ways to numbers, each with the kind whose next number a copy takes."""
    copies: CopiesEntry = CopiesEntry()
    seat: str = ""
    """Where a further one is set."""


class VolumeEntry(PartEntry, frozen=True, kw_only=True):
    """Spaces of the map that mean something: `[[volume]]`."""

    title: str
    means: str
    """What being in it means: `playable`, `forbidden`, `indoors`, `water`, or any other word that `[[stand]]` uses."""
    file: str
    ask: dict[str, Any]
    when: dict[str, str | bool | tuple[str, ...]] = {}
    key: str = ""
    shape: Literal["box", "sphere", "cylinder", "outline"]
    at: str | PointEntry = ""
    """Its middle; of a cylinder the middle of its foot."""
    turn: TurnEntry | None = None
    size: str | PointEntry = ""
    """Of a box: its lengths."""
    half: str | PointEntry = ""
    """Of a box, instead: the halves of its lengths."""
    low: str | PointEntry = ""
    """Of a box, instead of a middle: one corner, and in `high` the one across from it."""
    high: str | PointEntry = ""
    radius: str | float = ""
    height: str | float = ""
    """Of a cylinder or an outline; without it, however high."""
    foot: str | float = ""
    """Of an outline: where it begins; without it, however deep."""
    points: str = ""
    """Of an outline: the way to the numbers of its corners, two or three for each."""
    in_prefabs: bool = False
    """Whether these are in the files for which things stand: wherever a record names their file, and nowhere else."""


class TrackEntry(PartEntry, frozen=True, kw_only=True):
    """Roads, walks and other lines along the ground: `[[track]]`."""

    title: str
    means: str
    file: str
    ask: dict[str, Any]
    when: dict[str, str | bool | tuple[str, ...]] = {}
    key: str = ""
    points: str
    """The way to the numbers of its points, two or three for each."""
    width: str | float = 0.0
    in_prefabs: bool = False
    """As of volumes."""


class NearEntry(Table, frozen=True):
    """Something that must be near."""

    class_: str | tuple[str, ...] = field(name="class")
    most: float


class StandEntry(PartEntry, frozen=True, kw_only=True):
    """How things must stand: `[[stand]]`."""

    title: str
    class_: str | tuple[str, ...] = field(name="class", default="*")
    """Patterns over classes."""
    of: str = ""
    """Only things of this `[[placed]]`."""
    inside: str = ""
    """In a volume that means this, where the map has one."""
    outside: tuple[str, ...] = ()
    """In no volume that means one of these."""
    clear: float | None = None
    """So far from all others, or from those `clear_of`."""
    clear_of: str | tuple[str, ...] = "*"
    near: NearEntry | None = None
    """At most so far from something of a class."""
    link_most: float | None = None
    """What it links to is at most so far away."""
    reach_off: tuple[str, ...] = ()
    """Its reach touches no track and no volume that means one of these."""
    tied: tuple[str, ...] = ()
    """Ways to values that it must have: what ties it to its script."""
    severity: Literal["error", "warning", "note"] = "error"
    why: str = ""
