"""Names that belong to something, `OWNER::NAME`: the owner has them itself, or from what it is made of."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from hookset.config.layouts import Kind
from hookset.model import Definition
from hookset.symbols.index import OWNS, Index

__all__ = ["Belongings", "belongings", "names_of_owner", "owner_and_name"]


class Belongings(Struct, frozen=True):
    """What is known of one name of an owner."""

    definitions: tuple[Definition, ...]
    """Those of the nearest owner that has it."""
    cased: tuple[Definition, ...]
    """Where there are none: those that differ in letter case only."""
    made: tuple[Definition, ...]
    """Those whose names are made at run time and that may turn out to be this one."""
    known: bool
    """Whether all is known that the owner has: neither it nor anything that it is made of is outside of the map."""


def owner_and_name(name: str) -> tuple[str, str]:
    """The two parts of a name that belongs to something."""
    owner, _, own = name.rpartition(OWNS)
    return owner, own


def belongings(index: Index, kind: Kind, name: str) -> Belongings:
    """What the map says of a name of an owned kind."""
    owner, own = owner_and_name(name)
    cased: list[Definition] = []
    made: list[Definition] = []
    known = True
    for one in _line(index, kind, owner):
        full = f"{one}{OWNS}{own}"
        if found := index.get(kind.name, full):
            return Belongings(tuple(found), (), (), True)
        made += index.made_like(kind.name, full)
        cased += index.folded(kind.name, full)
        known = known and _is_known(index, kind, one)
    return Belongings((), tuple(cased), tuple(made), known)


def names_of_owner(index: Index, kind: Kind, owner: str) -> Iterator[str]:
    """Every name of an owned kind that an owner has, `OWNER::NAME`, though it be from what that is made of."""
    line = {*_line(index, kind, owner)}
    for name in index.known(kind.name):
        whose, own = owner_and_name(name)
        if whose in line:
            yield f"{owner}{OWNS}{own}"


def _line(index: Index, kind: Kind, owner: str) -> Iterator[str]:
    """An owner and all that it is made of, the nearest first; each once, though they may go round in a circle."""
    waiting, seen = [owner], {owner}
    while waiting:
        one = waiting.pop(0)
        yield one
        for other in index.made_of(kind.entry.inherits).get(one, ()) if kind.entry.inherits else ():
            if other not in seen:
                seen.add(other)
                waiting.append(other)


def _is_known(index: Index, kind: Kind, owner: str) -> bool:
    if owner in index.owners(kind.name):
        return True
    above = kind.entry.inherits
    return above != "" and (owner in index.made_of(above) or owner in index.layout.kinds[above].entry.vocabulary)
