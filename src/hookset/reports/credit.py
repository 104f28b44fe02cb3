"""The credits for a map's page."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from hookset.model.visible import visible

if TYPE_CHECKING:
    from hookset.planning.queries.credit import Credits

__all__ = ["credits_data", "credits_markdown"]

_MARKS = re.compile(r"[\\`*\[\]<>#|~&]")
"""What Markdown (CommonMark 0.31) takes for markup or HTML."""
_LINK = re.compile(r"(?:https?://|mailto:)[\w.~:/?#@!$&'()*+,;=%-]+", re.ASCII | re.IGNORECASE)


def credits_markdown(map_name: str, credit: Credits) -> str:
    """As Markdown, which most pages for maps take as it is."""
    if not credit.packs:
        return f"# Credits for {map_name}\n\nEverything in this map was made for it.\n"
    lines = [f"# Credits for {map_name}", ""]
    for pack in credit.packs:
        title = f" ({_plain(pack.title)})" if pack.title else ""
        by = " and ".join(map(_plain, pack.authors)) or "an author who is not named"
        licence = f"licence {_plain(pack.license)}" if pack.license else "licence not told"
        home = f" {_link(pack.home)}" if pack.home else ""
        asked = f" To be named like this: {_plain(pack.credit)}" if pack.credit else ""
        asked += "." if asked and not asked.endswith((".", "!", "?")) else ""
        made_from = f" Made from {_plain(pack.made_from)}." if pack.made_from else ""
        lines.append(
            f"* **{_plain(pack.name)}** {_plain(pack.version)}{title} by {by}; {licence}.{home}{asked}{made_from}"
        )
    if credit.expression:
        lines += ["", f"SPDX-License-Identifier: {credit.expression}"]
    if credit.unknown:
        lines += ["", f"Ask before publishing: {', '.join(credit.unknown)} (no licence that is known)."]
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    """What an author wrote, as text: it makes no links, no pictures and no markup on somebody's page."""
    return _MARKS.sub(r"\\\g<0>", visible(" ".join(text.split())))


def _link(home: str) -> str:
    return f"<{home}>" if _LINK.fullmatch(home) else _plain(home)


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
                "credit": pack.credit,
                "made_from": pack.made_from,
            }
            for pack in credit.packs
        ],
        "expression": credit.expression,
        "unknown": list(credit.unknown),
    }
