"""The blocks of definitions of each kind, with their files; and which kinds are defined otherwise than before a
change."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence

from hookset.symbols.collect import Web, changed_files
from hookset.symbols.facts import Defined

__all__ = ["Blocks", "blocks_of_kinds", "say_the_same", "touched_kinds"]

Blocks = dict[str, list[tuple[str, Defined]]]


def touched_kinds(web: Web, earlier: Web) -> frozenset[str] | None:
    """The kinds that files define otherwise than they did; None where other files are there, or another layout."""
    changed = changed_files(web, earlier)
    if changed is None:
        return None
    both = [(now.defined, was.defined) for now, was in changed] + [(now.made, was.made) for now, was in changed]
    said = [(_by_kind(now), _by_kind(then)) for now, then in both]
    return frozenset(kind for now, then in said for kind in now.keys() | then.keys() if now.get(kind) != then.get(kind))


def _by_kind(blocks: Iterable[Defined]) -> dict[str, list[Defined]]:
    found: dict[str, list[Defined]] = {}
    for block in blocks:
        found.setdefault(block.kind, []).append(block)
    return found


def blocks_of_kinds(web: Web, kinds: Collection[str]) -> tuple[Blocks, Blocks]:
    """For each of some kinds: the file and the block of all definitions, and of those whose names are made."""
    defined: Blocks = {kind: [] for kind in kinds}
    made: Blocks = {kind: [] for kind in kinds}
    for file in web.files if kinds else ():
        for block in file.defined:
            if block.kind in kinds:
                defined[block.kind].append((file.path, block))
        for block in file.made:
            if block.kind in kinds:
                made[block.kind].append((file.path, block))
    return defined, made


def say_the_same(some: Sequence[tuple[str, Defined]], others: Sequence[tuple[str, Defined]]) -> bool:
    """Whether the same files define the same names on the same sides, in the same order, wherever these stand."""
    return some is others or (
        len(some) == len(others)
        and all(
            path == other
            and (block is was or (block.side, block.variant, block.names) == (was.side, was.variant, was.names))
            for (path, block), (other, was) in zip(some, others, strict=True)
        )
    )
