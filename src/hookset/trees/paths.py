"""Paths from packs and references: what may become a file of the map, and what they resolve to."""

from __future__ import annotations

import posixpath
import re
import unicodedata
from collections.abc import Iterator, Sequence

__all__ = ["joined", "unsafe_among", "unsafe_reason"]

# Names that Windows keeps for devices, with any ending: opening one never opens a file.
_DEVICES = frozenset(
    ["con", "prn", "aux", "nul", *(f"com{n}" for n in range(1, 10)), *(f"lpt{n}" for n in range(1, 10))]
)
# Marks that are not seen and turn the order of what follows around: `gpj.exe` shows as `exe.jpg`.
_UNSEEN = re.compile("[\u200b-\u200f\u202a-\u202e\u2060-\u2064\u2066-\u2069\ufeff]")
# Most paths are only steps like these, each with a letter or a digit at both ends.
_USUAL = re.compile(r"(?:[A-Za-z0-9](?:[\w .-]{0,60}[A-Za-z0-9])?/)*[A-Za-z0-9](?:[\w .-]{0,60}[A-Za-z0-9])?", re.ASCII)
_STEPS = re.compile(r"[/. ]+")
_FORBIDDEN = re.compile(r'[\x00-\x1f<>:"|?*]')

_MARKS = dict.fromkeys(map(ord, "/._- "))
_APART = dict.fromkeys(map(ord, ". "), "/")
_TOGETHER = 500
_LONGEST = 200


def unsafe_reason(path: str) -> str | None:
    """Why `path` may not be written below a map's top, on any builder's machine; None when it may."""
    if _USUAL.fullmatch(path) and not _DEVICES.intersection(_STEPS.split(path.casefold())):
        return None
    if not path:
        return "an empty name"
    if reason := _plain_reason(path):
        return reason
    if _UNSEEN.search(path):
        return "a name with characters that are not seen"
    if not path.isascii() and _plain_reason(unicodedata.normalize("NFKC", path)):
        return "a name with characters that some systems take for dots, slashes or colons"
    return None


def unsafe_among(paths: Sequence[str]) -> Iterator[tuple[str, str]]:
    """(path, reason) for those of many paths that may not be written below a map's top."""
    for start in range(0, len(paths), _TOGETHER):
        some = paths[start : start + _TOGETHER]
        if not _all_plain("/".join(some)):
            yield from ((path, reason) for path in some if (reason := unsafe_reason(path)))


def _all_plain(steps: str) -> bool:
    """Whether all steps are of letters, digits and a few marks, and none is empty, long or a device: looked at
    together, since most are."""
    if not (steps.isascii() and steps.translate(_MARKS).isalnum()):
        return False
    parts = steps.translate(_APART).casefold().split("/")
    # Two marks side by side are looked at one by one, too.
    return "" not in parts and _DEVICES.isdisjoint(parts) and max(map(len, steps.split("/"))) <= _LONGEST


def _plain_reason(path: str) -> str | None:
    flat = path.replace("\\", "/")
    if flat.startswith("/"):
        return "an absolute path"
    if re.match(r"[A-Za-z]:", flat):
        return "a path with a drive letter"
    for part in flat.split("/"):
        if part == "..":
            return "a path that leads outside of the map"
        if part in ("", "."):
            return "a path with an empty step"
        if bad := _FORBIDDEN.search(part):
            return f"a name with a character that Windows does not allow ({bad.group()!r})"
        if part.split(".")[0].rstrip(" ").casefold() in _DEVICES:
            return f"a name that Windows keeps for a device ({part})"
        if part[-1] in ". ":
            return "a name that ends in a dot or a blank, which Windows drops"
        if len(part.encode("utf-8", "surrogatepass")) > 255:
            return "a name longer than 255 bytes"
    return None


def joined(folder: str, path: str) -> str | None:
    """`path` as written in a file that counts from `folder`, from the map's top; None when that is outside of it.

    Backslashes are read as separators: whether they may stand there is for a check to say.
    """
    flat = path.replace("\\", "/")
    if flat.startswith("/") or re.match(r"[A-Za-z]:", flat):
        return None
    whole = posixpath.normpath(posixpath.join(folder, flat))
    return None if whole == ".." or whole.startswith("../") else whole
