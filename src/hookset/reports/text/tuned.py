"""What a pack was given in a map."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.planning.queries.tunables import Place, Tunables
    from hookset.project import LedgerSetting

__all__ = ["tunables_text"]


def tunables_text(map_name: str, found: Tunables) -> RenderableType:
    """Each setting with its unit, its range and where it lives; claims; blanks."""
    pack = found.pack
    parts: list[RenderableType | None] = [heading(f"{pack.name} {pack.version}", f"in {map_name}"), blank()]
    if found.settings:
        parts.append(section("settings", columns([_setting(one, p) for one, p in found.settings], indent=0)))
    if pack.claims:
        rows = [(Text(kind, style="name"), Text(value)) for kind, value in pack.claims.items()]
        parts.append(section("claims", columns(rows, indent=0)))
    if pack.blanks:
        parts.append(
            section(
                "blanks",
                columns(
                    [
                        (
                            Text(one.name, style="name"),
                            Text(one.filled or ("as the pack has it" if one.brought else "open"))
                            if one.filled or one.brought
                            else Text("open", style="warning"),
                            Text(f"{one.kind}{f', {one.into}' if one.into else ''}  {one.says}", style="dim"),
                        )
                        for one in pack.blanks
                    ],
                    indent=0,
                ),
            )
        )
    if len(parts) == 2:
        parts.append(Text("It has nothing that could be tuned.", style="dim"))
    else:
        parts += [blank(), Text(f"To change one: hookset tune {pack.name} NAME=VALUE", style="dim")]
    return stacked(*parts)


def _setting(one: LedgerSetting, places: tuple[Place, ...]) -> tuple[Text, Text, Text, Text]:
    bounds = (
        f"{one.range[0]:g} to {one.range[1]:g}" if one.range else ", ".join(str(c) for c in one.choices) or one.type
    )
    value = Text(f"{_shown(one.value)} {one.unit}".strip())
    where = Text()
    for place in places:
        where.append(f"{place.spot}", style="dim")
        if not place.value:
            where.append(" not found there", style="error")
        elif place.value != _shown(one.value):
            where.append(f" has {place.value}", style="warning")
        where.append("\n")
    if one.says:
        where = Text.assemble((one.says + "\n", ""), where)
    where.rstrip()
    return Text(one.name, style="name"), value, Text(f"({bounds})", style="dim"), where


def _shown(value: object) -> str:
    return ("true" if value else "false") if isinstance(value, bool) else str(value)
