"""What a change would do: a value, made without writing anything and shown, judged and written as it is."""

from __future__ import annotations

from enum import Enum

from msgspec import Struct

from hookset.applying.change import Change
from hookset.model import Message, Spot
from hookset.packs import HookSheet
from hookset.planning.choices import Question
from hookset.project import Ledger, RealPlace
from hookset.trees import Content

__all__ = ["FileState", "FileStep", "HookState", "HookStep", "PackPlan", "Plan", "Stop", "Unsure", "ValueStep"]


class FileState(Enum):
    """What happens to a file of a pack."""

    NEW = "new"
    SAME = "same"
    DIFFERENT = "different"
    KEPT = "kept"
    """Different, and the map's was kept by choice."""
    REPLACED = "replaced"
    """Different, and the pack's was taken by choice."""
    BOTH = "renamed"
    """Different, and the pack's comes under a new name."""
    NEWER = "changed"
    """Unchanged by the builder, and replaced: by a newer version, or with other values."""
    MERGED = "merged"
    """Changed by the builder, and the changes are carried over."""
    BY_HAND = "by hand"
    """Changed by the builder, and left so."""
    OUT = "taken out"
    STAYS = "stays"
    """Another pack has it as well, or the builder had it."""
    BACK = "put back"
    """The map's own, which the pack's had been taken instead of."""
    GONE = "gone"
    """It is not there any more."""


class FileStep(Struct, frozen=True):
    """One file that a pack brings or brought."""

    path: str
    state: FileState
    size: int = 0
    note: str = ""


class HookState(Enum):
    """What happens to an entry of a pack."""

    SET = "set"
    THERE = "there already"
    LEFT_OUT = "left out"
    """Its condition is not met."""
    STOPPED = "stopped"
    REPLACED = "replaced"
    """Takes the place of an earlier form of it."""
    OUT = "taken out"
    STAYS = "stays"
    """Another pack has it as well, or the builder had it."""
    BY_HAND = "by hand"
    """Changed by the builder, and left so."""
    GONE = "gone"


class HookStep(Struct, frozen=True, kw_only=True):
    """One hook in one file."""

    seat: str
    title: str
    path: str = ""
    state: HookState
    shown: str
    """The entry, on one line."""
    note: str = ""
    mind: bool = False
    """The note asks for something of the builder."""

    @property
    def told(self) -> str:
        """The entry on one line, with where it goes when no seat says so."""
        return self.shown if self.seat or not self.title else f"{self.title}: {self.shown}"


class ValueStep(Struct, frozen=True):
    """A value that was filled in, chosen or written."""

    what: str
    value: str
    by: str


class Unsure(Struct, frozen=True):
    """A place where it is unknown whether a name means something that is renamed."""

    spot: Spot
    why: str


class Stop(Message, frozen=True):
    """Why the plan cannot be carried out as it is."""

    question: Question | None = None
    """What could be answered instead of stopping."""


class PackPlan(Struct, frozen=True, kw_only=True):
    """One pack's share of a plan."""

    name: str
    version: str
    before: str = ""
    """The version that is there now."""
    sheet: HookSheet | None = None
    """None where it goes out."""
    files: tuple[FileStep, ...] = ()
    hooks: tuple[HookStep, ...] = ()
    values: tuple[ValueStep, ...] = ()
    notes: tuple[str, ...] = ()
    """What the builder should know of beside the steps."""
    adapted: tuple[tuple[str, Content, Content], ...] = ()
    """Files of the pack that this map is to have in another form than they were published in: the path here, the bytes
    as published, and those here."""
    listing: frozenset[str] = frozenset()
    """The seats at which hooks are rows of the manifest, which are many and say nothing new."""


class Plan(Struct, frozen=True, kw_only=True):
    """The whole of it."""

    packs: tuple[PackPlan, ...] = ()
    changes: tuple[Change, ...]
    """Files of the map."""
    own_changes: tuple[Change, ...] = ()
    """Our own files, which are written last."""
    ledger_before: Ledger
    ledger: Ledger
    """As it would be."""
    stops: tuple[Stop, ...] = ()
    questions: tuple[Question, ...] = ()
    """What may be answered, and need not."""
    open: tuple[Unsure, ...] = ()
    separated: tuple[RealPlace, ...] = ()
    """Files that lose something which a new file in their place cannot have: their other names, their owner."""

    @property
    def all_changes(self) -> tuple[Change, ...]:
        """The changes of the map and of the files that Hook Set keeps."""
        return self.changes + self.own_changes
