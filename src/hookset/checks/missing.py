"""What all checks of references need: those that are missing in one way, and a finding on one of them."""

from __future__ import annotations

from collections.abc import Iterator

from hookset.checks.declare import Case, UnplacedFinding
from hookset.model import Severity
from hookset.symbols import Miss, Resolution

__all__ = ["missing_because", "missing_finding", "not_made_yet"]


def missing_because(case: Case, miss: Miss) -> Iterator[Resolution]:
    """Yield the missing references that are missing in one way. What a step of a build is to make is not missing."""
    for resolution in case.resolutions.missing:
        if resolution.miss is miss and (miss is not Miss.ABSENT or not _maker(case, resolution)):
            yield resolution


def not_made_yet(case: Case) -> Iterator[tuple[Resolution, str]]:
    """Yield the references to files that are not there and that a step of a build makes, with the step's name."""
    for resolution in case.resolutions.missing:
        if resolution.miss is Miss.ABSENT and (name := _maker(case, resolution)):
            yield resolution, name


def _maker(case: Case, resolution: Resolution) -> str:
    reference = resolution.reference
    if not case.layout.steps or not case.kind(reference.kind).entry.path:
        return ""
    return next((step.entry.name for step in case.layout.steps if step.makes(reference.name)), "")


def missing_finding(
    case: Case,
    resolution: Resolution,
    message: str,
    remedy: str = "",
    *,
    side: str = "",
    why: str | None = None,
    instead: tuple[str, ...] = (),
) -> UnplacedFinding:
    """A finding on a reference; its kind knows best why it matters, unless `why` is given. `instead`: what could be
    written in its place."""
    reference = resolution.reference
    return UnplacedFinding(
        path=reference.path,
        where=reference.where,
        message=reference.says.replace("{name}", reference.name) if reference.says else message,
        why=case.kind(reference.kind).entry.why if why is None else why,
        remedy=_did_you_mean(instead) if instead and not remedy else remedy,
        kind=reference.kind,
        name=reference.name,
        side=side or reference.side,
        instead=instead,
        severity=Severity[reference.severity.upper()] if reference.severity else None,
    )


def _did_you_mean(names: tuple[str, ...]) -> str:
    quoted = [f"`{name}`" for name in names]
    return f"did you mean {' or '.join(filter(None, (', '.join(quoted[:-1]), quoted[-1])))}?" if quoted else ""
