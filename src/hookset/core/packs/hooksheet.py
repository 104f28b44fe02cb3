"""`hooksheet.toml`: what a pack brings, sets, needs, claims and leaves blank. These types are its JSON Schema, too."""

from __future__ import annotations

from typing import Any, Literal

from msgspec import Struct, field

__all__ = [
    "SHEET_NAME",
    "BlankEntry",
    "ClaimEntry",
    "FilesEntry",
    "HookEntry",
    "HookSheet",
    "NeedEntry",
    "PackEntry",
    "SettingEntry",
    "WhenEntry",
]

SHEET_NAME = "hooksheet.toml"


class _Table(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    pass


class PackEntry(_Table, frozen=True):
    name: str
    version: str
    title: str = ""
    authors: tuple[str, ...] = ()
    license: str = ""
    """An SPDX expression."""
    layouts: tuple[str, ...] = ()
    """The layouts it can be set into; empty: not told."""
    look_for: tuple[str, ...] = ()
    """What to look for in the game afterwards."""


class NeedEntry(_Table, frozen=True):
    """Something that must be there: a name of any kind of the layout, or a pack."""

    kind: str
    """A kind of the layout, or `pack`."""
    name: str
    side: str = ""
    version: str = ""
    """For packs: a version specifier (PEP 440), such as `>=1.2, <2`."""
    why: str = ""
    remedy: str = ""
    """What the builder can do to have it."""


class FilesEntry(_Table, frozen=True):
    from_: str = field(name="from")
    """A pattern over the pack's files."""
    to: str = "."
    """The folder of the map that they go to; what lies below the pattern's fixed front keeps its shape."""


class WhenEntry(_Table, frozen=True):
    pack: str
    """Only where this pack is installed."""


class HookEntry(_Table, frozen=True):
    seat: str
    text: str | None = None
    """Text in the file's own language."""
    record: dict[str, Any] | None = None
    """Keys and values."""
    each: dict[str, dict[str, Any] | str] | None = None
    """For seats that are one file per variant (texts: per language): keys and values, or text, for each."""
    when: WhenEntry | None = None


class WriteEntry(_Table, frozen=True):
    file: str
    assign: str


class SettingEntry(_Table, frozen=True):
    name: str
    type: Literal["int", "float", "bool", "text"]
    default: Any
    range: tuple[float, float] | None = None
    unit: str = ""
    says: str = ""
    write: tuple[WriteEntry, ...] = ()


class ClaimEntry(_Table, frozen=True):
    kind: str
    """A kind with a pool."""


class BlankEntry(_Table, frozen=True):
    name: str
    kind: str
    into: str
    says: str = ""


class HookSheet(_Table, frozen=True):
    pack: PackEntry
    needs: tuple[NeedEntry, ...] = ()
    files: tuple[FilesEntry, ...] = ()
    hook: tuple[HookEntry, ...] = ()
    setting: tuple[SettingEntry, ...] = ()
    claim: tuple[ClaimEntry, ...] = ()
    blank: tuple[BlankEntry, ...] = ()
