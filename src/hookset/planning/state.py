"""Mutable state while a plan is computed: the planned files and ledger, and the steps, stops and questions so far."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import msgspec

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
    MapProject,
    RealPlace,
    Stock,
    real_place,
    written_ledger,
)
from hookset.symbols import spots
from hookset.trees import Content, FolderTree, Inline, Member, Overlay, Tree, ZipTree, sha256_of

__all__ = ["PlanState", "plan_state_for"]

_SHA256 = re.compile(r"[0-9a-f]{64}")
_LARGEST_KEPT = 1 << 20
"""Bytes of a file that is kept as it was set: what is larger is not text that anybody edits."""


@dataclass
class PlanState:
    """One plan in the making. Everything is computed in memory; only `plan` is seen outside."""

    layout: Layout
    stock: Stock
    root: Path
    """The map's folder."""
    base: Tree
    choices: Choices
    before: Ledger
    ledger: Ledger
    now: str
    contents: dict[str, Content | None] = field(default_factory=dict)
    kept: dict[str, Content] = field(default_factory=dict)
    """By SHA-256: files to be kept as they are set."""
    packs: list[PackPlan] = field(default_factory=list)
    stops: list[Stop] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    open: list[Unsure] = field(default_factory=list)
    order: int = 1
    """Of the next entry."""

    @property
    def tree(self) -> Overlay:
        """The map as it is planned so far."""
        return Overlay(self.base, dict(self.contents))

    @property
    def live(self) -> Overlay:
        """The same for a look at one file: it must not be kept, since it changes with the plan."""
        return Overlay(self.base, self.contents)

    def copy(self) -> PlanState:
        """To try something on."""
        return replace(
            self,
            contents=dict(self.contents),
            kept=dict(self.kept),
            packs=[],
            stops=[],
            questions=[],
            open=[],
        )

    def keep(self, content: Content) -> str:
        """Remember a file as it is set, where that is text. Gives its SHA-256."""
        sha = sha256_of(content)
        if content.size <= _LARGEST_KEPT and b"\0" not in content.read():
            self.kept[sha] = content
        return sha

    def keep_whole(self, content: Content) -> str:
        """Remember a file whatever it is: it is the builder's, and would be lost."""
        sha = sha256_of(content)
        self.kept[sha] = content
        return sha

    def unsure(self, path: str, left: Iterable[tuple[Where, str]]) -> None:
        """Names in a file of the map as it is planned that could not be followed."""
        found = spots(self.tree, self.layout, [(path, where) for where, _ in left])
        why = "built at run time, or written in a way that cannot be changed: it may mean something that is renamed"
        self.open += (Unsure(spot, why) for spot in found.values())

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

    def next_order(self) -> int:
        """Return the number of the next entry."""
        self.order += 1
        return self.order - 1

    def settle(self, path: str, hooks: Iterable[LedgerHook]) -> None:
        """Record the entries that a file has now, of all packs."""
        now = {hook.order: hook for hook in hooks}
        for pack in self.ledger.packs:
            own = tuple(now.get(h.order, h) for h in pack.hooks if h.path != path or h.order in now)
            if own != pack.hooks:
                self.ledger = self.ledger.with_pack(msgspec.structs.replace(pack, hooks=own))

    def sha(self, path: str) -> str | None:
        """Of a file as it is planned."""
        tree = self.live
        return sha256_of(Member(tree, path)) if tree.has(path) else None

    def plan(self, ledger_bytes: bytes | None) -> Plan:
        """What came of it."""
        changes = tuple(_changes(self.base, self.contents))
        places = (
            [real_place(self.root, change.path) for change in changes] if not isinstance(self.base, ZipTree) else []
        )
        return Plan(
            packs=tuple(self.packs),
            changes=changes,
            separated=tuple(place for place in places if place.hard_links > 1 or place.owner is not None),
            own_changes=tuple(self._own_changes(ledger_bytes)),
            ledger_before=self.before,
            ledger=self.ledger,
            stops=(*self.stops, *_leading_out(changes, places)),
            questions=tuple(self.questions),
            open=tuple(dict.fromkeys(self.open)),
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


def _leading_out(changes: Sequence[Change], places: Sequence[RealPlace]) -> Iterable[Stop]:
    refused = [
        f"{change.path} {place.refused}" for change, place in zip(changes, places, strict=False) if place.refused
    ]
    if refused:
        yield Stop(
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


def _changes(tree: Tree, planned: dict[str, Content | None]) -> Iterable[Change]:
    for path, content in sorted(planned.items()):
        before = sha256_of(Member(tree, path)) if tree.has(path) else None
        if (sha256_of(content) if content is not None else None) != before:
            yield Change(path=path, before=before, after=content)
