"""How a check is declared: code, title, why, remedy and the function, all in one place."""

from __future__ import annotations

import functools
import importlib
import pkgutil
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec import Struct

from hookset.checks.examples import Example
from hookset.config.layouts import Kind, Layout
from hookset.edits import EntryState, entry_states
from hookset.model import EVERY_SIDE, Mend, Severity, Where
from hookset.project import Accepted, Ledger, LedgerHook, Terms
from hookset.symbols import Analysis, Index, Reach, Resolutions, Web
from hookset.symbols.units import Units

if TYPE_CHECKING:
    from hookset.scene.scene import Scene

__all__ = ["Case", "Check", "UnplacedFinding", "all_checks", "check", "of_standing"]


class Case(Struct, frozen=True, dict=True):
    """What there is to judge."""

    analysis: Analysis
    ledger: Ledger
    terms: Terms = Terms()
    idle: tuple[Accepted, ...] = ()
    """What the terms accept and no check has found; known once all of them have looked."""
    unloaded: Mapping[str, tuple[UnplacedFinding, ...]] = {}
    """By file that the game never loads: what would be wrong in it; known once all checks have looked."""

    @property
    def web(self) -> Web:
        """What the files say."""
        return self.analysis.web

    @property
    def index(self) -> Index:
        """The definitions by name."""
        return self.analysis.index

    @property
    def reach(self) -> Reach:
        """What the game loads."""
        return self.analysis.reach

    @property
    def resolutions(self) -> Resolutions:
        """What became of every reference."""
        return self.analysis.resolutions

    @property
    def layout(self) -> Layout:
        """The layout of the map."""
        return self.web.layout

    @cached_property
    def scene(self) -> Scene:
        """Where everything stands."""
        from hookset.scene.scene import Scene

        return Scene(self.web.tree, self.layout)

    @cached_property
    def units(self) -> Units:
        """The units of the map."""
        return Units(self.layout.units, self.web, self.index)

    @cached_property
    def entries(self) -> Mapping[int, EntryState]:
        """By the order of each entry that packs have set as text: how it stands now. Records are the builder's to
        change; a lacking manifest row is told where its file is judged."""
        by_path: dict[str, list[LedgerHook]] = {}
        for hook in (hook for pack in self.ledger.packs for hook in pack.hooks):
            by_path.setdefault(hook.path, []).append(hook)
        listing = self.layout.manifest.seats if self.layout.manifest is not None else frozenset()
        seats = self.layout.seats.keys() - listing
        found: dict[int, EntryState] = {}
        for path, hooks in by_path.items():
            asked = [hook for hook in hooks if hook.text is not None and (hook.seat in seats or hook.anchor)]
            states = entry_states(self.layout, self.web.tree, path, asked, hooks)
            found |= {hook.order: state for hook, state in zip(asked, states, strict=True)}
        return found

    def kind(self, name: str) -> Kind:
        """Return a kind by its name. Raises KeyError."""
        return self.web.layout.kinds[name]


class UnplacedFinding(Struct, frozen=True, kw_only=True):
    """A finding before its line is known. Empty words are taken from the check."""

    path: str
    where: Where | None = None
    """None: the file as a whole, or `line`."""
    line: int = 0
    """For files that are no part of the map: hookset.toml."""
    message: str
    why: str = ""
    remedy: str = ""
    kind: str = ""
    name: str = ""
    side: str = EVERY_SIDE
    mend: Mend | None = None
    instead: tuple[str, ...] = ()
    """What could be written where it stands, the likeliest first."""
    severity: Severity | None = None
    """How grave it is by the layout; None: as the check says."""
    follows: int = 0
    """How many names are not told that are missing for this reason only."""
    loaded: bool = True
    """False where it counts in files that the game does not load, too, whatever the check says."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One declared check."""

    code: str
    title: str
    severity: Severity
    why: str
    remedy: str
    example: Example = field(compare=False)
    loaded: bool = False
    """Whether it counts only in files that the game loads."""
    function: Callable[[Case], Iterable[UnplacedFinding]]
    standing: bool = False
    """Whether it rests on where things stand alone."""

    @property
    def family(self) -> str:
        """The module that declares it."""
        return self.function.__module__.rpartition(".")[2]


def check(
    *,
    code: str,
    title: str,
    severity: Severity,
    why: str,
    remedy: str,
    example: Example,
    loaded: bool = False,
) -> Callable[[Callable[[Case], Iterable[UnplacedFinding]]], Check]:
    """Declare a check. It is found by standing in a module of this package."""

    def declare(function: Callable[[Case], Iterable[UnplacedFinding]]) -> Check:
        return Check(
            code=code,
            title=title,
            severity=severity,
            why=why,
            remedy=remedy,
            example=example,
            loaded=loaded,
            function=function,
        )

    return declare


def of_standing(declared: Check) -> Check:
    """Declare of a check that it rests on where things stand alone."""
    return replace(declared, standing=True)


@functools.cache
def all_checks() -> tuple[Check, ...]:
    """Every check of this package, by code."""
    package = __name__.rpartition(".")[0]
    modules = pkgutil.iter_modules(importlib.import_module(package).__path__)
    found = [
        value
        for module in modules
        for value in vars(importlib.import_module(f"{package}.{module.name}")).values()
        if isinstance(value, Check)
    ]
    return tuple(sorted(dict.fromkeys(found), key=lambda one: one.code))
