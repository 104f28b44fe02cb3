"""A layout, ready for use: every rule with its format's own selector, every pattern checked."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

from msgspec import Struct, field

from hookset.config.layouts.comparisons import (
    AgreeRule,
    BoundsRule,
    CalledRule,
    Compared,
    CountRule,
    GroundRule,
    OrderRule,
    PairedRule,
    SeriesRule,
)
from hookset.config.layouts.listing import Manifest
from hookset.config.layouts.positions import Positions
from hookset.config.layouts.rules import Change, Descriptor, Engine, Kind, LogRule, ReadRule, Seat, Step, ValueQuery
from hookset.config.layouts.schema import BuildEntry, LookupEntry, MirrorEntry, RecogniseEntry, UnitsEntry
from hookset.config.layouts.template import Template
from hookset.formats import format_named
from hookset.trees import Glob, Globs

__all__ = ["Layout"]


class Layout(Struct, frozen=True, kw_only=True, dict=True):
    """How one kind of map project is arranged."""

    name: str
    title: str
    sides: tuple[str, ...]
    both: str
    ignore: Globs
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
    changes: Mapping[str, Change] = field(default_factory=dict)
    """Values of what is there, which hooks may change."""
    agree: tuple[AgreeRule, ...] = ()
    counts: tuple[CountRule, ...] = ()
    bounds: tuple[BoundsRule, ...] = ()
    orders: tuple[OrderRule, ...] = ()
    called: tuple[CalledRule, ...] = ()
    paired: tuple[PairedRule, ...] = ()
    series: tuple[SeriesRule, ...] = ()
    mirrors: tuple[MirrorEntry, ...] = ()
    grounds: tuple[GroundRule, ...] = ()
    positions: Positions = field(default_factory=Positions)
    """Where things stand."""
    lookups: Mapping[str, LookupEntry] = field(default_factory=dict)
    words: Mapping[str, Template] = field(default_factory=dict)
    """Further forms of the map's name and version."""
    folder: Template | None = None
    """The folder inside the map that is called after it."""
    logs: tuple[LogRule, ...] = ()
    steps: tuple[Step, ...] = ()
    """Commands that make further files of the map."""
    engines: tuple[Engine, ...] = ()
    """Programs that load a map without a screen."""
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
    def belonging_kinds(self) -> frozenset[str]:
        """The kinds that say to what names belong: owned ones, and those that say of what owners are made. They are
        there to be checked; lists of names have the names without their owners."""
        owned = {name for name, kind in self.kinds.items() if kind.entry.owned}
        return frozenset(owned | {self.kinds[name].entry.inherits for name in owned} - {""})

    @cached_property
    def compared(self) -> tuple[Compared, ...]:
        """Every value that a rule compares, with the rule's title."""
        found: list[Compared] = []
        for agree in self.agree:
            found += (Compared(agree.title, one) for one in (*agree.values, *agree.take.values()))
        for bounds in self.bounds:
            found += (Compared(bounds.entry.title, one) for one in (*bounds.values, bounds.least, bounds.most)
                      if isinstance(one, ValueQuery))  # fmt: skip
        for order in self.orders:
            found += (Compared(order.entry.title, one) for one in order.values)
        for count in self.counts:
            title = f"how many {self.kinds[count.entry.kind].label}"
            found += (Compared(title, one) for one in (count.least, count.most) if isinstance(one, ValueQuery))
        for pair in self.paired:
            found += (Compared(pair.entry.title, one.asked, one.entry.value) for one in (pair.one, pair.other))
        for ground in self.grounds:
            found += (Compared(ground.entry.title, one.asked, one.height) for one in ground.queries)
        return tuple(found)

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
        return self.ignore.matches(path)
