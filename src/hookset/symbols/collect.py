"""Reading a tree by a layout's rules: what each of its files says."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hookset.config.layouts import Layout, map_words
from hookset.project import Stock
from hookset.symbols.cache import FactsCache, Read
from hookset.symbols.facts import FileFacts
from hookset.symbols.workers import read_files
from hookset.trees import Overlay, Tree

__all__ = ["Web", "changed_files", "collect", "completed"]


class Web(Struct, frozen=True):
    """The whole map's names, not yet resolved."""

    tree: Tree
    layout: Layout
    stock: Stock
    files: tuple[FileFacts, ...]
    words: Mapping[str, str]
    """What the map says of itself."""
    digests: Mapping[str, bytes]
    """The SHA-256 of the bytes in which files said so, by path; empty for those of which only the path counts."""


def collect(
    tree: Tree, layout: Layout, stock: Stock, cache: FactsCache | None = None, before: Web | None = None
) -> Web:
    """Read every file of the tree, but for those whose bytes are as they were when the cache was written, or in the map
    that the tree lies over and that was read `before`."""
    words = map_words(tree, layout)
    changed = _changed(tree, layout, words, before)
    known = {}
    if before is not None and changed is not None:
        if all(tree.has(path) and path in before.digests for path in changed):
            return _in_place(before, tree, stock, read_files(tree, sorted(changed), layout, words))
        known = {one.path: Read(one, before.digests[one.path]) for one in before.files if one.path not in changed}
    if not known and cache is not None:
        known = cache.kept(tree, layout, words)
    web, fresh = _with_rest(tree, layout, stock, words, known)
    if cache is not None and fresh and not isinstance(tree, Overlay):
        # What a plan would make of files is remembered once it is written.
        cache.keep(tree, layout, words, fresh)
    return web


def completed(tree: Tree, layout: Layout, stock: Stock, known: Mapping[str, Read]) -> Web:
    """The names of a tree of which some files were read already, by path."""
    return _with_rest(tree, layout, stock, map_words(tree, layout), known)[0]


def _with_rest(
    tree: Tree, layout: Layout, stock: Stock, words: Mapping[str, str], known: Mapping[str, Read]
) -> tuple[Web, Sequence[Read]]:
    """All files, and those that had to be read for it."""
    fresh = read_files(tree, [path for path in tree.paths() if path not in known], layout, words)
    found = {**known, **{one.facts.path: one for one in fresh}}
    read = {path: found[path] for path in tree.paths()}
    facts = tuple(one.facts for one in read.values())
    return Web(tree, layout, stock, facts, words, {path: one.sha for path, one in read.items()}), fresh


def _changed(tree: Tree, layout: Layout, words: Mapping[str, str], before: Web | None) -> frozenset[str] | None:
    """The files that may say something else than before; None where all may."""
    if before is None or before.layout is not layout or before.words != words or not isinstance(tree, Overlay):
        return None
    return tree.differs_from(before.tree)


def _in_place(before: Web, tree: Tree, stock: Stock, fresh: Sequence[Read]) -> Web:
    """The same files, some of which say something else."""
    by_path = {one.facts.path: one for one in fresh}
    files = tuple([by_path[one.path].facts if one.path in by_path else one for one in before.files])
    digests = {**before.digests, **{path: one.sha for path, one in by_path.items()}}
    return Web(tree, before.layout, stock, files, before.words, digests)


def changed_files(web: Web, earlier: Web) -> list[tuple[FileFacts, FileFacts]] | None:
    """The files that say something else than they did, each with what it said then; None where not the very same files
    are there, or another layout reads them."""
    if web.layout is not earlier.layout or len(web.files) != len(earlier.files):
        return None
    changed = [(now, was) for now, was in zip(web.files, earlier.files, strict=True) if now is not was]
    return changed if all(now.path == was.path for now, was in changed) else None
