"""What a check tells."""

from __future__ import annotations

from msgspec import Struct

from hookset.model import Finding, Severity, Spot

__all__ = ["Counts", "OpenReference", "RuleCount", "Summary"]


class RuleCount(Struct, frozen=True, kw_only=True):
    """What one `[[read]]` of the layout was good for."""

    rule: int
    """Its number, from one."""
    files: int
    defined: int
    referred: int


class Counts(Struct, frozen=True, kw_only=True):
    """What was looked at. Silence about the rest would be a false pass."""

    files: int
    opened: int
    """Files that some rule looked into; the others are known by their path only."""
    unread: tuple[str, ...]
    """Paths of the latter."""
    definitions: int
    in_map: int
    in_stock: int
    missing: int
    not_checkable: int
    checks: int
    by_rule: tuple[RuleCount, ...]

    @property
    def references(self) -> int:
        """How many references were judged."""
        return self.in_map + self.in_stock + self.missing + self.not_checkable


class OpenReference(Struct, frozen=True, kw_only=True):
    """A reference that nobody can check before the game runs."""

    spot: Spot
    kind: str
    name: str
    """With `*` for what is added at run time."""
    fits: int
    """How many names of that kind it may mean."""
    built: bool
    """Built at run time."""
    optional: bool = False
    """It may be missing, or counts only where something else is there that is not."""
    made: tuple[Spot, ...] = ()
    """Definitions whose names are built at run time, and that may be what is meant. Where there are none and it is
    not built itself, nothing is known of its kind: no rule defines any, no stock list names one."""


class Summary(Struct, frozen=True, kw_only=True):
    """Findings in order, and what was looked at: all that there is to tell."""

    findings: tuple[Finding, ...]
    open: tuple[OpenReference, ...]
    counts: Counts
    accepted: int = 0
    """Findings that the terms accept, and that are not told."""

    @property
    def errors(self) -> tuple[Finding, ...]:
        """The findings that refuse a build."""
        return tuple(f for f in self.findings if f.severity is Severity.ERROR)

    @property
    def clean(self) -> bool:
        """Whether there are only notes."""
        return all(f.severity is Severity.NOTE for f in self.findings)
