"""What a builder decided while walking through the notes of a pack: a TOML file of ours, which can be written by hand,
by the walk, or by another program."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Literal

import msgspec
from msgspec import Struct

from hookset.config.layouts.schema import LookupEntry
from hookset.config.sheets import Complaint, read_sheet, typed
from hookset.formats.toml import written
from hookset.packs.hooksheet import (
    BlankEntry,
    ClaimEntry,
    ExcludeEntry,
    FilesEntry,
    HookEntry,
    NamedValue,
    NeedEntry,
    PartEntry,
    PlaceEntry,
    RenamedEntry,
    SettingEntry,
)

__all__ = ["PACK", "TABLES", "Decision", "Mark", "Walk", "read_decision", "read_walk", "walk_text"]

PACK = "pack"
"""`lines` of the step that is about no line of the notes, but about the pack as a whole."""
TABLES = (
    "needs",
    "excludes",
    "part",
    "files",
    "lookup",
    "value",
    "place",
    "hook",
    "setting",
    "claim",
    "blank",
    "renamed",
)
"""Tables of a hook sheet that a decision can have."""
_LINES = re.compile(r"(?P<notes>.+):(?P<first>\d{1,9})(?:-(?P<last>\d{1,9}))?")
_REMEDY = "correct the file of decisions, or make one with --walk"


class _Table(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    pass


class Mark(_Table, frozen=True):
    """A piece of what is set that is not copied as it stands."""

    text: str
    becomes: str
    """Mostly a word in braces: `{next:slot}`, `{setting:fog}`."""


class Decision(_Table, frozen=True):
    """What is to become of some lines of the notes: `[[step]]`."""

    lines: str
    """`NOTES.txt:13-18`, `NOTES.txt:13`, or `pack` for what no line says."""
    said: str = ""
    """The first of them, by which they are found where a later version has them elsewhere."""
    do: Literal["accept", "instead", "leave", "by-hand"] = "accept"
    """Whether what was understood of them holds, with what is added here; whether what is said here comes in its
    place; whether nothing is to come of them; whether the builder does it by hand."""
    why: str = ""
    seat: str = ""
    """The seat that their text goes to."""
    at: dict[str, str] = {}
    """What that seat goes by."""
    text: str | None = None
    """What stands in place of the text in them."""
    mark: tuple[Mark, ...] = ()
    out: tuple[str, ...] = ()
    """Patterns over the pack's files: those that stay out."""
    needs: tuple[NeedEntry, ...] = ()
    excludes: tuple[ExcludeEntry, ...] = ()
    part: tuple[PartEntry, ...] = ()
    files: tuple[FilesEntry, ...] = ()
    lookup: tuple[LookupEntry, ...] = ()
    value: tuple[NamedValue, ...] = ()
    place: tuple[PlaceEntry, ...] = ()
    hook: tuple[HookEntry, ...] = ()
    setting: tuple[SettingEntry, ...] = ()
    claim: tuple[ClaimEntry, ...] = ()
    blank: tuple[BlankEntry, ...] = ()
    renamed: tuple[RenamedEntry, ...] = ()

    @property
    def stretch(self) -> tuple[str, int, int] | None:
        """(file of notes, first line, last line); None for what is about the pack, or is not understood."""
        match = _LINES.fullmatch(self.lines)
        if match is None:
            return None
        first = int(match["first"])
        return match["notes"], first, int(match["last"] or first)

    @property
    def tables(self) -> dict[str, tuple[Any, ...]]:
        """What it has of a hook sheet, by table."""
        return {table: entries for table in TABLES if (entries := getattr(self, table))}


class Walk(_Table, frozen=True):
    """The decisions about one pack."""

    sha256: str = ""
    """Of the pack that they were made for; empty: not told."""
    pack: dict[str, Any] = {}
    """Keys of the sheet's `[pack]` that were decided."""
    step: tuple[Decision, ...] = ()

    def with_step(self, decision: Decision) -> Walk:
        """With one more decision, in place of those about the same lines."""
        others = tuple(one for one in self.step if not _meet(one, decision))
        return msgspec.structs.replace(self, step=(*others, decision))

    def without(self, lines: str) -> Walk:
        """Without the decision about these lines."""
        return msgspec.structs.replace(self, step=tuple(one for one in self.step if one.lines != lines))


def _meet(one: Decision, other: Decision) -> bool:
    """Whether two are about the same line."""
    here, there = one.stretch, other.stretch
    if here is None or there is None:
        return one.lines == other.lines
    return here[0] == there[0] and here[1] <= there[2] and there[1] <= here[2]


def read_walk(data: bytes, where: str) -> Walk:
    """Raises CouldNotError for a file that is none, with every mistake."""
    sheet = read_sheet(data, where)
    walk = typed(sheet.data, Walk)
    complaints = walk if isinstance(walk, list) else list(_mistakes(walk))
    if isinstance(walk, list) or complaints:
        raise sheet.error(complaints, _REMEDY)
    return walk


def read_decision(data: bytes, about: Decision) -> Decision:
    """Entries as a hook sheet has them, as the decision `about` some lines. Raises CouldNotError for what is none."""
    sheet = read_sheet(data, "the entries")
    found = typed({**msgspec.to_builtins(about), **sheet.data}, Decision)
    if isinstance(found, list):
        raise sheet.error(found, "correct the entries")
    return found


def _mistakes(walk: Walk) -> Iterator[Complaint]:
    for index, one in enumerate(walk.step):
        if one.lines != PACK and one.stretch is None:
            told = f"`{one.lines}` names no lines: write FILE:FIRST-LAST, FILE:LINE or `{PACK}`"
            yield Complaint(f"/step/{index}/lines", told)
        if one.do in ("leave", "by-hand") and (one.tables or one.seat or one.text is not None or one.mark):
            yield Complaint(f"/step/{index}/do", f"with `{one.do}` nothing is set: it goes without anything else")
        if one.do == "instead" and (one.seat or one.text is not None or one.mark):
            yield Complaint(f"/step/{index}/do", "`instead` has entries of its own: no `seat`, `text`, `mark`")


def walk_text(walk: Walk) -> str:
    """The decisions as TOML."""
    parts = [f"sha256 = {written(walk.sha256)}"] if walk.sha256 else []
    if walk.pack:
        parts += ["", "[pack]", *(f"{key} = {written(value)}" for key, value in walk.pack.items())]
    for one in walk.step:
        parts += ["", "[[step]]"]
        parts += (f"{key} = {_shown(value)}" for key, value in _said(one).items() if key not in (*TABLES, "mark"))
        for table in ("mark", *TABLES):
            for entry in getattr(one, table):
                parts += [f"[[step.{table}]]", *(f"{key} = {_shown(value)}" for key, value in _said(entry).items())]
    first = "# Decided while walking through the notes of a pack; `hookset draft --answers` reads it."
    return "\n".join([first, *parts, ""])


def _shown(value: Any) -> str:
    if isinstance(value, str) and "\n" in value and "'''" not in value and value.replace("\n", "").isprintable():
        return f"'''\n{value}'''"
    return written(value)


def _said(entry: Struct) -> dict[str, Any]:
    """What differs from what goes without saying, as plain data."""
    plain = msgspec.to_builtins(entry)
    defaults = {field.encode_name: field.default for field in msgspec.structs.fields(entry)}
    return {key: _lean(value) for key, value in plain.items() if value != defaults[key] and value not in (None, [], {})}


def _lean(value: Any) -> Any:
    """Without what TOML cannot say."""
    if isinstance(value, dict):
        return {key: _lean(inner) for key, inner in value.items() if inner is not None}
    return [_lean(inner) for inner in value] if isinstance(value, list) else value
