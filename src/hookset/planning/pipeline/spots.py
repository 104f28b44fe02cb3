"""Which spot of this map a hook means: a seat, a value, or what stands beside or in place of other text."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal

from hookset.config.layouts import Layout, Seat
from hookset.config.sheets import nearest
from hookset.edits import with_words
from hookset.packs.hooksheet import HookEntry, HookName
from hookset.planning.pipeline.request import HookRequest, Situation, shown
from hookset.planning.plan import HookState, HookStep, Stop
from hookset.project import LedgerAnchor
from hookset.trees import Glob, Tree

__all__ = ["no_file", "only_file", "request_of"]


def request_of(
    hook: HookEntry, situation: Situation, where: str, named: Mapping[str, HookRequest]
) -> HookRequest | HookStep | Stop:
    """What one hook of a sheet asks for; `named` are those above it that have a name."""
    layout, tree = situation.layout, situation.tree
    if hook.file:
        return _by_file(hook, tree, where, named)
    if hook.change:
        change = layout.changes.get(hook.change)
        if change is None:
            return _unknown(layout, "change", hook.change, layout.changes, where)
        what = f"the change `{change.name}` ({change.title})"
        path = only_path(change.file, hook.at, what, tree, where)
        if isinstance(path, Stop):
            return path
        try:
            ask = with_words(change.ask, hook.at)
        except KeyError as error:
            return Stop(
                "incomplete-hook",
                f"{what} goes by {{{error.args[0]}}}, which the hook does not say",
                where=where,
                why="there may be several such values, and the wrong one would be changed",
                remedy=f'say it with `at = {{ {error.args[0]} = "…" }}`',
            )
        record = {"value": hook.value}
        return HookRequest(seat="", title=change.title, path=path, text=None, record=record, ask=ask)
    seat = layout.seats.get(hook.seat)
    if seat is None:
        return _unknown(layout, "seat", hook.seat, layout.seats, where)
    path = only_file(seat, tree, where, hook.at)
    if isinstance(path, Stop):
        return path
    return HookRequest(seat=seat.name, title=seat.title, at=hook.at, path=path, text=hook.text, record=hook.record)


def _by_file(
    hook: HookEntry, tree: Tree, where: str, named: Mapping[str, HookRequest]
) -> HookRequest | HookStep | Stop:
    """An entry that goes by the file itself: a value, or text beside or in place of other text."""
    path = only_path(Glob(hook.file), {}, "the hook", tree, where)
    if isinstance(path, Stop):
        return path
    if hook.ask:
        said = ", ".join(str(value) if key == "at" else f"{key} {value}" for key, value in hook.ask.items())
        return HookRequest(
            seat="", title=f"the value at {said}", path=path, text=None, record={"value": hook.value}, ask=hook.ask
        )
    ways: tuple[tuple[Literal["before", "after", "instead"], str | HookName], ...] = (
        ("instead", hook.replaces),
        ("before", hook.before),
        ("after", hook.after),
    )
    way, by = next((way, by) for way, by in ways if by)
    other = named.get(by.hook) if isinstance(by, HookName) else None
    if isinstance(by, HookName) and other is None:
        note = f"it goes by the hook `{by.hook}`, which is left out in this map"
        return HookStep(seat="", title="", path=path, state=HookState.LEFT_OUT, shown=shown(hook.text, None), note=note)
    text = by if isinstance(by, str) else ""
    words = {"before": "above", "after": "below", "instead": "in place of"}[way]
    if way == "instead" and not hook.text:
        words = "taken out:"
    title = f"{words} `{shown(text, None)[:60]}`" if text else f"{words} what the hook above it has set"
    anchor = LedgerAnchor(text=text, way=way)
    beside = other.key if other is not None else ""
    return HookRequest(seat="", title=title, path=path, text=hook.text, record=None, anchor=anchor, beside=beside)


def _unknown(layout: Layout, what: str, name: str, known: Iterable[str], where: str) -> Stop:
    return Stop(
        "unknown-seat",
        f"the layout {layout.name} has no {what} called `{name}`{nearest(name, sorted(known))}",
        where=where,
        why="the entry would be set nowhere, and the pack would not work",
        remedy="correct the hook sheet",
    )


def only_file(seat: Seat, tree: Tree, where: str, at: Mapping[str, str] | None = None) -> str | Stop:
    """The one file that a seat is in, with what a hook gives for the words in its pattern."""
    return only_path(seat.file, at or {}, f"the seat `{seat.name}` ({seat.title})", tree, where)


def only_path(glob: Glob, at: Mapping[str, str], what: str, tree: Tree, where: str) -> str | Stop:
    """The one file that a pattern means, with what a hook gives for the words in it."""
    paths = []
    for path in tree.paths():
        match = glob.match(path)
        if match is not None and all(at.get(word, text) == text for word, text in match.words.items()):
            paths.append(path)
    if not paths:
        return no_file(what, glob, where)
    if len(paths) > 1:
        return Stop(
            "several-files",
            f"{what} is in one file, and {len(paths)} match {glob.pattern}",
            where=where,
            details=tuple(paths),
            why="the entry belongs into one of them only",
            remedy="say which: give the path of one file, or what a word of the pattern stands for with `at`",
        )
    return paths[0]


def no_file(what: str, glob: Glob, where: str) -> Stop:
    """The message that a map lacks the file of a seat or a change."""
    return Stop(
        "seat-missing",
        f"{what} is in {glob.pattern}, which this map does not contain",
        where=where,
        why="the entry would be set nowhere, and the pack would not work",
        remedy="add that file to the map, as the layout expects it",
    )
