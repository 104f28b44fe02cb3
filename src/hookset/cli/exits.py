"""Exit codes."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from hookset.model import HooksetError

__all__ = ["Exit", "exit_of"]


class Exit:
    """Exit codes."""

    CLEAN = 0
    FINDINGS = 1
    WRONG_USE = 2
    COULD_NOT = 3
    BUG = 4


def exit_of(error: HooksetError) -> int:
    """What a command ends with that ends in this error."""
    # Imported here: a run without an error need not know of them.
    from hookset.model import CouldNotError, WrongUseError

    if isinstance(error, WrongUseError):
        return Exit.WRONG_USE
    return Exit.COULD_NOT if isinstance(error, CouldNotError) else Exit.FINDINGS
