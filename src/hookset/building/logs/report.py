"""What a log tells, grouped: each trouble once, with how often, since when, and whose it is."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence

from msgspec import Struct

from hookset.building.logs.blame import Blame, Scene
from hookset.building.logs.lines import LogLine

__all__ = ["LogReport", "Trouble", "log_report"]

_MOST = 500
"""Troubles that are looked at: a log that tells of more repeats itself in words that no pattern of the layout knows."""
_NUMBER = re.compile(r"0x[0-9a-fA-F]+|(?<![\w.])\d+(?:\.\d+)?(?![\w.])")


class Trouble(Struct, frozen=True, kw_only=True):
    """Lines that say the same."""

    key: str
    """The same for the same trouble in another log."""
    level: str
    text: str
    title: str
    kind: str
    name: str
    path: str
    """In the map; empty where the log names no file of it."""
    line: int
    count: int
    first: int
    """Its first line in the log."""
    blames: tuple[Blame, ...]
    new: bool
    """It was not in the log before."""

    @property
    def pack(self) -> str:
        """The pack that is likeliest to blame; empty for none."""
        return next((blame.pack for blame in self.blames if blame.pack), "")


class LogReport(Struct, frozen=True):
    """A log, grouped by trouble."""

    troubles: tuple[Trouble, ...]
    lines: int
    """That were looked at."""
    packs: tuple[tuple[str, int], ...]
    """How many errors each pack has to do with, the most first; empty name: none of them."""
    gone: tuple[str, ...]
    """What the log before told and this one does not."""
    compared: bool
    """Whether there was a log before."""
    beyond: int = 0
    """Lines that tell of further troubles, which are too many to be looked at."""

    @property
    def errors(self) -> int:
        """Count the troubles that are errors."""
        return sum(one.count for one in self.troubles if one.level == "error")


def log_report(lines: Sequence[LogLine], looked_at: int, scene: Scene, before: Sequence[str] | None) -> LogReport:
    """`before` are the keys of the log before; None where there was none."""
    groups: dict[str, list[LogLine]] = {}
    beyond = 0
    for line in lines:
        key = _key(line)
        if key in groups or len(groups) < _MOST:
            groups.setdefault(key, []).append(line)
        else:
            beyond += 1
    known = frozenset(before or ())
    troubles = [_trouble(key, ones, scene, before is not None and key not in known) for key, ones in groups.items()]
    troubles.sort(key=lambda one: (one.level != "error", not one.new, one.first))
    blamed = Counter(one.pack for one in troubles for _ in range(one.count) if one.level == "error")
    packs = sorted(blamed.items(), key=lambda pair: (not pair[0], -pair[1], pair[0]))
    gone = () if beyond else tuple(key.partition("\t")[2] for key in before or () if key not in groups)
    return LogReport(tuple(troubles), looked_at, tuple(packs), gone, before is not None, beyond)


def _key(line: LogLine) -> str:
    """Numbers differ from run to run; names do not."""
    parts = re.split(r"([\"'`][^\"'`]*[\"'`])", line.text)
    plain = "".join(part if number % 2 else _NUMBER.sub("#", part) for number, part in enumerate(parts))
    return f"{line.file}\t{line.level}: {plain}"


def _trouble(key: str, lines: Sequence[LogLine], scene: Scene, new: bool) -> Trouble:
    line = lines[0]
    return Trouble(
        key=key,
        level=line.level,
        text=line.text,
        title=line.title,
        kind=scene.kind_of(line),
        name=line.name,
        path=scene.path(line.file),
        line=line.line,
        count=len(lines),
        first=line.number,
        blames=tuple(_once(scene.blames(line))),
        new=new,
    )


def _once(blames: Iterable[Blame]) -> list[Blame]:
    """Each pack once for each line, by the most that is known of it."""
    found: dict[tuple[str, str, int], Blame] = {}
    for blame in blames:
        key = (blame.pack, blame.spot.path if blame.spot else "", blame.spot.line if blame.spot else 0)
        if key not in found or (blame.spot is not None and blame.spot.column):
            found[key] = blame
    return list(found.values())
