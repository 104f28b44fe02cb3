"""No build while a reference is missing."""

from __future__ import annotations

from collections.abc import Sequence

from hookset.checks import Verdict
from hookset.model import Finding, RefusedError

__all__ = ["gate", "gate_shipped"]


def gate(verdict: Verdict, coming: frozenset[str] = frozenset()) -> None:
    """Raises RefusedError when the map has an error, but for names that are `coming`."""
    errors = [finding for finding in verdict.errors if finding.name not in coming]
    if not errors:
        return
    many = f"{len(errors)} errors" if len(errors) > 1 else "an error"
    raise RefusedError(
        f"the map has {many}; it is not built",
        details=_shown(errors),
        why="it would fail in the game, where it is hardest to find",
        remedy="`hookset check` tells where and what to do; `hookset build --anyway` builds all the same",
    )


def gate_shipped(verdict: Verdict, shipped: Verdict) -> None:
    """Raises RefusedError where what is to be shipped has errors that the whole map has not: something that is used
    stays out."""
    known = {finding.identity for finding in verdict.errors}
    errors = [finding for finding in shipped.errors if finding.identity not in known]
    if errors:
        raise RefusedError(
            "what would be shipped lacks what the map has; it is not built",
            details=_shown(errors),
            why="the game sees only what is shipped: files that the manifest does not list stay out",
            remedy="give the manifest the rows that are missing; `hookset build --anyway` builds all the same",
        )


def _shown(errors: Sequence[Finding]) -> tuple[str, ...]:
    shown = tuple(f"{finding.spot}: {finding.message}" for finding in errors[:10])
    return (*shown, f"and {len(errors) - 10} more") if len(errors) > 10 else shown
