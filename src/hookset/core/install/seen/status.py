"""How what packs have set stands now: as it was set, changed by hand, gone."""

from __future__ import annotations

from dataclasses import dataclass

from hookset.core.entries import Put, Standing, put, standing_of
from hookset.core.entries.finding import found, lines_of
from hookset.core.formats import Unreadable, format_named, text_of
from hookset.core.install.planned.choices import Choices
from hookset.core.install.planned.desk import Desk, desk_for
from hookset.core.install.planned.preview import diff_of
from hookset.core.model import CouldNotError
from hookset.core.project import Ledger, LedgerFile, LedgerHook, LedgerPack, MapProject

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
    if not desk.tree.has(hook.path):
        return HookStanding(hook, Standing.GONE)
    place = desk.layout.seats.get(hook.seat) if hook.ask is None else desk.layout.text_rule(hook.path)
    if place is None:
        return HookStanding(hook, Standing.AS_SET)
    try:
        string = text_of(format_named(place.format), desk.tree.read(hook.path), place.encodings).string
        if not hook.edits:
            lacking = isinstance(put(desk.layout, desk.tree, hook), Put)
            return HookStanding(hook, Standing.GONE if lacking else Standing.AS_SET)
    except (CouldNotError, Unreadable):
        return HookStanding(hook, Standing.CHANGED)
    hooks = desk.entries_in(hook.path)
    standing = standing_of(string, hook, hooks)
    diff: list[str] = []
    for edit in hook.edits if standing is Standing.CHANGED else ():
        span = found(string, edit, lines_of(hooks, hook))
        if span.standing is Standing.CHANGED:
            now = string[span.start : span.end]
            diff += diff_of(hook.path, edit.new.strip("\r\n").encode(), now.strip("\r\n").encode(), "as set", "now")
    return HookStanding(hook, standing, tuple(diff))
