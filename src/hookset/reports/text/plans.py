"""A plan before it is carried out, and what was done when it was."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.planning import FileDiff, FileState, HookState, Outlook, PackPlan, Plan, Question, Stop, UndoPlan
from hookset.project import is_ours
from hookset.reports.text.errors import stops_text
from hookset.reports.text.findings import findings_text, summary
from hookset.reports.text.packs import excludes_text, needs_text
from hookset.reports.text.style import blank, columns, heading, marked, plural, section, sized, stacked

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from rich.console import RenderableType

    from hookset.project import RealPlace

__all__ = ["diffs_text", "done_text", "preview_text", "question_text", "separated_text", "undo_text"]

_STATE_STYLE = {
    FileState.NEW: "added",
    FileState.SAME: "dim",
    FileState.DIFFERENT: "error",
    FileState.KEPT: "warning",
    FileState.REPLACED: "warning",
    FileState.BOTH: "added",
    FileState.NEWER: "added",
    FileState.MERGED: "warning",
    FileState.BY_HAND: "warning",
    FileState.OUT: "removed",
    FileState.STAYS: "dim",
    FileState.BACK: "added",
    FileState.GONE: "dim",
    HookState.SET: "added",
    HookState.THERE: "dim",
    HookState.LEFT_OUT: "dim",
    HookState.STOPPED: "error",
    HookState.REPLACED: "added",
    HookState.OUT: "removed",
    HookState.STAYS: "dim",
    HookState.BY_HAND: "warning",
    HookState.GONE: "dim",
}


def preview_text(map_name: str, plan: Plan, view: Outlook, diffs: Iterable[FileDiff]) -> RenderableType:
    """Everything that would happen."""
    parts: list[RenderableType | None] = []
    for one in plan.packs:
        parts += [_head(one, map_name), blank()]
        if one.files:
            parts.append(section("files", _files(one)))
        if one.hooks:
            parts.append(section("entries", _hooks(one)))
        if one.values:
            parts.append(section("values", _values(one)))
        if one.sheet is not None and one.sheet.needs:
            parts.append(section("needs", needs_text(one.sheet, view.needs.get(one.name))))
        if one.sheet is not None and one.sheet.excludes:
            parts.append(section("excludes", excludes_text(one.sheet, view.excluded.get(one.name, ()))))
        if one.notes:
            parts.append(section("mind", Text("\n".join(one.notes), style="warning")))
        parts.append(blank())
    parts.append(diffs_text(diffs))
    if plan.separated:
        parts.append(section("mind", separated_text(plan.separated)))
    if any(one.sheet is not None and one.before not in ("", one.version) for one in plan.packs):
        parts.append(_names(view))
    parts += [_open(plan), section("afterwards", _afterwards(view))]
    return stacked(*parts)


def _head(one: PackPlan, map_name: str) -> Text:
    if one.version and one.before and one.before != one.version:
        return heading(f"{one.name} {one.before} → {one.version}", f"in {map_name}")
    if one.version:
        return heading(f"{one.name} {one.version}", f"{'in' if one.before else 'into'} {map_name}")
    return heading(f"{one.name} {one.before}".strip(), f"out of {map_name}" if one.before else f"in {map_name}")


def _open(plan: Plan) -> RenderableType | None:
    """Places where nobody can follow a name."""
    if not plan.open:
        return None
    rows = [(Text(str(one.spot)), marked(one.why, "dim")) for one in plan.open[:12]]
    more = Text(f"and {len(plan.open) - 12} more", style="dim") if len(plan.open) > 12 else None
    return section("look at", stacked(columns(rows, indent=0), more))


def separated_text(places: Sequence[RealPlace]) -> RenderableType:
    """Files that lose their other names, or their owner, when they are written."""
    lines = []
    for place in places:
        if place.hard_links > 1:
            names = plural(place.hard_links - 1, "other name")
            lines.append(marked(f"`{place.path}` has {names} on this disk, which will keep the old bytes", "warning"))
        if place.owner is not None:
            lines.append(marked(f"`{place.path}` belongs to another user and will belong to you", "warning"))
    return stacked(*lines)


def _files(plan: PackPlan) -> RenderableType:
    counts = {state: sum(file.state is state for file in plan.files) for state in FileState}
    first = Text(", ".join(f"{counts[s]} {s.value}" for s in FileState if counts[s]))
    rows = [
        (
            Text(file.state.value, style=_STATE_STYLE[file.state]),
            Text(file.path),
            Text(f"{sized(file.size)}{f', {file.note}' if file.note else ''}", style="dim"),
        )
        for file in plan.files
    ]
    return stacked(first, columns(rows, indent=2))


def _hooks(plan: PackPlan) -> RenderableType:
    rows: list[tuple[Text, Text, Text]] = []
    for hook in plan.hooks:
        words = Text()
        words.append(f"({hook.note})  " if hook.note else "", style="warning" if hook.mind else "")
        words.append(hook.told, style="dim")
        rows.append((Text(hook.state.value, style=_STATE_STYLE[hook.state]), Text(hook.path or hook.seat), words))
    return columns(rows, indent=0, clip=True)


def _values(plan: PackPlan) -> RenderableType:
    rows = [(Text(one.what, style="name"), Text(one.value), Text(one.by, style="dim")) for one in plan.values]
    return columns(rows, indent=0)


def question_text(question: Question, stop: Stop | None, which: str) -> RenderableType:
    """What is asked at a terminal: why, what there is to choose from, and what it is about; of several, `which` one."""
    rows = [
        (Text(f"{number}"), Text(value, style="name"), Text(words, style="dim"))
        for number, (value, words) in enumerate(question.options, 1)
    ]
    return stacked(
        stops_text((stop,)) if stop is not None else None,
        diffs_text([FileDiff("", question.diff)]) if question.diff else None,
        heading(f"{which}: {question.text}" if which else question.text),
        columns(rows) if rows else None,
    )


_HEADER = 2
"""Lines of a diff that name its file."""


def diffs_text(diffs: Iterable[FileDiff]) -> Text | None:
    """Unified diffs, coloured as everywhere."""
    text = Text()
    for diff in diffs:
        for number, line in enumerate(diff.lines):
            style = ""
            if number < _HEADER:
                style = "title"
            elif line.startswith("@@"):
                style = "hunk"
            elif line[:1] in "+-":
                style = "added" if line[0] == "+" else "removed"
            text.append(line + "\n", style=style)
        text.append("\n")
    return text if text else None


def _names(view: Outlook) -> RenderableType | None:
    """How many names of each kind there were, and are; those that are gone."""
    rows: list[tuple[RenderableType, ...]] = []
    for one in view.names:
        more = f" and {len(one.gone) - _MOST_GONE} more" if len(one.gone) > _MOST_GONE else ""
        gone = f"gone: {', '.join(one.gone[:_MOST_GONE])}{more}" if one.gone else ""
        rows.append((one.label, f"{one.before:,} → {one.after:,}", Text(gone, style="warning")))
    return section("names", columns(rows, indent=0)) if rows else None


def _afterwards(view: Outlook) -> RenderableType:
    counts = view.after.counts
    references = Text(
        f"{counts.references:,} references: {counts.in_map:,} met in the map, {counts.in_stock:,} in the stock, "
        f"{counts.missing:,} missing, {counts.not_checkable:,} not checkable",
        style="dim",
    )
    if not view.fresh:
        told = len(view.after.findings)
        rest = f" ({plural(told, 'finding')} that this map has already)" if told else ""
        return stacked(Text(f"no new findings{rest}", style="good"), references)
    return stacked(summary(view.fresh), findings_text(view.fresh), references)


_MINDED = (HookState.SET, HookState.BY_HAND, HookState.LEFT_OUT)
_WORTH_A_NOTE = (FileState.MERGED, FileState.BY_HAND, FileState.STAYS, FileState.BACK)
_DONE = {
    "install": "is set into",
    "upgrade": "is now in",
    "remove": "is out of",
    "tune": "is tuned in",
    "place": "is placed once more in",
    "move": "is moved in",
    "take": "is out of",
    "swap": "is swapped in",
}
_PLACING = ("place", "move", "take", "swap")
_MOST_PLACED = 20
_MOST_GONE = 8


def done_text(map_name: str, action: str, plan: Plan, view: Outlook) -> RenderableType:
    """After a change: what was done, and what to look for in the game."""
    if not plan.all_changes:
        names = ", ".join(one.name for one in plan.packs)
        return stacked(heading(f"{names}: all of it is as wanted already; nothing was written"))
    parts: list[RenderableType | None] = []
    for one in plan.packs:
        what = f"{one.name} {one.before} is now {one.version}" if action == "rename" else ""
        called = f"{one.name} {one.version or one.before}".strip()
        done = f"{called} {_DONE.get(action, 'in')} {map_name}"
        parts.append(heading(what or done))
        if action in _PLACING:
            parts.append(_placed("stood" if action == "take" else "stands", one))
        parts.append(section("written", Text(_written(one))))
        open_blanks = [
            v.what.removeprefix("blank: ")
            for v in one.values
            if v.what.startswith("blank: ") and v.by == "to be filled"
        ]
        notes = [hook.note for hook in one.hooks if hook.mind and hook.state in _MINDED]
        notes += [f"{file.path}: {file.note}" for file in one.files if file.note and file.state in _WORTH_A_NOTE]
        notes += [f"{name} is still to be filled: hookset tune {one.name} {name}=…" for name in open_blanks]
        notes += one.notes
        if notes:
            parts.append(section("mind", Text("\n".join(dict.fromkeys(notes)), style="warning")))
        if one.sheet is not None and one.sheet.pack.look_for:
            parts.append(section("look for", Text("\n".join(one.sheet.pack.look_for))))
    if action == "upgrade":
        parts.append(_names(view))
    parts += [_open(plan), section("check", _afterwards(view))]
    parts.append(section("back", Text("hookset undo", style="name")))
    return stacked(*parts)


def _placed(title: str, one: PackPlan) -> RenderableType | None:
    """What came to stand where, or stood there."""
    rows = [
        (Text(f"{value.what} → {value.value}" if value.value else value.what, style="name"), Text(f"at {value.by}"))
        for value in one.values
    ]
    rows += [(Text(hook.shown, style="name"), Text(hook.note, style="dim")) for hook in one.hooks if not hook.seat]
    if not rows:
        return None
    more = [(Text(f"and {len(rows) - _MOST_PLACED:,} more", style="dim"), Text())] if len(rows) > _MOST_PLACED else []
    return section(title, columns([*rows[:_MOST_PLACED], *more], indent=0))


def _written(one: PackPlan) -> str:
    """How much was done, in words."""
    came = sum(f.state in (FileState.NEW, FileState.REPLACED, FileState.BOTH) for f in one.files)
    changed = sum(f.state in (FileState.NEWER, FileState.MERGED, FileState.BACK) for f in one.files)
    went = sum(f.state is FileState.OUT for f in one.files)
    done = [hook for hook in one.hooks if hook.state in (HookState.SET, HookState.REPLACED)]
    out = [hook for hook in one.hooks if hook.state in (HookState.OUT, HookState.BY_HAND)]
    words = [
        plural(came, "file") if came else "",
        f"{plural(changed, 'file')} changed" if changed else "",
        f"{plural(went, 'file')} taken out" if went else "",
        f"{plural(len(done), 'entry', 'entries')} in {plural(len({h.path for h in done}), 'file')}" if done else "",
        f"{plural(len(out), 'entry', 'entries')} taken out of {plural(len({h.path for h in out}), 'file')}"
        if out
        else "",
    ]
    return ", ".join(word for word in words if word) or "only the ledger"


def undo_text(plan: UndoPlan, *, written: bool, redo: bool) -> RenderableType:
    """What was, or would be, taken back."""
    rows = []
    for step in plan.entry.steps:
        word = "taken out" if step.before is None else "put back"
        if not is_ours(step.path):
            rows.append((Text(word, style="dim"), Text(step.path)))
    verb = ("Taken back" if redo else "Undone") if written else f"Would be {'taken back' if redo else 'undone'}"
    return stacked(heading(f"{verb}: {plan.entry.title}", plan.entry.time), columns(rows))
