"""Deliveries, and what to look for in the game, for people."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.building.delivery.delivery import Delivery
    from hookset.building.delivery.destinations import Destination
    from hookset.building.delivery.record import DeliveredMap, Deliveries, LookAt

__all__ = ["back_text", "delivery_text", "destinations_text", "look_for_text"]


def delivery_text(
    name: str, done: Sequence[tuple[Destination, Delivery, tuple[str, ...]]], before: Deliveries, kept: Deliveries
) -> RenderableType:
    """What lies where now, and what there is to be seen of what is new."""
    parts: list[RenderableType | None] = [
        heading(f"{name} is delivered", plural(len(done), "destination")),
        section("lies at", columns([_lies(*one) for one in done], indent=0)),
    ]
    aside = [copy for _, one, _ in done for copy in one.aside]
    if aside:
        rows = [(Text(copy.was.name, style="name"), Text(_shown(copy.kept), style="dim")) for copy in aside]
        parts.append(section("aside", columns(rows, indent=0)))
    open_in = sorted({program for _, one, holding in done for program in holding if not one.same})
    if open_in:
        told = f"{', '.join(open_in)} has it open, and goes on with the earlier one until it opens it again"
        parts.append(section("mind", Text(told, style="warning")))
    left_there = [file for _, one, _ in done for file in one.left]
    if left_there:
        told = f"could not be taken away, and the game may load it: {', '.join(_shown(file) for file in left_there)}"
        parts.append(section("mind", Text(told, style="warning")))
    known = {(pack, version) for one in before.last for pack, version in one.packs.items()}
    fresh = [
        (n, one) for n, one in enumerate(kept.look_for, 1) if not one.done and (one.pack, one.version) not in known
    ]
    left = [(n, one) for n, one in enumerate(kept.look_for, 1) if not one.done]
    if fresh or left:
        parts.append(section("look for", columns(_rows(fresh or left), indent=0)))
        parts.append(section("then", Text("hookset look-for NUMBER…", style="name")))
    if aside:
        parts.append(section("back", Text("hookset deliver --back", style="name")))
    return stacked(*parts)


def _lies(target: Destination, one: Delivery, _: tuple[str, ...]) -> tuple[Text, Text, Text]:
    note = "as it was: nothing was written" if one.same else ""
    return Text(target.name), Text(_shown(one.target), style="name"), Text(note, style="dim")


def _shown(path: Path) -> str:
    """A path as people write it: from here, or from their own folder."""
    here = os.path.relpath(path)
    if len(here) < len(str(path)) and not here.startswith("../../.."):
        return here
    home = Path.home()
    return f"~/{path.relative_to(home).as_posix()}" if path.is_relative_to(home) else str(path)


def _rows(found: Sequence[tuple[int, LookAt]]) -> list[tuple[Text, Text, Text]]:
    return [
        (Text(f"{number}"), Text(f"{one.pack} {one.version}", style="name"), Text(one.says)) for number, one in found
    ]


def back_text(meant: Sequence[DeliveredMap]) -> RenderableType:
    """What lies there again."""
    rows = []
    for one in meant:
        there = ", ".join(was.rpartition("/")[2] for was, _ in one.aside) or "nothing: it was the first"
        rows.append((Text(one.destination), Text(there, style="name")))
    return stacked(heading("As it was before", ""), section("lies there", columns(rows, indent=0)))


def destinations_text(destinations: Sequence[Destination]) -> RenderableType:
    """Where games look."""
    if not destinations:
        return Text("No destination is named yet: hookset deliver NAME --to FOLDER")
    rows = [
        (Text(one.name, style="name"), Text(one.folder), Text(", ".join(one.layouts), style="dim"))
        for one in destinations
    ]
    return stacked(
        heading("Where games look for maps", plural(len(destinations), "destination")), blank(), columns(rows)
    )


def look_for_text(name: str, found: Sequence[LookAt]) -> RenderableType:
    """What there is to be seen of each pack, and what of it was seen."""
    if not found:
        return Text(f"No pack of {name} says what there is to be seen of it.")
    left = sum(not one.done for one in found)
    rows = [
        (
            Text(f"{number}"),
            Text("✓" if one.done else "·", style="good" if one.done else "warning"),
            Text(f"{one.pack} {one.version}", style="name"),
            Text(one.says, style="dim" if one.done else ""),
        )
        for number, one in enumerate(found, 1)
    ]
    state = "all of it was looked at" if not left else f"{left} of {len(found)} still to be looked at"
    parts: list[RenderableType] = [heading(f"To look for in {name}", state), blank(), columns(rows)]
    return stacked(*parts)
