"""What an engine and the check say of a map, side by side, for people."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, marked, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.building.engines.comparing import Compared
    from hookset.building.engines.running import EngineRun
    from hookset.building.logs import Trouble
    from hookset.model import Finding

__all__ = ["compared_text"]

_SAID = 2
_FILES = 3
_LONGEST = 160


def compared_text(name: str, engine: str, done: EngineRun, beside: Compared) -> RenderableType:
    """What both have found first; then what one of them alone has."""
    network = "" if done.alone else "with the network of this machine"
    parts: list[RenderableType | None] = [heading(f"{name} in {engine}", f"{done.seconds:.1f} s", network)]
    if done.wrong:
        parts.append(section("mind", Text(f"{done.wrong}: what it says may not be all", style="error")))
    if beside.both:
        parts += [blank(), Text(f"both say: {plural(len(beside.both), 'error')}", style="title")]
        for finding, troubles in beside.both:
            parts += [_finding(finding), columns([_says(one) for one in troubles[:_SAID]], indent=4)]
    if beside.follows:
        told = Counter(one.path or "elsewhere" for one in beside.follows)
        shown = ", ".join(f"{path}{f' {count}×' if count > 1 else ''}" for path, count in told.most_common(_FILES))
        more = f" and {len(told) - _FILES} more files" if len(told) > _FILES else ""
        parts.append(
            section("follows", Text(f"{plural(len(beside.follows), 'error')} of these: {shown}{more}", style="dim"))
        )
    if beside.only_engine:
        parts += [blank(), Text(f"only the engine: {plural(len(beside.only_engine), 'error')}", style="title")]
        parts += [stacked(_head(one), columns(_blames(one), indent=4)) for one in beside.only_engine]
    if beside.only_check:
        parts += [blank(), Text(f"only the check: {plural(len(beside.only_check), 'error')}", style="title")]
        parts += [_finding(finding) for finding in beside.only_check]
    if not (beside.both or beside.only_engine or beside.only_check or done.wrong):
        parts += [blank(), Text("No errors: the engine has none to tell of, and neither has the check.", style="good")]
    return stacked(*parts)


def _finding(finding: Finding) -> RenderableType:
    head = Text.assemble("  ", (str(finding.spot), "title"), "  ")
    return stacked(head.append_text(marked(finding.message)).append(f"  {finding.code}", style="dim"))


def _says(one: Trouble) -> tuple[Text, Text]:
    return Text("engine", style="dim"), Text(one.text[:_LONGEST], style="dim")


def _head(one: Trouble) -> Text:
    place = f"{one.path}:{one.line}" if one.line else one.path
    head = Text.assemble("  ", (place, "title"), "  " if place else "")
    return head.append(one.text[:_LONGEST], style="error").append(
        f"  {one.count}×" if one.count > 1 else "", style="dim"
    )


def _blames(one: Trouble) -> list[tuple[Text, ...]]:
    rows: list[tuple[Text, ...]] = []
    for blame in one.blames[:_SAID]:
        whose = Text(blame.pack, style="name") if blame.pack else Text("map", style="dim")
        rows.append((whose, Text(str(blame.spot) if blame.spot else ""), Text(blame.why, style="dim")))
    return rows or [(Text("?", style="dim"), Text("it names nothing of this map", style="dim"))]
