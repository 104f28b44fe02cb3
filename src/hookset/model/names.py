"""The web's own words: what a file defines and what it refers to.

These types are made by the hundred thousand, so they are flat msgspec structs outside of the garbage collector.
"""

from __future__ import annotations

from msgspec import Struct

__all__ = ["EVERY_SIDE", "Definition", "Problem", "Reference", "Spot", "Where", "sides_meet"]

Where = int | str
"""Where in a file a value stands: a character offset into its decoded text, or an address in the file's own
language (a JSON Pointer). Lines and columns are worked out from it only for what is shown."""

EVERY_SIDE = ""
"""The side of a name that is there on each side."""


class Definition(Struct, frozen=True, gc=False, kw_only=True):
    """A name that a file (or the stock) brings into being."""

    kind: str
    name: str
    side: str = EVERY_SIDE
    path: str
    where: Where = 0
    variant: str = ""
    """For kinds that must be there once per variant (texts: the language), which one this is."""


class Reference(Struct, frozen=True, gc=False, kw_only=True):
    """A name that a file counts on."""

    kind: str
    name: str
    """What is looked up; for path-like kinds the path from the map's top. `*` stands for what only the game knows."""
    written: str
    """The name as it stands in the file."""
    others: tuple[str, ...] = ()
    """What is looked up next: the same path below another root, or with another ending."""
    side: str = EVERY_SIDE
    path: str
    where: Where = 0
    pattern: bool = False
    """Built at run time: `name` holds at least one `*`."""
    use: bool = True
    """Whether the reference is a use of what it names. A manifest row is none: it ships a file, it does not need it."""
    severity: str = ""
    """How grave it is that it is missing, where the layout's rule says so: error, warning, note."""
    optional: bool = False
    """Whether it may be missing."""
    says: str = ""
    """What a finding says where it is missing, with `{name}` for what it names."""
    guards: tuple[tuple[str, str], ...] = ()
    """(kind, name) of what must be there for this to count."""


class Problem(Struct, frozen=True, gc=False, kw_only=True):
    """Why a file, or one record in it, could not be read as the layout says."""

    path: str
    where: Where = 0
    what: str
    record: bool = False
    """A record that breaks the layout's rules, in a file that reads well otherwise."""
    closed: bool = False
    """Its bytes cannot be had, or are no text of any encoding that there is: whatever the game does with it."""
    unseen: bool = False
    """What is there is no mistake, and is taken from elsewhere: it is not looked into."""

    @property
    def damage(self) -> bool:
        """Whether the file is not what it should be."""
        return not self.record and not self.unseen


class Spot(Struct, frozen=True, gc=False, order=True):
    """A place as people name it: lines and columns count from one; line 0 means the file as a whole."""

    path: str
    line: int = 0
    column: int = 0

    def __str__(self) -> str:
        place = f":{self.line}:{self.column}" if self.column else f":{self.line}" if self.line else ""
        return self.path + place


def sides_meet(one: str, other: str) -> bool:
    """Whether something on side `one` can be seen from side `other`."""
    return EVERY_SIDE in (one, other) or one == other
