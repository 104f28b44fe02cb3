"""By what terms a map is judged: how grave each finding is to its builder, and which ones are accepted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from msgspec import Struct, field

from hookset.model import Finding, Severity
from hookset.trees import Glob

__all__ = ["Accepted", "CheckEntry", "Terms", "terms_of"]

Level = Literal["error", "warning", "note", "off"]


class AcceptEntry(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Findings that the builder knows of and lives with."""

    code: str
    path: str = "**"
    """A pattern for the files they are in."""
    name: str = "*"
    """A pattern for the names they are about."""
    kind: str = "*"
    """The kind of name that they are about."""
    why: str = ""


class CheckEntry(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The `[check]` table of hookset.toml."""

    severity: dict[str, Level] = {}
    """By code: how grave a finding is in this map; `off` for checks that are not wanted."""
    accept: tuple[AcceptEntry, ...] = ()


class Accepted(Struct, frozen=True):
    """One `[[check.accept]]`, and where it stands."""

    entry: AcceptEntry
    line: int
    path: Glob
    name: Glob

    def covers(self, finding: Finding) -> bool:
        """Whether it accepts a finding."""
        return (
            finding.code == self.entry.code
            and (self.entry.path == "**" or self.path.matches(finding.spot.path))
            and (self.entry.name == "*" or self.name.matches(finding.name))
            and self.entry.kind in ("*", finding.kind)
        )


class Terms(Struct, frozen=True):
    """All of it; without a project file, the checks' own."""

    players: int | None = None
    """How many the map is for, where its project file says so."""
    severities: Mapping[str, Severity | None] = field(default_factory=dict)
    """None: off."""
    lines: Mapping[str, int] = field(default_factory=dict)
    """Where in hookset.toml each of these stands."""
    accepted: tuple[Accepted, ...] = ()


def terms_of(entry: CheckEntry, players: int | None, line_of: Mapping[str, int]) -> Terms:
    """`line_of` gives the line of each address in the project file."""
    return Terms(
        players,
        {code: None if level == "off" else Severity[level.upper()] for code, level in entry.severity.items()},
        {code: line_of[f"/check/severity/{code}"] for code in entry.severity},
        tuple(
            Accepted(one, line_of[f"/check/accept/{index}"], Glob(one.path), Glob(one.name))
            for index, one in enumerate(entry.accept)
        ),
    )
