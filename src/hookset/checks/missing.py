"""What all checks of references need: those that are missing in one way, and a finding on one of them."""

from __future__ import annotations

from collections.abc import Iterator

from hookset.checks.declare import Case, UnplacedFinding
from hookset.model import Reference, Severity
from hookset.symbols import Miss, Resolution
from hookset.symbols.owners import owner_and_name

__all__ = ["in_words", "missing_because", "missing_finding", "not_made_yet"]


def missing_because(case: Case, miss: Miss) -> Iterator[Resolution]:
    """Yield the missing references that are missing in one way. What a step of a build is to make is not missing, and
    what is told of the name without its owner is not told again."""
    for resolution in case.resolutions.missing:
        if resolution.miss is not miss or _is_told_without_owner(case, resolution):
            continue
        if miss is not Miss.ABSENT or not _maker(case, resolution):
            yield resolution


def _is_told_without_owner(case: Case, resolution: Resolution) -> bool:
    reference = resolution.reference
    within = case.kind(reference.kind).entry.within
    return within != "" and not case.index.get(within, owner_and_name(reference.name)[1])


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


def in_words(case: Case, reference: Reference) -> str:
    """What a reference names, and of what kind it is."""
    kind = case.kind(reference.kind)
    if not kind.entry.owned:
        return f"{kind.label} `{reference.name}`"
    owner, own = owner_and_name(reference.name)
    return f"{kind.label} `{own}` of `{owner}`"


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
