"""What kinds of a learned layout may be called."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from hookset.config.sheets import nearest
from hookset.model import WrongUseError

__all__ = ["kind_name", "kind_names"]

_KIND = re.compile(r"[a-z][a-z0-9-]{0,60}")


def kind_name(name: str, taken: Collection[str]) -> str:
    """The name, if a kind can be called so. Raises WrongUseError."""
    if not _KIND.fullmatch(name) or name in (*taken, "file"):
        raise WrongUseError(
            "wrong-name",
            f"a kind cannot be called {name!r}",
            remedy="small letters, digits and dashes, and no other kind's name: --call sound=noise",
        )
    return name


def kind_names(called: Sequence[str], known: Sequence[str], taken: Collection[str] = ()) -> dict[str, str]:
    """The new name of each kind that gets one, from texts such as `sound=noise`; `taken` are kinds that keep theirs."""
    found: dict[str, str] = {}
    for one in called:
        kind, _, name = one.partition("=")
        if kind not in known:
            raise WrongUseError(
                "unknown-kind",
                f"there is no kind {kind!r}{nearest(kind, known)}",
                remedy=f"the kinds are {', '.join(known) or 'none'}",
            )
        found[kind] = kind_name(name, (*known, *taken, *found.values()))
    return found
