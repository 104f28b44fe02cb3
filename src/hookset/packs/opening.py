"""Opening a pack. Nothing in it runs, and nothing of it is unpacked."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, cast

from packaging.specifiers import SpecifierSet
from packaging.version import Version

from hookset.config.sheets import Complaint, Sheet, nearest, read_sheet, typed
from hookset.model import CouldNotError
from hookset.packs.hooksheet import SHEET_NAME, HookEntry, HookName, HookSheet
from hookset.packs.pack import MAP_WORD, REMEDY, Pack, SheetedPack
from hookset.trees import FolderTree, Tree, read_regular
from hookset.trees.archives import Limits, NestedTree, SlicedTree, ZipTree, look_inside, open_archive

__all__ = ["open_bare", "open_pack", "sheet_beside", "walk_beside", "with_sheet"]

_LARGEST = 4 << 20
"""Bytes of a hook sheet."""
_JUNK = re.compile(r"(?:^|/)(?:__MACOSX/.*|\.DS_Store|Thumbs\.db|desktop\.ini)$", re.IGNORECASE)
"""What some systems put into every archive and folder."""


def sheet_beside(source: Path) -> Path:
    """Where the hook sheet of a pack lies that has none in it: `lamps.zip` → `lamps.hooksheet.toml`."""
    return _beside(source, SHEET_NAME)


def walk_beside(source: Path) -> Path:
    """Where what was decided about a pack is kept: `lamps.zip` → `lamps.walk.toml`."""
    return _beside(source, "walk.toml")


def _beside(source: Path, ending: str) -> Path:
    stem = source.name if source.is_dir() else re.sub(r"(?i)(?:\.tar)?\.[a-z0-9]+$", "", source.name)
    return source.with_name(f"{stem}.{ending}")


def open_pack(source: Path, limits: Limits | None = None) -> Pack:
    """An archive or a folder, with the hook sheet that lies beside it or in it, if there is one. Raises CouldNotError
    for anything that is not safe to look into."""
    source, flat, top = _laid_open(source, limits)
    beside = sheet_beside(source)
    if beside.is_file():
        return _sheeted(source, flat, top, read_regular(beside, _LARGEST), beside.name, limits)
    if flat.has(f"{top}{SHEET_NAME}"):
        return _sheeted(source, flat, top, flat.read(f"{top}{SHEET_NAME}"), f"{source.name}/{top}{SHEET_NAME}", limits)
    return _seen_from(source, look_inside(flat, source, limits, lambda _: True), top)


def open_bare(source: Path, limits: Limits | None = None) -> Pack:
    """The same as if it had no hook sheet: for one that is to be written over, whatever is in it."""
    source, flat, top = _laid_open(source, limits)
    return _seen_from(source, look_inside(flat, source, limits, lambda _: True), top)


def _laid_open(source: Path, limits: Limits | None) -> tuple[Path, Tree, str]:
    """What lies in a pack, as it lies there, and the folder in it in which all of it is."""
    if not source.name:
        # `.`: what lies beside the folder is called after it.
        source = source.resolve()
    if source.is_dir():
        _refuse_links(source)
        flat: Tree = FolderTree(source)
    elif source.exists():
        flat = open_archive(source, limits)
    else:
        raise CouldNotError(
            "not-found", "there is no such file or folder", where=str(source), remedy="check the name of the pack"
        )
    if not flat.paths():
        raise CouldNotError("empty-pack", "is empty", where=str(source), remedy="download the pack again")
    return source, flat, _top(flat)


def with_sheet(pack: Pack, data: bytes, where: str) -> SheetedPack:
    """The same pack with a hook sheet. Raises CouldNotError for one that is none."""
    sheet, written = _read(data, where)
    return SheetedPack(pack.source, pack.tree, sheet, written, pack.top, pack.beside)


def _sheeted(source: Path, flat: Tree, top: str, data: bytes, where: str, limits: Limits | None) -> SheetedPack:
    """A pack of which the sheet is known, with those archives in it opened that the sheet takes files from."""
    sheet, _ = _read(data, where)
    named = {entry.from_ for entry in sheet.files}

    def taken(path: str) -> bool:
        return any(pattern.startswith(f"{path.removeprefix(top)}/") for pattern in named)

    return with_sheet(_seen_from(source, look_inside(flat, source, limits, taken), top), data, where)


def _seen_from(source: Path, tree: Tree, top: str) -> Pack:
    if not top:
        return Pack(source, tree, None, None)
    beside = tuple(path for path in tree.paths() if not path.startswith(top))
    if isinstance(tree, FolderTree):
        return Pack(source, FolderTree(source / top), None, None, top, beside)
    return Pack(source, cast(ZipTree | SlicedTree | NestedTree, tree).below(top), None, None, top, beside)


def _read(data: bytes, where: str) -> tuple[HookSheet, Sheet]:
    written = read_sheet(data, where)
    sheet = typed(written.data, HookSheet)
    complaints = sheet if isinstance(sheet, list) else _mistakes(sheet)
    if isinstance(sheet, list) or complaints:
        raise written.error(complaints, REMEDY)
    return sheet, written


def _top(tree: Tree) -> str:
    """Archives are often made of a folder rather than of what is in it."""
    paths = [path for path in tree.paths() if _JUNK.search(path) is None]
    first = {path.split("/", 1)[0] + "/" for path in paths}
    top = first.pop() if len(first) == 1 else ""
    return top if top and all(path.startswith(top) for path in paths) else ""


def _refuse_links(folder: Path) -> None:
    for place, folders, files in os.walk(folder):
        for name in (*folders, *files):
            path = Path(place, name)
            if path.is_symlink():
                raise CouldNotError(
                    "link",
                    f"has a link in it: {path.relative_to(folder).as_posix()}",
                    where=str(folder),
                    why="a link can bring in files from anywhere on this machine",
                    remedy="replace it by the file that it stands for",
                )


def _mistakes(sheet: HookSheet) -> list[Complaint]:
    """What the types alone do not tell."""
    found: list[Complaint] = []
    try:
        Version(sheet.pack.version)
    except ValueError:
        found.append(Complaint("/pack/version", f"{sheet.pack.version!r} is no version; write it like 1.2.0"))
    ranges = [(f"/needs/{index}/version", need.version) for index, need in enumerate(sheet.needs)]
    ranges += ((f"/excludes/{index}/version", one.version) for index, one in enumerate(sheet.excludes))
    ranges += ((f"/files/{i}/when/version", one.when.version) for i, one in enumerate(sheet.files) if one.when)
    ranges += ((f"/hook/{i}/when/version", one.when.version) for i, one in enumerate(sheet.hook) if one.when)
    ranges += ((f"/renamed/{index}/since", f"=={e.since}") for index, e in enumerate(sheet.renamed) if e.since)
    for at, version in ranges:
        try:
            SpecifierSet(version)
        except ValueError:
            found.append(Complaint(at, f"{version.removeprefix('==')!r} is no version; write it like >=1.2, <2"))
    for index, entry in enumerate(sheet.files):
        if re.search(r"[{}]", MAP_WORD.sub("", entry.to)):
            found.append(Complaint(f"/files/{index}/to", "of all that can be filled in, only `{map:…}` can stand here"))
    return [*found, *_setting_mistakes(sheet), *_hook_mistakes(sheet.hook), *_place_mistakes(sheet)]


def _setting_mistakes(sheet: HookSheet) -> Iterator[Complaint]:
    """Settings with a default, or a choice, that they would not take."""
    seen: set[str] = set()
    for index, one in enumerate(sheet.setting):
        at = f"/setting/{index}"
        if one.name in seen:
            yield Complaint(f"{at}/name", f"two settings are called `{one.name}`")
        seen.add(one.name)
        if one.range is not None and one.type in ("bool", "text"):
            yield Complaint(f"{at}/range", f"`range` goes with numbers, and this is of type {one.type}")
            continue
        if one.range is not None and one.range[0] > one.range[1]:
            yield Complaint(f"{at}/range", f"no number is from {one.range[0]:g} to {one.range[1]:g}")
            continue
        for key, value in (("default", one.default), *(("choices", choice) for choice in one.choices)):
            if not _is_of(one.type, value):
                yield Complaint(f"{at}/{key}", f"{value!r} is not of type {one.type}")
            elif one.range is not None and not one.range[0] <= value <= one.range[1]:
                yield Complaint(f"{at}/{key}", f"{value!r} is not from {one.range[0]:g} to {one.range[1]:g}")
        if one.choices and one.default not in one.choices:
            yield Complaint(f"{at}/default", f"{one.default!r} is not one of the choices")


def _is_of(kind: str, value: Any) -> bool:
    """Whether a value is of the type of a setting."""
    if kind in ("int", "float"):
        return isinstance(value, int if kind == "int" else int | float) and not isinstance(value, bool)
    return isinstance(value, bool if kind == "bool" else str)


def _place_mistakes(sheet: HookSheet) -> Iterator[Complaint]:
    names = [place.name for place in sheet.place]
    for index, place in enumerate(sheet.place):
        if place.name in names[:index]:
            yield Complaint(f"/place/{index}/name", f"two places are called `{place.name}`")
        if not any(hook.place == place.name for hook in sheet.hook):
            yield Complaint(f"/place/{index}", f"no hook stands at `{place.name}`: say so with `place` in one")
    for index, hook in enumerate(sheet.hook):
        if hook.place and hook.place not in names:
            yield Complaint(f"/hook/{index}/place", f"no place is called `{hook.place}`{nearest(hook.place, names)}")
        if hook.place and not hook.seat:
            yield Complaint(f"/hook/{index}/place", "`place` goes with `seat`")


def _hook_mistakes(hooks: Sequence[HookEntry]) -> Iterator[Complaint]:
    names: set[str] = set()
    for index, hook in enumerate(hooks):
        at = f"/hook/{index}"
        where, spot = _said(hook, "seat", "change", "file"), _said(hook, "ask", "replaces", "before", "after")
        if len(where) != 1:
            yield Complaint(at, f"a hook says one of seat, change and file; this has {_listed(where)}")
        elif where == ["file"] and len(spot) != 1:
            yield Complaint(at, f"with `file`, one of ask, replaces, before and after; this has {_listed(spot)}")
        elif where != ["file"] and spot:
            yield Complaint(f"{at}/{spot[0]}", f"`{spot[0]}` goes with `file`, not with `{where[0]}`")
        else:
            wanted = {"seat": ("text", "record", "each", "fragment"), "change": ("value",)}.get(where[0])
            wanted = wanted or (("value",) if spot == ["ask"] else ("text",))
            alone = where == ["file"] or hook.each is not None or hook.fragment or hook.name
            if hook.every is not None and alone:
                told = "`every` goes with `seat` or `change`, without `each`, `fragment` and `name`"
                yield Complaint(f"{at}/every", told)
            given = [key for key in ("text", "record", "each", "value") if getattr(hook, key) is not None]
            given += ["fragment"] if hook.fragment else []
            if len(given) != 1 or given[0] not in wanted:
                yield Complaint(at, f"a hook says {_one_of(wanted)}; this has {_listed(given)}")
        for key, other in (("before", hook.before), ("after", hook.after)):
            if isinstance(other, HookName) and other.hook not in names:
                yield Complaint(
                    f"{at}/{key}", f"no hook above is called `{other.hook}`{nearest(other.hook, sorted(names))}"
                )
        if hook.name in names:
            yield Complaint(f"{at}/name", f"two hooks are called `{hook.name}`")
        names |= {hook.name} - {""}


def _said(hook: HookEntry, *keys: str) -> list[str]:
    return [key for key in keys if getattr(hook, key)]


def _one_of(keys: Sequence[str]) -> str:
    return keys[0] if len(keys) == 1 else f"one of {', '.join(keys[:-1])} and {keys[-1]}"


def _listed(keys: Sequence[str]) -> str:
    return " and ".join(keys) or "none of them"
