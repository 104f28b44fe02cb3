"""What the checks of where things stand have found: it rests only on the files that say so, and is kept as long
as those are the same."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterable, Mapping
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset import __version__
from hookset.checks.declare import Case, UnplacedFinding
from hookset.config.layouts import Layout
from hookset.model import CouldNotError
from hookset.symbols import FactsCache, Web
from hookset.verdicts.ground import code_state

__all__ = ["KeptStanding", "standing_of"]

Judging = Callable[[Case], Iterable[UnplacedFinding]]
_STANDING = ("checks", "config", "formats", "model", "scene", "space", "symbols", "trees")
"""The packages that these checks depend on."""


class KeptStanding(Struct, frozen=True):
    """What was found."""

    key: str
    """Of all that it rests on; empty where that is not known."""
    drafts: dict[str, tuple[UnplacedFinding, ...]]
    """By the code of the check."""


def standing_of(
    case: Case,
    checks: Mapping[str, Judging],
    cache: FactsCache | None,
    last: KeptStanding | None,
    changed: Collection[str] | None = None,
) -> KeptStanding:
    """What the `checks` of where things stand find in a map: as it was found the `last` time or is kept, if all that it
    rests on is the same. Where it was found by the same checks and layout, `changed` are the files that are not as they
    were."""
    if last is not None and last.key and changed is not None and not _asked_of(case.layout, changed):
        return last
    key = _key(case.web, checks)
    if last is not None and key and last.key == key:
        return last
    kept = _kept(cache, key) if cache is not None and key else None
    if kept is not None:
        return kept
    found = KeptStanding(key, {code: tuple(check(case)) for code, check in checks.items()})
    if cache is not None and key:
        _keep(cache, found)
    return found


def _key(web: Web, checks: Iterable[str]) -> str:
    positions = web.layout.positions
    if not web.layout.fingerprint or any(rule.entry.prefab for rule in positions.placed):
        # Where prefabs stand in others, all files may count.
        return ""
    digest = hashlib.sha256(repr((__version__, _code(), web.layout.fingerprint, sorted(checks))).encode())
    try:
        for path in _asked_of(web.layout, web.tree.paths()):
            sha = web.digests.get(path) or hashlib.sha256(web.tree.read(path)).digest()
            digest.update(path.encode("utf-8", "surrogatepass") + b"\0" + sha)
    except CouldNotError:
        return ""
    return digest.hexdigest()


def _asked_of(layout: Layout, paths: Iterable[str]) -> list[str]:
    """The files that say where things stand, or are asked about things."""
    meant = [asked.files for _, asked in layout.positions.asked]
    return [path for path in paths if any(files.matches(path) for files in meant)]


@cache
def _code() -> str:
    """The judging code itself: what an earlier version found may be found otherwise now."""
    packages = Path(__file__).parent.parent
    return "".join(code_state(str(packages / name)) for name in _STANDING)


def _kept(cache: FactsCache, key: str) -> KeptStanding | None:
    said = cache.standing.said(key)
    try:
        return msgspec.msgpack.decode(said, type=KeptStanding) if said is not None else None
    except msgspec.MsgspecError:
        return None


def _keep(cache: FactsCache, found: KeptStanding) -> None:
    try:
        said = msgspec.msgpack.encode(found)
    except UnicodeEncodeError:
        # A file's name that is no text cannot be kept as one.
        return
    cache.standing.keep(found.key, said)
