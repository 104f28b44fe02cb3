"""What packs have set, and how it stands now."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.edits import EntryState
from hookset.planning import FileDiff
from hookset.reports.text.plans import diffs_text
from hookset.reports.text.style import blank, columns, heading, plural, sized, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.applying import Room
    from hookset.planning.queries.status import PackStatus

__all__ = ["status_text"]

_STYLE = {EntryState.AS_SET: "dim", EntryState.MOVED: "note", EntryState.CHANGED: "warning", EntryState.GONE: "error"}


def status_text(map_name: str, packs: tuple[PackStatus, ...], every: bool, room: Room) -> RenderableType:
    """Per pack: what is not as it was set, with what was changed; with `every`, the rest, too."""
    if not packs:
        return stacked(heading(map_name), Text("No packs are installed in this map.", style="dim"), _room(room))
    parts: list[RenderableType | None] = []
    for one in packs:
        parts += [_head(one), _rows(one, every), _diffs(one)]
    return stacked(heading(map_name, plural(len(packs), "pack")), blank(), *parts, _room(room))


def _room(room: Room) -> Text | None:
    """What going back costs."""
    if not room.changes:
        return None
    said = f"{plural(room.changes, 'change')} can be undone; that takes {sized(room.size)}"
    return Text(f"{said} (fewer: hookset undo --keep-last N)", style="dim")


def _head(one: PackStatus) -> Text:
    counts = [
        (plural(len(one.files), "file"), sum(f.standing is not EntryState.AS_SET for f in one.files)),
        (plural(len(one.hooks), "entry", "entries"), sum(h.standing is not EntryState.AS_SET for h in one.hooks)),
    ]
    text = Text(f"{one.pack.name} {one.pack.version}", style="title")
    if one.as_set:
        text.append(f"  as set: {', '.join(words for words, _ in counts)}", style="good")
        return text
    told = ", ".join(f"{words} ({other} not as set)" if other else words for words, other in counts)
    text.append(f"  {told}", style="warning")
    return text


def _rows(one: PackStatus, every: bool) -> RenderableType | None:
    rows = [
        (Text(f.standing.value, style=_STYLE[f.standing]), Text(f.path), Text(f.note, style="dim"))
        for f in one.files
        if every or f.standing is not EntryState.AS_SET
    ]
    rows += [
        (Text(h.standing.value, style=_STYLE[h.standing]), Text(h.hook.path), Text(h.hook.shown, style="dim"))
        for h in one.hooks
        if every or h.standing is not EntryState.AS_SET
    ]
    return columns(rows, clip=True) if rows else None


def _diffs(one: PackStatus) -> RenderableType | None:
    diffs = [FileDiff(f.path, f.diff) for f in one.files if f.diff]
    diffs += [FileDiff(h.hook.path, h.diff) for h in one.hooks if h.diff]
    text = diffs_text(diffs)
    return stacked(blank(), text) if text is not None else None
