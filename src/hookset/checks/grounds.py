"""What verdicts on a map rest on, and what is kept of them for the next time."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from hookset.checks.judge import Verdict
from hookset.project import LEDGER, MapProject
from hookset.symbols import FactsCache
from hookset.symbols.cache import Read
from hookset.trees import FolderTree, Tree
from hookset.verdicts import Ground, MapMemo, keep_memo, remember
from hookset.verdicts.ground import rest_of

__all__ = ["ground_of", "ground_then", "remember_facts", "remember_map", "remember_verdict"]


def ground_of(project: MapProject, tree: Tree) -> Ground:
    """What a verdict on a map as it lies there rests on."""
    place = project.root / LEDGER
    return Ground(_rest(project, tree, place.read_bytes() if place.is_file() else None), tree)


def ground_then(project: MapProject, tree: Tree, ledger: bytes | None) -> Ground:
    """The same of the map as a change has left it that was judged before it was written: `tree` lies over what was
    there, with this ledger."""
    return Ground("" if project.file.map.file else _rest(project, tree, ledger), tree)


def remember_verdict(
    ground: Ground, cache: FactsCache, verdict: Verdict, digests: Mapping[str, bytes] = MappingProxyType({})
) -> None:
    """For the next time. `digests` are further ones of what files are, by path."""
    remember(ground, cache.verdicts, verdict.summary, {**verdict.case.web.digests, **digests})


def remember_map(project: MapProject, ground: Ground, cache: FactsCache) -> None:
    """For the next time: a map whose files tell by their stamps whether they have changed need not be opened."""
    if not ground.key or not isinstance(ground.tree, FolderTree):
        return
    own = project.file.map
    memo = MapMemo(
        title=f"{own.name} {own.version}",
        layout=project.layout.name,
        source=own.layout,
        fingerprint=project.layout.fingerprint,
        stock=project.file.content.stock,
        listing=project.listing,
    )
    keep_memo(project.root, memo, ground.tree, cache.verdicts)


def remember_facts(verdict: Verdict, changed: frozenset[str], cache: FactsCache) -> None:
    """What a plan made of files is what they say once it is written."""
    web = verdict.case.web
    fresh = [Read(facts, web.digests[facts.path]) for facts in web.files if facts.path in changed]
    cache.keep(web.tree, web.layout, web.words, fresh)


def _rest(project: MapProject, tree: Tree, ledger: bytes | None) -> str:
    """Empty where something cannot be told without reading it."""
    if not project.layout.fingerprint or project.file.content.roots:
        return ""
    return rest_of(project.root, project.layout.fingerprint, tree, ledger, project.file.content.stock)
