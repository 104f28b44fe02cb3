"""How a layout asks an XML file for values, and names spots in it."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from hookset.formats._xml.paths import compiled

__all__ = ["XmlOptions", "XmlSeat", "XmlSelector", "compiled"]


class XmlOptions(Struct, frozen=True, forbid_unknown_fields=True):
    namespaces: dict[str, str] = {}
    """Prefixes for the layout's XPaths."""

    def __hash__(self) -> int:
        return hash(tuple(sorted(self.namespaces.items())))


class XmlSelector(Struct, frozen=True, forbid_unknown_fields=True):
    at: str
    """XPath 1.0 of attributes, elements (their text) or texts."""

    def __post_init__(self) -> None:
        compiled(self.at, ())

    @property
    def path(self) -> str:
        return self.at


class XmlSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """One of into, before, after and on."""

    into: str | None = None
    """XPath of the element that takes a child."""
    at: Literal["start", "end"] = "end"
    before: str | None = None
    """XPath of the element that the new one stands above."""
    after: str | None = None
    """XPath of the element that the new one stands below; of several, the last."""
    on: str | None = None
    """XPath of the element that takes attributes: the hook brings a record."""

    def __post_init__(self) -> None:
        ways = [way for way in (self.into, self.before, self.after, self.on) if way is not None]
        if len(ways) != 1:
            raise ValueError("one of into, before, after and on says where the entry goes")
        compiled(ways[0], ())

    @property
    def path(self) -> str:
        """The one that is said."""
        return self.into or self.before or self.after or self.on or ""
