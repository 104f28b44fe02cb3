"""Walking through the notes of a pack at a terminal: a step at a time, each with a decision."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import click
import msgspec
from msgspec import Struct
from rich.text import Text

from hookset.authoring.draft import (
    Decision,
    Draft,
    Mark,
    Site,
    Step,
    Walk,
    drafted,
    entry_text,
    read_decision,
    seats_of,
    steps_of,
    walk_text,
    with_mark,
)
from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.model import CouldNotError
from hookset.packs import Pack, walk_beside
from hookset.packs.hooksheet import EveryEntry, HookEntry, SettingEntry
from hookset.project import save_file
from hookset.reports.text.steps import check_text, idle_text, step_text

__all__ = ["walk_through"]

_SEATS = 9
_WORD = re.compile(r"\{(\w[\w-]*)\}")
_AT_ONCE = ("y", "n", "h")
"""What needs no second look."""


class _Way(Struct, frozen=True):
    """One thing that can be done with a step."""

    key: str
    label: str
    ask: Callable[[_Asked], Decision | None]
    """The decision; None where somebody thought better of it."""
    fits: Callable[[_Asked], bool] = lambda _: True


class _Asked(Struct, frozen=True):
    """What a decision is about."""

    run: Run
    site: Site
    pack: Pack
    walk: Walk
    draft: Draft
    step: Step

    def decision(self, **more: Any) -> Decision:
        """A decision about the step; the first of its lines is kept, so that it is found again."""
        said = self.step.lines[0].text if self.step.lines else ""
        return Decision(lines=self.step.name, said=said, **more)

    @property
    def hooks(self) -> tuple[HookEntry, ...]:
        """The entries that the step has."""
        return tuple(self.draft.sheet.hook[index] for table, index in self.step.entries if table == "hook")

    def instead(self, hooks: tuple[HookEntry, ...]) -> Decision:
        """The same entries but for the hooks."""
        tables: dict[str, list[Any]] = {}
        for table, index in self.step.entries:
            if table != "hook":
                tables.setdefault(table, []).append(getattr(self.draft.sheet, table)[index])
        return self.decision(do="instead", hook=hooks, **{table: tuple(ones) for table, ones in tables.items()})


def walk_through(run: Run, site: Site, pack: Pack, walk: Walk, file: Path | None = None) -> tuple[Draft, bool]:
    """Show the notes from top to bottom and ask at each step. Every decision is saved in `file` at once, so that the
    walk can be left and taken up again; without one, beside the pack. Gives the draft, and whether the end was
    reached."""
    file = file or walk_beside(pack.source)
    walk = msgspec.structs.replace(walk, sha256=pack.sha256)
    files = {
        one.seat.name: one.seat.file.pattern if one.variant else one.path
        for one in reversed(site.seat_files)
        if not one.blank
    }
    draft, before, told = _drafted(site, pack, walk), None, 0
    steps = steps_of(draft)
    number = _next(steps, 0)
    while number < len(steps):
        step = steps[number]
        if idle := [one for one in steps[told:number] if one.idle]:
            run.print(idle_text(idle))
        run.print(step_text(draft, step, f"step {number + 1} of {len(steps)}", files))
        run.print(check_text(draft, before))
        turn = _ask(_Asked(run, site, pack, walk, draft, step))
        told, wanted = number + 1, walk
        if turn.move is None:
            return draft, False
        if turn.move < 0:
            number = told = max((n for n in range(number) if not steps[n].idle), default=number)
            decision = steps[number].decision
            wanted = walk.without(decision.lines) if decision is not None else walk
        elif turn.decision is not None:
            wanted = walk.with_step(turn.decision)
        try:
            draft, before = (_drafted(site, pack, wanted), draft) if wanted is not walk else (draft, before)
        except CouldNotError as error:
            run.tell(Text(": ".join((error.what, *error.details)), style="warning"))
            continue
        if wanted is not walk:
            walk, steps = wanted, steps_of(draft)
            save_file(file, walk_text(walk).encode())
        number = _next(steps, number + 1) if turn.move > 0 else number
    run.print(check_text(draft, before))
    return draft, True


def _next(steps: Sequence[Step], number: int) -> int:
    """The first step from there on that is to be decided; how many there are if none is."""
    return next((n for n in range(number, len(steps)) if not (steps[n].idle or steps[n].decision)), len(steps))


def _drafted(site: Site, pack: Pack, walk: Walk) -> Draft:
    with busy("reading the notes"):
        return drafted(site, pack, walk)


class _Turn(Struct, frozen=True):
    """What somebody wants next."""

    move: int | None
    """Steps on: 1, 0 for the same once more, -1 for the one before; None for leaving."""
    decision: Decision | None = None


def _ask(asked: _Asked) -> _Turn:
    """What is to become of the step."""
    ways = {way.key: way for way in _WAYS if way.fits(asked)}
    nothing = asked.step.not_understood and not asked.step.entries and asked.step.decision is None
    asked.run.print(Text("  ".join((*(way.label for way in ways.values()), "[b]ack", "[q]uit")), style="dim"))
    said = click.prompt("", prompt_suffix="> ", default="n" if nothing else "y").strip().lower()[:1]
    if said == "q":
        return _Turn(None)
    if said == "b":
        return _Turn(-1)
    decided = asked.step.decision
    if said == "y" and decided is not None and decided.do in ("accept", "instead"):
        return _Turn(1)
    decision = ways[said].ask(asked) if said in ways else None
    # What was changed is shown once more.
    return _Turn(int(decision is not None and said in _AT_ONCE), decision)


def _other_seat(asked: _Asked) -> Decision | None:
    seats = seats_of(asked.site, asked.pack, asked.walk, [asked.step])[asked.step.name][:_SEATS]
    if not seats:
        asked.run.print(
            Text("at no seat of the layout this text can stand; [t] gives it another form", style="warning")
        )
        return None
    for number, name in enumerate(seats, 1):
        asked.run.print(
            Text.assemble((f"  {number}  ", "dim"), (name, "name"), f"  {asked.site.layout.seats[name].title}")
        )
    number = click.prompt("which", type=click.IntRange(1, len(seats)), default=1)
    seat = asked.site.layout.seats[seats[number - 1]]
    words = dict.fromkeys(_WORD.findall(f"{seat.file.pattern} {seat.put}"))
    at = {word: click.prompt(f"which {word}") for word in words if word != "variant"}
    return asked.decision(seat=seat.name, at=at)


def _other_text(asked: _Asked) -> Decision | None:
    text = click.edit(asked.step.text or "", extension=".txt")
    return asked.decision(text=text.rstrip("\n")) if text is not None and text.strip() else None


def _entries(asked: _Asked) -> Decision | None:
    """The entries as they would stand in the sheet, in an editor."""
    about = "\n".join(f"# {line.text}" for line in asked.step.lines)
    shown = "\n\n".join(
        entry_text(table, getattr(asked.draft.sheet, table)[index]) for table, index in asked.step.entries
    )
    text = f"{about}\n\n{shown}\n"
    while (edited := click.edit(text, extension=".toml")) is not None:
        try:
            said = asked.decision(do="instead")
            return read_decision(edited.encode(), said)
        except CouldNotError as error:
            asked.run.tell(Text("\n".join((error.what, *error.details)), style="warning"))
            if not click.confirm("Edit it again?", default=True):
                return None
            text = edited
    return None


def _mark(asked: _Asked) -> Decision | None:
    """A piece of an entry that is looked up, chosen, or left open; where the step has no entries, in all of them."""
    where = "which piece of it" if asked.hooks else "which word, in all that the notes show"
    text = click.prompt(where, default="", show_default=False)
    if not text:
        return None
    becomes = click.prompt("what it is ({next:…}, {lookup:…}, {map:…}, or a name for a setting)", default="setting")
    settings: tuple[SettingEntry, ...] = ()
    if not becomes.startswith("{"):
        settings = (SettingEntry(name=becomes, type="text", default=text),)
        becomes = f"{{setting:{becomes}}}"
    return with_mark(asked.step.decision or asked.decision(), Mark(text=text, becomes=becomes), settings)


def _for_all(asked: _Asked) -> Decision | None:
    """One hook for many: what its `at` names is a pattern."""
    hooks = asked.hooks
    index = asked.site.analysis.web
    key, name = next((key, value) for hook in hooks for key, value in hook.at.items())
    kinds = [one.kind for file in index.files for one in file.definitions if one.name == name]
    if not kinds:
        asked.run.print(Text(f"nothing in the map is called {name}", style="warning"))
        return None
    pattern = click.prompt(f"for every {asked.site.layout.kinds[kinds[0]].label} called", default=f"{name[:-1]}*")
    every = EveryEntry(kind=kinds[0], at=key, name=pattern)
    return asked.instead(
        tuple(
            msgspec.structs.replace(hook, every=every, at={k: v for k, v in hook.at.items() if k != key})
            if key in hook.at
            else hook
            for hook in hooks
        )
    )


def _replaces(asked: _Asked) -> Decision | None:
    """The text in place of one that stands in the file."""
    files = {one.seat.name: one.path for one in asked.site.seat_files}
    hook = asked.hooks[0] if asked.hooks else None
    text = (hook.text if hook is not None else None) or asked.step.text
    file = click.prompt("in which file", default=files.get(hook.seat, "") if hook is not None else "")
    old = click.prompt("what stands there now", default="", show_default=False)
    if not file or not old:
        return None
    return asked.instead((*asked.hooks[1:], HookEntry(file=file, replaces=old, text=text)))


def _has_text(asked: _Asked) -> bool:
    return bool(asked.step.text)


def _has_hooks(asked: _Asked) -> bool:
    return bool(asked.hooks)


def _has_at(asked: _Asked) -> bool:
    return any(hook.at for hook in asked.hooks)


_WAYS = (
    _Way("y", "[y]es, like this", lambda asked: asked.decision()),
    _Way("s", "another [s]eat", _other_seat, _has_text),
    _Way("t", "other [t]ext", _other_text, lambda asked: bool(asked.step.lines)),
    _Way("e", "its [e]ntries", _entries),
    _Way("m", "[m]ark a piece", _mark, lambda asked: _has_hooks(asked) or not asked.step.entries),
    _Way("a", "for [a]ll", _for_all, _has_at),
    _Way("r", "[r]eplaces", _replaces, lambda asked: _has_text(asked) or _has_hooks(asked)),
    _Way("n", "[n]ot wanted", lambda asked: asked.decision(do="leave")),
    _Way("h", "by [h]and", lambda asked: asked.decision(do="by-hand")),
)
