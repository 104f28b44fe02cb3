"""What is known of the references of a map from before a change: which of them are met as they were."""

from __future__ import annotations

from msgspec import Struct

from hookset.config.layouts import Kind
from hookset.symbols.collect import Web
from hookset.symbols.facts import FileFacts, Referred
from hookset.symbols.index import Index
from hookset.symbols.reach import Reach
from hookset.symbols.settled import Rest, Settled, unchanged

__all__ = ["ALL_MET", "Before", "is_plain", "known_before"]

ALL_MET = Rest()


class Before(Struct, frozen=True):
    """What is known of the references of the same map before a change."""

    settled: Settled | None
    files: frozenset[str]
    """Those that are as they were."""
    kinds: frozenset[str]
    """Those of which all that is asked for is met as it was."""

    def all_met(self, file: FileFacts) -> bool:
        """Whether it is known that the map meets all references of a file."""
        if self.settled is None or file.path not in self.files or file.path in self.settled.rest:
            return False
        return self.kinds.issuperset([block.kind for block in file.referred])

    def rest(self, path: str, number: int, block: Referred) -> Rest | None:
        """Which of a block's references the map does not meet; nothing where that is to be judged."""
        if self.settled is None or path not in self.files or block.kind not in self.kinds:
            return None
        return self.settled.rest.get(path, {}).get(number, ALL_MET)


def known_before(web: Web, index: Index, reach: Reach) -> Before:
    """As far as the same names are defined, and the same files loaded where that counts."""
    settled = index.settled
    if settled is None:
        return Before(None, frozenset(), frozenset())
    as_loaded = settled.loaded == reach.digest
    kinds = frozenset(
        name
        for name, kind in web.layout.kinds.items()
        # What belongs to others is met by what is defined of other kinds.
        if index.same(name) and not kind.entry.owned and (as_loaded or is_plain(kind, index))
    )
    return Before(settled, unchanged(settled, web), kinds)


def is_plain(kind: Kind, index: Index) -> bool:
    """Whether being defined anywhere is enough."""
    return kind.name not in index.unknowable and not (kind.entry.each or kind.entry.sided or kind.entry.reached)
