"""The credits for a map's page."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hookset.core.install.seen.credit import Credits

__all__ = ["credits_data", "credits_markdown"]


def credits_markdown(map_name: str, credit: Credits) -> str:
    """As Markdown, which most pages for maps take as it is."""
    if not credit.packs:
        return f"# Credits for {map_name}\n\nEverything in this map was made for it.\n"
    lines = [f"# Credits for {map_name}", ""]
    for pack in credit.packs:
        title = f" ({pack.title})" if pack.title else ""
        by = " and ".join(pack.authors) or "an author who is not named"
        licence = f"licence {pack.license}" if pack.license else "licence not told"
        home = f" <{pack.home}>" if pack.home else ""
        made_from = f" Made from {pack.made_from}." if pack.made_from else ""
        lines.append(f"* **{pack.name}** {pack.version}{title} by {by}; {licence}.{home}{made_from}")
    if credit.expression:
        lines += ["", f"SPDX-License-Identifier: {credit.expression}"]
    if credit.unknown:
        lines += ["", f"Ask before publishing: {', '.join(credit.unknown)} (no licence that is known)."]
    return "\n".join(lines) + "\n"


def credits_data(credit: Credits) -> dict[str, Any]:
    return {
        "packs": [
            {
                "name": pack.name,
                "version": pack.version,
                "title": pack.title,
                "authors": list(pack.authors),
                "license": pack.license,
                "home": pack.home,
                "made_from": pack.made_from,
            }
            for pack in credit.packs
        ],
        "expression": credit.expression,
        "unknown": list(credit.unknown),
    }
