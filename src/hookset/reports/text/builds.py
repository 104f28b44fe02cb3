"""A built map."""

from __future__ import annotations

import os
from collections import Counter
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.build_steps import carried_rows
from hookset.reports.text.style import columns, heading, plural, section, sized, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.building import Archive
    from hookset.building.built import Built

__all__ = ["build_text"]


def build_text(name: str, made: Built, size: int, sha256: str) -> RenderableType:
    """What was written, and what stayed out."""
    archive, errors = made.archive, len(made.verdict.errors)
    folders = Counter(path.split("/")[0] + "/" if "/" in path else path for path in archive.members)
    rows = [(Text(f"{count}"), Text(folder)) for folder, count in folders.items()]
    parts: list[RenderableType | None] = [
        heading(f"{name} is built", plural(len(archive.members), "file")),
        section("steps", carried_rows(made.steps)) if made.steps else None,
        section("archive", Text(os.path.relpath(made.file))),
        section("size", Text(f"{sized(size)}{f', sha256 {sha256[:16]}…' if sha256 else ''}", style="dim")),
        section("packed", Text(_packed(len(archive.members), made.packed), style="dim")),
        section("holds", columns([*rows, *_inside(archive)], indent=0)),
    ]
    if archive.left_out:
        parts.append(section("stays out", Text(", ".join(archive.left_out), style="dim")))
    if errors:
        parts.append(
            section("mind", Text(f"built with {plural(errors, 'error')}: it will not work whole", style="error"))
        )
    parts.append(section("next", Text("hookset trial", style="name")))
    return stacked(*parts)


def _inside(archive: Archive) -> list[tuple[Text, Text]]:
    """Archives in the archive."""
    return [(Text(f"{len(one.members)}"), Text(f"in {one.name}", style="dim")) for one in archive.inner]


def _packed(members: int, packed: int) -> str:
    """How much of it was packed, and how much was there already."""
    if packed == members:
        return "all of it"
    return f"{packed} of {members} files; the others are as they were" if packed else "nothing: all is as it was"
