"""What an install would do: a value, made without writing anything and shown, judged and written as it is."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Literal

from hookset.core.install.change import Change
from hookset.core.packs import Pack
from hookset.core.project import Ledger

__all__ = ["Choices", "FileState", "FileStep", "HookState", "HookStep", "PackPlan", "Plan", "Stop"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Choices:
    """What the builder decided beforehand."""

    other_bytes: Literal["stop", "mine", "theirs"] = "stop"
    """For a file that is there with other content: stop, keep the map's, or take the pack's."""


class FileState(Enum):
    NEW = "new"
    SAME = "same"
    DIFFERENT = "different"
    KEPT = "kept"
    """Different, and the map's was kept by choice."""
    REPLACED = "replaced"
    """Different, and the pack's was taken by choice."""


@dataclass(frozen=True, slots=True)
class FileStep:
    """One file that a pack brings."""

    path: str
    state: FileState
    size: int


class HookState(Enum):
    SET = "set"
    THERE = "there already"
    LEFT_OUT = "left out"
    """Its condition is not met."""
    STOPPED = "stopped"


@dataclass(frozen=True, slots=True, kw_only=True)
class HookStep:
    """One hook in one file."""

    seat: str
    title: str
    path: str = ""
    state: HookState
    shown: str
    """The entry, on one line."""
    texts: tuple[str, ...] = ()
    """What is inserted, as it will stand in the file; the hook's own text for what is there already."""
    before: tuple[str, ...] = ()
    """The line above each."""
    note: str = ""


@dataclass(frozen=True, slots=True)
class Stop:
    """Why the plan cannot be carried out as it is."""

    what: str
    where: str = ""
    why: str = ""
    remedy: str = ""
    details: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PackPlan:
    """One pack's share of a plan."""

    pack: Pack
    files: tuple[FileStep, ...]
    hooks: tuple[HookStep, ...]
    installed: bool
    """It was in the ledger already, in this version."""


@dataclass(frozen=True, kw_only=True)
class Plan:
    """The whole of it."""

    packs: tuple[PackPlan, ...]
    changes: tuple[Change, ...]
    """Files of the map."""
    ledger_before: Ledger
    ledger: Ledger
    """As it would be."""
    ledger_change: Change | None
    stops: tuple[Stop, ...]

    @property
    def all_changes(self) -> tuple[Change, ...]:
        """With the ledger, which is written last."""
        return self.changes + ((self.ledger_change,) if self.ledger_change else ())
