"""How what packs have set stands now: as it was set, changed by hand, gone."""

from __future__ import annotations

from msgspec import Struct

from hookset.edits import EntryState, entry_state
from hookset.edits.find import found, lines_of
from hookset.edits.single import text_for
from hookset.model import CouldNotError
from hookset.planning.choices import Choices
from hookset.planning.diffs import diff_of
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import Ledger, LedgerFile, LedgerHook, LedgerPack, MapProject

__all__ = ["FileStatus", "HookStatus", "PackStatus", "pack_statuses"]


class FileStatus(Struct, frozen=True):
    """How a file of a pack differs from how it was installed."""

    path: str
    standing: EntryState
    diff: tuple[str, ...] = ()
    """From as it was set to now."""
    note: str = ""


class HookStatus(Struct, frozen=True):
    """How an entry of a pack differs from how it was set."""

    hook: LedgerHook
    standing: EntryState
    diff: tuple[str, ...] = ()


class PackStatus(Struct, frozen=True):
    """One pack, file by file and entry by entry."""

    pack: LedgerPack
    files: tuple[FileStatus, ...]
    hooks: tuple[HookStatus, ...]

    @property
    def as_set(self) -> bool:
        """Whether nothing of the pack has changed."""
        files, hooks = (one.standing for one in self.files), (one.standing for one in self.hooks)
        return all(standing is EntryState.AS_SET for standing in (*files, *hooks))


def pack_statuses(project: MapProject, ledger: Ledger, names: tuple[str, ...] = ()) -> tuple[PackStatus, ...]:
    """Those of the packs of these names; of all, where none is named."""
    state = plan_state_for(project, ledger, Choices(), "")
    return tuple(_of(state, pack) for pack in ledger.packs if not names or pack.name in names)


def _of(state: PlanState, pack: LedgerPack) -> PackStatus:
    return PackStatus(
        pack=pack,
        files=tuple(_file(state, file) for file in pack.files),
        hooks=tuple(_hook(state, hook) for hook in pack.hooks),
    )


def _file(state: PlanState, file: LedgerFile) -> FileStatus:
    now = state.sha(file.path)
    note = "yours, kept" if file.kept_mine else "fills a blank" if file.blank else ""
    if now is None:
        return FileStatus(file.path, EntryState.GONE, (), note)
    if now == file.sha256:
        return FileStatus(file.path, EntryState.AS_SET, (), note)
    was = state.kept_bytes(file.sha256)
    diff = diff_of(file.path, was, state.tree.read(file.path), "as set", "now") if was is not None else ()
    return FileStatus(file.path, EntryState.CHANGED, diff, note)


def _hook(state: PlanState, hook: LedgerHook) -> HookStatus:
    hooks = state.entries_in(hook.path)
    standing = entry_state(state.layout, state.tree, hook, hooks)
    if standing is not EntryState.CHANGED:
        return HookStatus(hook, standing)
    try:
        text = text_for(state.layout, state.tree, hook.path, hook)
    except CouldNotError:
        text = None
    diff: list[str] = []
    for edit in hook.edits if text is not None else ():
        span = found(text.string, edit, lines_of(hooks, hook)) if text is not None else None
        if text is not None and span is not None and span.standing is EntryState.CHANGED:
            now = text.string[span.start : span.end]
            diff += diff_of(hook.path, edit.new.strip("\r\n").encode(), now.strip("\r\n").encode(), "as set", "now")
    return HookStatus(hook, standing, tuple(diff))
