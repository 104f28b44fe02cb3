"""What `judge` returns."""

from __future__ import annotations

from enum import IntEnum

from msgspec import Struct

from hookset.model.mends import Mend
from hookset.model.names import EVERY_SIDE, Spot

__all__ = ["Finding", "Severity"]


class Severity(IntEnum):
    """Ordered: the worst first."""

    ERROR = 0
    """A reference is missing or would not work in the game: a build is refused."""
    WARNING = 1
    """Works by luck, or on this machine only."""
    NOTE = 2
    """Worth knowing; never makes a check fail."""

    @property
    def word(self) -> str:
        """The severity in lower case, as it is printed."""
        return self.name.lower()


class Finding(Struct, frozen=True, kw_only=True):
    """One result of a check, written for the builder."""

    code: str
    severity: Severity
    spot: Spot
    message: str
    why: str
    remedy: str
    kind: str = ""
    name: str = ""
    side: str = EVERY_SIDE
    mend: Mend | None = None
    """What would mend it, where that is safe to do without asking."""
    instead: tuple[str, ...] = ()
    """What could be written where it stands, the likeliest first: each would be met."""

    follows: int = 0
    """How many names are missing for this reason only, and are not told one by one."""

    @property
    def identity(self) -> tuple[str, str, str, str, str]:
        """The same finding before and after an edit moved its line."""
        return (self.code, self.spot.path, self.kind, self.name, self.side)

    @property
    def order(self) -> tuple[Spot, str, str]:
        """The key by which findings are sorted."""
        return (self.spot, self.code, self.message)
