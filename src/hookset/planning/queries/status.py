"""How what packs have set stands now: as it was set, changed by hand, gone."""

from __future__ import annotations

from dataclasses import dataclass

from hookset.edits import Standing, how_it_stands
from hookset.edits.find import found, lines_of
from hookset.edits.single import text_for
from hookset.model import CouldNotError
from hookset.planning.choices import Choices
from hookset.planning.preview import diff_of
from hookset.planning.state import Desk, desk_for
from hookset.project import Ledger, LedgerFile, LedgerHook, LedgerPack, MapProject

__all__ = ["FileStanding", "HookStanding", "PackStanding", "standings"]


@dataclass(frozen=True, slots=True)
class FileStanding:
    path: str
    standing: Standing
    diff: tuple[str, ...] = ()
    """From as it was set to now."""
    note: str = ""


@dataclass(frozen=True, slots=True)
class HookStanding:
    hook: LedgerHook
    standing: Standing
    diff: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class PackStanding:
    """One pack, file by file and entry by entry."""

    pack: LedgerPack
    files: tuple[FileStanding, ...]
    hooks: tuple[HookStanding, ...]

    @property
    def as_set(self) -> bool:
        files, hooks = (one.standing for one in self.files), (one.standing for one in self.hooks)
        return all(standing is Standing.AS_SET for standing in (*files, *hooks))


def standings(project: MapProject, ledger: Ledger, names: tuple[str, ...] = ()) -> tuple[PackStanding, ...]:
    """Those of the packs of these names; of all, where none is named."""
    desk = desk_for(project, ledger, Choices(), "")
    return tuple(_of(desk, pack) for pack in ledger.packs if not names or pack.name in names)


def _of(desk: Desk, pack: LedgerPack) -> PackStanding:
    return PackStanding(
        pack=pack,
        files=tuple(_file(desk, file) for file in pack.files),
        hooks=tuple(_hook(desk, hook) for hook in pack.hooks),
    )


def _file(desk: Desk, file: LedgerFile) -> FileStanding:
    now = desk.sha(file.path)
    note = "yours, kept" if file.kept_mine else "fills a blank" if file.blank else ""
    if now is None:
        return FileStanding(file.path, Standing.GONE, (), note)
    if now == file.sha256:
        return FileStanding(file.path, Standing.AS_SET, (), note)
    was = desk.kept_bytes(file.sha256)
    diff = diff_of(file.path, was, desk.tree.read(file.path), "as set", "now") if was is not None else ()
    return FileStanding(file.path, Standing.CHANGED, diff, note)


def _hook(desk: Desk, hook: LedgerHook) -> HookStanding:
    hooks = desk.entries_in(hook.path)
    standing = how_it_stands(desk.layout, desk.tree, hook, hooks)
    if standing is not Standing.CHANGED:
        return HookStanding(hook, standing)
    try:
        text = text_for(desk.layout, desk.tree, hook.path, hook)
    except CouldNotError:
        text = None
    diff: list[str] = []
    for edit in hook.edits if text is not None else ():
        span = found(text.string, edit, lines_of(hooks, hook)) if text is not None else None
        if text is not None and span is not None and span.standing is Standing.CHANGED:
            now = text.string[span.start : span.end]
            diff += diff_of(hook.path, edit.new.strip("\r\n").encode(), now.strip("\r\n").encode(), "as set", "now")
    return HookStanding(hook, standing, tuple(diff))
