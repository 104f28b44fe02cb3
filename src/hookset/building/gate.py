"""No build while a reference is missing."""

from __future__ import annotations

from collections.abc import Sequence

from hookset.checks import Verdict
from hookset.checks.missing import not_made_yet
from hookset.model import Finding, RefusedError
from hookset.symbols import Miss

__all__ = ["gate", "gate_made", "gate_shipped"]


def gate(verdict: Verdict) -> None:
    """Raises RefusedError when the map has an error."""
    errors = verdict.errors
    if not errors:
        return
    many = f"{len(errors)} errors" if len(errors) > 1 else "an error"
    raise RefusedError(
        "map-has-errors",
        f"the map has {many}; it is not built",
        details=_shown(errors),
        why="it would fail in the game, where it is hardest to find",
        remedy="`hookset check` tells where and what to do; `hookset build --anyway` builds all the same",
    )


def gate_made(verdict: Verdict) -> None:
    """Raises RefusedError where steps have not made what the map uses and they were to make."""
    lacking = [(resolution.reference, step) for resolution, step in not_made_yet(verdict.case)]
    if lacking:
        many = f" and {len(lacking) - 10} more" if len(lacking) > 10 else ""
        told = [f"{one.name}, used in {one.path}: it is the step `{step}` that was to make it" for one, step in lacking]
        raise RefusedError(
            "step-failed",
            "the steps have run, and not all is there that they were to make; the map is not built",
            details=tuple(told[:9]) + ((told[9] + many,) if len(told) > 9 else ()),
            why="it would be missing in the game, where it is hardest to find",
            remedy="correct what uses it, or what the step makes it of; `hookset build --anyway` builds all the same",
        )


def gate_shipped(verdict: Verdict, shipped: Verdict) -> None:
    """Raises RefusedError where something that is used is there in the whole map, and not in what is to be shipped."""
    lost = _missing(shipped) - _missing(verdict)
    errors = [one for one in shipped.errors if (one.spot.path, one.kind, one.name) in lost]
    if errors:
        raise RefusedError(
            "archive-lacks-file",
            "what would be shipped lacks what the map has; it is not built",
            details=_shown(errors),
            why="the game sees only what is shipped: files that the manifest does not list stay out",
            remedy="give the manifest the rows that are missing; `hookset build --anyway` builds all the same",
        )


def _missing(verdict: Verdict) -> frozenset[tuple[str, str, str]]:
    """(file, kind, name) of whatever is used and defined nowhere. What the lists of a manifest say to each other is for
    whoever builds, not for the game."""
    missing = (one.reference for one in verdict.case.resolutions.missing if one.miss is Miss.ABSENT)
    manifest = verdict.case.layout.manifest
    lists = manifest.lists if manifest is not None else ()
    used = (one for one in missing if one.use and not any(glob.matches(one.path) for glob in lists))
    return frozenset((one.path, one.kind, one.name) for one in used)


def _shown(errors: Sequence[Finding]) -> tuple[str, ...]:
    shown = tuple(f"{finding.spot}: {finding.message}" for finding in errors[:10])
    return (*shown, f"and {len(errors) - 10} more") if len(errors) > 10 else shown
