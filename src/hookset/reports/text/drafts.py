"""A draft for people: what goes where and why, and what is left to decide."""

from __future__ import annotations

import json
from pathlib import Path, PurePosixPath
from typing import TYPE_CHECKING, Any

import msgspec
from rich.text import Text

from hookset.authoring.draft.coverage import Fate
from hookset.model.visible import as_argument
from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from rich.console import RenderableType

    from hookset.authoring.draft import Draft
    from hookset.authoring.draft.coverage import CoveredLine
    from hookset.packs import Pack
    from hookset.packs.hooksheet import HookEntry, SettingEntry, WhenEntry

__all__ = ["draft_text", "entry_cells"]

_LEFT = 6
_LINES = 12
"""Lines that are not understood: more than that, and the notes are read beside it anyway."""


def draft_text(draft: Draft, pack: Pack, written: Path | None = None) -> RenderableType:
    """`written` is the file that it was written to."""
    head = draft.sheet.pack
    source = f"from {', '.join(draft.notes)}" if draft.notes else "it came without notes"
    parts: list[RenderableType | None] = [
        heading(f"{head.name} {head.version}", f"drafted for {pack.source.name}, {source}"),
        Text(f"by {', '.join(head.authors) or 'nobody named'}; licence: {head.license or 'none found'}", style="dim"),
        blank(),
        section("files", _files(draft)),
    ]
    if draft.sheet.hook:
        parts.append(section("sets", _hooks(draft)))
    for table, label in (
        ("needs", "needs"),
        ("excludes", "excludes"),
        ("place", "places"),
        ("setting", "settings"),
        ("claim", "claims"),
        ("blank", "blanks"),
    ):
        if getattr(draft.sheet, table):
            parts.append(section(label, _named(draft, table)))
    if draft.left:
        shown = [Text(f"{one.path}: {one.why}", style="dim") for one in draft.left[:_LEFT]]
        if len(draft.left) > _LEFT:
            shown.append(Text(f"and {len(draft.left) - _LEFT} more", style="dim"))
        parts.append(section("stays out", stacked(*shown)))
    if draft.not_understood:
        lines = draft.not_understood
        parts.append(section("not clear", columns(list(_cited(draft, lines, "warning")), indent=0, clip=True)))
    for label, fate in (("by hand", Fate.BY_HAND), ("left out", Fate.LEFT_OUT)):
        if so := draft.with_fate(fate):
            parts.append(section(label, columns(list(_cited(draft, so)), indent=0, clip=True)))
    doubts = [*_doubts(draft), *draft.decide]
    if doubts:
        rows = [(Text(f"{number}", style="warning"), Text(doubt)) for number, doubt in enumerate(doubts, 1)]
        parts.append(section("to decide", columns(rows, indent=0)))
    if draft.findings:
        told = [Text(f"{one.spot}  {one.message}") for one in draft.findings[:_LEFT]]
        if len(draft.findings) > _LEFT:
            told.append(Text(f"and {len(draft.findings) - _LEFT} more: --json shows all", style="dim"))
        parts.append(section("new", stacked(*told)))
    parts += [blank(), _last(draft, pack, written)]
    return stacked(*parts)


def _cited(draft: Draft, lines: Sequence[CoveredLine], style: str = "dim") -> Iterator[tuple[Text, Text]]:
    """Lines of the notes, as they are written."""
    several = len(draft.notes) > 1
    for one in lines[:_LINES]:
        yield Text(f"{one.notes}:{one.number}" if several else f"{one.number}", style=style), Text(one.text)
    if len(lines) > _LINES:
        yield Text(), Text(f"and {len(lines) - _LINES} more: --json shows all", style="dim")


def _marked(draft: Draft, table: str, index: int, *cells: Text) -> tuple[Text, ...]:
    """A row with its mark in front; without that column where nothing of the draft has one."""
    if not draft.unsure:
        return cells
    return (Text("" if draft.reason(table, index).sure else "?", style="warning"), *cells)


def _files(draft: Draft) -> RenderableType:
    rows = []
    for index, entry in enumerate(draft.sheet.files):
        # With the ending of the file, it is its new name.
        file = PurePosixPath(entry.to).suffix and PurePosixPath(entry.to).suffix == PurePosixPath(entry.from_).suffix
        target = "the map's top" if entry.to == "." else entry.to if file else f"{entry.to}/"
        why = Text(str(draft.reason("files", index).why), style="dim")
        rows.append(_marked(draft, "files", index, Text(entry.from_, style="name"), Text(f"→ {target}"), why))
    return columns(rows, indent=0) if rows else Text("none that would go into the map", style="warning")


def _hooks(draft: Draft) -> RenderableType:
    rows = []
    for index, hook in enumerate(draft.sheet.hook):
        why = str(draft.reason("hook", index).why)
        cells = (Text(hook.seat or hook.change or hook.file, style="name"), Text(why, style="dim"), _shown(hook))
        rows.append(_marked(draft, "hook", index, *cells))
    return columns(rows, indent=0, clip=True)


def _shown(hook: HookEntry) -> Text:
    if hook.each is not None:
        body = f"{', '.join(hook.each)}: " + "; ".join(_flat(one) for one in hook.each.values())
    else:
        body = _flat(hook.record if hook.record is not None else hook.text or "")
        body = f"without {_flat(hook.replaces)}" if hook.replaces and not body else body
    when = f"{_when(hook.when)}: " if hook.when is not None else ""
    if hook.replaces and hook.text:
        there, old, new = _parting(hook.replaces, hook.text)
        return Text.assemble((when, "hunk"), (f"{there}in place of {old}: ", "dim"), new)
    spots = (("below", hook.after), ("above", hook.before))
    spot = next((f"{word} {_flat(row)}: " for word, row in spots if row and isinstance(row, str)), "")
    return Text.assemble((when, "hunk"), (spot, "dim"), body)


def _parting(old: str, new: str) -> tuple[str, str, str]:
    """What goes and what comes, behind the first line that stays and says something."""
    before, after = old.strip().splitlines(), new.strip().splitlines()
    gone = [line for line in before if line not in after]
    come = [line for line in after if line not in before]
    stays = [line for line in before if line in after and any(mark in line for mark in "\"'=:")]
    if not (gone and come):
        return "", _flat(old), _flat(new)
    return f"{_flat(stays[0])} … " if stays else "", _flat("\n".join(gone)), _flat("\n".join(come))


def _when(when: WhenEntry) -> str:
    """For which maps an entry is, or for which choice of the builder's."""
    if when.setting:
        return f"{when.setting}={when.equals}"
    return f"without {when.without}" if when.without else f"with {when.pack}"


def entry_cells(table: str, entry: Any, files: Mapping[str, str]) -> tuple[Text, Text]:
    """What an entry of a sheet sets, and where; `files` says in which file of the map each seat is."""
    if table == "files":
        target = "the map's top" if entry.to == "." else entry.to
        return Text(entry.from_, style="name"), Text(f"→ {target}")
    if table == "setting":
        return Text(f"setting {entry.name}", style="name"), Text(_setting(entry))
    if table != "hook":
        name = getattr(entry, "name", "") or getattr(entry, "kind", "") or getattr(entry, "from_", "")
        return Text(f"{table} {name}", style="name"), Text(_flat(_plain(entry)))
    where = entry.seat or entry.change or entry.file
    at = ", ".join((*entry.at.values(), *([f"every {entry.every.kind} {entry.every.name}"] if entry.every else [])))
    path = files.get(entry.seat, "")
    label = " ".join(one for one in (where, at, f"({path})" if path else "") if one)
    if entry.replaces or entry.before or entry.after or entry.ask:
        spot = entry.replaces or str(entry.ask or "") or f"beside {entry.before or entry.after}"
        new = "nothing" if entry.text == "" else _flat(entry.text or entry.value)
        return Text(label, style="name"), Text.assemble((f"{_flat(spot)} ⇒ ", "dim"), new)
    return Text(label, style="name"), _shown(entry) if entry.value is None else Text(_flat(entry.value))


def _setting(entry: SettingEntry) -> str:
    """What a setting is, in words."""
    told = [f"{entry.default} {entry.unit}".strip()]
    told += [f"{entry.range[0]} to {entry.range[1]}"] if entry.range is not None else []
    told += [f"one of {', '.join(map(str, entry.choices))}"] if entry.choices else []
    told += [f"in {write.file}" for write in entry.write]
    return ", ".join(told)


def _plain(entry: Any) -> dict[str, Any]:
    """An entry without what goes without saying."""
    data = {key: value for key, value in msgspec.to_builtins(entry).items() if key != "name"}
    found: dict[str, Any] = _lean(data)
    return found


def _lean(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: lean for key, inner in value.items() if (lean := _lean(inner)) not in (None, "", [], (), {})}
    return [_lean(inner) for inner in value] if isinstance(value, list | tuple) else value


def _flat(body: object) -> str:
    return " ".join(body.split()) if isinstance(body, str) else json.dumps(body, ensure_ascii=False)


def _named(draft: Draft, table: str) -> RenderableType:
    rows = []
    for index, entry in enumerate(getattr(draft.sheet, table)):
        name = getattr(entry, "name", "")
        kind = getattr(entry, "kind", "")
        what = f"{entry.default} {entry.unit}".strip() if table == "setting" else kind
        into = getattr(entry, "into", "")
        rows.append(
            _marked(
                draft,
                table,
                index,
                Text(name or f"a free {kind}", style="name"),
                Text(f"{what}, into {into}" if into else what),
                Text(str(draft.reason(table, index).why), style="dim"),
            )
        )
    return columns(rows, indent=0, clip=True)


def _doubts(draft: Draft) -> list[str]:
    """What is unsure of each entry, in the order of the sheet."""
    found = []
    for (table, index), reason in sorted(draft.reasons.items(), key=lambda one: (one[0][0] != "files", one[0][1])):
        for doubt in reason.doubts:
            entry = getattr(draft.sheet, table)[index]
            name = next((said for key in ("seat", "file", "from_", "name") if (said := getattr(entry, key, ""))), "")
            found.append(f"{name} ({reason.why}): {doubt}")
    return found


def _last(draft: Draft, pack: Pack, written: Path | None) -> Text:
    told = []
    if draft.not_understood:
        told.append(f"{plural(len(draft.not_understood), 'line')} of the notes not understood")
    if draft.unsure:
        told.append(f"{plural(draft.unsure, 'entry', 'entries')} of it unsure, marked ?")
    if draft.findings:
        told.append(f"the check would tell {plural(len(draft.findings), 'new finding')}")
    if draft.stops:
        told.append(f"{plural(len(draft.stops), 'reason')} not to install it")
    unplaced = sum(not one.sure for one in draft.left)
    if unplaced:
        told.append(f"{plural(unplaced, 'file')} of which it is not known where it goes")
    unsure = ", ".join(told) or "nothing of it is unsure"
    if written is None:
        return Text(f"This is a draft: {unsure}.", style="dim")
    again = f", or decide step by step: hookset draft {as_argument(pack.source)} --walk" if told else ""
    return Text(
        f"Written to {written}: {unsure}. Look at it{again}; then: hookset install {as_argument(pack.source)}",
        style="dim",
    )
