"""No build while a reference is missing."""

from __future__ import annotations

from hookset.checks import Verdict
from hookset.model import RefusedError

__all__ = ["gate"]


def gate(verdict: Verdict, coming: frozenset[str] = frozenset()) -> None:
    """Raises RefusedError when the map has an error, but for names that are `coming`."""
    errors = [finding for finding in verdict.errors if finding.name not in coming]
    if not errors:
        return
    many = f"{len(errors)} errors" if len(errors) > 1 else "an error"
    shown = tuple(f"{finding.spot}: {finding.message}" for finding in errors[:10])
    raise RefusedError(
        f"the map has {many}; it is not built",
        details=(*shown, f"and {len(errors) - 10} more") if len(errors) > 10 else shown,
        why="it would fail in the game, where it is hardest to find",
        remedy="`hookset check` tells where and what to do; `hookset build --anyway` builds all the same",
    )
