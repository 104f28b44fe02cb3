"""The map's zip: the descriptor at the top, members in order, the same bytes for the same content."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from hookset.building.remembered import earlier_zip, remember
from hookset.building.zipped import zip_tree
from hookset.checks import Case
from hookset.config.layouts import Layout
from hookset.model import CouldNotError
from hookset.project.saving import replacing
from hookset.symbols import listed_paths
from hookset.trees import Tree, unsafe_reason

__all__ = ["Archive", "archive_name", "plan_archive", "write_archive"]


@dataclass(frozen=True, slots=True)
class Archive:
    """What a build would ship."""

    name: str
    members: tuple[str, ...]
    left_out: tuple[str, ...]
    """Files of the map that the manifest has no row for."""


def archive_name(layout: Layout, name: str, version: str) -> str:
    """What the archive of a map is called. Raises CouldNotError when that cannot be a file's name."""
    file_name = layout.archive.of({"name": name, "version": version})
    if "/" in file_name or (reason := unsafe_reason(file_name)) is not None:
        raise CouldNotError(
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
    return Archive(archive_name(layout, name, version), (*first, *listed), left_out)


def write_archive(tree: Tree, archive: Archive, target: Path, memory: Path | None = None) -> int:
    """Write it whole or not at all: a half-written map must never lie where the game looks. `memory` is where it is
    kept what the archive was made of: members that have not changed since are not packed again. Gives how many were
    packed."""
    try:
        with earlier_zip(memory, target, tree) as earlier:
            if earlier is not None and earlier.is_all(archive.members):
                return 0
            with replacing(target) as stream:
                packed = zip_tree(tree, archive.members, stream, earlier)
    except OSError as error:
        raise CouldNotError(
            f"the archive could not be written: {error.strerror or error}",
            where=str(target),
            remedy="make room on the disk, or make the folder writable; an earlier archive there was left as it was",
        ) from error
    if memory is not None:
        remember(memory, target, tree, archive.members)
    return packed
