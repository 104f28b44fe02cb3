"""The files that a pack brings, against those that are there and those that it brought before."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Mapping, Sequence
from typing import Literal

from msgspec import Struct, field
from msgspec.structs import replace

from hookset.edits import Merged, merged
from hookset.model import CouldNotError
from hookset.packs.control import control_reason
from hookset.planning.choices import Question
from hookset.planning.diffs import diff_of
from hookset.planning.plan import FileState, FileStep, Stop
from hookset.planning.state import PlanState, as_set
from hookset.project import LedgerFile, LedgerPack
from hookset.trees import Content, Inline, Member, decode, sha256_of, spelled_otherwise

__all__ = ["FileOutcome", "StagedFile", "remove_files", "stage_files", "under_new_name"]


class StagedFile(Struct, frozen=True, kw_only=True):
    """One file of a pack, as this map is to have it."""

    content: Content
    source: str
    """Its path in the pack."""
    blank: str = ""
    """The blank that the builder filled with it."""
    keep_mine: bool = False
    """It is for maps that have none of that name."""


class FileOutcome(Struct, frozen=True, kw_only=True):
    """What becomes of one file of a pack."""

    step: FileStep
    row: LedgerFile | None = None
    """In the ledger."""
    contents: Mapping[str, Content | None] = field(default_factory=dict)
    kept: Mapping[str, Content] = field(default_factory=dict)
    stop: Stop | None = None


def stage_files(
    state: PlanState, name: str, files: Mapping[str, StagedFile], earlier: LedgerPack | None
) -> tuple[PlanState, tuple[FileStep, ...], tuple[LedgerFile, ...]]:
    """Add a pack's files to the plan, and take out those that it no longer brings, unless something stops that.
    Returns also (a step for each file, their ledger rows)."""
    was = {file.path: file for file in earlier.files} if earlier else {}
    stops: list[Stop] = []
    if stop := _control_files(state, name, [path for path in files if path not in was]):
        stops.append(stop)
    there = set(state.tree.paths())
    folded = {path.casefold() for path in there}
    outcomes: list[FileOutcome] = []
    for path, file in files.items():
        if path not in was and path not in there and path.casefold() in folded:
            stops.append(_other_case(name, path, spelled_otherwise(path, there) or ""))
        one = _again(state, name, path, file, was[path]) if path in was else _first(state, name, path, file)
        stops += [one.stop] if one.stop is not None else []
        outcomes.append(one)
    state = _with_outcomes(state.with_stops(stops), outcomes)
    state, gone = remove_files(state, name, [file for path, file in was.items() if path not in files])
    rows = tuple(one.row for one in outcomes if one.row is not None)
    return state, (*(one.step for one in outcomes), *gone), rows


def remove_files(state: PlanState, name: str, files: Iterable[LedgerFile]) -> tuple[PlanState, tuple[FileStep, ...]]:
    """Take out what a pack brought, unless somebody else has a right to it. Returns also a step for each file."""
    outcomes = []
    for file in files:
        heir = _heir(state, name, file.path) if state.tree.has(file.path) else None
        if heir is not None and not file.was_there:
            state = state.with_row(_inherited(heir, file))
        outcomes.append(_removed(state, name, file, heir))
    state = _with_outcomes(state.with_stops(one.stop for one in outcomes if one.stop is not None), outcomes)
    return state, tuple(one.step for one in outcomes)


def _with_outcomes(state: PlanState, outcomes: Iterable[FileOutcome]) -> PlanState:
    contents: dict[str, Content | None] = {}
    kept: dict[str, Content] = {}
    for one in outcomes:
        contents |= one.contents
        kept |= one.kept
    return state.with_contents(contents).with_kept(kept)


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
        "path-outside-map",
        f"the pack brings files that are no part of a map: {len(told)}",
        where=name,
        details=(*told[:20], *((f"and {len(told) - 20} more",) if len(told) > 20 else ())),
        why="version control, editors, shells and file managers run or obey such files without asking",
        remedy="leave them out in the hook sheet; or, if you trust the pack: --control-files",
        question=Question(key=("control-files", ""), text="Have these files?", options=options),
    )


def _first(state: PlanState, name: str, path: str, file: StagedFile) -> FileOutcome:
    """A file that this pack has not brought before."""
    size = file.content.size
    row = LedgerFile(path=path, sha256=sha256_of(file.content), source=file.source, blank=file.blank)
    if not state.tree.has(path):
        step = FileStep(path, FileState.NEW, size)
        return FileOutcome(step=step, row=row, contents={path: file.content}, kept=as_set(file.content))
    here = Member(state.tree, path)
    if here.size == size and sha256_of(here) == row.sha256:
        return FileOutcome(step=FileStep(path, FileState.SAME, size), row=replace(row, was_there=True))
    other = _owner(state, path, name)
    choice = state.choices.of(name).files.get(path) or ("mine" if file.keep_mine else state.choices.other_bytes)
    if choice == "mine":
        row = LedgerFile(path=path, sha256=sha256_of(here), source=file.source, was_there=True, kept_mine=True)
        return FileOutcome(step=FileStep(path, FileState.KEPT, size), row=row)
    if choice == "theirs" and not other:
        old = sha256_of(here)
        return FileOutcome(
            step=FileStep(path, FileState.REPLACED, size),
            row=LedgerFile(path=path, sha256=row.sha256, source=file.source, instead_of=old),
            contents={path: file.content},
            # Whatever it is: it is the builder's, and would be lost.
            kept={old: here, **as_set(file.content)},
        )
    stop = _other_content(state, name, path, file.content, other)
    return FileOutcome(step=FileStep(path, FileState.DIFFERENT, size), stop=stop)


def _again(state: PlanState, name: str, path: str, file: StagedFile, was: LedgerFile) -> FileOutcome:
    """A file that an earlier version, or this one, installed."""
    size, new = file.content.size, sha256_of(file.content)
    now = state.sha(path)
    row = LedgerFile(
        path=path,
        sha256=new,
        source=file.source,
        was_there=was.was_there,
        kept_mine=was.kept_mine,
        instead_of=was.instead_of,
        blank=file.blank,
    )
    if now == new:
        return FileOutcome(step=FileStep(path, FileState.SAME, size), row=row, kept=as_set(file.content))
    if now is None or now == was.sha256:
        step = FileStep(path, FileState.NEW if now is None else FileState.NEWER, size)
        return FileOutcome(step=step, row=row, contents={path: file.content}, kept=as_set(file.content))
    if new == was.sha256 or was.kept_mine:
        step = FileStep(path, FileState.BY_HAND, size, "stays as you made it")
        return FileOutcome(step=step, row=replace(was, source=file.source))
    result = _merged(state, was.sha256, path, file.content, "theirs" if state.choices.by_hand == "drop" else "mine")
    if result is None or (result[0].conflicts and state.choices.by_hand == "stop"):
        stop = _unmerged(state, name, path, file.content, result[0] if result else None)
        return FileOutcome(step=FileStep(path, FileState.DIFFERENT, size), row=row, stop=stop)
    many = len(result[0].conflicts)
    side = "yours" if state.choices.by_hand == "keep" else "the pack's"
    note = f"your changes are carried over{f'; {many} that clash with its own: {side} taken' if many else ''}"
    step = FileStep(path, FileState.MERGED, size, note)
    return FileOutcome(step=step, row=row, contents={path: result[1]}, kept=as_set(file.content))


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
        "changed-by-you",
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
        "file-exists",
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
        "other-case",
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


def _removed(state: PlanState, name: str, file: LedgerFile, heir: LedgerPack | None) -> FileOutcome:
    path, now = file.path, state.sha(file.path)
    size = state.tree.size(path) if now is not None else 0
    if now is None:
        return FileOutcome(step=FileStep(path, FileState.GONE))
    if heir is not None or file.was_there:
        note = f"{heir.name} has it as well" if heir is not None else "it was there before"
        return FileOutcome(step=FileStep(path, FileState.STAYS, size, note))
    if now != file.sha256 and state.choices.by_hand == "keep":
        return FileOutcome(step=FileStep(path, FileState.BY_HAND, size, "stays as you made it"))
    if now != file.sha256 and state.choices.by_hand != "drop":
        was = state.kept_bytes(file.sha256) or b""
        diff = diff_of(path, was, state.tree.read(path), "as set", "now")
        stop = Stop(
            "changed-by-you",
            f"{path} was changed by you since {name} brought it",
            where=name,
            why="taking it out would lose what you changed",
            remedy="leave what you changed: --keep-changed; or take it out with the rest: --drop-changed",
            details=tuple(diff[:12]) if was else (),
            question=Question(
                key=("by-hand", ""),
                text="What you have changed since it was set",
                options=(("keep", "stays in the map"), ("drop", "goes with the rest")),
                diff=diff,
            ),
        )
        return FileOutcome(step=FileStep(path, FileState.DIFFERENT, size), stop=stop)
    if file.instead_of:
        return _own_back(state, name, file, size)
    return FileOutcome(step=FileStep(path, FileState.OUT, size), contents={path: None})


def _own_back(state: PlanState, name: str, file: LedgerFile, size: int) -> FileOutcome:
    """The map's own file, which the pack's was taken instead of."""
    path = file.path
    old = state.kept_bytes(file.instead_of)
    if old is not None:
        return FileOutcome(step=FileStep(path, FileState.BACK, len(old)), contents={path: Inline(old)})
    if state.choices.by_hand == "drop":
        return FileOutcome(step=FileStep(path, FileState.OUT, size), contents={path: None})
    stop = Stop(
        "bytes-not-kept",
        f"the map's own {path} cannot be put back: what was kept of it is gone or was changed",
        where=name,
        why="the file that stands there now is the pack's, and without it there would be none",
        remedy="restore .hookset/kept from a copy of the map; or do without the file: --drop-changed",
    )
    return FileOutcome(step=FileStep(path, FileState.DIFFERENT, size), stop=stop)


def _heir(state: PlanState, name: str, path: str) -> LedgerPack | None:
    """Another pack that has the file, too: from now on it is that one's."""
    others = (pack for pack in state.ledger.packs if pack.name != name)
    return next((pack for pack in others if any(one.path == path for one in pack.files)), None)


def _inherited(heir: LedgerPack, file: LedgerFile) -> LedgerPack:
    """The heir's row once the file is its own."""
    files = tuple(
        replace(one, was_there=False, instead_of=file.instead_of) if one.path == file.path else one
        for one in heir.files
    )
    return replace(heir, files=files)
