"""`hooksheet.toml`: what a pack brings, sets, needs, excludes, claims and leaves blank. These types are its JSON
Schema, too."""

from __future__ import annotations

from typing import Any, Literal

from msgspec import Struct, field

from hookset.config.layouts.schema import LookupEntry

__all__ = [
    "SHEET_NAME",
    "BlankEntry",
    "ClaimEntry",
    "DraftedEntry",
    "EveryEntry",
    "ExcludeEntry",
    "FilesEntry",
    "HookEntry",
    "HookName",
    "HookSheet",
    "NeedEntry",
    "PackEntry",
    "PartEntry",
    "PlaceEntry",
    "RenamedEntry",
    "SettingEntry",
    "WhenEntry",
    "WriteEntry",
]

SHEET_NAME = "hooksheet.toml"


class _Table(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    pass


class PublishedEntry(_Table, frozen=True):
    """The map that a pack was made in, where its files name it."""

    map: str = ""
    version: str = ""


class PackEntry(_Table, frozen=True):
    """What a pack is: `[pack]`."""

    name: str
    version: str
    title: str = ""
    authors: tuple[str, ...] = ()
    license: str = ""
    """An SPDX expression."""
    home: str = ""
    """Where it can be had."""
    credit: str = ""
    """How its authors ask to be named, word for word."""
    made_from: str = ""
    """What it was derived or lifted from, and by whom that is, for the credits."""
    layouts: tuple[str, ...] = ()
    """The layouts it can be set into; empty: not told."""
    does: tuple[str, ...] = ()
    """Jobs, in words that packs agree on, that only one pack of a map can do: `moves-water`."""
    published: PublishedEntry = PublishedEntry()
    """Paths that are made of this map's name are made of the name of the map it is set into."""
    look_for: tuple[str, ...] = ()
    """What to look for in the game afterwards."""


class NeedEntry(_Table, frozen=True):
    """Something that must be there: a name of any kind of the layout, a pack, or something that the layout has."""

    kind: str
    """A kind of the layout; `pack`; `seat` or `kind` for what the layout must know."""
    name: str
    side: str = ""
    version: str = ""
    """For packs: a version specifier (PEP 440), such as `>=1.2, <2`."""
    why: str = ""
    remedy: str = ""
    """What the builder can do to have it."""


class ExcludeEntry(_Table, frozen=True):
    """Something that the pack cannot stand beside: another pack, a file of the map, or a name of any kind."""

    kind: str
    """`pack`; `file` for files of the map, however they came there; or a kind of the layout."""
    name: str
    """Of the pack or the thing; for files a pattern over their paths."""
    side: str = ""
    version: str = ""
    """For packs: only versions such as these (PEP 440)."""
    why: str = ""


class WhenEntry(_Table, frozen=True):
    """A condition; all that it says must hold."""

    pack: str = ""
    """This pack is installed, or is installed together with it."""
    version: str = ""
    """And of such a version (PEP 440)."""
    without: str = ""
    """This pack is not installed."""
    file: str = ""
    """The map has a file that this pattern means: what somebody installed by hand is in no ledger."""
    without_file: str = ""
    """The map has none."""
    setting: str = ""
    """This setting …"""
    equals: Any = True
    """… has this value."""
    language: str = ""
    """The map has texts in this language."""
    layout: str = ""
    """The map's layout is this one."""


class PartEntry(_Table, frozen=True):
    """Something in a pack that can be taken alone, with whatever it turns out to need."""

    name: str
    title: str = ""
    files: tuple[str, ...] = ()
    """Patterns over the pack's files: those that make it what it is."""


class FilesEntry(_Table, frozen=True):
    """Which files go where: `[[files]]`."""

    from_: str = field(name="from")
    """A pattern over the pack's files."""
    to: str = "."
    """The folder of the map that they go to; what lies below the pattern's fixed front keeps its shape. For one file,
    its name with the same ending. `{map:…}` is what the map is called."""
    keep_mine: bool = False
    """Where the map has a file of that name with other content, it stays: the pack's is for maps without one."""
    when: WhenEntry | None = None


class HookName(_Table, frozen=True):
    """Another hook of the sheet, by its `name`."""

    hook: str


class EveryEntry(_Table, frozen=True):
    """Everything of a kind that the map has: `every`."""

    kind: str
    """A kind of the layout."""
    at: str
    """What of the hook's `at` each name is given as."""
    name: str = "*"
    """A pattern over the names: `lamp_*`."""


class HookEntry(_Table, frozen=True):
    """An entry to be set: `[[hook]]`. One of seat, change and file says where."""

    seat: str = ""
    """A seat of the layout: where text, or a record, goes."""
    change: str = ""
    """A change of the layout: which value becomes `value`."""
    file: str = ""
    """A file of the map, or a pattern that means one: with `ask`, a value in it becomes `value`; with `replaces`,
    `before` or `after`, text goes there."""
    ask: dict[str, Any] = {}
    """What the format of the file is asked with, such as `{ at = "$.toll" }`."""
    value: Any = None
    replaces: str = ""
    """What stands in the file once, and goes; how it is indented does not matter."""
    before: str | HookName = ""
    """Above what stands in the file once, or above what another hook has set."""
    after: str | HookName = ""
    """Below it."""
    name: str = ""
    """What other hooks of the sheet call it."""
    at: dict[str, str] = {}
    """For seats and changes that ask for it: what they go by, such as the object that takes an attribute."""
    every: EveryEntry | None = None
    """One hook for many: it is set once for each name of a kind that the map has."""
    text: str | None = None
    """Text in the file's own language."""
    record: dict[str, Any] | None = None
    """Keys and values."""
    fragment: str = ""
    """A file of the pack that holds entries: each of them goes to the seat, in their order."""
    each: dict[str, dict[str, Any] | str] | None = None
    """For seats that are one file per variant (texts: per language): keys and values, or text, for each."""
    when: WhenEntry | None = None
    part: str = ""
    """The part that it belongs to. One without is set with the parts whose names it uses."""
    place: str = ""
    """The `[[place]]` that it stands at."""
    fill: bool = True
    """Whether `{…}` in it is filled in; false for texts that have such words of their own."""


class WriteEntry(_Table, frozen=True):
    """A value in a file of the pack or of the map."""

    file: str
    assign: str = ""
    """For scripts: the name that it is set to."""
    ask: dict[str, Any] = {}
    """For any other file: what its format is asked with, such as `{ at = "$.toll" }`."""


class SettingEntry(_Table, frozen=True):
    """A value that the builder may change: `[[setting]]`."""

    name: str
    type: Literal["int", "float", "bool", "text"]
    default: Any
    range: tuple[float, float] | None = None
    choices: tuple[Any, ...] = ()
    """The only values there are."""
    unit: str = ""
    says: str = ""
    write: tuple[WriteEntry, ...] = ()


class ClaimEntry(_Table, frozen=True):
    """A value that the pack must have for itself, out of a pool."""

    kind: str
    """A kind with a pool."""
    published: str = ""
    """The value in the pack's files as they are published; it is rewritten wherever they name it."""
    says: str = ""


class BlankEntry(_Table, frozen=True):
    """What the builder has to supply."""

    name: str
    kind: str
    """`text` for a value; for a file `picture`, `sound`, `model` or `file`."""
    into: str = ""
    """For a file: the path in the map that it is put at."""
    says: str = ""
    largest: int | None = None
    """Bytes."""
    size: tuple[int, int] | None = None
    """Width and height of a picture."""


class PlaceEntry(_Table, frozen=True):
    """What the builder puts somewhere: `[[place]]`. The hooks that say `place` with its name stand there; the first of
    them at the place itself, the others as they stand to it in the sheet."""

    name: str
    says: str = ""
    """What it is, and where it goes best."""
    must: bool = False
    """Whether only the builder knows where: until that is said its hooks are not set, and the map is not built."""
    least: int | Literal["players"] = 0
    """How many there must be at least; `players`: one for each player that hookset.toml tells."""
    on_ground: bool = False
    """Whether two numbers will do, since it stands on the ground."""
    was: tuple[str, ...] = ()
    """Places of earlier versions, whose things an upgrade makes into those of this one, each where it stands."""


class RenamedEntry(_Table, frozen=True):
    """A name that an earlier version used: an upgrade renames it in the whole map."""

    kind: str
    from_: str = field(name="from")
    to: str
    since: str = ""
    """The first version that has the new name; empty: this one."""


class NamedValue(_Table, frozen=True):
    """A value that is worked out once and used in several places as `{value:NAME}`."""

    name: str
    is_: str = field(name="is")


class DraftedEntry(_Table, frozen=True):
    """What a sheet was drafted for: `[drafted]`. Hook Set writes it, and nobody else has to."""

    sha256: str = ""
    """Of the pack."""
    entries: tuple[str, ...] = ()
    """A digest of each entry as it was drafted: by those it is seen what somebody changed since."""


class HookSheet(_Table, frozen=True):
    """A hook sheet."""

    pack: PackEntry
    needs: tuple[NeedEntry, ...] = ()
    excludes: tuple[ExcludeEntry, ...] = ()
    part: tuple[PartEntry, ...] = ()
    files: tuple[FilesEntry, ...] = ()
    lookup: tuple[LookupEntry, ...] = ()
    value: tuple[NamedValue, ...] = ()
    hook: tuple[HookEntry, ...] = ()
    setting: tuple[SettingEntry, ...] = ()
    claim: tuple[ClaimEntry, ...] = ()
    blank: tuple[BlankEntry, ...] = ()
    place: tuple[PlaceEntry, ...] = ()
    renamed: tuple[RenamedEntry, ...] = ()
    drafted: DraftedEntry = DraftedEntry()
