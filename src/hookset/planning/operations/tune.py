"""What a pack was given in a map, changed later: settings, claims, blanks. Written everywhere it lives."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace
from msgspec.structs import replace as with_fields

from hookset.config.sheets import nearest
from hookset.model import RefusedError, WrongUseError
from hookset.model.visible import as_argument
from hookset.planning.choices import Choices
from hookset.planning.filling import MapValues
from hookset.planning.naming.renames import with_rewritten
from hookset.planning.naming.rewriting import NameMap, rewrite_names
from hookset.planning.operations.refill import refill
from hookset.planning.operations.remove import installed_pack
from hookset.planning.pipeline.adapting import write_value
from hookset.planning.pipeline.decisions import blank_content, typed_setting
from hookset.planning.pipeline.entries import StagedEntries, put_entry, set_pending
from hookset.planning.pipeline.removal import remove_entries
from hookset.planning.pipeline.requests import manifest_rows
from hookset.planning.plan import FileState, FileStep, HookStep, PackPlan, Plan, Stop, ValueStep
from hookset.planning.state import PlanState, as_set, plan_state_for
from hookset.project import Ledger, LedgerFile, LedgerHook, LedgerPack, LedgerSetting, LedgerSpot, MapProject
from hookset.trees import Content, Inline, Overlay, sha256_of

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
    done = _Tuned(state)
    for key, value in values.items():
        if key in settings and settings[key].decides:
            raise RefusedError(
                "not-tunable",
                f"`{key}` decides which files or entries of {name} there are",
                where=name,
                why="only the pack itself has the others",
                remedy=f"install it again, from where you have it: hookset install {as_argument(pack.source)} "
                f"--set {key}={value}",
            )
        if key in settings:
            typed = typed_setting(settings[key], value)
            done = _with_setting(done, name, settings[key], typed)
            unit = f" {settings[key].unit}" if settings[key].unit else ""
            done = done.told(f"setting: {key}", f"{typed}{unit}", f"was {settings[key].value}")
        elif key in blanks:
            done = _with_blank(done, name, key, value)
            done = done.told(f"blank: {key}", value, f"was {blanks[key].filled or 'open'}")
        elif key in pack.claims:
            done = _with_claim(done, name, key, value).told(f"claim: {key}", value, f"was {pack.claims[key]}")
        else:
            known = sorted([*settings, *blanks, *pack.claims])
            raise WrongUseError(
                "unknown-name",
                f"{name} has nothing called `{key}` that could be tuned{nearest(key, known)}",
                remedy=f"`hookset tune {name}` lists all there is",
            )
    step = PackPlan(
        name=name,
        version=pack.version,
        before=pack.version,
        files=_together(done.files),
        hooks=done.hooks,
        values=done.values,
    )
    return done.state.with_plan_of(step).plan(ledger_bytes)


class _Tuned(Struct, frozen=True):
    """What has been written so far."""

    state: PlanState
    files: tuple[FileStep, ...] = ()
    hooks: tuple[HookStep, ...] = ()
    values: tuple[ValueStep, ...] = ()

    def told(self, name: str, value: str, by: str) -> _Tuned:
        return with_fields(self, values=(*self.values, ValueStep(name, value, by)))

    def then(self, state: PlanState, files: Iterable[FileStep] = (), hooks: Iterable[HookStep] = ()) -> _Tuned:
        return with_fields(self, state=state, files=(*self.files, *files), hooks=(*self.hooks, *hooks))

    def refilled(self, name: str, word: str, renamed: Mapping[str, str] | None = None) -> _Tuned:
        """The pack's entries in which the values of a word of placeholders stand, filled again."""
        state, hooks = refill(self.state, name, frozenset({word}), renamed or {})
        return self.then(state, hooks=hooks)


def _together(files: Sequence[FileStep]) -> tuple[FileStep, ...]:
    """One step for each file, whatever of it is written."""
    last = {step.path: step for step in files}
    notes = {path: ", ".join(step.note for step in files if step.path == path) for path in last}
    return tuple(FileStep(path, step.state, step.size, notes[path]) for path, step in last.items())


def _own(state: PlanState, name: str) -> LedgerPack:
    return installed_pack(state.ledger, name)


def _with_setting(done: _Tuned, name: str, setting: LedgerSetting, value: Any) -> _Tuned:
    for spot in setting.write:
        pack = _own(done.state, name)
        brought = next((file for file in pack.files if file.path == spot.file), None)
        if brought is not None:
            done = _with_value(done, pack, brought, spot, value, setting.name)
            continue
        hook = next((h for h in pack.hooks if h.path == spot.file and h.ask == spot.ask), None)
        if hook is not None and (hook.record or {}).get("value") != value:
            new = replace(hook, record={"value": value}, edits=())
            state, steps = remove_entries(done.state, spot.file, {hook.order: new})
            done = done.then(state, hooks=steps.values())
    pack = _own(done.state, name)
    changed = tuple(replace(one, value=value) if one.name == setting.name else one for one in pack.settings)
    return done.then(done.state.with_row(replace(pack, settings=changed))).refilled(name, "setting")


def _with_value(done: _Tuned, pack: LedgerPack, file: LedgerFile, spot: LedgerSpot, value: Any, setting: str) -> _Tuned:
    """Into a file that the pack brought; what the builder has changed elsewhere in it stays, and stays known."""
    state = done.state
    content = write_value(state.layout, state.tree, spot, value)
    if isinstance(content, str):
        stop = Stop(
            "not-settable",
            f"the setting `{setting}` cannot be written into {spot.file}: {content}",
            where=pack.name,
            why="the value would not be what is shown",
            remedy="set it by hand there, or bring the file back to how the pack brought it",
        )
        return done.then(state.with_stops([stop]))
    if content is None:
        return done
    known: Content | None = None
    if state.sha(file.path) == file.sha256:
        known = content
    elif (base := state.kept_bytes(file.sha256)) is not None:
        written = write_value(state.layout, Overlay(state.tree, {file.path: Inline(base)}), spot, value)
        known = None if isinstance(written, str) else written
    sha = file.sha256 if known is None else sha256_of(known)
    files = tuple(replace(one, sha256=sha) if one.path == file.path else one for one in pack.files)
    state = state.with_contents({file.path: content}).with_kept({} if known is None else as_set(known))
    step = FileStep(file.path, FileState.NEWER, content.size, setting)
    return done.then(state.with_row(replace(pack, files=files)), [step])


def _with_blank(done: _Tuned, name: str, key: str, value: str) -> _Tuned:
    state = done.state
    pack = _own(state, name)
    blank = next(one for one in pack.blanks if one.name == key)
    if blank.kind == "text":
        blanks = tuple(replace(one, filled=value) if one.name == key else one for one in pack.blanks)
        return done.then(state.with_row(replace(pack, blanks=blanks))).refilled(name, "blank")
    content = blank_content(blank, value, state.layout)
    path = next((file.path for file in pack.files if file.blank == key), blank.into)
    row = next((file for file in pack.files if file.path == path), LedgerFile(path=path, sha256=""))
    if not row.sha256 and state.tree.has(path):
        raise WrongUseError(
            "file-exists",
            f"{path} is there already, and {name} has not brought it",
            why="filling the blank would write over it",
            remedy="move the file away first",
        )
    row = replace(row, sha256=sha256_of(content), blank=key)
    given = value.replace("\\", "/").rpartition("/")[2]
    blanks = tuple(replace(one, filled=given) if one.name == key else one for one in pack.blanks)
    others = (file for file in pack.files if file.path != path)
    files = tuple(sorted((*others, row), key=lambda file: file.path))
    state = state.with_contents({path: content}).with_kept(as_set(content))
    state = state.with_row(replace(pack, files=files, blanks=blanks))
    step = FileStep(path, FileState.NEW, content.size, f"fills {key}")
    return _with_manifest_row(done.then(state, [step]), name, path)


def _with_manifest_row(done: _Tuned, name: str, path: str) -> _Tuned:
    """The manifest row of a file that is new."""
    entries = StagedEntries(done.state)
    pack = _own(done.state, name)
    for row in manifest_rows(done.state.layout, done.state.tree, name, (path,)):
        if isinstance(row, Stop):
            entries = entries.with_stop(row)
        elif not any(hook.key == row.key for hook in pack.hooks):
            hook = LedgerHook(
                order=entries.state.order,
                seat=row.seat,
                path=row.path,
                key=row.key,
                text=row.text,
                record=row.record,
            )
            entries = with_fields(entries, state=entries.state.with_next_order())
            entries, _ = put_entry(entries, name, hook, "")
    entries = set_pending(entries)
    state = entries.state.with_row(replace(pack, hooks=(*pack.hooks, *entries.hooks)))
    return done.then(state, hooks=entries.steps)


def _with_claim(done: _Tuned, name: str, kind: str, value: str) -> _Tuned:
    state = done.state
    pack = _own(state, name)
    old = pack.claims[kind]
    pool = state.layout.kinds[kind].entry.pool if kind in state.layout.kinds else ()
    taken = MapValues(state.layout, state.tree, state.stock).names(kind) - {old}
    free = [one for one in pool if one not in taken]
    if value not in free:
        raise WrongUseError(
            "none-free",
            f"`{value}` is {'taken' if value in pool else f'no {kind}'}",
            why="two things on one of them get in each other's way",
            remedy=f"free are {', '.join(free)}",
        )
    names = NameMap.of(state.layout, {(kind, old, ""): value})
    steps = []
    for file in pack.files:
        result = rewrite_names(state.tree, state.layout, file.path, names) if state.tree.has(file.path) else None
        if result is not None and result.content is not None:
            steps.append(FileStep(file.path, FileState.NEWER, result.content.size, f"{kind} {value}"))
            state = with_rewritten(state, file.path, result)
    state = state.with_row(replace(_own(state, name), claims={**pack.claims, kind: value}))
    return done.then(state, steps).refilled(name, "claim", {old: value})
