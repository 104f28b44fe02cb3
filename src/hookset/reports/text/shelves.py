"""What is on the shelf."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.packs.shelf import Shelved

__all__ = ["shelf_data", "shelf_text"]


def shelf_text(root: Path, there: Sequence[Shelved]) -> RenderableType:
    if not there:
        return stacked(
            heading("shelf", str(root)),
            Text("Nothing is on it. `hookset shelf keep PACK` puts a pack there, to be found by name from any map."),
        )
    rows = [
        (
            Text(one.name, style="name"),
            Text(one.version),
            Text(one.title),
            Text(one.license or "no licence told", style="dim"),
            Text("" if one.sheet else "no hook sheet", style="warning"),
            Text(f"sha256 {one.sha256[:12]}…, kept {one.kept[:10]}", style="dim"),
        )
        for one in there
    ]
    return stacked(heading("shelf", plural(len(there), "pack"), str(root)), blank(), columns(rows, indent=0, clip=True))


def shelf_data(root: Path, there: Sequence[Shelved]) -> dict[str, Any]:
    return {
        "folder": str(root),
        "packs": [
            {
                "name": one.name,
                "version": one.version,
                "title": one.title,
                "license": one.license,
                "sha256": one.sha256,
                "source": one.source,
                "kept": one.kept,
                "path": str(one.path),
                "hook_sheet": one.sheet,
            }
            for one in there
        ],
    }
