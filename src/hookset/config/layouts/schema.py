"""The layout file as it is written. These types are its JSON Schema, too."""

from __future__ import annotations

from typing import Any, Literal

from msgspec import field

from hookset.config.layouts.engines import EngineEntry
from hookset.config.layouts.placing import PlacedEntry, SpaceEntry, StandEntry, TrackEntry, VolumeEntry
from hookset.config.layouts.steps import LogEntry, StepEntry
from hookset.config.layouts.tables import PartEntry, Table, ValueEntry

__all__ = ["KindEntry", "LayoutFile", "LookupEntry", "PartEntry", "ReadEntry", "SeatEntry", "ValueEntry"]


class HeadEntry(PartEntry, frozen=True, kw_only=True):
    name: str
    title: str
    sides: tuple[str, ...] = ()
    """The sides that scripts run on; none for games without such a split."""
    both: str = "shared"
    """What stands for `{side}` in paths of files that every side has."""
    ignore: tuple[str, ...] = ()
    """Files that are no part of a map: what editors and file managers leave lying about."""


class RecogniseEntry(Table, frozen=True):
    file: str
    """A pattern that some file of such a map matches."""
    says: str
    """What that file is, for people."""


class DescriptorEntry(Table, frozen=True):
    """Where the map says its own name and version."""

    file: str
    name: str | dict[str, Any] = ""
    """Where in it: what the file's format is asked with, such as `{ section = "map", key = "name" }`; text is `at`.
    Empty where maps have no name in it."""
    version: str | dict[str, Any] = ""


class NumbersEntry(Table, frozen=True):
    """Which numbers can be ids, and which of them the next one takes."""

    first: int = 1
    last: int | None = None
    width: int = 0
    """Written with so many digits at least."""
    free: Literal["after-last", "first-gap"] = "after-last"


class KindEntry(Table, frozen=True):
    """A kind of name: `[kinds.NAME]`."""

    label: str
    """What people call it."""
    is_: str = field(name="is", default="")
    """The kind that each of these is one of: what defines one defines the other."""
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
    vocabulary: tuple[str, ...] = ()
    """Words that the game knows of itself."""
    mapped: bool = False
    """Words of which each map has its own few: one that a pack uses and this map has not is mapped to one it has."""
    separators: Literal["/", "\\", "either"] = "/"
    """What the game takes between folders, for paths."""
    top: str = ""
    """What references write for the map's top, before a path that counts from there: `res://`."""
    numbers: NumbersEntry | None = None
    """For ids that are numbers."""
    stock_prefix: str = ""
    """What the map's files say before names that the base game's own files define without it: `base:`. They are read
    with it into a stock."""
    why: str = ""
    """What happens in the game when one is missing."""
    owned: bool = False
    """Names are `OWNER::NAME`: each belongs to something, such as a method to its script. One of an owner of which
    nothing is known is not judged."""
    inherits: str = ""
    """For owned names: the kind whose names `OWNER::OTHER` say of what an owner is made, whose names it has as well.
    What the game has itself is in its `vocabulary`."""
    within: str = ""
    """For owned names: the kind that has each of them without its owner. What is not there without an owner either is
    told as that; what is a word of its `vocabulary` every owner has."""
    unused: Literal["", "error", "warning", "note"] = ""
    """How grave it is that nothing uses one that the map defines; without it that is not told."""
    severity: Literal["", "error", "warning", "note", "off"] = ""
    """How grave it is that something is wrong with such a name; without it as each check says."""


class ReadEntry(PartEntry, frozen=True, kw_only=True):
    """Which names certain files define and refer to: `[[read]]`."""

    files: str | tuple[str, ...]
    format: str
    but: str | tuple[str, ...] = ()
    """Files that are not meant, though `files` means them."""
    side: str = ""
    encodings: tuple[str, ...] = ("utf-8",)
    options: dict[str, Any] = {}
    take: dict[str, dict[str, Any]] = {}
    """Parts of names that the file says once: what its format is asked with, and what they are `otherwise`."""
    defines: tuple[dict[str, Any], ...] = ()
    refers: tuple[dict[str, Any], ...] = ()
    record: dict[str, Any] | None = None
    """`at` (or what else the format is asked with) and `schema`, a JSON Schema that each record must meet."""
    guards: tuple[dict[str, Any], ...] = ()
    """How a script asks whether something of a `kind` is there: what it names counts only where that is. `call` with
    `arg` asks by a call, `tested = true` by a name that stands as a condition."""
    uses: bool = True
    """False for lists that ship files without needing them."""
    newline: Literal["", "lf", "crlf"] = ""
    """The line ends that the game takes, where it does not take both."""
    indent: Literal["", "tabs", "spaces"] = ""
    """What lines may begin with, where the game does not take both."""


class ReachedEntry(Table, frozen=True):
    """Where the game itself begins."""

    files: tuple[str, ...] = ()
    """Files that the game reads by itself."""
    names: dict[str, tuple[str, ...]] = {}
    """Names by kind that it asks for itself: whatever file defines one is loaded."""


class UnitsEntry(Table, frozen=True):
    """Folders, or files, that say which others they need."""

    kind: str
    """The kind whose names the units are: the file that defines one lies at the top of its folder."""
    of: Literal["folder", "file"] = "folder"
    """Whether a unit is all of the folder, or the one file that defines it."""
    always: tuple[str, ...] = ()
    """Units that everybody can use without saying so."""
    through: bool = True
    """Whether what a needed unit needs can be used as well."""


class RowEntry(Table, frozen=True):
    """The rows of one sort of thing, where not every row is the path of a file."""

    files: str | tuple[str, ...] = ()
    """Files that need such a row as soon as something uses them."""
    kind: str = ""
    """Instead of files: names of this kind do, wherever they are defined."""
    own: bool = False
    """Only those that the map defines itself."""
    row: str = ""
    """What the row is called, as the definitions of the manifest's rows are; else the path, or the name."""
    seat: str = ""
    """Where such a row is set."""
    text: str | None = None
    """What is set there; else what the row is called."""
    record: dict[str, Any] | None = None


class ManifestEntry(Table, frozen=True):
    """The list, or the lists, of what a build ships."""

    file: str
    row: str
    """The kind that its rows define."""
    must_list: tuple[str, ...] = ()
    """Files that need a row as soon as something uses them."""
    seat: str = ""
    """Where a row is set."""
    rows: tuple[RowEntry, ...] = ()
    """Rows that are more than a path; of several that mean a file, the first counts."""
    must_not_list: tuple[str, ...] = ()
    """Rows that there must not be: patterns of what they are called."""


class InnerEntry(Table, frozen=True, kw_only=True):
    """An archive in the archive: `[[build.inner]]`."""

    name: str
    """Its path in the archive."""
    files: tuple[str, ...]
    """Patterns: what it holds. A file is in the first that asks for it."""
    below: str = ""
    """The folder that is taken off the paths in it."""
    form: Literal["zip", "tar"] = "zip"


class BuildEntry(Table, frozen=True):
    archive: str = "{name}.zip"
    form: Literal["zip", "tar", "folder"] = "zip"
    """What it is, whatever its name ends with."""
    stored: tuple[str, ...] = ()
    """Patterns: what is not packed in a zip, beside pictures and sounds that are packed already."""
    inner: tuple[InnerEntry, ...] = ()
    first: tuple[str, ...] = ()
    """What stands at the archive's top, before all else."""
    ships: Literal["listed", "all"] = "all"
    """`listed`: only what the manifest has a row for, and `first`."""


class AgreeEntry(PartEntry, frozen=True, kw_only=True):
    """Values in several places that must be the same."""

    title: str
    values: tuple[ValueEntry, ...]
    equal: str = ""
    """What all of them must be: a text made of {map} and {version}, and of what `take` reads."""
    take: dict[str, ValueEntry] = {}
    """Values for `equal` that stand in the map, by the name they have there."""
    why: str = ""


class CountEntry(PartEntry, frozen=True, kw_only=True):
    """How many definitions of a kind there must be."""

    kind: str
    name: str = "*"
    """A pattern over their names."""
    group: str = ""
    """A regular expression over the names with the groups `group`, of each of which there must be so many, and
    `number`, for those that are counted from one without a gap; either can be left out."""
    least: int | Literal["players"] | ValueEntry = 0
    """`players`: one for each player that hookset.toml tells; or a number that stands in a file."""
    most: int | Literal["players"] | ValueEntry | None = None
    why: str = ""


class BoundsEntry(PartEntry, frozen=True, kw_only=True):
    """Numbers that must lie between others."""

    title: str
    values: tuple[ValueEntry, ...]
    least: float | ValueEntry | None = None
    """A number, or where it stands in the map."""
    most: float | ValueEntry | None = None
    of: Literal["each", "sum"] = "each"
    """Whether each number is compared, or the sum of all of them."""
    severity: Literal["error", "warning", "note"] = "error"
    why: str = ""


class OrderEntry(PartEntry, frozen=True, kw_only=True):
    """Values that stand in an order; a `*` in a name stands for anything."""

    title: str
    values: tuple[ValueEntry, ...]
    """The order of each file counts by itself."""
    first: tuple[str, ...] = ()
    """What stands before all else, in this order."""
    last: tuple[str, ...] = ()
    """What stands behind all else, in this order."""
    before: dict[str, str | tuple[str, ...]] = {}
    """By name: what it stands before."""
    needed_first: bool = False
    """The values are units, and each stands behind those that it needs."""
    severity: Literal["error", "warning", "note"] = "error"
    why: str = ""


class CalledEntry(PartEntry, frozen=True, kw_only=True):
    """Files that are called after the map."""

    files: str
    """A pattern."""
    name: str
    """What such a file is called, without its folder: a text made of {map} and {version}."""
    severity: Literal["error", "warning", "note"] = "error"
    why: str = ""


class KeyedEntry(Table, frozen=True):
    """Records of which one value is the key and another what belongs to it."""

    file: str
    ask: dict[str, Any]
    """What the file's format is asked with, for whole records."""
    key: str
    value: str


class PairedEntry(PartEntry, frozen=True, kw_only=True):
    """Values that belong to the same key in two places and must be the same."""

    title: str
    one: KeyedEntry
    other: KeyedEntry
    both: bool = False
    """Whether every key must be in both places."""
    why: str = ""


class SeriesEntry(PartEntry, frozen=True, kw_only=True):
    """Numbered things of one kind, in one or more groups, that each belong to somebody."""

    kind: str
    name: str
    """A regular expression for their names with the groups `series` and `number`."""
    first: int = 1
    """From here the numbers of each series run without a gap."""
    owners: tuple[str, ...] = ()
    """Files that own them by referring to them."""
    owned: Literal["each", "series"] = "each"
    """`each` thing by exactly one owner, or all of a `series` by one and the same."""
    why: str = ""


class MirrorEntry(PartEntry, frozen=True, kw_only=True):
    """Things lie in the folder in which the base game keeps its own of that sort."""

    kind: str
    """Its names say sort and folder of each thing, in the map as in the stock."""
    between: str = " in "
    """What stands between sort and folder in such a name."""
    closed: bool = False
    """Whether there are no other sorts than the base game's."""
    why: str = ""


class StandingEntry(Table, frozen=True):
    """Records with numbers in them that say where something stands. A number is named by its key; `at 2` is the second
    number in the value of `at`, `at/1` what a list has at index 1."""

    file: str
    ask: dict[str, Any]
    x: str
    y: str
    """Across the map, like x."""
    height: str


class HeightsPictureEntry(Table, frozen=True, kw_only=True):
    """A picture of greys that are heights: each pixel is where two lines of a grid meet."""

    file: str
    left: float
    """The x of the first column."""
    right: float
    """The x of the last column."""
    top: float
    """The y of the first row."""
    bottom: float
    """The y of the last row."""
    black: float = 0.0
    """How high black is."""
    white: float
    """How high white is, the most that a pixel can say."""


class GroundEntry(PartEntry, frozen=True, kw_only=True):
    """Heights of things compared with those of the ground: of a table, or a picture."""

    title: str
    table: StandingEntry | None = None
    picture: HeightsPictureEntry | None = None
    things: tuple[StandingEntry, ...] = ()
    lowest: float | None = None
    """How far above the ground things must stand at least; below 0 for things that may be sunk into it."""
    highest: float | None = None
    between: Literal["interpolated", "lowest", "highest"] = "interpolated"
    """What the ground is between the points of a grid: a plane through its four corners, or the lowest or the highest
    of the corners."""
    why: str = ""


class LookupEntry(Table, frozen=True):
    """A table of the map in which values are looked up, such as ids by the paths they stand for."""

    name: str
    title: str
    """What is looked up, in words."""
    file: str
    """A pattern; all files that match are looked in."""
    ask: dict[str, Any]
    """What the file's format is asked with: for records, where they are; otherwise for the one value."""
    key: str = ""
    """The field of a record by which it is looked up; empty for a table that is one value."""
    value: str = ""
    """The field that is the value."""
    seat: str = ""
    """Where an entry is set when there is none, for `{listed:…}`."""
    text: str | None = None
    record: dict[str, Any] | None = None
    """That entry: `{key}` stands for what was looked up."""


class RenameEntry(Table, frozen=True):
    """What follows when the map is renamed."""

    folder: str = ""
    """The folder inside the map that is called after it: a text made of {map} and {version}."""


class SeatEntry(PartEntry, frozen=True, kw_only=True):
    """A spot where hooks can be set: `[[seat]]`."""

    name: str
    title: str
    """Where that is, in words."""
    file: str
    """The file, or a pattern with `{word}` parts for one file per variant."""
    put: dict[str, Any] = {}
    """The spot, in the words of the file's format. `{word}` in it is what hooks give with `at`."""
    kind: str = ""
    """For files that are one per variant: the kind whose variants these are."""


class ChangeEntry(Table, frozen=True):
    """A value of something that is there, which hooks may change: `[[change]]`."""

    name: str
    title: str
    """What it is, in words."""
    file: str
    """The file, or a pattern with `{word}` parts that hooks give with `at`."""
    ask: dict[str, Any]
    """What the file's format is asked with; `{word}` in its texts is what hooks give with `at`."""


class LayoutFile(Table, frozen=True):
    """A layout file."""

    layout: HeadEntry
    lists: dict[str, tuple[str, ...]] = {}
    """Values to be used in several places: `{ list = "NAME" }` in a list stands for all of them."""
    recognise: tuple[RecogniseEntry, ...] = ()
    descriptor: DescriptorEntry | None = None
    kinds: dict[str, KindEntry] = {}
    read: tuple[ReadEntry, ...] = ()
    reached: ReachedEntry | None = None
    units: UnitsEntry | None = None
    manifest: ManifestEntry | None = None
    build: BuildEntry = BuildEntry()
    step: tuple[StepEntry, ...] = ()
    """Commands that make further files of the map."""
    engine: tuple[EngineEntry, ...] = ()
    """Programs that load a map without a screen."""
    seat: tuple[SeatEntry, ...] = ()
    change: tuple[ChangeEntry, ...] = ()
    lookup: tuple[LookupEntry, ...] = ()
    words: dict[str, str] = {}
    """Further forms of the map's name and version, for `{map:…}` in hooks: texts made of {map} and {version}."""
    rename: RenameEntry = RenameEntry()
    log: tuple[LogEntry, ...] = ()
    """How the game's log tells what is wrong."""
    agree: tuple[AgreeEntry, ...] = ()
    count: tuple[CountEntry, ...] = ()
    bounds: tuple[BoundsEntry, ...] = ()
    order: tuple[OrderEntry, ...] = ()
    called: tuple[CalledEntry, ...] = ()
    paired: tuple[PairedEntry, ...] = ()
    series: tuple[SeriesEntry, ...] = ()
    mirror: tuple[MirrorEntry, ...] = ()
    ground: tuple[GroundEntry, ...] = ()
    space: SpaceEntry = SpaceEntry()
    placed: tuple[PlacedEntry, ...] = ()
    volume: tuple[VolumeEntry, ...] = ()
    track: tuple[TrackEntry, ...] = ()
    stand: tuple[StandEntry, ...] = ()
