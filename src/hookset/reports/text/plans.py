"""A plan before it is carried out, and what was done when it was."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.core.install import FileDiff, FileState, HookState, Outlook, PackPlan, Plan, UndoPlan
from hookset.reports.text.findings import findings_text, summary
from hookset.reports.text.packs import needs_text
from hookset.reports.text.style import blank, columns, heading, plural, section, sized, stacked

if TYPE_CHECKING:
    from collections.abc import Iterable

    from rich.console import RenderableType

__all__ = ["diffs_text", "done_text", "preview_text", "undo_text"]

_STATE_STYLE = {
    FileState.NEW: "added",
    FileState.SAME: "dim",
    FileState.DIFFERENT: "error",
    FileState.KEPT: "warning",
    FileState.REPLACED: "warning",
    HookState.SET: "added",
    HookState.THERE: "dim",
    HookState.LEFT_OUT: "dim",
    HookState.STOPPED: "error",
}


def preview_text(map_name: str, plan: Plan, view: Outlook, diffs: Iterable[FileDiff]) -> RenderableType:
    """Everything that would happen."""
    parts: list[RenderableType | None] = []
    for one in plan.packs:
        sheet = one.pack.sheet
        if sheet is None:
            continue
        parts += [heading(f"{sheet.pack.name} {sheet.pack.version}", f"into {map_name}"), blank()]
        parts += [section("files", _files(one)), section("entries", _hooks(one))]
        if sheet.needs:
            parts.append(section("needs", needs_text(sheet, view.needs.get(one.pack.name))))
        parts.append(blank())
    parts += [diffs_text(diffs), section("afterwards", _afterwards(view))]
    return stacked(*parts)


def _files(plan: PackPlan) -> RenderableType:
    counts = {state: sum(file.state is state for file in plan.files) for state in FileState}
    first = Text(
        ", ".join(f"{counts[s]} {s.value}" for s in FileState if counts[s] or s.value in ("new", "same", "different"))
    )
    rows = [
        (
            Text(file.state.value, style=_STATE_STYLE[file.state]),
            Text(file.path),
            Text(sized(file.size), style="dim"),
        )
        for file in plan.files
    ]
    return stacked(first, columns(rows, indent=2))


def _hooks(plan: PackPlan) -> RenderableType:
    rows: list[tuple[Text, Text, Text]] = []
    for hook in plan.hooks:
        words = Text()
        words.append(f"({hook.note})  " if hook.note else "", style="warning")
        words.append(hook.shown, style="dim")
        rows.append((Text(hook.state.value, style=_STATE_STYLE[hook.state]), Text(hook.path or hook.seat), words))
    return columns(rows, indent=0, clip=True)


def diffs_text(diffs: Iterable[FileDiff]) -> Text | None:
    """Unified diffs, coloured as everywhere."""
    text = Text()
    for diff in diffs:
        for line in diff.lines:
            style = ""
            if line.startswith(("---", "+++")):
                style = "title"
            elif line.startswith("@@"):
                style = "hunk"
            elif line[:1] in "+-":
                style = "added" if line[0] == "+" else "removed"
            text.append(line + "\n", style=style)
        text.append("\n")
    return text if text else None


def _afterwards(view: Outlook) -> RenderableType:
    counts = view.after.counts
    references = Text(
        f"{counts.references:,} references: {counts.in_map:,} met in the map, {counts.in_stock:,} in the stock, "
        f"{counts.missing:,} missing, {counts.not_checkable:,} not checkable",
        style="dim",
    )
    if not view.fresh:
        told = len(view.before.findings)
        rest = f" ({plural(told, 'finding')} that this map has already)" if told else ""
        return stacked(Text(f"no finding that is not there now{rest}", style="good"), references)
    return stacked(summary(view.fresh), findings_text(view.fresh), references)


def done_text(map_name: str, plan: Plan, view: Outlook) -> RenderableType:
    """After an install: what was set, and what to look for in the game."""
    if not plan.all_changes:
        names = ", ".join(one.pack.name for one in plan.packs)
        return stacked(heading(f"{names}: all of it is there already; nothing was written"))
    parts: list[RenderableType | None] = []
    for one in plan.packs:
        sheet = one.pack.sheet
        if sheet is None:
            continue
        new = sum(file.state in (FileState.NEW, FileState.REPLACED) for file in one.files)
        entries = [hook for hook in one.hooks if hook.state is HookState.SET]
        edited = len({hook.path for hook in entries})
        parts.append(heading(f"{sheet.pack.name} {sheet.pack.version} is set into {map_name}"))
        parts.append(
            section(
                "written",
                Text(f"{plural(new, 'file')}, {plural(len(entries), 'entry', 'entries')} in {plural(edited, 'file')}"),
            )
        )
        notes = list(dict.fromkeys(hook.note for hook in one.hooks if hook.note and hook.state is HookState.SET))
        if notes:
            parts.append(section("mind", Text("\n".join(notes), style="warning")))
        if sheet.pack.look_for:
            parts.append(section("look for", Text("\n".join(sheet.pack.look_for))))
    parts.append(section("check", _afterwards(view)))
    parts.append(section("back", Text("hookset undo", style="name")))
    return stacked(*parts)


def undo_text(plan: UndoPlan, *, written: bool, redo: bool) -> RenderableType:
    """What was, or would be, taken back."""
    rows = []
    for step in plan.entry.steps:
        word = "taken out" if step.before is None else "put back"
        rows.append((Text(word, style="dim"), Text(step.path)))
    verb = ("Taken back" if redo else "Undone") if written else f"Would be {'taken back' if redo else 'undone'}"
    return stacked(heading(f"{verb}: {plan.entry.title}", plan.entry.time), columns(rows))
