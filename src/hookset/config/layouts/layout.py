"""A layout, ready for use: every rule with its format's own selector, every pattern checked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from msgspec import Struct

from hookset.config.layouts.listing import Manifest
from hookset.config.layouts.schema import (
    BoundsEntry,
    BuildEntry,
    CountEntry,
    GroundEntry,
    KeyedEntry,
    KindEntry,
    LogEntry,
    LookupEntry,
    MirrorEntry,
    PairedEntry,
    RecogniseEntry,
    SeriesEntry,
    StandingEntry,
    UnitsEntry,
)
from hookset.config.layouts.template import Template
from hookset.formats import format_named
from hookset.trees import Glob, GlobMatch, Pattern

__all__ = [
    "AgreeRule",
    "Bound",
    "BoundsRule",
    "Condition",
    "CountRule",
    "DefineRule",
    "Descriptor",
    "GroundRule",
    "GuardRule",
    "KeyedQuery",
    "Kind",
    "Layout",
    "LogRule",
    "PairedRule",
    "PositionQuery",
    "ReadRule",
    "RecordRule",
    "ReferRule",
    "Seat",
    "SeriesRule",
    "Taken",
    "ValueQuery",
]


def _of_rows(name: Template) -> bool:
    """Whether a name is made of what stands beside the value, too."""
    return any(field.startswith("row.") for field in name.fields)


class Kind(Struct, frozen=True):
    """A kind of name."""

    name: str
    entry: KindEntry

    @property
    def label(self) -> str:
        """What the kind is called in messages."""
        return self.entry.label

    def key(self, name: str) -> str:
        """What two names of this kind have in common when they are the same to the game."""
        return name.casefold() if self.entry.case == "folded" else name


class Condition(Struct, frozen=True):
    """What must stand beside a value."""

    key: str
    words: frozenset[str] = frozenset()
    """One of these."""
    match: Pattern | None = None
    """Or something that this finds."""
    there: bool | None = None
    """Or anything but `false`, or nothing else."""

    def holds(self, beside: Mapping[str, str]) -> bool:
        """Whether it does, by the values of the row. What only the running game knows meets no condition."""
        text = beside.get(self.key, "")
        if self.there is not None:
            return (text.casefold() not in ("", "false")) is self.there
        return text in self.words or (self.match is not None and self.match.search(text) is not None)


class DefineRule(Struct, frozen=True, kw_only=True):
    """Where definitions are in a file."""

    kind: str
    selector: Any
    name: Template
    """Over the value and the file's path."""
    address: Pattern | None
    """For files that read as data: where the value must stand, as a JSON Pointer."""
    side: str | None
    variant: str
    split: Pattern | None = None
    """What stands between names, where one value lists several."""
    only: Pattern | None = None
    """Values that are names; others are none."""
    skip: Pattern | None = None
    """Values that are no names."""
    when: tuple[Condition, ...] = ()
    """All of which must hold."""
    unless: tuple[Condition, ...] = ()
    """None of which may hold."""

    @property
    def row_words(self) -> bool:
        """Whether names depend on other values of the same row."""
        return bool(self.when or self.unless) or _of_rows(self.name)

    @property
    def plain(self) -> bool:
        """Whether every value is a name as it stands."""
        made = self.address or self.split or self.only or self.skip or self.row_words
        return not made and self.name.source == "{value}"


class ReferRule(Struct, frozen=True, kw_only=True):
    """Where references are in a file."""

    kind: str
    selector: Any
    name: Template
    address: Pattern | None
    side: str | None
    under: tuple[str, ...]
    """For paths: the folders that they may count from."""
    beside: bool
    """For paths: they count from the file's own folder."""
    suffix: tuple[str, ...]
    """For paths written without their ending: what it may be."""
    split: Pattern | None
    """What stands between names, where one value lists several."""
    only: Pattern | None
    """Values that are references; others are none."""
    skip: Pattern | None
    """Values that are no reference: `data:` URIs."""
    uri: bool
    """Values are URIs: `%20` is a blank."""
    uses: bool | None
    """Whether they need what they name; None: as the file's other references."""
    bytes: str
    """For paths: the key beside the value that says how many bytes the file has at least."""
    severity: str = ""
    """How grave it is that one of them is missing; empty: as the kind or the check says."""
    optional: bool = False
    """Whether it may be missing."""
    says: str = ""
    """What a finding says where it is missing, with `{name}` for what it names."""
    when: tuple[Condition, ...] = ()
    """All of which must hold."""
    unless: tuple[Condition, ...] = ()
    """None of which may hold."""

    @property
    def row_words(self) -> bool:
        """Whether names depend on other values of the same row."""
        return bool(self.bytes or self.when or self.unless) or _of_rows(self.name)


class Taken(Struct, frozen=True):
    """What a file says once for all names in it."""

    selector: Any
    otherwise: Template
    """Where it does not say so."""


class GuardRule(Struct, frozen=True):
    """How a file asks whether something is there."""

    kind: str
    selector: Any


class RecordRule(Struct, frozen=True):
    """Records that must meet a JSON Schema."""

    selector: Any
    schema: Mapping[str, Any]


class ReadRule(Struct, frozen=True, kw_only=True):
    """Which files are read how."""

    may_be_empty: bool
    files: tuple[Glob, ...]
    but: tuple[Glob, ...]
    """Files that are not meant all the same."""
    format: str
    side: str
    encodings: tuple[str, ...]
    options: Any
    defines: tuple[DefineRule, ...]
    refers: tuple[ReferRule, ...]
    record: RecordRule | None
    uses: bool
    take: Mapping[str, Taken]
    """By the part of names that it is."""
    placed: Mapping[str, Template]
    """What scripts say by where they lie, as the layout has it written."""
    guards: tuple[GuardRule, ...]
    newline: str
    """The line ends that the game takes, `lf` or `crlf`; empty: both."""
    indent: str
    """What lines may begin with, `tabs` or `spaces`; empty: both."""
    side_words: frozenset[str]
    """What `{side}` can stand for in a path."""

    def match(self, path: str) -> GlobMatch | None:
        """Match a path against the files of the rule."""
        for glob in self.files:
            match = glob.match(path)
            if match is not None and match.words.get("side", "") in {"", *self.side_words}:
                return None if any(other.matches(path) for other in self.but) else match
        return None


class Seat(Struct, frozen=True, kw_only=True):
    """A spot where hooks go."""

    may_be_empty: bool
    name: str
    title: str
    file: Glob
    format: str
    encodings: tuple[str, ...]
    options: Any
    put: Any
    kind: str


class Descriptor(Struct, frozen=True):
    """Where the map says its own name and version."""

    file: str
    rule: ReadRule
    """How the file is read."""
    name: Any
    version: Any


class ValueQuery(Struct, frozen=True):
    """A value in each of some files: which, how they are read, and what is asked."""

    files: Glob
    rule: ReadRule
    selector: Any


class AgreeRule(Struct, frozen=True):
    """Values that must be the same."""

    may_be_empty: bool
    title: str
    why: str
    values: tuple[ValueQuery, ...]
    equal: Template | None
    """What they must be; None: the same as the first."""
    take: Mapping[str, ValueQuery]


Bound = int | float | str | ValueQuery | None
"""A number; `players`; or where the number stands in the map."""


class CountRule(Struct, frozen=True):
    """How many definitions of a kind there must be."""

    entry: CountEntry
    group: Pattern | None
    least: Bound
    most: Bound


class BoundsRule(Struct, frozen=True):
    """Numbers that must lie between others."""

    entry: BoundsEntry
    values: tuple[ValueQuery, ...]
    least: Bound
    most: Bound


class KeyedQuery(Struct, frozen=True):
    """Records by a key."""

    entry: KeyedEntry
    asked: ValueQuery


class PairedRule(Struct, frozen=True):
    """Values by the same key that must be the same."""

    entry: PairedEntry
    one: KeyedQuery
    other: KeyedQuery


class SeriesRule(Struct, frozen=True):
    """Numbered things."""

    entry: SeriesEntry
    name: Pattern
    owners: tuple[Glob, ...]


class PositionQuery(Struct, frozen=True):
    """Where records say that something stands."""

    entry: StandingEntry
    asked: ValueQuery


class GroundRule(Struct, frozen=True):
    """Things that stand on the ground."""

    entry: GroundEntry
    table: PositionQuery
    things: tuple[PositionQuery, ...]


class LogRule(Struct, frozen=True):
    """How the game's log tells something."""

    entry: LogEntry
    match: Pattern


@dataclass(frozen=True, kw_only=True)
class Layout:
    """How one kind of map project is arranged."""

    name: str
    title: str
    sides: tuple[str, ...]
    both: str
    ignore: tuple[Glob, ...]
    recognise: tuple[RecogniseEntry, ...]
    descriptor: Descriptor | None
    kinds: Mapping[str, Kind]
    reads: tuple[ReadRule, ...]
    roots: tuple[Glob, ...]
    root_names: Mapping[str, tuple[str, ...]]
    units: UnitsEntry | None
    manifest: Manifest | None
    build: BuildEntry
    archive: Template
    """What a built map's archive is called."""
    seats: Mapping[str, Seat]
    agree: tuple[AgreeRule, ...] = ()
    counts: tuple[CountRule, ...] = ()
    bounds: tuple[BoundsRule, ...] = ()
    paired: tuple[PairedRule, ...] = ()
    series: tuple[SeriesRule, ...] = ()
    mirrors: tuple[MirrorEntry, ...] = ()
    grounds: tuple[GroundRule, ...] = ()
    lookups: Mapping[str, LookupEntry] = field(default_factory=dict)
    words: Mapping[str, Template] = field(default_factory=dict)
    """Further forms of the map's name and version."""
    folder: Template | None = None
    """The folder inside the map that is called after it."""
    logs: tuple[LogRule, ...] = ()
    where: str = ""
    """What the layout's file is called in messages."""
    lines: Mapping[str, int] = field(default_factory=dict)
    """In which line of it each part begins, by its place in the file: `/read/3`. Empty for layouts that
    say that all of them may mean nothing."""
    fingerprint: str = ""
    """SHA-256 of the layout as it is written; empty for one that was made otherwise."""

    @cached_property
    def path_kinds(self) -> frozenset[str]:
        """The kinds whose names are paths."""
        return frozenset(name for name, kind in self.kinds.items() if kind.entry.path)

    @cached_property
    def kin(self) -> Mapping[str, frozenset[str]]:
        """For each kind, all that share names with it: what it is, what is of it, and so on."""
        tops = {name: self._top(name) for name in self.kinds}
        groups: dict[str, set[str]] = {}
        for name, top in tops.items():
            groups.setdefault(top, set()).add(name)
        return {name: frozenset(groups[top]) for name, top in tops.items()}

    def _top(self, kind: str) -> str:
        while (above := self.kinds[kind].entry.is_) in self.kinds:
            kind = above
        return kind

    def kinds_below(self, kind: str) -> tuple[str, ...]:
        """The kinds that are of this one, at whatever depth."""
        below = [name for name, one in self.kinds.items() if one.entry.is_ == kind]
        return tuple(dict.fromkeys([*below, *(one for name in below for one in self.kinds_below(name))]))

    def side_of(self, word: str | None) -> str:
        """The side that a word in a path stands for."""
        return "" if word is None or word == self.both else word

    def text_rule(self, path: str) -> ReadRule | None:
        """The first rule that reads the file as text of some format, which is how values in it are written."""
        for rule in self.reads:
            if rule.format != "any" and not format_named(rule.format).binary and rule.match(path) is not None:
                return rule
        return None

    def reads_file(self, path: str) -> bool:
        """Whether any rule is about such a file."""
        return any(rule.match(path) is not None for rule in self.reads)

    def ignores(self, path: str) -> bool:
        """Whether the layout ignores a path."""
        return any(glob.matches(path) for glob in self.ignore)
