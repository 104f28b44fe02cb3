"""What `start` found out about a map."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.project import PROJECT_FILE, Beginning
from hookset.reports.text.style import columns, heading, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

__all__ = ["start_text"]


def start_text(beginning: Beginning) -> RenderableType:
    """The layout and what it was recognised by."""
    layout = beginning.likeness.layout
    seen = [(Text(path), Text(says, style="dim")) for path, says in beginning.likeness.seen]
    lacking = [
        (Text(pattern, style="warning"), Text(f"{says}: not there", style="dim"))
        for pattern, says in beginning.likeness.lacking
    ]
    stock = ", ".join(beginning.stock) or "none: names of the base game will look missing until one is named"
    return stacked(
        heading(f"{beginning.name} {beginning.version}", f"{PROJECT_FILE} is written"),
        section("layout", Text(f"{layout.name}: {layout.title}")),
        section("known by", columns([*seen, *lacking], indent=0)),
        section("stock", Text(stock)),
        section("next", Text("hookset check", style="name")),
    )
