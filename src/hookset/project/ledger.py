"""`.hookset/ledger.json`: what was set, exactly. It goes into version control with the map."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal

import msgspec
from msgspec import Struct

from hookset.config.sheets import read_record
from hookset.model import CouldNotError
from hookset.project.inside import our_folder
from hookset.trees import read_regular, unsafe_reason
from hookset.trees.ours import LEDGER, is_ours

__all__ = [
    "Ledger",
    "LedgerAnchor",
    "LedgerBlank",
    "LedgerEdit",
    "LedgerFile",
    "LedgerFill",
    "LedgerHook",
    "LedgerPack",
    "LedgerPlace",
    "LedgerSetting",
    "LedgerSpot",
    "installed_paths",
    "read_ledger",
    "written_ledger",
]

_FORM = 2
_LARGEST = 256 << 20
"""Bytes."""
_SHA256 = re.compile(r"[0-9a-f]{64}")


class LedgerFile(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """A file that a pack brought."""

    path: str
    sha256: str
    """Of the file as it was set, with this map's values in it."""
    source: str = ""
    """Its path in the pack."""
    was_there: bool = False
    """The same bytes lay there before: not ours to take away."""
    kept_mine: bool = False
    """Another file of that name lay there, and stayed by choice."""
    instead_of: str = ""
    """SHA-256 of the map's own file that the pack's was taken instead of; its bytes are kept."""
    blank: str = ""
    """The blank that the builder filled with it."""


class LedgerEdit(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """One stretch of a file that an entry changed."""

    new: str
    old: str = ""
    above: str = ""
    """The line above it that is not empty, when it was set, and the one below it: where to look for it again. Of what
    was taken out several lines, each behind a line break."""
    below: str = ""


class LedgerFill(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What was filled in for `{…}` in an entry."""

    asked: str
    value: str
    by: str = ""
    """Where the value came from, in words."""


class LedgerSpot(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """A value in a file."""

    file: str
    ask: dict[str, Any]
    """What the file's format is asked with."""


class LedgerAnchor(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What an entry stands by that has no seat."""

    text: str
    """What stands in the file once."""
    way: Literal["before", "after", "instead"]


class LedgerHook(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """An entry of a file of the map. It is found again by its text and its neighbours, not by a line number."""

    order: int
    """The order in which the entries of all packs were set."""
    seat: str = ""
    at: dict[str, str] = {}
    """What the seat was told to go by, such as the object that takes an attribute."""
    ask: dict[str, Any] | None = None
    """For a value that was written into a file of the map: which."""
    anchor: LedgerAnchor | None = None
    """For text that goes by other text of the file: by which."""
    path: str
    part: str = ""
    """The part of the pack that it belongs to."""
    place: str = ""
    """The place of the pack that it stands at."""
    key: str
    """The same for the same entry of the hook sheet, whatever was filled in."""
    text: str | None = None
    record: dict[str, Any] | None = None
    """The entry as it was set."""
    raw_text: str | None = None
    raw_record: dict[str, Any] | None = None
    """The entry as the hook sheet has it, where something was filled in."""
    fills: tuple[LedgerFill, ...] = ()
    edits: tuple[LedgerEdit, ...] = ()
    """In the order of the file."""
    was_there: bool = False
    """The builder had it already."""
    placed: dict[str, Any] = {}
    """Where the builder has put what it places: values of its record, by the ways to them."""
    unplaced: str = ""
    """SHA-256 of the entry as it was before it was put there."""

    @property
    def of_sheet(self) -> bool:
        """Whether a hook of the sheet asks for it; others are settings and names that an upgrade has changed."""
        return " " not in self.key

    @property
    def shown(self) -> str:
        """On one line."""
        if self.text == "" and self.anchor is not None:
            return f"without {_on_one_line(self.anchor.text)}"
        if self.text is not None:
            return _on_one_line(self.text)
        if self.record is not None and self.record.keys() == {"value"} and self.ask is not None:
            return msgspec.json.encode(self.record["value"]).decode()
        return msgspec.json.encode(self.record or {}).decode()[1:-1]


def _on_one_line(text: str) -> str:
    return " ⏎ ".join(line.strip() for line in text.strip().splitlines())


class LedgerSetting(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """A setting, and where its value lives."""

    name: str
    type: str
    value: Any
    default: Any = None
    range: tuple[float, float] | None = None
    choices: tuple[Any, ...] = ()
    unit: str = ""
    says: str = ""
    write: tuple[LedgerSpot, ...] = ()
    decides: bool = False
    """Which files or entries there are depends on it: only the pack itself knows which."""


class LedgerBlank(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What the builder has to supply."""

    name: str
    kind: str
    into: str = ""
    says: str = ""
    filled: str = ""
    """The value, or the name of the file that was given; empty as long as it is open."""
    brought: bool = False
    """The pack comes with something that will do meanwhile."""


class LedgerPlace(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What the builder puts somewhere."""

    name: str
    says: str = ""
    each: int = 1
    """How many entries make one of it."""
    least: int | Literal["players"] = 0


class LedgerExclusion(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What a pack cannot stand beside."""

    kind: str
    """`pack`, `file` or a kind of the layout."""
    name: str
    """For files a pattern over their paths."""
    side: str = ""
    version: str = ""
    """For packs: only versions such as these (PEP 440)."""
    why: str = ""


class LedgerPack(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """One installed pack."""

    name: str
    version: str
    title: str = ""
    authors: tuple[str, ...] = ()
    license: str = ""
    home: str = ""
    """Where it can be had, as its hook sheet says."""
    credit: str = ""
    """How its authors ask to be named, word for word."""
    made_from: str = ""
    """What it was derived or lifted from."""
    source: str = ""
    """The name of the archive or folder it came from."""
    sha256: str = ""
    installed: str = ""
    """UTC, ISO 8601."""
    look_for: tuple[str, ...] = ()
    """What there is to be seen of it in the game."""
    does: tuple[str, ...] = ()
    """The jobs that only one pack of a map can do."""
    needs: tuple[str, ...] = ()
    """The packs that it needs."""
    excludes: tuple[LedgerExclusion, ...] = ()
    parts: tuple[str, ...] = ()
    """Those that were chosen; empty for all of it."""
    settings: tuple[LedgerSetting, ...] = ()
    claims: dict[str, str] = {}
    """By kind."""
    blanks: tuple[LedgerBlank, ...] = ()
    places: tuple[LedgerPlace, ...] = ()
    renamed: dict[str, str] = {}
    """`KIND:NAME` → what it is called in this map."""
    moved: dict[str, str] = {}
    """Folder of the pack → folder of the map."""
    files: tuple[LedgerFile, ...] = ()
    hooks: tuple[LedgerHook, ...] = ()

    def placed(self, place: LedgerPlace) -> int:
        """How many there are of what the builder puts somewhere."""
        return sum(hook.place == place.name for hook in self.hooks) // max(place.each, 1)


class Ledger(Struct, frozen=True, kw_only=True):
    """The packs that are installed in a map."""

    ledger: int = _FORM
    words: dict[str, dict[str, str]] = {}
    """By kind: words that packs use and this map does not know, and the map's own that stand for them."""
    packs: tuple[LedgerPack, ...] = ()

    def pack(self, name: str) -> LedgerPack | None:
        """Return an installed pack; None if no pack has that name."""
        return next((pack for pack in self.packs if pack.name == name), None)

    def with_pack(self, pack: LedgerPack) -> Ledger:
        """Return the ledger with a pack added or replaced."""
        others = tuple(one for one in self.packs if one.name != pack.name)
        return msgspec.structs.replace(self, packs=tuple(sorted((*others, pack), key=lambda one: one.name)))

    def without(self, name: str) -> Ledger:
        """Return the ledger without a pack."""
        return msgspec.structs.replace(self, packs=tuple(pack for pack in self.packs if pack.name != name))

    @property
    def next_order(self) -> int:
        """The number of the next entry."""
        return max((hook.order for pack in self.packs for hook in pack.hooks), default=0) + 1


def read_ledger(root: Path) -> Ledger:
    """The map's ledger; an empty one where nothing was set yet. Raises CouldNotError when it is damaged."""
    file = root / LEDGER
    why = "it is the only record of the packs in this map"
    remedy = "restore it from version control or a copy of the map"
    our_folder(root)
    if not file.is_symlink() and not file.exists():
        return Ledger()
    data = read_regular(file, _LARGEST, why, remedy)
    ledger = read_record(data, Ledger, LEDGER, title="ledger", why=why, remedy=remedy)
    if ledger.ledger != _FORM:
        raise CouldNotError(
            "newer-form",
            f"the ledger is of form {ledger.ledger}, and this hookset knows form {_FORM}",
            where=LEDGER,
            why="what it does not know it would lose",
            remedy="use the hookset that wrote it",
        )
    if mistakes := list(_mistakes(ledger)):
        raise CouldNotError(
            "path-outside-map",
            "the ledger names files that are no part of a map",
            where=LEDGER,
            details=tuple(mistakes[:10]),
            why="somebody has changed it by hand; following it could reach files outside of the map",
            remedy=remedy,
        )
    return ledger


def _mistakes(ledger: Ledger) -> Iterator[str]:
    """Paths and digests that no run of ours writes."""
    for pack in ledger.packs:
        if not is_version(pack.version):
            yield f"{pack.name}: {pack.version[:80]!r} is no version"
        paths = [file.path for file in pack.files]
        paths += (hook.path for hook in pack.hooks)
        paths += (spot.file for setting in pack.settings for spot in setting.write)
        paths += (blank.into for blank in pack.blanks if blank.into)
        for path in paths:
            if reason := unsafe_reason(path) or ("the tool's own" if is_ours(path) else ""):
                yield f"{pack.name}: {path!r} is {reason}"
        for sha in (sha for file in pack.files for sha in (file.sha256, file.instead_of) if sha):
            if _SHA256.fullmatch(sha) is None:
                yield f"{pack.name}: {sha[:80]!r} is no digest"


def is_version(text: str) -> bool:
    """Whether a text is a version (PEP 440)."""
    # Imported here: most checks compare no versions, and would wait for it.
    from packaging.version import Version

    try:
        Version(text)
    except ValueError:
        return False
    return True


def installed_paths(root: Path) -> frozenset[str]:
    """The files that packs have brought, by the ledger; none where it cannot be read, which others tell."""
    try:
        return frozenset(file.path for pack in read_ledger(root).packs for file in pack.files)
    except CouldNotError:
        return frozenset()


def written_ledger(ledger: Ledger) -> bytes:
    """Indented, so that version control shows what changed."""
    return msgspec.json.format(msgspec.json.encode(ledger), indent=1) + b"\n"
