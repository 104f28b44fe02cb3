"""The files that a pack brings, against those that are there and those that it brought before."""

from __future__ import annotations

import posixpath
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from msgspec.structs import replace

from hookset.edits import Merged, merged
from hookset.model import CouldNotError
from hookset.packs.control import control_reason
from hookset.planning.choices import Question
from hookset.planning.plan import FileState, FileStep, Stop
from hookset.planning.preview import diff_of
from hookset.planning.state import PlanState
from hookset.project import LedgerFile, LedgerPack
from hookset.trees import Content, Inline, Member, decode, sha256_of, spelled_otherwise

__all__ = ["StagedFile", "remove_file", "stage_files", "under_new_name"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StagedFile:
    """One file of a pack, as this map is to have it."""

    content: Content
    source: str
    """Its path in the pack."""
    blank: str = ""
    """The blank that the builder filled with it."""


def stage_files(
    state: PlanState, name: str, files: Mapping[str, StagedFile], earlier: LedgerPack | None
) -> tuple[list[FileStep], list[LedgerFile]]:
    """Add the files to the plan, unless something stops them. Returns (a step for each file, their ledger rows)."""
    steps: list[FileStep] = []
    entries: list[LedgerFile] = []
    was = {file.path: file for file in earlier.files} if earlier else {}
    if stop := _control_files(state, name, [path for path in files if path not in was]):
        state.stops.append(stop)
    there = set(state.tree.paths())
    folded = {path.casefold() for path in there}
    for path, file in files.items():
        if path not in was and path not in there and path.casefold() in folded:
            state.stops.append(_other_case(name, path, spelled_otherwise(path, there) or ""))
        step, entry = _again(state, name, path, file, was[path]) if path in was else _first(state, name, path, file)
        steps.append(step)
        entries += [entry] if entry is not None else []
    return steps, entries


def _control_files(state: PlanState, name: str, paths: Sequence[str]) -> Stop | None:
    """Files that other programs obey, or that the layout does not take for a part of the map."""
    if state.choices.control_files:
        return None
    told = []
    for path in paths:
        parts = path.split("/")
        ignored = any(state.layout.ignores("/".join(parts[:depth])) for depth in range(1, len(parts) + 1))
        if reason := control_reason(path) or ("ignored by the layout" if ignored else ""):
            told.append(f"{path}: {reason}")
    if not told:
        return None
    options = (("take", "install them all the same"),)
    return Stop(
        f"the pack brings files that are no part of a map: {len(told)}",
        where=name,
        details=(*told[:20], *((f"and {len(told) - 20} more",) if len(told) > 20 else ())),
        why="version control, editors, shells and file managers run or obey such files without asking",
        remedy="leave them out in the hook sheet; or, if you trust the pack: --control-files",
        question=Question(key=("control-files", ""), text="Have these files?", options=options),
    )


def _first(state: PlanState, name: str, path: str, file: StagedFile) -> tuple[FileStep, LedgerFile | None]:
    """A file that this pack has not brought before."""
    size = file.content.size
    tree = state.live
    if not tree.has(path):
        state.contents[path] = file.content
        sha = state.keep(file.content)
        return FileStep(path, FileState.NEW, size), LedgerFile(
            path=path, sha256=sha, source=file.source, blank=file.blank
        )
    here = Member(state.tree, path)
    if here.size == size and sha256_of(here) == sha256_of(file.content):
        entry = LedgerFile(path=path, sha256=sha256_of(here), source=file.source, was_there=True, blank=file.blank)
        return FileStep(path, FileState.SAME, size), entry
    other = _owner(state, path, name)
    choice = state.choices.of(name).files.get(path) or state.choices.other_bytes
    if choice == "mine":
        entry = LedgerFile(path=path, sha256=sha256_of(here), source=file.source, was_there=True, kept_mine=True)
        return FileStep(path, FileState.KEPT, size), entry
    if choice == "theirs" and not other:
        old = state.keep_whole(here)
        state.contents[path] = file.content
        sha = state.keep(file.content)
        return FileStep(path, FileState.REPLACED, size), LedgerFile(
            path=path, sha256=sha, source=file.source, instead_of=old
        )
    state.stops.append(_other_content(state, name, path, file.content, other))
    return FileStep(path, FileState.DIFFERENT, size), None


def _again(state: PlanState, name: str, path: str, file: StagedFile, was: LedgerFile) -> tuple[FileStep, LedgerFile]:
    """A file that an earlier version, or this one, installed."""
    size, new = file.content.size, sha256_of(file.content)
    now = state.sha(path)
    entry = LedgerFile(
        path=path,
        sha256=new,
        source=file.source,
        was_there=was.was_there,
        kept_mine=was.kept_mine,
        instead_of=was.instead_of,
        blank=file.blank,
    )
    if now == new:
        state.keep(file.content)
        return FileStep(path, FileState.SAME, size), entry
    if now is None or now == was.sha256:
        state.contents[path] = file.content
        state.keep(file.content)
        return FileStep(path, FileState.NEW if now is None else FileState.NEWER, size), entry
    if new == was.sha256 or was.kept_mine:
        kept = replace(was, source=file.source)
        return FileStep(path, FileState.BY_HAND, size, "stays as you made it"), kept
    result = _merged(state, was.sha256, path, file.content, "theirs" if state.choices.by_hand == "drop" else "mine")
    if result is None or (result[0].conflicts and state.choices.by_hand == "stop"):
        state.stops.append(_unmerged(state, name, path, file.content, result[0] if result else None))
        return FileStep(path, FileState.DIFFERENT, size), entry
    content = result[1]
    state.contents[path] = content
    state.keep(file.content)
    many = len(result[0].conflicts)
    side = "yours" if state.choices.by_hand == "keep" else "the pack's"
    note = f"your changes are carried over{f'; {many} that clash with its own: {side} taken' if many else ''}"
    return FileStep(path, FileState.MERGED, size, note), entry


def _merged(
    state: PlanState, was: str, path: str, new: Content, prefer: Literal["mine", "theirs"]
) -> tuple[Merged, Content] | None:
    """The builder's changes made in the new version; None for what is no text, or was not kept."""
    base = state.kept_bytes(was)
    if base is None:
        if state.choices.by_hand == "drop":
            return Merged("", ()), new
        if state.choices.by_hand == "keep":
            return Merged("", ()), Member(state.tree, path)
        return None
    rule = state.layout.text_rule(path)
    encodings = rule.encodings if rule else ("utf-8", "cp1252")
    try:
        old, mine, theirs = (decode(data, encodings) for data in (base, state.tree.read(path), new.read()))
    except CouldNotError:
        return None
    # Where the builder's editor has changed every line ending, that is no change of every line.
    plain = [text.string.replace("\r\n", "\n") for text in (old, mine, theirs)]
    result = merged(plain[0], plain[1], plain[2], prefer)
    string = result.text.replace("\n", "\r\n") if mine.newline == "\r\n" else result.text
    return result, Inline(mine.encode(string))


def _unmerged(state: PlanState, name: str, path: str, new: Content, result: Merged | None) -> Stop:
    details: list[str] = []
    for conflict in result.conflicts if result else ():
        details += (f"{path}:{conflict.line}: you have", *(f"    {line.rstrip()}" for line in conflict.mine))
        details += ("  the pack now has", *(f"    {line.rstrip()}" for line in conflict.theirs))
    return Stop(
        f"{path} was changed by you, and the new version changes the same lines"
        if result
        else f"{path} was changed by you, and the new version brings another one",
        where=name,
        details=tuple(details),
        why="one of the two changes would be lost",
        remedy="where they clash keep yours: --keep-changed; or the pack's: --drop-changed",
        question=Question(
            key=("by-hand", ""),
            text="Where your changes clash with the pack's",
            options=(("keep", "yours stay"), ("drop", "the pack's are taken")),
            diff=diff_of(path, state.tree.read(path), new.read(), "yours", "the new version"),
        ),
    )


def _owner(state: PlanState, path: str, but: str) -> str:
    return next((p.name for p in state.ledger.packs if p.name != but and any(f.path == path for f in p.files)), "")


def _other_content(state: PlanState, name: str, path: str, content: Content, other: str) -> Stop:
    options = (("mine", "keep the map's"), ("theirs", "take the pack's"), ("both", "both: the pack's under a new name"))
    why = f"{other} has brought it, and needs it as it is" if other else "writing over it would lose what is there"
    both = f"both, under a new name: --keep-both, or --beside {path}=NEW"
    remedy = f"keep the map's file: --keep-mine; take the pack's: --take-theirs; or {both}"
    return Stop(
        f"the map has {path} already, with other content",
        where=name,
        why=why,
        remedy=remedy if not other else f"keep the one that is there: --keep-mine; or {both}",
        question=Question(
            key=("file", name, path),
            text=f"Which {path} is the map to have?",
            options=tuple(option for option in options if not other or option[0] != "theirs"),
            diff=diff_of(path, state.tree.read(path), content.read() if content.size < 1 << 20 else b""),
        ),
    )


def _other_case(name: str, path: str, other: str) -> Stop:
    return Stop(
        f"the pack brings {path}, and the map has {other}",
        where=name,
        why="they differ in letter case only: on Windows they are one file",
        remedy="rename the map's file and what refers to it, or take it out",
    )


def under_new_name(path: str, name: str, there: set[str]) -> str:
    """A path beside another that nothing has yet."""
    stem, ext = posixpath.splitext(path)
    for number in range(1, 1000):
        other = f"{stem}_{name.replace('-', '_')}{'' if number == 1 else f'_{number}'}{ext}"
        if other not in there:
            return other
    raise AssertionError(path)


def remove_file(state: PlanState, name: str, file: LedgerFile) -> FileStep:
    """A file that a pack brought goes, unless somebody else has a right to it."""
    path, now = file.path, state.sha(file.path)
    size = state.live.size(path) if now is not None else 0
    if now is None:
        return FileStep(path, FileState.GONE)
    heir = _heir(state, name, path)
    if heir or file.was_there:
        return FileStep(path, FileState.STAYS, size, f"{heir} has it as well" if heir else "it was there before")
    if now != file.sha256 and state.choices.by_hand != "drop":
        if state.choices.by_hand == "keep":
            return FileStep(path, FileState.BY_HAND, size, "stays as you made it")
        was = state.kept_bytes(file.sha256) or b""
        state.stops.append(
            Stop(
                f"{path} was changed by you since {name} brought it",
                where=name,
                why="taking it out would lose what you changed",
                remedy="leave what you changed: --keep-changed; or take it out with the rest: --drop-changed",
                details=tuple(line for line in diff_of(path, was, state.tree.read(path), "as set", "now")[:12])
                if was
                else (),
                question=Question(
                    key=("by-hand", ""),
                    text="What you have changed since it was set",
                    options=(("keep", "stays in the map"), ("drop", "goes with the rest")),
                    diff=diff_of(path, was, state.tree.read(path), "as set", "now"),
                ),
            )
        )
        return FileStep(path, FileState.DIFFERENT, size)
    if file.instead_of:
        return _own_back(state, name, file, size)
    state.contents[path] = None
    return FileStep(path, FileState.OUT, size)


def _own_back(state: PlanState, name: str, file: LedgerFile, size: int) -> FileStep:
    """The map's own file, which the pack's was taken instead of."""
    old = state.kept_bytes(file.instead_of)
    if old is not None:
        state.contents[file.path] = Inline(old)
        return FileStep(file.path, FileState.BACK, len(old))
    if state.choices.by_hand != "drop":
        state.stops.append(
            Stop(
                f"the map's own {file.path} cannot be put back: what was kept of it is gone or was changed",
                where=name,
                why="the file that stands there now is the pack's, and without it there would be none",
                remedy="restore .hookset/kept from a copy of the map; or do without the file: --drop-changed",
            )
        )
        return FileStep(file.path, FileState.DIFFERENT, size)
    state.contents[file.path] = None
    return FileStep(file.path, FileState.OUT, size)


def _heir(state: PlanState, name: str, path: str) -> str:
    """Another pack that has the file, too: from now on it is that one's."""
    for pack in state.ledger.packs:
        if pack.name == name or not any(one.path == path for one in pack.files):
            continue
        own = state.ledger.pack(name)
        mine = next((one for one in own.files if one.path == path), None) if own else None
        if mine is not None and not mine.was_there:
            files = tuple(
                replace(one, was_there=False, instead_of=mine.instead_of) if one.path == path else one
                for one in pack.files
            )
            state.ledger = state.ledger.with_pack(replace(pack, files=files))
        return pack.name
    return ""
