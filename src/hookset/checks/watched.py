"""A map whose files change while it is judged again and again: each time only what has changed is read."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from datetime import datetime
from types import MappingProxyType

from msgspec import Struct
from msgspec.structs import replace

from hookset.checks.judge import Verdict, judge
from hookset.checks.since import beyond
from hookset.model import CouldNotError, Finding
from hookset.project import MapProject, read_ledger
from hookset.symbols import FactsCache
from hookset.trees import Content, FolderTree, Inline, Member, Overlay, Tree
from hookset.verdicts import Summary

__all__ = ["Difference", "Watched", "WatchedChange", "difference", "judged_again", "watched"]

_HELD = 4 << 20
"""Bytes of a changed file that are held in memory: what is larger is read from the disk."""
_MOST_CHANGED = 400
"""Files that have changed, before the map is read as a whole once more."""


class Watched(Struct, frozen=True):
    """A map as it was judged last."""

    project: MapProject
    base: FolderTree | None
    """The files as they were listed first; None for a map that is an archive."""
    now: Tree
    """As they were listed last."""
    verdict: Verdict

    @property
    def summary(self) -> Summary:
        """What there was to tell."""
        return self.verdict.summary


class Difference(Struct, frozen=True):
    """Findings before and after."""

    came: tuple[Finding, ...]
    went: tuple[Finding, ...]


class WatchedChange(Struct, frozen=True):
    """A change to a watched map, and what it brought."""

    when: datetime
    paths: tuple[str, ...]
    """What has changed; empty for what there was at first."""
    found: Difference
    seconds: float
    """How long it took to judge."""


def difference(before: Iterable[Finding], after: Iterable[Finding]) -> Difference:
    """What is told now and was not before, and the other way round; by what it is, since lines move."""
    one, other = tuple(before), tuple(after)
    known, now = (tuple(finding.identity for finding in findings) for findings in (one, other))
    return Difference(beyond(other, known), beyond(one, now))


def watched(project: MapProject, cache: FactsCache | None = None) -> Watched:
    """Judge a map from the beginning."""
    tree = project.tree
    verdict = judge(tree, project.layout, project.stock, read_ledger(project.root), project.terms, cache)
    return Watched(project, tree if isinstance(tree, FolderTree) else None, tree, verdict)


def judged_again(
    last: Watched,
    told: Iterable[str],
    cache: FactsCache | None = None,
    unsaved: Mapping[str, bytes] = MappingProxyType({}),
) -> tuple[Watched, tuple[str, ...]]:
    """The same map as it is now, and what has changed: of the files that somebody `told` of, and of those that are not
    as they were when they were listed last. What is `unsaved` lies over what is on the disk."""
    project, told, ledger = last.project, tuple(told), read_ledger(last.project.root)
    same_packs = ledger == last.verdict.case.ledger
    # What packs have brought is of the map, whatever the layout ignores.
    now = (last.now.again(told) if told and same_packs and isinstance(last.now, FolderTree) else None) or project.tree
    if last.base is None or not isinstance(now, FolderTree) or not isinstance(last.now, FolderTree):
        # An archive is read as a whole, and nobody types in it.
        return watched(project, cache), told
    web = last.verdict.case.web
    seen = {path for path in told if now.has(path) or last.now.has(path) or web.tree.has(path)}
    paths = sorted(now.differs_in(last.now) | seen | unsaved.keys())
    found = {path: Inline(unsaved[path]) if path in unsaved else _content(now, path) for path in paths}
    before = web.tree.changes if isinstance(web.tree, Overlay) else {}
    # What is being typed is held, though it be as on the disk: others may write there.
    found = {
        path: one
        for path, one in found.items()
        if (before.get(path) != one if path in unsaved else not _same(web.digests.get(path, b""), one))
    }
    if not found and same_packs:
        return replace(last, now=now), ()
    if len(before) + len(found) > max(_MOST_CHANGED, 2 * len(unsaved)):
        again, _ = judged_again(watched(project, cache), (), cache, unsaved)
        return again, tuple(found)
    changes: dict[str, Content | None] = {**before, **found}
    verdict = judge(
        Overlay(last.base, changes),
        project.layout,
        project.stock,
        ledger,
        project.terms,
        last=last.verdict,
    )
    return Watched(project, last.base, now, verdict), tuple(found) or tuple(told)


def _same(digest: bytes, content: Content | None) -> bool:
    """Whether a file has the bytes that were read of it last."""
    return isinstance(content, Inline) and hashlib.sha256(content.data).digest() == digest


def _content(tree: FolderTree, path: str) -> Content | None:
    """A file as it is at this moment; None for one that is not there."""
    if not tree.has(path):
        return None
    if tree.size(path) > _HELD:
        return Member(tree, path)
    try:
        return Inline(tree.read(path))
    except CouldNotError:
        # It went since it was listed, or may not be read: that is told when it is judged.
        return Member(tree, path)
