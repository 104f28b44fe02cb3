"""What makes an archive harmful, whatever its format: every member is looked at before any is read."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from pathlib import Path

from msgspec import Struct, field

from hookset.model import CouldNotError
from hookset.trees.paths import unsafe_reason

__all__ = ["Limits", "Listed", "damaged", "judged", "locked"]

_RATIO_FROM = 10_000_000
_SHOWN = 20


class Limits(Struct, frozen=True, kw_only=True):
    """What an archive may ask of this machine."""

    members: int = 100_000
    unpacked_bytes: int = 16 << 30
    member_bytes: int = 8 << 30
    ratio: int = 1000
    """Unpacked over packed size, counted from 10 MB on: text of blanks packs well, bombs pack better."""
    depth: int = 3
    """Archives in archives in archives."""

    def too_dense(self, packed: int, unpacked: int) -> bool:
        """Whether so much comes of so little that it was made to fill a disk."""
        return unpacked > _RATIO_FROM and unpacked > self.ratio * max(packed, 1)


class Listed(Struct, frozen=True, kw_only=True):
    """One member, as an archive's own list tells of it."""

    name: str
    """As it is stored."""
    size: int
    folder: bool = False
    packed: int | None = None
    """None where members are not packed one by one."""
    reason: str = ""
    """What the format itself has against it: a link, encrypted, an unknown method."""
    encrypted: bool = field(default=False)

    @property
    def path(self) -> str:
        """With `/` between its steps, as it would be written."""
        flat = self.name.replace("\\", "/")
        # Many a tar is made of `./`, and says so in front of each name.
        flat = re.sub(r"^(?:\./)+", "", flat)
        return flat.rstrip("/") if self.folder else flat


def judged(file: Path, members: Iterable[Listed], limits: Limits) -> dict[str, Listed]:
    """The files of an archive by path, sorted. Raises CouldNotError naming all that makes it unsafe."""
    files: dict[str, Listed] = {}
    alike: dict[str, str] = {}
    bad: list[str] = []
    count = total = encrypted = 0
    for count, member in enumerate(members, 1):
        if count > limits.members:
            bad.append(f"more than {limits.members:,} members, which is the limit")
            break
        total += member.size
        if member.folder and member.path in ("", "."):
            continue
        encrypted += member.encrypted
        if reason := _reason(member, limits):
            bad.append(f"{member.name!r}: {reason}")
        elif not member.folder:
            path = member.path
            if path in files:
                bad.append(f"{path!r}: there twice")
            elif (other := alike.setdefault(_alike(path), path)) != path:
                bad.append(f"{path!r}: differs from {other!r} in {_difference(path, other)} only; one would be lost")
            files[path] = member
    bad += (f"{path!r}: a file, and a folder as well" for path in _both(files))
    if total > limits.unpacked_bytes:
        bad.append(f"{total:,} bytes when unpacked; the limit is {limits.unpacked_bytes:,}")
    if bad and encrypted == len(bad):
        raise locked(file, f"{encrypted} of its {count} members are encrypted")
    if bad:
        raise CouldNotError(
            "unsafe-archive",
            f"is not safe to open: {len(bad)} of its members would do harm",
            where=str(file),
            details=tuple(bad[:_SHOWN]) + ((f"and {len(bad) - _SHOWN} more",) if len(bad) > _SHOWN else ()),
            why="an archive like this writes where it should not or fills the disk; nothing of it was unpacked",
            remedy="ask its author for a clean one; what is fine in it can be put into a folder by hand",
        )
    return dict(sorted(files.items()))


def _reason(member: Listed, limits: Limits) -> str:
    if reason := unsafe_reason(member.path) or member.reason:
        return reason
    if member.encrypted:
        return "encrypted"
    if member.size > limits.member_bytes:
        return f"{member.size:,} bytes when unpacked; the limit is {limits.member_bytes:,}"
    if member.packed is not None and limits.too_dense(member.packed, member.size):
        return f"{member.packed:,} bytes that unpack to {member.size:,}: made to fill a disk"
    return ""


def _alike(path: str) -> str:
    """What two paths have in common that some file system takes for one."""
    return unicodedata.normalize("NFC", unicodedata.normalize("NFC", path).casefold())


def _difference(path: str, other: str) -> str:
    return "letter case" if path.casefold() == other.casefold() else "the way its letters are encoded"


def _both(files: dict[str, Listed]) -> list[str]:
    """Files that others lie below: only one of the two can be written."""
    found = dict.fromkeys(
        path[:end] for path in files for end in range(len(path)) if path[end] == "/" and path[:end] in files
    )
    return list(found)


def locked(file: Path, how: str) -> CouldNotError:
    """Build the error for an archive that needs a password."""
    return CouldNotError(
        "locked-archive",
        f"is locked: {how}",
        where=str(file),
        why="what cannot be read can be neither checked nor edited",
        remedy="unlock it with what locked it, or use what it was made of",
    )


def damaged(file: Path, what: str, error: str, member: str = "") -> CouldNotError:
    """`what` is the format, with its article."""
    return CouldNotError(
        "damaged-archive",
        f"is a damaged {what} archive: {f'{member}: ' if member else ''}{error}",
        where=str(file),
        why="parts of the pack would be missing without a word",
        remedy="download it again; if it stays so, tell its author",
    )
