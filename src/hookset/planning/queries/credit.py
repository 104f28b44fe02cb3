"""Who made what is in a map, and under which licence."""

from __future__ import annotations

from msgspec import Struct

from hookset.project import Ledger, LedgerPack

__all__ = ["Credits", "credits_of"]


class Credits(Struct, frozen=True):
    """Whose work a map uses, and under which licences."""

    packs: tuple[LedgerPack, ...]
    expression: str
    """One SPDX licence expression for all that is told and understood; empty for none."""
    unknown: tuple[str, ...]
    """Packs whose licence is not told, or is no SPDX expression: somebody has to ask."""


def credits_of(ledger: Ledger) -> Credits:
    """SPDX expressions are read as the SPDX specification 2.3, annex D, has them."""
    # Imported here: its list of licences takes a tenth of a second to read.
    from license_expression import ExpressionError, get_spdx_licensing

    licensing = get_spdx_licensing()
    parts: list[str] = []
    unknown: list[str] = []
    for pack in ledger.packs:
        try:
            parsed = licensing.parse(pack.license, validate=True, strict=True) if pack.license else None
        except (ExpressionError, ValueError):
            parsed = None
        if parsed is None:
            unknown.append(pack.name)
        else:
            parts.append(str(parsed))
    joined = " AND ".join(f"({part})" for part in dict.fromkeys(parts))
    return Credits(ledger.packs, str(licensing.parse(joined).simplify()) if joined else "", tuple(unknown))
