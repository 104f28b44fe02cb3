"""The layout file as it is written. These types are its JSON Schema, too."""

from __future__ import annotations

from typing import Any, Literal

from msgspec import Struct

__all__ = ["KindEntry", "LayoutFile", "ReadEntry", "SeatEntry"]


class _Table(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    pass


class HeadEntry(_Table, frozen=True):
    name: str
    title: str
    sides: tuple[str, ...] = ()
    """The sides that scripts run on; none for games without such a split."""
    both: str = "shared"
    """What stands for `{side}` in paths of files that every side has."""
    ignore: tuple[str, ...] = ()
    """Files that are no part of a map: what editors and file managers leave lying about."""


class RecogniseEntry(_Table, frozen=True):
    file: str
    """A pattern that some file of such a map matches."""
    says: str
    """What that file is, for people."""


class DescriptorEntry(_Table, frozen=True):
    """Where the map says its own name and version."""

    file: str
    name: str | dict[str, Any]
    """Where in it: what the file's format is asked with, such as `{ section = "map", key = "name" }`; text is `at`."""
    version: str | dict[str, Any]


class KindEntry(_Table, frozen=True):
    label: str
    """What people call it."""
    path: bool = False
    """Names are paths from the map's top."""
    sided: bool = False
    """The same name can be one thing on the server and another on the client."""
    unique: bool = False
    """Defined once only (on a side, and per variant)."""
    case: Literal["exact", "folded"] = "exact"
    """Whether the game tells `Horn` from `horn`."""
    each: str = ""
    """Must be defined once per … (language): what the variants are called."""
    reached: bool = False
    """Counts only when the file that defines it is loaded by the game."""
    pool: tuple[str, ...] = ()
    """The only values there are; each can be defined once."""
    over: Literal["map", "all"] = "map"
    """Whether a name that must be single may be that of something in the stock."""
    why: str = ""
    """What happens in the game when one is missing."""


class ReadEntry(_Table, frozen=True):
    files: str | tuple[str, ...]
    format: str
    side: str = ""
    encodings: tuple[str, ...] = ("utf-8",)
    options: dict[str, Any] = {}
    defines: tuple[dict[str, Any], ...] = ()
    refers: tuple[dict[str, Any], ...] = ()
    record: dict[str, Any] | None = None
    """`at` (or what else the format is asked with) and `schema`, a JSON Schema that each record must meet."""
    uses: bool = True
    """False for lists that ship files without needing them."""


class ReachedEntry(_Table, frozen=True):
    """Where the game itself begins."""

    files: tuple[str, ...]
    """Files that it reads of its own accord."""


class ManifestEntry(_Table, frozen=True):
    """The list of what a build ships."""

    file: str
    row: str
    """The kind that its rows define."""
    must_list: tuple[str, ...]
    """Files that need a row as soon as something uses them."""
    seat: str = ""
    """Where a row is set."""


class BuildEntry(_Table, frozen=True):
    archive: str = "{name}.zip"
    first: tuple[str, ...] = ()
    """What stands at the archive's top, before all else."""
    ships: Literal["listed", "all"] = "all"
    """`listed`: only what the manifest has a row for, and `first`."""


class ValueEntry(_Table, frozen=True):
    """A value in one file."""

    file: str
    """A pattern; a value of each file that matches counts."""
    ask: dict[str, Any]
    """What the file's format is asked with."""


class AgreeEntry(_Table, frozen=True):
    """Values in several places that must be the same."""

    title: str
    values: tuple[ValueEntry, ...]
    why: str = ""


class CountEntry(_Table, frozen=True):
    """How many definitions of a kind there must be."""

    kind: str
    name: str = "*"
    """A pattern over their names."""
    least: int | Literal["players"] = 0
    """`players`: one for each player that hookset.toml tells."""
    most: int | Literal["players"] | None = None
    why: str = ""


class SeatEntry(_Table, frozen=True):
    name: str
    title: str
    """Where that is, in words."""
    file: str
    """The file, or a pattern with `{word}` parts for one file per variant."""
    put: dict[str, Any] = {}
    """The spot, in the words of the file's format."""
    kind: str = ""
    """For files that are one per variant: the kind whose variants these are."""


class LayoutFile(_Table, frozen=True):
    layout: HeadEntry
    recognise: tuple[RecogniseEntry, ...] = ()
    descriptor: DescriptorEntry | None = None
    kinds: dict[str, KindEntry] = {}
    read: tuple[ReadEntry, ...] = ()
    reached: ReachedEntry | None = None
    manifest: ManifestEntry | None = None
    build: BuildEntry = BuildEntry()
    seat: tuple[SeatEntry, ...] = ()
    agree: tuple[AgreeEntry, ...] = ()
    count: tuple[CountEntry, ...] = ()
