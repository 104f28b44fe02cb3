"""What a pack was given in a map, changed later: settings, claims, blanks. Written everywhere it lives."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from hookset.config.sheets import nearest
from hookset.model import WrongUseError
from hookset.planning.choices import Choices
from hookset.planning.filling import MapValues
from hookset.planning.naming.renames import follow
from hookset.planning.naming.rewriting import NameMap, rewrite_names
from hookset.planning.operations.refill import refill
from hookset.planning.operations.remove import installed_pack
from hookset.planning.pipeline.adapting import write_value
from hookset.planning.pipeline.decisions import blank_content, typed_setting
from hookset.planning.pipeline.entries import StagedEntries, put_entry, set_pending
from hookset.planning.pipeline.removal import remove_entries
from hookset.planning.pipeline.requests import manifest_rows
from hookset.planning.plan import FileState, FileStep, HookStep, PackPlan, Plan, Stop, ValueStep
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import Ledger, LedgerFile, LedgerHook, LedgerPack, LedgerSetting, LedgerSpot, MapProject
from hookset.trees import Inline, Overlay

__all__ = ["plan_tune"]


def plan_tune(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    name: str,
    values: Mapping[str, str],
    choices: Choices,
    now: str,
) -> Plan:
    """Give a pack other values, by the name of a setting or a blank, or by the kind of a claim.

    Raises WrongUseError for a name that means nothing, or a value that it cannot have.
    """
    state = plan_state_for(project, ledger, choices, now)
    pack = installed_pack(ledger, name)
    settings = {one.name: one for one in pack.settings}
    blanks = {one.name: one for one in pack.blanks}
    told: list[ValueStep] = []
    files: list[FileStep] = []
    hooks: list[HookStep] = []
    for key, value in values.items():
        if key in settings:
            typed = typed_setting(settings[key], value)
            _tune(state, name, settings[key], typed, files, hooks)
            unit = f" {settings[key].unit}" if settings[key].unit else ""
            told.append(ValueStep(f"setting: {key}", f"{typed}{unit}", f"was {settings[key].value}"))
        elif key in blanks:
            _fill(state, name, key, value, files, hooks)
            told.append(ValueStep(f"blank: {key}", value, f"was {blanks[key].filled or 'open'}"))
        elif key in pack.claims:
            _claim(state, name, key, value, files, hooks)
            told.append(ValueStep(f"claim: {key}", value, f"was {pack.claims[key]}"))
        else:
            known = sorted([*settings, *blanks, *pack.claims])
            raise WrongUseError(
                f"{name} has nothing called `{key}` that could be tuned{nearest(key, known)}",
                remedy=f"`hookset tune {name}` lists all there is",
            )
    state.packs.append(
        PackPlan(
            name=name,
            version=pack.version,
            before=pack.version,
            files=_together(files),
            hooks=tuple(hooks),
            values=tuple(told),
        )
    )
    return state.plan(ledger_bytes)


def _together(files: list[FileStep]) -> tuple[FileStep, ...]:
    """One step for each file, whatever of it is written."""
    last = {step.path: step for step in files}
    notes = {path: ", ".join(step.note for step in files if step.path == path) for path in last}
    return tuple(FileStep(path, step.state, step.size, notes[path]) for path, step in last.items())


def _own(state: PlanState, name: str) -> LedgerPack:
    return installed_pack(state.ledger, name)


def _tune(
    state: PlanState, name: str, setting: LedgerSetting, value: Any, files: list[FileStep], hooks: list[HookStep]
) -> None:
    for spot in setting.write:
        pack = _own(state, name)
        brought = next((file for file in pack.files if file.path == spot.file), None)
        if brought is not None:
            _write_own(state, pack, brought, spot, value, setting.name, files)
            continue
        hook = next((h for h in pack.hooks if h.path == spot.file and h.ask == spot.ask), None)
        if hook is not None and (hook.record or {}).get("value") != value:
            new = replace(hook, record={"value": value}, edits=())
            hooks += (step for _, step in remove_entries(state, spot.file, {hook.order: new}))
    changed = tuple(
        replace(one, value=value) if one.name == setting.name else one for one in _own(state, name).settings
    )
    state.ledger = state.ledger.with_pack(replace(_own(state, name), settings=changed))
    hooks += refill(state, name, frozenset({"setting"}))


def _write_own(
    state: PlanState,
    pack: LedgerPack,
    file: LedgerFile,
    spot: LedgerSpot,
    value: Any,
    setting: str,
    files: list[FileStep],
) -> None:
    """Into a file that the pack brought; what the builder has changed elsewhere in it stays, and stays known."""
    content = write_value(state, state.tree, spot, value)
    if isinstance(content, str):
        state.stops.append(
            Stop(
                f"the setting `{setting}` cannot be written into {spot.file}: {content}",
                where=pack.name,
                why="the value would not be what is shown",
                remedy="set it by hand there, or bring the file back to how the pack brought it",
            )
        )
        return
    if content is None:
        return
    as_set = file.sha256
    if state.sha(file.path) == file.sha256:
        as_set = state.keep(content)
    elif (base := state.kept_bytes(file.sha256)) is not None:
        written = write_value(state, Overlay(state.tree, {file.path: Inline(base)}), spot, value)
        as_set = state.keep(written) if written is not None and not isinstance(written, str) else as_set
    state.contents[file.path] = content
    kept = tuple(replace(one, sha256=as_set) if one.path == file.path else one for one in pack.files)
    state.ledger = state.ledger.with_pack(replace(pack, files=kept))
    files.append(FileStep(file.path, FileState.NEWER, content.size, setting))


def _fill(state: PlanState, name: str, key: str, value: str, files: list[FileStep], hooks: list[HookStep]) -> None:
    pack = _own(state, name)
    blank = next(one for one in pack.blanks if one.name == key)
    if blank.kind == "text":
        blanks = tuple(replace(one, filled=value) if one.name == key else one for one in pack.blanks)
        state.ledger = state.ledger.with_pack(replace(pack, blanks=blanks))
        hooks += refill(state, name, frozenset({"blank"}))
        return
    content = blank_content(blank, value, state.layout)
    path = next((file.path for file in pack.files if file.blank == key), blank.into)
    entry = next((file for file in pack.files if file.path == path), LedgerFile(path=path, sha256=""))
    if not entry.sha256 and state.tree.has(path):
        raise WrongUseError(
            f"{path} is there already, and {name} has not brought it",
            why="filling the blank would write over it",
            remedy="move the file away first",
        )
    state.contents[path] = content
    entry = replace(entry, sha256=state.keep(content), blank=key)
    given = value.replace("\\", "/").rpartition("/")[2]
    blanks = tuple(replace(one, filled=given) if one.name == key else one for one in pack.blanks)
    others = (file for file in pack.files if file.path != path)
    kept = tuple(sorted((*others, entry), key=lambda file: file.path))
    state.ledger = state.ledger.with_pack(replace(pack, files=kept, blanks=blanks))
    files.append(FileStep(path, FileState.NEW, content.size, f"fills {key}"))
    hooks += _listed(state, name, path)


def _listed(state: PlanState, name: str, path: str) -> list[HookStep]:
    """The manifest row of a file that is new."""
    done = StagedEntries()
    pack = _own(state, name)
    for row in manifest_rows(state.layout, state.tree, name, (path,)):
        if isinstance(row, Stop):
            state.stops.append(row)
        elif not any(hook.key == row.key for hook in pack.hooks):
            hook = LedgerHook(
                order=state.next_order(),
                seat=row.seat.name,
                path=row.path,
                key=row.key,
                text=row.text,
                record=row.record,
            )
            put_entry(state, name, hook, "", done)
    set_pending(state, done)
    state.ledger = state.ledger.with_pack(replace(pack, hooks=(*pack.hooks, *done.hooks)))
    return done.steps


def _claim(state: PlanState, name: str, kind: str, value: str, files: list[FileStep], hooks: list[HookStep]) -> None:
    pack = _own(state, name)
    old = pack.claims[kind]
    pool = state.layout.kinds[kind].entry.pool if kind in state.layout.kinds else ()
    taken = MapValues(state.layout, state.tree, state.stock).names(kind) - {old}
    free = [one for one in pool if one not in taken]
    if value not in free:
        raise WrongUseError(
            f"`{value}` is {'taken' if value in pool else f'no {kind}'}",
            why="two things on one of them get in each other's way",
            remedy=f"free are {', '.join(free)}",
        )
    names = NameMap.of(state.layout, {(kind, old, ""): value})
    for file in pack.files:
        result = rewrite_names(state.tree, state.layout, file.path, names) if state.tree.has(file.path) else None
        if result is not None and result.content is not None:
            files.append(FileStep(file.path, FileState.NEWER, result.content.size, f"{kind} {value}"))
            follow(state, file.path, result)
    state.ledger = state.ledger.with_pack(replace(_own(state, name), claims={**pack.claims, kind: value}))
    hooks += refill(state, name, frozenset({"claim"}), {old: value})
