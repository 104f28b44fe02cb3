"""What a built map holds, in which form, and writing it."""

from __future__ import annotations

import contextlib
import hashlib
import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from hookset.building.forms import form_named
from hookset.building.remembered import remember, unchanged, written_archive
from hookset.checks import Case
from hookset.config.layouts import Layout
from hookset.model import CouldNotError
from hookset.symbols import listed_paths
from hookset.trees import Content, FolderTree, Glob, Member, Overlay, RenamedTree, Tree, unsafe_reason

__all__ = ["Archive", "InnerArchive", "archive_name", "plan_archive", "write_archive"]


class InnerArchive(Struct, frozen=True):
    """An archive in the archive."""

    name: str
    form: str
    below: str
    """What is taken off the paths of its members."""
    members: tuple[str, ...]


class Archive(Struct, frozen=True):
    """What a build would ship."""

    name: str
    members: tuple[str, ...]
    left_out: tuple[str, ...]
    """Files of the map that the manifest has no row for."""
    form: str = "zip"
    stored: tuple[Glob, ...] = ()
    """What is not packed."""
    inner: tuple[InnerArchive, ...] = ()

    @property
    def files(self) -> frozenset[str]:
        """The files of the map that it holds, those in inner archives as well."""
        names = {one.name for one in self.inner}
        return frozenset(self.members) - names | {path for one in self.inner for path in one.members}


def archive_name(layout: Layout, name: str, version: str) -> str:
    """What the archive of a map is called. Raises CouldNotError when that cannot be a file's name."""
    file_name = layout.archive.of({"name": name, "version": version})
    if "/" in file_name or (reason := unsafe_reason(file_name)) is not None:
        raise CouldNotError(
            "wrong-name",
            f"the map's name and version make {file_name!r}, which is {reason if '/' not in file_name else 'a path'}",
            where="hookset.toml",
            remedy="give the map a name that can be a file's name on every system",
        )
    return file_name


def plan_archive(case: Case, name: str, version: str) -> Archive:
    """Which files go in, in which order."""
    tree, layout = case.web.tree, case.layout
    build = layout.build
    first = [path for path in build.first if tree.has(path)]
    lacking = [path for path in build.first if not tree.has(path)]
    if lacking:
        raise CouldNotError(
            "archive-lacks-file",
            f"{', '.join(lacking)} must stand at the archive's top and is not there",
            why="the game does not take an archive without it for a map",
            remedy="restore it from a copy of the map",
        )
    rest = [path for path in tree.paths() if path not in first]
    listed = rest
    if build.ships == "listed" and layout.manifest is not None:
        rows = listed_paths(tree, layout, case.index, case.reach)
        listed = [path for path in rest if path in rows]
    left_out = tuple(path for path in rest if path not in set(listed))
    inner = tuple(_inner(tree, layout, listed))
    taken = {path for one in inner for path in one.members}
    return Archive(
        name=archive_name(layout, name, version),
        members=(*first, *(path for path in listed if path not in taken), *(one.name for one in inner)),
        left_out=left_out,
        form=build.form,
        stored=tuple(map(Glob, build.stored)),
        inner=inner,
    )


def _inner(tree: Tree, layout: Layout, listed: Sequence[str]) -> Iterator[InnerArchive]:
    """The archives in the archive. A file is in the first that asks for it."""
    taken: set[str] = set()
    for entry in layout.build.inner:
        globs = tuple(map(Glob, entry.files))
        members = tuple(path for path in listed if path not in taken and any(glob.matches(path) for glob in globs))
        taken.update(members)
        if tree.has(entry.name):
            raise CouldNotError(
                "file-exists",
                f"the layout makes an archive `{entry.name}`, and the map has a file of that name",
                where=entry.name,
                why="one of the two would not be there in the game",
                remedy="take the file out of the map, or give the inner archive another name in the layout",
            )
        if members:
            yield InnerArchive(entry.name, entry.form, entry.below, members)


def write_archive(tree: Tree, archive: Archive, target: Path, memory: Path | None = None) -> int:
    """Write it whole or not at all: a half-written map must never lie where the game looks. `memory` is where it is
    kept what the archive was made of: members that have not changed since are not packed again. What was written is
    read back. Gives how many members were packed. Raises CouldNotError."""
    try:
        with contextlib.ExitStack() as kept:
            whole, packed = _with_inner(tree, archive, memory, kept)
            return packed + _written(whole, archive, target, memory)
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"the archive could not be written: {error.strerror or error}",
            where=str(target),
            remedy="make room on the disk, or make the folder writable; an earlier archive there was left as it was",
        ) from error


def _with_inner(tree: Tree, archive: Archive, memory: Path | None, kept: contextlib.ExitStack) -> tuple[Tree, int]:
    """The tree with the inner archives in it, which lie beside what is remembered, and how many members were packed."""
    if not archive.inner:
        return tree, 0
    folder = Path(kept.enter_context(tempfile.TemporaryDirectory())) if memory is None else memory.with_suffix(".inner")
    folder.mkdir(parents=True, exist_ok=True)
    made: dict[str, Content | None] = {}
    packed = 0
    for number, one in enumerate(archive.inner):
        file = folder / str(number)
        inside = RenamedTree(tree, {_below(path, one.below): path for path in one.members})
        own = Archive(one.name, inside.paths(), (), one.form, archive.stored)
        packed += _written(inside, own, file, None if memory is None else file.with_suffix(".msgpack"))
        made[one.name] = Member(FolderTree(folder), file.name)
    return Overlay(tree, made), packed


def _below(path: str, below: str) -> str:
    return path.removeprefix(f"{below.strip('/')}/") if below else path


def _written(tree: Tree, archive: Archive, target: Path, memory: Path | None) -> int:
    form = form_named(archive.form)
    asked = "\n".join((form.version, *(glob.pattern for glob in archive.stored)))
    version = hashlib.sha256(asked.encode()).hexdigest()
    known = written_archive(memory) if memory is not None else None
    same: frozenset[str] = frozenset()
    with contextlib.suppress(OSError):
        if known is not None and known.form == version and known.state == form.state(target):
            same = unchanged(known, tree)
            if tuple(known.members) == archive.members and len(same) == len(archive.members):
                return 0
    packed = form.write(tree, archive.members, archive.stored, target, same)
    _read_back(tree, archive, target, frozenset(archive.members) - same)
    if memory is not None:
        remember(memory, version, form.state(target), tree, archive.members)
    return packed


def _read_back(tree: Tree, archive: Archive, target: Path, fresh: frozenset[str]) -> None:
    """Whether what lies there is what was to be written; the `fresh` members to their last byte. Raises
    CouldNotError."""
    expected = {path: tree.size(path) for path in archive.members}
    try:
        found = dict(form_named(archive.form).listed(target, fresh))
    except ValueError as error:
        found, told = {}, f": {error}"
    else:
        told = ""
    if found == expected and (archive.form == "folder" or tuple(found) == archive.members):
        return
    other = next((path for path in {**expected, **found} if expected.get(path) != found.get(path)), archive.name)
    raise CouldNotError(
        "archive-differs",
        f"the archive does not hold what was written into it{told}",
        where=str(target),
        details=(f"{other}: {found.get(other, 'not there')} bytes, not {expected.get(other, 'there at all')}",),
        why="the disk, or another program, has changed it: the game would load something else",
        remedy="build once more; if it happens again, to another disk: hookset build --to FOLDER",
    )
