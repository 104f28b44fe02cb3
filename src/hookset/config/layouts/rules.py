"""The rules of a layout that say how files are read: where names stand, where entries go, how the log tells."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hookset.config.layouts.engines import EngineEntry
from hookset.config.layouts.schema import KindEntry
from hookset.config.layouts.steps import LogEntry, StepEntry
from hookset.config.layouts.template import Template
from hookset.trees import Glob, GlobMatch, Pattern

__all__ = [
    "Change",
    "Condition",
    "DefineRule",
    "Descriptor",
    "Engine",
    "GuardRule",
    "Kind",
    "LogRule",
    "ReadRule",
    "RecordRule",
    "ReferRule",
    "Seat",
    "Step",
    "Taken",
    "ValueQuery",
    "of_rows",
]


def of_rows(name: Template) -> bool:
    """Whether a name is made of what stands beside the value, too."""
    return name.source != "{value}" and any(field.startswith("row.") for field in name.fields)


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

    def holds(self, text: str) -> bool:
        """Whether a text is what must stand there, an empty one for none. What only the running game knows meets no
        condition."""
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
        return bool(self.when or self.unless) or of_rows(self.name)

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
        return bool(self.bytes or self.when or self.unless) or of_rows(self.name)


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

    @property
    def selectors(self) -> tuple[Any, ...]:
        """Of all its parts, the definitions before the references."""
        return (*[one.selector for one in self.defines], *[one.selector for one in self.refers])

    def match(self, path: str) -> GlobMatch | None:
        """Match a path against the files of the rule."""
        for glob in self.files:
            match = self._with_side(glob, path)
            if match is not None:
                return None if any(other.matches(path) for other in self.but) else match
        return None

    def _with_side(self, glob: Glob, path: str) -> GlobMatch | None:
        """Match a pattern whose `{side}` is one of the sides: below `**` it may first meet a folder that is none."""
        match = glob.match(path)
        if match is None or match.words.get("side", "") in {"", *self.side_words}:
            return match
        for side in sorted(self.side_words - {""}):
            found = Glob(glob.filled({"side": side})).match(path)
            if found is not None:
                return GlobMatch(found.inner, {**found.words, "side": side})
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


class Change(Struct, frozen=True, kw_only=True):
    """A value of something that is there, which hooks may change."""

    name: str
    title: str
    file: Glob
    ask: Mapping[str, Any]
    """With `{word}` for what hooks give."""


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


class LogRule(Struct, frozen=True):
    """How the game's log tells something."""

    entry: LogEntry
    match: Pattern


class Step(Struct, frozen=True, kw_only=True):
    """A command that makes files of a map."""

    entry: StepEntry
    tools: tuple[Glob, ...]
    reads: tuple[Glob, ...]
    writes: tuple[Glob, ...]
    needed_by: tuple[Glob, ...]
    values: tuple[ValueQuery, ...]
    logs: tuple[LogRule, ...]

    def makes(self, path: str) -> bool:
        """Whether a file is one that it makes."""
        return any(glob.matches(path) for glob in self.writes)


class Engine(Struct, frozen=True, kw_only=True):
    """A program that loads a map and says what is wrong with it."""

    entry: EngineEntry
    loaded: Pattern | None
    continues: Pattern | None
    logs: tuple[LogRule, ...]
