"""What was lifted, for people."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.model.visible import as_argument
from hookset.reports.text.style import blank, columns, heading, plural, section, sized, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.authoring.lift import AttributeChange, Closure, Donor, LiftedPack
    from hookset.authoring.lift.report import LiftReport

__all__ = ["lift_text"]

_MANY = 12


def lift_text(
    donor: Donor, lifted: Closure, made: LiftedPack, looked: LiftReport, in_map: bool, written: Path | None
) -> RenderableType:
    """`in_map`: it was tried in a map that it may be set into."""
    parts: list[RenderableType | None] = [
        heading(made.name, f"lifted from {donor.name}{f' {donor.version}' if donor.version else ''}"),
        blank(),
        section("files", _files(donor, lifted)),
        section("sets", _entries(made)),
    ]
    sizes = [(Text(f"{row.count}"), Text(row.sort), Text(sized(row.size), style="dim")) for row in looked.along]
    if sizes:
        parts.append(section("of these", columns(sizes, indent=0)))
    optional = [item for item in lifted.pieces if item.by_link]
    if optional:
        told = [Text(f"{item.because}: --leave {item.because.rpartition(' ')[2]} leaves it out") for item in optional]
        parts.append(section("by link", stacked(*told)))
    for label, names, style in (
        ("in stock", lifted.stocked, "dim"),
        ("left out", lifted.left, "dim"),
        ("missing", lifted.missing, "error"),
    ):
        if names:
            rows = [
                (Text(kind), Text(name, style="name"), Text(why, style=style)) for (kind, name), why in names.items()
            ]
            parts.append(section(label, columns(rows[:_MANY], indent=0, clip=True)))
    if lifted.behind:
        parts.append(section("stays", _behind(donor, lifted, looked)))
    if lifted.unsure:
        parts.append(section("unsure", Text("\n".join(lifted.unsure))))
    if looked.differs:
        parts.append(section("differs", _changed(looked.differs, in_map)))
    elif in_map:
        but = "; what is under mind may mean something else here" if made.numbers else ""
        same = Text(f"nothing: every attribute would be as in the donor{but}", style="warning" if but else "good")
        parts.append(section("differs", same))
    if looked.stops:
        parts.append(section("stops", Text("\n".join(looked.stops), style="warning")))
    if made.notes:
        parts.append(section("mind", Text("\n".join(made.notes))))
    last = (
        f"Written to {written}. Set it in: hookset install {as_argument(written)}{_elsewhere(made)}"
        if written
        else "Nothing was written: this was a preview."
    )
    return stacked(*parts, blank(), Text(last, style="dim"))


def _behind(donor: Donor, lifted: Closure, looked: LiftReport) -> RenderableType:
    """What else in the donor refers to the thing."""
    rows = [
        (
            Text(f"{one.path}:{looked.lines.get((one.path, one.where), 0) or 1}", style="name"),
            Text(f"refers to the {donor.site.layout.kinds[one.kind].label} {one.name}", style="dim"),
        )
        for one in lifted.behind
    ]
    more = len(rows) - _MANY
    shown = columns(rows[:_MANY], indent=0, clip=True)
    return stacked(shown, Text(f"and {more} more", style="dim")) if more > 0 else shown


def _files(donor: Donor, lifted: Closure) -> RenderableType:
    items = sorted((item for item in lifted.items.values() if item.piece is None), key=lambda item: item.path)
    rows = [
        (Text(item.path, style="name"), Text(sized(donor.site.tree.size(item.path))), Text(item.because, style="dim"))
        for item in items
    ]
    if not rows:
        return Text("none: it is made of what the base game has")
    return columns(rows, indent=0, clip=True)


def _entries(made: LiftedPack) -> RenderableType:
    rows = []
    for one in made.entries:
        shown = one.body.text if one.body.text is not None else json.dumps(one.body.record, ensure_ascii=False)
        where = one.seat_file.seat.name + (f" ({one.seat_file.variant})" if one.seat_file.variant else "")
        rows.append((Text(where, style="name"), Text(" ".join(shown.split()))))
    return columns(rows, indent=0, clip=True)


def _changed(changed: tuple[AttributeChange, ...], in_map: bool) -> RenderableType:
    head = ("thing", "attribute", "donor", "pack", "here") if in_map else ("thing", "attribute", "donor", "pack")
    rows = [tuple(Text(word, style="dim") for word in head)]
    for one in changed[:_MANY]:
        values = (one.donor, one.pack, one.after) if in_map else (one.donor, one.pack)
        cells = [Text(one.thing, style="name"), Text(one.name)]
        cells += [Text("-", style="warning") if value is None else Text(value) for value in values]
        rows.append(tuple(cells))
    if len(changed) > _MANY:
        return stacked(
            columns(rows, indent=0), Text(f"and {plural(len(changed) - _MANY, 'more attribute')}", style="dim")
        )
    return columns(rows, indent=0)


def _elsewhere(made: LiftedPack) -> str:
    """How it comes to stand elsewhere than in the donor."""
    at = [f"--at {place.name}=X,Y,Z" for place in made.sheet.place[:3]]
    return f"; where you want it: {' '.join(at)}" if at else ""
