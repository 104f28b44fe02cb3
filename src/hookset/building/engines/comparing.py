"""What an engine found beside what the check found."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from posixpath import basename

from hookset.building.logs import LogReport, Trouble
from hookset.model import Finding

__all__ = ["Compared", "compared"]


@dataclass(frozen=True, slots=True)
class Compared:
    """Who has found what."""

    both: tuple[tuple[Finding, tuple[Trouble, ...]], ...]
    """Each finding, with what the engine says of it."""
    only_engine: tuple[Trouble, ...]
    only_check: tuple[Finding, ...]


def compared(report: LogReport, findings: Sequence[Finding]) -> Compared:
    """Tie each error of the engine to the findings that are about the same name, or about the same line."""
    errors = [one for one in report.troubles if one.level == "error"]
    tied: dict[int, list[Trouble]] = {}
    alone: list[Trouble] = []
    for trouble in errors:
        same = [index for index, finding in enumerate(findings) if _same(trouble, finding)]
        for index in same:
            tied.setdefault(index, []).append(trouble)
        if not same:
            alone.append(trouble)
    return Compared(
        both=tuple((findings[index], tuple(tied[index])) for index in sorted(tied)),
        only_engine=tuple(alone),
        only_check=tuple(finding for index, finding in enumerate(findings) if index not in tied),
    )


def _same(trouble: Trouble, finding: Finding) -> bool:
    if trouble.name and finding.name and _named(trouble.name, finding.name):
        return True
    places = {(trouble.path, trouble.line)} | {(b.spot.path, b.spot.line) for b in trouble.blames if b.spot is not None}
    if finding.spot.line and (finding.spot.path, finding.spot.line) in places:
        return True
    # An engine that names a file only, of which something is wrong, and what: the name stands in its words.
    return bool(trouble.path == finding.spot.path and finding.name and basename(finding.name) in trouble.text)


def _named(said: str, name: str) -> bool:
    said = said.replace("\\", "/")
    return said == name or said.endswith(f"/{name}") or name.endswith(f"/{said}")
