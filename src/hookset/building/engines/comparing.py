"""What an engine found beside what the check found."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from posixpath import basename

from msgspec import Struct

from hookset.building.logs import LogReport, Trouble
from hookset.model import Finding, Severity
from hookset.symbols import Analysis

__all__ = ["Compared", "compared"]


class Compared(Struct, frozen=True):
    """Who has found what."""

    both: tuple[tuple[Finding, tuple[Trouble, ...]], ...]
    """Each finding, with what the engine says of it."""
    follows: tuple[Trouble, ...]
    """What the engine could not do because a file that it needs for that has a finding."""
    only_engine: tuple[Trouble, ...]
    only_check: tuple[Finding, ...]
    """Its errors: of what it warns of, an engine need not say anything."""


def compared(report: LogReport, findings: Sequence[Finding], analysis: Analysis) -> Compared:
    """Tie each error of the engine to the findings that are about the same name, or about the same line; else to those
    in files that what it is about needs."""
    errors = [one for one in report.troubles if one.level == "error"]
    tied: dict[int, list[Trouble]] = {}
    alone: list[Trouble] = []
    for trouble in errors:
        same = [index for index, finding in enumerate(findings) if _same(trouble, finding)]
        for index in same:
            tied.setdefault(index, []).append(trouble)
        if not same:
            alone.append(trouble)
    needed = _needed_by(analysis) if alone and findings else {}
    faulty = {finding.spot.path for finding in findings}
    follows = [one for one in alone if faulty.intersection(_all_needed(_about(one, analysis), needed))]
    return Compared(
        both=tuple((findings[index], tuple(tied[index])) for index in sorted(tied)),
        follows=tuple(follows),
        only_engine=tuple(one for one in alone if one not in follows),
        only_check=tuple(
            finding
            for index, finding in enumerate(findings)
            if index not in tied and finding.severity is Severity.ERROR
        ),
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
    return said == name or said.endswith(f"/{name}") or name.endswith((f"/{said}", f"::{said}"))


def _about(trouble: Trouble, analysis: Analysis) -> list[str]:
    """The files that an error is about: the one that it names, where it happened, and those that define the name."""
    tree = analysis.web.tree
    found = [path for path in (trouble.name, trouble.path) if path and tree.has(path)]
    if trouble.kind and trouble.name:
        found += (one.path for one in analysis.index.get(trouble.kind, trouble.name))
    return found


def _needed_by(analysis: Analysis) -> Mapping[str, frozenset[str]]:
    """By file: the files with what it refers to."""
    found: dict[str, set[str]] = {}
    for resolution in analysis.resolutions:
        if resolution.miss is None:
            needed = found.setdefault(resolution.reference.path, set())
            needed.update(hit.path for hit in resolution.hits if hit.path)
    return {path: frozenset(needed) for path, needed in found.items()}


def _all_needed(paths: Sequence[str], needed: Mapping[str, frozenset[str]]) -> Iterator[str]:
    """These files, and all that they need, by way of others as well."""
    seen: set[str] = set()
    waiting = list(paths)
    while waiting:
        path = waiting.pop()
        if path not in seen:
            seen.add(path)
            yield path
            waiting += needed.get(path, ())
