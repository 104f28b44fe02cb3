"""The contents of a pack, and the packs of a map."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.planning import HookState
from hookset.reports.text.insides import about_text, made_of_text, notes_section, warnings_text
from hookset.reports.text.style import blank, columns, heading, marked, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.authoring.draft import Draft, Inside
    from hookset.checks import ExclusionState
    from hookset.packs import HookSheet, Pack
    from hookset.packs.hooksheet import SettingEntry
    from hookset.planning import HookStep, NeedState, PackPlan
    from hookset.planning.queries.contents import Contents, PackReview, Requirement
    from hookset.project import Ledger, LedgerPack

__all__ = ["excludes_text", "inspect_text", "list_text", "needs_text"]

_CLASHES = 5


def inspect_text(pack: Pack, look: Inside, draft: Draft | None, looked: PackReview, map_name: str) -> RenderableType:
    """Everything about a pack that can be known without running it."""
    sheet, contents, plan = pack.sheet, looked.contents, looked.plan
    if sheet is None:
        return stacked(
            heading(pack.name),
            about_text(pack, look),
            blank(),
            section("files", made_of_text(look)),
            section("beware", warnings_text(look)) if look.warnings else None,
            notes_section(look),
            section(
                "hooks",
                Text("unknown: it has no hook sheet, and lies like no layout that is known; in the map that it is for,"
                     " or with --layout, `hookset draft` writes one"),
            ),
        )  # fmt: skip
    entry = sheet.pack
    parts: list[RenderableType | None] = [
        heading(f"{entry.name} {entry.version}", entry.title),
        Text(
            f"by {', '.join(entry.authors) or 'nobody named'}; licence: {entry.license or 'none told'}",
            style="dim",
        ),
        about_text(pack, look),
        blank(),
        section("files", made_of_text(look)),
        section("beware", warnings_text(look)) if look.warnings else None,
        notes_section(look) if draft is not None else None,
        section("brings", _brings(contents, pack)),
        section("sets", _sets(sheet, plan)),
    ]
    if contents.asked or contents.inside:
        parts.append(section("asks for", _asks(contents.asked, contents.inside)))
    if contents.unused and contents.layout:
        parts.append(section("unused", Text("\n".join(contents.unused), style="warning")))
    if looked.stops:
        parts.append(
            section("collides", Text("\n".join(f"{stop.where}: {stop.what}" for stop in looked.stops), style="warning"))
        )
    parts += _of_sheet(sheet, looked)
    if pack.leftovers:
        parts.append(section("stays out", Text(", ".join(pack.leftovers), style="dim")))
    if entry.look_for:
        parts.append(section("look for", Text("\n".join(entry.look_for))))
    return stacked(*parts, blank(), Text(_read_for(draft, map_name, contents.layout), style="dim"))


def _of_sheet(sheet: HookSheet, looked: PackReview) -> list[RenderableType | None]:
    """What the hook sheet says of needs, parts and what the builder decides."""
    found: list[RenderableType | None] = []
    if sheet.needs:
        found.append(section("needs", needs_text(sheet, looked.needs)))
    if sheet.excludes:
        found.append(section("excludes", excludes_text(sheet, looked.excluded)))
    if sheet.part:
        found.append(
            section("parts", columns([(Text(p.name, style="name"), Text(p.title)) for p in sheet.part], indent=0))
        )
    if sheet.pack.does:
        found.append(section("does", Text(f"{', '.join(sheet.pack.does)}: only one pack of a map can")))
    if sheet.claim:
        found.append(section("claims", Text("\n".join(f"a free {claim.kind}" for claim in sheet.claim))))
    if sheet.setting:
        found.append(section("settings", _settings(sheet.setting)))
    if sheet.place:
        places = [(Text(one.name, style="name"), Text(one.says, style="dim")) for one in sheet.place]
        found.append(section("places", columns(places, indent=0)))
    if sheet.blank:
        rows = [
            (
                Text(b.name, style="name"),
                Text(f"{b.kind}, into {b.into}" if b.into else b.kind),
                Text(b.says, style="dim"),
            )
            for b in sheet.blank
        ]
        found.append(section("blanks", columns(rows, indent=0)))
    return found


def _read_for(draft: Draft | None, map_name: str, layout: str) -> str:
    told = f"Read for the map {map_name}." if map_name else "Read on its own: there is no map here to compare it with."
    if draft is None:
        return told
    unsure = f", {plural(draft.unsure, 'entry', 'entries')} of it unsure" if draft.unsure else ""
    by = "" if map_name else f" Its folders look like the layout {layout}."
    return (
        f"{told}{by} It has no hook sheet: this is by a draft{unsure}. `hookset draft` shows where each line is from."
    )


def _by_ending(paths: tuple[str, ...]) -> RenderableType:
    endings: dict[str, int] = {}
    for path in paths:
        ending = PurePosixPath(path).suffix.lower() or "no ending"
        endings[ending] = endings.get(ending, 0) + 1
    return columns([(Text(f"{count}"), Text(ending)) for ending, count in sorted(endings.items())], indent=0)


def _brings(contents: Contents, pack: Pack) -> RenderableType:
    if not contents.layout:
        return _by_ending(tuple(pack.targets))
    rows = [
        (Text(f"{len(one.names)}"), Text(one.label), Text(", ".join(one.names), style="name"))
        for one in contents.brought
    ]
    return columns(rows, indent=0)


def _sets(sheet: HookSheet, plan: PackPlan | None) -> RenderableType:
    if plan is not None:
        hooks = [hook for hook in plan.hooks if hook.seat not in plan.listing or hook.note]
        rows = [(Text(hook.seat, style="name"), Text(hook.path or "-"), _shown(hook)) for hook in hooks]
        listed = len(plan.hooks) - len(hooks)
        if listed:
            rows.append((Text("manifest", style="name"), Text(""), Text(plural(listed, "row"), style="dim")))
        return columns(rows, indent=0, clip=True)
    counts: dict[str, int] = {}
    for hook in sheet.hook:
        where = hook.seat or hook.change or hook.file
        counts[where] = counts.get(where, 0) + 1
    return columns(
        [(Text(seat, style="name"), Text(plural(n, "entry", "entries"), style="dim")) for seat, n in counts.items()],
        indent=0,
    )


def _shown(hook: HookStep) -> Text:
    note = f"({hook.note})  " if hook.note and hook.state is HookState.LEFT_OUT else ""
    return Text.assemble(note, (hook.told, "dim"))


def _asks(asked: tuple[Requirement, ...], inside: int) -> RenderableType:
    within = Text(f"{plural(inside, 'name')} that it brings itself", style="dim") if inside else None
    if not asked:
        return within or Text("nothing")
    rows = []
    for one in asked:
        style = "error" if one.met == "missing" else "dim"
        rows.append(
            (
                Text(one.label),
                Text(one.name, style="name"),
                Text(one.met or "of the map or the stock", style=style),
            )
        )
    return stacked(columns(rows, indent=0), within)


def needs_text(sheet: HookSheet, states: tuple[NeedState, ...] | None) -> RenderableType:
    """Each need: met or not, by what, and what to do."""
    rows: list[tuple[Text, Text]] = []
    for index, need in enumerate(sheet.needs):
        state = states[index] if states is not None else None
        what = marked(f"{need.kind} `{need.name}`{' ' + need.version if need.version else ''}")
        if need.why:
            what.append(f": {need.why}", style="dim")
        if state is None:
            rows.append((Text("?", style="dim"), what))
        elif state.met:
            what.append(f" ({state.by})", style="dim")
            rows.append((Text("met", style="good"), what))
        else:
            what.append(f" ({state.by})" + (f"; {need.remedy}" if need.remedy else ""))
            rows.append((Text("not met", style="error"), what))
    return columns(rows, indent=0)


def excludes_text(sheet: HookSheet, states: tuple[ExclusionState, ...]) -> RenderableType:
    """What the pack cannot stand beside: whether it is in the map, and where. Without `states` nobody has looked."""
    rows: list[tuple[Text, Text]] = []
    for index, one in enumerate(sheet.excludes):
        what = marked(f"{one.kind} `{one.name}`{' ' + one.version if one.version else ''}")
        if one.why:
            what.append(f": {one.why}", style="dim")
        state = states[index] if states else None
        if state is None:
            rows.append((Text("?", style="dim"), what))
        elif not state.known:
            what.append(" (the layout knows no such kind: nobody has looked for it)", style="dim")
            rows.append((Text("?", style="warning"), what))
        elif state.found:
            what.append(f" ({', '.join(dict.fromkeys(clash.what for clash in state.found[:_CLASHES]))})")
            rows.append((Text("is there", style="error"), what))
        else:
            rows.append((Text("not there", style="good"), what))
    return columns(rows, indent=0)


def _settings(settings: tuple[SettingEntry, ...]) -> RenderableType:
    rows = []
    for one in settings:
        span = f", {one.range[0]:g} to {one.range[1]:g}" if one.range else ""
        value = f"{one.default} {one.unit}".strip()
        rows.append((Text(one.name, style="name"), Text(f"{value} ({one.type}{span})"), Text(one.says, style="dim")))
    return columns(rows, indent=0)


def list_text(map_name: str, ledger: Ledger) -> RenderableType:
    """The packs that are installed in a map."""
    if not ledger.packs:
        return stacked(heading(map_name), Text("No packs are installed in this map.", style="dim"))
    parts: list[RenderableType | None] = [heading(map_name, plural(len(ledger.packs), "pack")), blank()]
    for pack in ledger.packs:
        parts.append(heading(f"{pack.name} {pack.version}", pack.title))
        by = ", ".join(pack.authors) or "nobody named"
        licence = f"licence {pack.license}" if pack.license else "no licence told"
        rows = [
            f"by {by}; {licence}{f'; {pack.home}' if pack.home else ''}",
            f"from {pack.source}, sha256 {pack.sha256[:16]}…, installed {pack.installed[:10]}",
            f"{plural(len(pack.files), 'file')}, {plural(len(pack.hooks), 'entry', 'entries')}{_given(pack)}",
        ]
        parts += [Text(f"  {row}", style="dim") for row in rows]
    return stacked(*parts)


def _given(pack: LedgerPack) -> str:
    """What was decided about it, in short."""
    told = [f"parts {', '.join(pack.parts)}"] if pack.parts else []
    told += [f"{kind} {value}" for kind, value in pack.claims.items()]
    told += [f"{one.name} = {one.value}" for one in pack.settings if one.value != one.default]
    told += [f"{one.name} open" for one in pack.blanks if not one.filled and not one.brought]
    return "".join(f"; {one}" for one in told)
