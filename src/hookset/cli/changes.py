"""What all commands that change a map have in common: plan, ask, judge, refuse or write, tell."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import click
from msgspec import Struct

from hookset.applying import Disk, apply_changes, on_disk
from hookset.checks import ground_then, remember_facts, remember_verdict
from hookset.cli.busy import busy
from hookset.cli.run import Run, ledger_bytes, now
from hookset.model import RefusedError
from hookset.model.digits import natural_number
from hookset.model.visible import visible
from hookset.planning import (
    Choices,
    FileDiff,
    Outlook,
    Plan,
    Question,
    Stop,
    adapted_diffs,
    answered,
    conflicts,
    map_now,
    outlook,
    text_diffs,
)
from hookset.project import LEDGER, PROJECT_FILE, Ledger, MapProject, read_ledger
from hookset.reports.data import plan_data
from hookset.reports.text.errors import stops_text
from hookset.reports.text.plans import done_text, preview_text, question_text, separated_text
from hookset.reports.text.style import plural
from hookset.trees import sha256_of

__all__ = ["Task", "carry_out", "figure_option"]

Planner = Callable[[MapProject, Ledger, bytes | None, Choices, str], Plan]


_REASONS = 3
"""As many are told of why errors matter."""
_LEAVE = "-"
"""What leaves a question open."""


class Task(Struct, frozen=True, kw_only=True):
    """One change, as a command was asked for it."""

    action: str
    plan: Planner
    choices: Choices
    preview: bool
    as_json: bool
    anyway: bool = False
    judged: bool = True
    """Whether what would be missing afterwards stands in the way."""
    title: str = ""
    """For the history; without one, the action and the packs."""
    figure: Path | None = None
    """Where to draw the map before and after."""


class _Outcome(Struct, frozen=True):
    plan: Plan
    view: Outlook
    stops: tuple[Stop, ...]


def carry_out(run: Run, task: Task) -> int:
    """Do it, or show what it would do; gives the exit code."""
    if task.preview:
        project = run.project()
        outcome = _asked(run, project, task)
        diffs = _diffs(project, outcome.plan)
        _draw(project, task, outcome)
        if task.as_json:
            ok = not outcome.stops
            run.show_json(task.action, ok, plan_data(outcome.plan, outcome.view, outcome.stops, diffs, written=False))
        else:
            run.print(preview_text(project.file.map.name, outcome.plan, outcome.view, diffs))
            if outcome.stops:
                run.print(stops_text(outcome.stops))
            run.print("Nothing was written: this was a preview.")
        return 1 if outcome.stops or (task.judged and (outcome.view.unmet or outcome.view.broken)) else 0
    with run.changing() as project:
        outcome = _asked(run, project, task)
        plan, view = outcome.plan, outcome.view
        if outcome.stops:
            if task.as_json:
                run.show_json(
                    task.action, False, plan_data(plan, view, outcome.stops, _diffs(project, plan), written=False)
                )
            else:
                run.tell(stops_text(outcome.stops))
                run.tell("Nothing was written.")
            return 1
        if task.judged and not task.anyway:
            _refuse(view)
        _draw(project, task, outcome)
        if plan.separated and not task.as_json:
            run.tell(separated_text(plan.separated))
        if plan.all_changes:
            names = ", ".join(one.name for one in plan.packs)
            with busy("writing"):
                apply_changes(
                    project.root,
                    on_disk(project, plan.all_changes),
                    action=task.action,
                    title=task.title or f"{task.action} {names}",
                    time=now(),
                    disk=Disk(),
                )
            _remember(run, project, plan, view)
    if task.as_json:
        run.show_json(task.action, True, plan_data(plan, view, (), (), written=bool(plan.all_changes)))
    else:
        run.print(done_text(project.file.map.name, task.action, plan, view))
    return 0


def _remember(run: Run, project: MapProject, plan: Plan, view: Outlook) -> None:
    """The map is now what was judged: the next command need not read and judge it again."""
    cache = run.cache(project)
    own = {change.path: change.after for change in plan.own_changes}
    if cache is None or PROJECT_FILE in own:
        return
    written = own.get(LEDGER)
    ledger = ledger_bytes(project) if written is None else written.read()
    remember_facts(view.after, frozenset(change.path for change in plan.changes), cache)
    digests = {one.path: bytes.fromhex(sha256_of(one.after)) for one in plan.changes if one.after is not None}
    remember_verdict(ground_then(project, view.after.case.web.tree, ledger), cache, view.after, digests)


def _draw(project: MapProject, task: Task, outcome: _Outcome) -> None:
    if task.figure is not None and not outcome.stops:
        from hookset.cli.figures import save_before_after

        save_before_after(project, outcome.plan, outcome.view.fresh, task.figure)


figure_option = click.option(
    "--figure",
    type=click.Path(path_type=Path),
    help="Draw the map before and after into this file, .png or .svg.",
)


def _diffs(project: MapProject, plan: Plan) -> tuple[FileDiff, ...]:
    return (*text_diffs(project.tree, plan.changes), *adapted_diffs(plan))


def _asked(run: Run, project: MapProject, task: Task) -> _Outcome:
    """The plan, with whatever somebody at the terminal has answered."""
    ledger, data = read_ledger(project.root), ledger_bytes(project)
    choices, put = task.choices, set[tuple[str, ...]]()
    cache = run.cache(project)
    with busy("checking the map as it is"):
        before = map_now(project, ledger, cache)
    asking = not task.as_json and not task.preview and sys.stdin.isatty() and sys.stdout.isatty()
    while True:
        with busy(f"planning {task.action}"):
            plan = task.plan(project, ledger, data, choices, now())
        with busy("checking what the map would be like"):
            view = outlook(project, plan, before, cache)
        stops = plan.stops or (conflicts(plan, view) if not task.anyway else ())
        run.notes.add(f"planned {len(plan.changes)} changed files, {len(stops)} stops")
        questions = {one.key: one for one in (*(stop.question for stop in stops), *plan.questions) if one is not None}
        waiting = [one for key, one in questions.items() if key not in put]
        if not asking or not waiting:
            return _Outcome(plan, view, stops)
        # All that is open is asked before the map is judged again.
        for number, question in enumerate(waiting, 1):
            put.add(question.key)
            if number > 1:
                click.echo()
            stop = next((stop for stop in stops if stop.question is question), None)
            answer = _ask(run, question, stop, f"{number} of {len(waiting)}" if len(waiting) > 1 else "")
            if answer:
                choices = answered(choices, question.key, answer)
            elif stop is not None:
                return _Outcome(plan, view, stops)


def _ask(run: Run, question: Question, stop: Stop | None, which: str) -> str:
    """The answer of somebody at the terminal; empty for none. `which` says how many there are."""
    run.print(question_text(question, stop, which))
    known = [value for value, _ in question.options]
    words = f"nothing: {question.default}; -: leave it" if question.default else "nothing: leave it"
    while True:
        said: str = click.prompt(f"  answer ({words})", default=question.default, show_default=False).strip()
        if said == _LEAVE and _LEAVE not in known:
            return ""
        if not said or not known or said in known:
            return said
        if 0 < (natural_number(said) or 0) <= len(known):
            return known[int(said) - 1]
        click.echo(visible(f"  one of {', '.join(known)}"))


def _refuse(view: Outlook) -> None:
    if view.unmet:
        raise RefusedError(
            "need-not-met",
            "what the pack needs is not there",
            details=tuple(
                f"{state.need.kind} `{state.need.name}`: {state.by}"
                + (f"; {state.need.remedy}" if state.need.remedy else "")
                for state in view.unmet
            ),
            why="; ".join(dict.fromkeys(state.need.why for state in view.unmet if state.need.why))
            or "the pack would not work",
            remedy="add what is needed first, or go on all the same with --anyway; nothing was written",
        )
    if view.broken:
        raise RefusedError(
            "map-has-errors",
            f"the map would have {plural(len(view.broken), 'error')} that it has not now",
            details=tuple(f"{finding.spot}: {finding.message}" for finding in view.broken[:10]),
            why="; ".join(list(dict.fromkeys(finding.why for finding in view.broken))[:_REASONS]),
            remedy="--preview shows all of it; --anyway goes on all the same; nothing was written",
        )
