"""An interrupted change: what it is, and what became of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.project import OUR_FOLDER
from hookset.reports.text.style import columns, heading, marked, plural, sized, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.applying import Interrupted, Recovery, Room

__all__ = ["forgotten_text", "interrupted_text", "recovery_text"]

_BECAME = {
    "finish": "It is now finished: the map is as it was meant.",
    "take back": "It is now taken back: the map is as before it.",
    "give up": "It is given up: every file stays as it is.",
}


def recovery_text(recovery: Recovery) -> RenderableType:
    """What became of an interrupted change, and which files somebody else had changed meanwhile."""
    lines = [Text(f"An earlier run was interrupted ({recovery.title}). {_BECAME[recovery.ending.value]}")]
    for path in recovery.edited:
        lines.append(marked(f"  `{path}` was edited since and is left as it is.", "warning"))
    if recovery.edited:
        lines.append(marked("  Look whether those files go with the rest: `hookset check` tells."))
    if recovery.aside:
        lines.append(marked(f"  What the change had in hand is kept in `{recovery.aside}`."))
    return stacked(*lines)


def interrupted_text(found: Interrupted) -> RenderableType:
    """What an interrupted change has done so far, and the ways to end it."""
    head = heading(f"Interrupted: {found.title}", "" if found.own else "not begun by you on this machine")
    if not found.begun:
        return stacked(head, Text("  No file of the map was touched yet; the next change clears it away."))
    groups = (
        (found.before, "as before it"),
        (found.after, "as it meant them"),
        (found.edited, "edited since, and left alone"),
    )
    own = [(path, words) for paths, words in groups for path in paths if not path.startswith(OUR_FOLDER)]
    rows = [(Text(path), Text(words, style="dim")) for path, words in own]
    ways = (
        ("hookset recover --finish", "write the rest of it"),
        ("hookset recover --take-back", "put back what was there before it"),
        ("hookset recover --give-up", "leave every file as it is, and keep what it had in hand aside"),
    )
    return stacked(
        head,
        Text(f"  {plural(len(rows), 'file')} of the map:"),
        columns(rows, indent=4),
        Text("  Ways to end it:"),
        columns([(Text(way, style="name"), Text(words)) for way, words in ways], indent=4),
    )


def forgotten_text(count: int, room: Room) -> RenderableType:
    """What a shorter history leaves."""
    left = f"{plural(room.changes, 'change')} can be undone; that takes {sized(room.size)}"
    return Text(f"{plural(count, 'change')} can no longer be undone. {left}.")
