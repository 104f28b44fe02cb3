"""The shelf: packs kept once per user with their hook sheets, by name and version, each with its SHA-256."""

from __future__ import annotations

import os
import re
import shutil
from collections.abc import Iterable
from pathlib import Path

import msgspec
from msgspec import Struct
from packaging.version import Version

from hookset.config.sheets import nearest, read_record
from hookset.model import CouldNotError, RefusedError, WrongUseError
from hookset.packs.opening import open_pack, sheet_beside
from hookset.packs.pack import Pack
from hookset.trees import read_regular, unsafe_reason

__all__ = ["Shelved", "keep", "on_shelf", "put_away", "taken"]

_CARD = "shelf.json"
_WHY_A_CARD = "it says what pack lies beside it, and that it is as it was kept"
_NAME = re.compile(r"[A-Za-z0-9][\w.+-]{0,100}")


class _Card(Struct, frozen=True, kw_only=True):
    """What is known of one pack on the shelf without opening it."""

    name: str
    version: str
    title: str
    license: str
    sha256: str
    file: str
    """The archive or folder beside this card."""
    source: str
    """Where it was taken from."""
    kept: str
    """UTC, ISO 8601."""


class Shelved(Struct, frozen=True):
    """A pack on the shelf."""

    name: str
    version: str
    title: str
    license: str
    sha256: str
    source: str
    kept: str
    path: Path
    sheet: bool
    """Whether it has a hook sheet, in it or beside it."""


def on_shelf(root: Path) -> tuple[Shelved, ...]:
    """All that is there, by name, the newest version of each first. A damaged card is told, not skipped."""
    found: list[Shelved] = []
    for card_file in sorted(root.glob(f"*/*/{_CARD}")):
        why, remedy = _WHY_A_CARD, "delete its folder, and keep the pack again"
        card = read_record(
            read_regular(card_file, 1 << 20, why, remedy),
            _Card,
            str(card_file),
            title="card of a pack",
            why=why,
            remedy=remedy,
        )
        if "/" in card.file or unsafe_reason(card.file) or card_file.parent.is_symlink():
            raise CouldNotError(
                "wrong-path",
                f"names {card.file!r}, which does not lie beside it",
                where=str(card_file),
                why="what is on the shelf lies in its own folder; anything else may be anybody's",
                remedy="delete its folder, and keep the pack again",
            )
        path = card_file.parent / card.file
        sheet = sheet_beside(path).is_file() or card_file.with_name("sheeted").exists()
        found.append(
            Shelved(card.name, card.version, card.title, card.license, card.sha256, card.source, card.kept, path, sheet)
        )
    newest = sorted(found, key=lambda one: _order(one.version), reverse=True)
    return tuple(sorted(newest, key=lambda one: one.name))


def _order(version: str) -> Version:
    try:
        return Version(version)
    except ValueError:
        return Version("0")


def keep(root: Path, pack: Pack, name: str, version: str, now: str) -> Shelved:
    """Copy a pack onto the shelf, with the hook sheet that lies beside it. Raises RefusedError where another of that
    name and version is there, CouldNotError where it cannot be written."""
    if not _NAME.fullmatch(name) or not _NAME.fullmatch(version):
        raise RefusedError(
            "wrong-name",
            f"is called {name!r} {version!r}, which is no name to find it by",
            where=str(pack.source),
            why="names and versions on the shelf are made of letters, digits, dots, dashes and underscores",
            remedy="correct it in the hook sheet",
        )
    place = root / name / version
    if place.exists():
        there = next((one for one in on_shelf(root) if (one.name, one.version) == (name, version)), None)
        if there is not None and there.sha256 == pack.sha256:
            return there
        raise RefusedError(
            "file-exists",
            f"another {name} {version} is on the shelf already",
            where=str(pack.source),
            why="two packs of one name and version that are not the same cannot be distinguished",
            remedy=f"take that one off first: hookset shelf drop {name}=={version}",
        )
    part = root / f".part-{os.getpid()}"
    file = pack.source.name
    try:
        part.mkdir(parents=True)
        if pack.source.is_dir():
            shutil.copytree(pack.source, part / file)
        else:
            shutil.copyfile(pack.source, part / file)
        beside = sheet_beside(pack.source)
        if beside.is_file():
            shutil.copyfile(beside, part / beside.name)
        elif pack.sheet is not None:
            (part / "sheeted").touch()
        head = pack.sheet.pack if pack.sheet else None
        card = _Card(
            name=name,
            version=version,
            title=head.title if head else "",
            license=head.license if head else "",
            sha256=pack.sha256,
            file=file,
            source=str(pack.source.resolve()),
            kept=now,
        )
        (part / _CARD).write_bytes(msgspec.json.format(msgspec.json.encode(card), indent=1) + b"\n")
        place.parent.mkdir(parents=True, exist_ok=True)
        part.replace(place)
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"cannot be kept: {error.strerror or error}",
            where=str(root),
            remedy="check that folder's permissions and room",
        ) from error
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return next(one for one in on_shelf(root) if (one.name, one.version) == (name, version))


def taken(root: Path, asked: str) -> Path:
    """Where the pack lies that is asked for: `fog-bell` for its newest version, `fog-bell==0.4` for that one.

    Raises WrongUseError for one that is not there, CouldNotError for one that is not as it was kept.
    """
    one = _found(on_shelf(root), asked)
    if open_pack(one.path).sha256 != one.sha256:
        raise CouldNotError(
            "changed-since-kept",
            "is not as it was kept: its SHA-256 is another",
            where=str(one.path),
            why="somebody has changed it on the shelf, or the disk has",
            remedy=f"take it off and keep it again: hookset shelf drop {one.name}=={one.version}",
        )
    return one.path


def _found(there: Iterable[Shelved], asked: str) -> Shelved:
    shelved = list(there)
    name, _, version = asked.partition("==")
    named = [one for one in shelved if one.name == name]
    found = next((one for one in named if not version or one.version == version), None)
    if found is not None:
        return found
    if named:
        raise WrongUseError(
            "not-found",
            f"there is no {name} {version} on the shelf",
            remedy=f"there are: {', '.join(f'{one.name}=={one.version}' for one in named)}",
        )
    known = sorted({one.name for one in shelved})
    raise WrongUseError(
        "not-found",
        f"there is neither a file nor a pack on the shelf called {asked}{nearest(asked, known)}",
        remedy="`hookset shelf` lists what is there; `hookset shelf keep PACK` puts a pack there",
    )


def put_away(root: Path, asked: str) -> Shelved:
    """Take a pack off the shelf. Raises as `taken`."""
    one = _found(on_shelf(root), asked)
    try:
        shutil.rmtree(one.path.parent)
        if not any(one.path.parent.parent.iterdir()):
            one.path.parent.parent.rmdir()
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"cannot be taken off: {error.strerror or error}",
            where=str(one.path.parent),
            remedy="check that folder's permissions",
        ) from error
    return one
