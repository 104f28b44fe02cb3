"""A map project: the folder, its hookset.toml, and what that names."""

from __future__ import annotations

from functools import partial
from operator import eq
from pathlib import Path
from typing import Annotated

from msgspec import Meta, Struct, field
from msgspec.structs import replace

from hookset.config.layouts import Layout, named_layout, project_steps
from hookset.config.layouts.steps import StepEntry
from hookset.config.sheets import Sheet, read_sheet, typed
from hookset.model import CouldNotError, WrongUseError
from hookset.project.ledger import installed_paths
from hookset.project.saving import saved_in_map
from hookset.project.stocks import Stock, read_stock
from hookset.project.terms import CheckEntry, Terms, terms_of
from hookset.trees import FolderTree, Tree, joined, read_regular
from hookset.trees.archives import ZipTree, open_zip
from hookset.trees.listing import MapListing
from hookset.trees.ours import PROJECT_FILE, find_root

__all__ = [
    "MapProject",
    "ProjectFile",
    "content_root",
    "map_tree",
    "open_layout",
    "open_project",
    "read_project",
]


_LARGEST = 4 << 20
"""Bytes of hookset.toml."""


class MapEntry(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    name: str
    version: str = "1"
    layout: str
    """A shipped layout's name, or the path of a layout file, which counts from this folder."""
    players: Annotated[int, Meta(ge=1)] | None = None
    file: str = ""
    """The archive that is the map, where that is no folder: a zip beside hookset.toml."""


class ContentEntry(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    stock: tuple[str, ...] = ()
    """Stock lists; paths count from this folder."""
    roots: tuple[str, ...] = ()
    """Folders and zips that the game looks into as well: a library that is there wherever the map runs."""


class BuildEntry(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    folder: str = "build"
    """Where `hookset build` puts the archive, in the map's folder. What it has put there is never part of the map."""


class _Lines(dict[str, int]):
    """Lines of a sheet's addresses, looked up when asked."""

    def __init__(self, sheet: Sheet) -> None:
        super().__init__()
        self.sheet = sheet

    def __missing__(self, address: str) -> int:
        return self.sheet.line_of(address)


class ProjectFile(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """hookset.toml"""

    map: MapEntry
    content: ContentEntry = ContentEntry()
    build: BuildEntry = BuildEntry()
    check: CheckEntry = CheckEntry()
    step: tuple[StepEntry, ...] = ()
    """Commands that make files of the map, beside those of the layout, or in place of those of the same name."""


class MapProject(Struct, frozen=True):
    """Everything that is known before a file of the map is read."""

    root: Path
    file: ProjectFile
    layout: Layout
    stock: Stock
    terms: Terms = field(default_factory=Terms)

    @property
    def outside(self) -> tuple[Path, ...]:
        """The files beside the map's own that a verdict rests on: its layout, its stock lists and content roots that
        are no folders, wherever they lie."""
        named = (*self.file.content.stock, *((self.file.map.layout,) if self.file.map.layout.endswith(".toml") else ()))
        roots = (place for place in self._root_places if not place.is_dir())
        return (*((self.root / one).resolve() for one in named), *roots)

    @property
    def folders_outside(self) -> tuple[Path, ...]:
        """The folders beside the map's own that a verdict rests on: its content roots."""
        return tuple(place for place in self._root_places if place.is_dir())

    @property
    def _root_places(self) -> tuple[Path, ...]:
        return tuple((self.root / one).resolve() for one in self.file.content.roots)

    @property
    def tree(self) -> FolderTree | ZipTree:
        """The map's files as they are now: listed again on each use."""
        if self.file.map.file:
            return open_zip(self.root / self.file.map.file).below_top().without(lambda path: self.layout.ignores(path))
        return self.listing.tree(self.root, self.layout.reads_file)

    @property
    def listing(self) -> MapListing:
        """Which files below its folder are the map."""
        return _listing(self.layout, self.file.build.folder, installed_paths(self.root))

    def built(self, archive: str) -> Path:
        """Where a built archive of that name goes. Raises RefusedError where that would be outside of the map."""
        folder = self.file.build.folder.rstrip("/").removeprefix("./")
        path = archive if folder in ("", ".") else f"{folder}/{archive}"
        return saved_in_map(self.root, path, "correct [build] folder in hookset.toml, or say where: build --to FOLDER")

    @property
    def roots(self) -> tuple[tuple[str, Tree], ...]:
        """The other places that the game looks into, by what hookset.toml calls them. Raises CouldNotError."""
        return tuple((name, content_root(self.root / name, self.root)) for name in self.file.content.roots)


def map_tree(root: Path, layout: Layout, build_folder: str, installed: frozenset[str] = frozenset()) -> FolderTree:
    """The files below `root` that belong to the map. What packs have brought is `installed`: it does, whatever the
    layout ignores."""
    return _listing(layout, build_folder, installed).tree(root, layout.reads_file)


def _listing(layout: Layout, build_folder: str, installed: frozenset[str]) -> MapListing:
    built = build_folder.rstrip("/").removeprefix("./")
    ending = layout.build.archive.rpartition("}")[2].rpartition(".")[2].casefold() or "zip"
    return MapListing(layout.ignore, "" if built == "." else built, ending, layout.build.form == "folder", installed)


def content_root(place: Path, root: Path) -> Tree:
    """A folder or a zip with files of a game or a library, without the map in `root` where that lies inside of it.
    Raises CouldNotError when there is neither, or when the folder is the map or a whole disk."""
    if not place.exists():
        raise CouldNotError(
            "not-found",
            "there is no such folder or zip",
            where=str(place),
            why="what it has would look missing in the map",
            remedy="correct `roots` in hookset.toml; paths there count from the map's folder",
        )
    if not place.is_dir():
        return open_zip(place)
    folder, own = place.resolve(), root.resolve()
    if folder == own or folder == Path(folder.anchor):
        raise CouldNotError(
            "wrong-root",
            "this is the map itself" if folder == own else "this is a whole disk, not the files of a game",
            where=str(place),
            why="what a content root has counts as the game's, and each command reads all of it",
            remedy="name the game's or the library's own folder in hookset.toml: [content] roots",
        )
    if not own.is_relative_to(folder):
        return FolderTree(place)
    inner = own.relative_to(folder).as_posix()
    return FolderTree(place, partial(eq, inner))


def read_project(data: bytes) -> tuple[ProjectFile, Terms]:
    """Raises CouldNotError with every mistake and its line."""
    sheet = read_sheet(data, PROJECT_FILE)
    file = typed(sheet.data, ProjectFile)
    if isinstance(file, list):
        raise sheet.error(file, "correct hookset.toml; docs/project-file.md tells all that it can say")
    return file, terms_of(file.check, file.map.players, _Lines(sheet))


def open_project(start: Path) -> MapProject:
    """Raises WrongUseError where there is no project, CouldNotError for a damaged one."""
    root, file, terms = _read_at(start.resolve())
    if file.map.file and joined("", file.map.file) is None:
        raise CouldNotError(
            "path-outside-map",
            f"the map's archive `{file.map.file}` lies outside of this folder",
            where=PROJECT_FILE,
            why="what is changed must lie where it can be taken back",
            remedy="put hookset.toml beside the archive",
        )
    layout = _with_steps(root, file, named_layout(file.map.layout, root))
    stock = read_stock(root / path for path in file.content.stock)
    return MapProject(root, file, layout, stock, terms)


def _with_steps(root: Path, file: ProjectFile, layout: Layout) -> Layout:
    """The layout, with the project's own steps."""
    if not file.step:
        return layout
    steps, complaints = project_steps(layout, file.step)
    if complaints:
        sheet = read_sheet(read_regular(root / PROJECT_FILE, _LARGEST), PROJECT_FILE)
        raise sheet.error(complaints, "correct the step; docs/building.md tells all that it can say")
    return replace(layout, steps=steps)


def open_layout(start: Path) -> Layout:
    """The layout of the map at or above `start`, whether its stock lists are there or not. Raises as `open_project`."""
    root, file, _ = _read_at(start.resolve())
    return named_layout(file.map.layout, root)


def _read_at(start: Path) -> tuple[Path, ProjectFile, Terms]:
    root = find_root(start)
    if root is None:
        raise WrongUseError(
            "no-map",
            f"there is no {PROJECT_FILE} in this folder or above it",
            where=str(start),
            why="it says which layout the map follows, so that its files can be understood",
            remedy="go to the map's folder and run `hookset start`; or name the folder: `hookset --map FOLDER …`",
        )
    return (root, *read_project(read_regular(root / PROJECT_FILE, _LARGEST)))
