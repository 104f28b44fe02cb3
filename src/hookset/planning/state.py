"""The state of a plan while it is computed: the planned files and ledger, and the steps, stops and questions so far."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TypeVar

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from hookset.applying.change import Change
from hookset.config.layouts import Layout
from hookset.model import Where
from hookset.planning.choices import Choices, Question
from hookset.planning.plan import PackPlan, Plan, Stop, Unsure
from hookset.project import (
    KEPT,
    LEDGER,
    Ledger,
    LedgerHook,
    LedgerPack,
    MapProject,
    RealPlace,
    Stock,
    real_place,
    written_ledger,
)
from hookset.symbols import spots
from hookset.trees import Content, FolderTree, Inline, Member, Overlay, Tree, sha256_of
from hookset.trees.archives import ZipTree

__all__ = ["PlanState", "as_set", "plan_state_for", "unsure_names"]

_T = TypeVar("_T")
_SHA256 = re.compile(r"[0-9a-f]{64}")
_LARGEST_KEPT = 1 << 20
"""Bytes of a file that is kept as it was set: what is larger is not text that anybody edits."""


class PlanState(Struct, frozen=True, kw_only=True, dict=True):
    """One plan so far. A step takes one and gives the next: none is ever changed, so that a step that is only tried
    leaves nothing behind. Everything is in memory; only `plan` is seen outside."""

    layout: Layout
    stock: Stock
    root: Path
    """The map's folder."""
    base: Tree
    choices: Choices
    before: Ledger
    ledger: Ledger
    now: str
    contents: Mapping[str, Content | None] = field(default_factory=dict)
    """Files as they are planned; None for those that go."""
    kept: Mapping[str, Content] = field(default_factory=dict)
    """By SHA-256: files to be kept as they are set."""
    packs: tuple[PackPlan, ...] = ()
    stops: tuple[Stop, ...] = ()
    questions: tuple[Question, ...] = ()
    open: tuple[Unsure, ...] = ()
    order: int = 1
    """Of the next entry."""

    @cached_property
    def tree(self) -> Overlay:
        """The map as it is planned so far."""
        return Overlay(self.base, self.contents)

    def with_contents(self, contents: Mapping[str, Content | None]) -> PlanState:
        """These files written, or taken out where there is None."""
        return replace(self, contents={**self.contents, **contents}) if contents else self

    def with_kept(self, kept: Mapping[str, Content]) -> PlanState:
        """These files kept, by their SHA-256."""
        return replace(self, kept={**self.kept, **kept}) if kept else self

    def with_plan_of(self, pack: PackPlan) -> PlanState:
        """What happens to one more pack."""
        return replace(self, packs=(*self.packs, pack))

    def with_row(self, pack: LedgerPack) -> PlanState:
        """The ledger with this pack, in the place of an earlier row of its name."""
        return replace(self, ledger=self.ledger.with_pack(pack))

    def with_stops(self, stops: Iterable[Stop]) -> PlanState:
        """Reasons why the plan cannot be carried out, each once."""
        return replace(self, stops=more) if (more := _each_once(self.stops, stops)) != self.stops else self

    def with_questions(self, questions: Iterable[Question]) -> PlanState:
        """What the builder may answer."""
        return replace(self, questions=more) if (more := (*self.questions, *questions)) != self.questions else self

    def with_unsure(self, found: Iterable[Unsure]) -> PlanState:
        """Places that the builder has to look at."""
        return replace(self, open=more) if (more := _each_once(self.open, found)) != self.open else self

    def with_next_order(self) -> PlanState:
        """`order` has been given to an entry."""
        return replace(self, order=self.order + 1)

    def with_entries(self, path: str, hooks: Iterable[LedgerHook]) -> PlanState:
        """The ledger with the entries that a file has now, of all packs."""
        now = {hook.order: hook for hook in hooks}
        ledger = self.ledger
        for pack in self.ledger.packs:
            own = tuple(now.get(h.order, h) for h in pack.hooks if h.path != path or h.order in now)
            if own != pack.hooks:
                ledger = ledger.with_pack(msgspec.structs.replace(pack, hooks=own))
        return replace(self, ledger=ledger) if ledger is not self.ledger else self

    def kept_bytes(self, sha: str) -> bytes | None:
        """A file as it was set; None where it was not kept."""
        if sha in self.kept:
            return self.kept[sha].read()
        file = self.root / KEPT / sha
        if _SHA256.fullmatch(sha) is None or file.is_symlink() or not file.is_file():
            return None
        data = file.read_bytes()
        # Somebody may have changed it: then it is not what was set.
        return data if hashlib.sha256(data).hexdigest() == sha else None

    def entries_in(self, path: str) -> list[LedgerHook]:
        """The entries of all packs in one file."""
        return [hook for pack in self.ledger.packs for hook in pack.hooks if hook.path == path]

    def sha(self, path: str) -> str | None:
        """Of a file as it is planned."""
        return sha256_of(Member(self.tree, path)) if self.tree.has(path) else None

    def plan(self, ledger_bytes: bytes | None) -> Plan:
        """What came of it."""
        changes = tuple(_changes(self.base, self.contents))
        places = (
            [real_place(self.root, change.path) for change in changes] if not isinstance(self.base, ZipTree) else []
        )
        return Plan(
            packs=self.packs,
            changes=changes,
            separated=tuple(place for place in places if place.hard_links > 1 or place.owner is not None),
            own_changes=tuple(self._own_changes(ledger_bytes)),
            ledger_before=self.before,
            ledger=self.ledger,
            stops=(*self.stops, *_leading_out(changes, places)),
            questions=self.questions,
            open=self.open,
        )

    def _own_changes(self, ledger_bytes: bytes | None) -> Iterable[Change]:
        if self.before == self.ledger:
            return
        used = {sha for pack in self.ledger.packs for file in pack.files for sha in (file.sha256, file.instead_of)}
        root = FolderTree(self.root)
        there = {path.rpartition("/")[2] for path in _kept_paths(self.root)}
        for sha in sorted(used & self.kept.keys()):
            path = f"{KEPT}/{sha}"
            was = sha256_of(Member(root, path)) if sha in there else None
            if was != sha:
                yield Change(path=path, before=was, after=self.kept[sha])
        for sha in sorted(there - used):
            path = f"{KEPT}/{sha}"
            yield Change(path=path, before=sha256_of(Member(root, path)), after=None)
        was = None if ledger_bytes is None else sha256_of(Inline(ledger_bytes))
        # Last of all: the ledger says that the rest is there.
        yield Change(path=LEDGER, before=was, after=Inline(written_ledger(self.ledger)))


def _each_once(known: Iterable[_T], more: Iterable[_T]) -> tuple[_T, ...]:
    return tuple(dict.fromkeys((*known, *more)))


def _leading_out(changes: Sequence[Change], places: Sequence[RealPlace]) -> Iterable[Stop]:
    refused = [
        f"{change.path} {place.refused}" for change, place in zip(changes, places, strict=False) if place.refused
    ]
    if refused:
        yield Stop(
            "path-outside-map",
            "a file would be written that is no part of the map",
            details=tuple(refused[:20]),
            why="nothing that a pack, a map or an answer says may reach other files",
            remedy="replace the link by a real file or folder, or correct the path in the hook sheet or the answers",
        )


def plan_state_for(project: MapProject, ledger: Ledger, choices: Choices, now: str) -> PlanState:
    """An empty one."""
    return PlanState(
        layout=project.layout,
        stock=project.stock,
        root=project.root,
        base=project.tree,
        choices=choices,
        before=ledger,
        ledger=ledger,
        now=now,
        order=ledger.next_order,
    )


def _kept_paths(root: Path) -> list[str]:
    folder = root / KEPT
    names = [file.name for file in folder.iterdir()] if folder.is_dir() else []
    return sorted(f"{KEPT}/{name}" for name in names if _SHA256.fullmatch(name))


def _changes(tree: Tree, planned: Mapping[str, Content | None]) -> Iterable[Change]:
    for path, content in sorted(planned.items()):
        before = sha256_of(Member(tree, path)) if tree.has(path) else None
        if (sha256_of(content) if content is not None else None) != before:
            yield Change(path=path, before=before, after=content)


def as_set(content: Content) -> dict[str, Content]:
    """A file as it is set, by its SHA-256, to be kept where it is text."""
    text = content.size <= _LARGEST_KEPT and b"\0" not in content.read()
    return {sha256_of(content): content} if text else {}


def unsure_names(tree: Tree, layout: Layout, path: str, left: Iterable[tuple[Where, str]]) -> tuple[Unsure, ...]:
    """Names in a file that could not be followed."""
    found = spots(tree, layout, [(path, where) for where, _ in left])
    why = "built at run time, or written in a way that cannot be changed: it may mean something that is renamed"
    return tuple(Unsure(spot, why) for spot in found.values())
