"""A first hookset.toml for a map that has none."""

from __future__ import annotations

import os
from pathlib import Path
from shlex import quote

from msgspec import Struct

from hookset.config.layouts import Likeness, map_words, named_layout, recognise, shipped_layout, shipped_names
from hookset.formats.toml import written
from hookset.model import RefusedError, WrongUseError
from hookset.project.project import map_tree
from hookset.trees import FolderTree, Tree
from hookset.trees.archives import open_zip
from hookset.trees.ours import PROJECT_FILE

__all__ = ["Beginning", "NoLayoutError", "begin"]


class NoLayoutError(RefusedError):
    """None of the shipped layouts fits a map."""


class Beginning(Struct, frozen=True):
    """What `start` found out, and the file it would write."""

    root: Path
    """Where hookset.toml goes."""
    likeness: Likeness
    name: str
    version: str
    stock: tuple[str, ...]
    text: str


def begin(place: Path, layout: str | None, stock: tuple[Path, ...]) -> Beginning:
    """Recognise the layout of the map in `place`, a folder or a zip, and write up its project file, as text.

    Raises RefusedError when there is a project already, NoLayoutError when none of the layouts fits well enough to
    choose.
    """
    place = place.resolve()
    file = place.name if place.is_file() else ""
    root = place.parent if file else place
    if (root / PROJECT_FILE).exists():
        raise RefusedError(
            "file-exists",
            f"there is a {PROJECT_FILE} here already",
            where=str(root),
            remedy="edit it, or delete it to start again; what was installed stays in the ledger",
        )
    if not root.is_dir():
        raise WrongUseError("no-map", "is not a folder", where=str(root), remedy="name the folder of a map, or its zip")
    for one in stock:
        if not one.exists():
            raise WrongUseError(
                "not-found",
                "there is no such stock list",
                where=str(one),
                why="without it every name of the base game would look missing",
                remedy=f"make it of the game's own files: hookset stock make GAME --layout LAYOUT --to {one}",
            )
    layout = _counted_from(layout, root)
    files = open_zip(place).below_top() if file else FolderTree(root)
    likeness = _named(files, layout, root) if layout is not None else _likeliest(files, place)
    tree = files if file else map_tree(root, likeness.layout, "build")
    said = map_words(tree, likeness.layout)
    name, version = said["map"] or place.stem, said["version"] or "1"
    beside = (
        path for folder in (root, root.parent) for path in (*folder.glob("*.stock.json"), *folder.glob("*.stock"))
    )
    lists = stock or tuple(sorted(beside))
    paths = tuple(Path(os.path.relpath(path.resolve(), root)).as_posix() for path in lists)
    lines = [
        "# What Hook Set needs to know about this map. It is never shipped to players.",
        "[map]",
        f"name = {written(name)}",
        f"version = {written(version)}",
        f"layout = {written(layout or likeness.layout.name)}",
        *([f"file = {written(file)}"] if file else []),
        "",
        "[content]",
        "# Lists of the names that the base game has; without them they would all look missing.",
        f"stock = {written(list(paths))}",
    ]
    if (root / "build").exists():
        # The map has a folder of that name itself.
        lines += ["", "[build]", 'folder = "hookset-build"']
    return Beginning(root, likeness, name, version, paths, "\n".join(lines) + "\n")


def _named(tree: Tree, layout: str, base: Path) -> Likeness:
    loaded = named_layout(layout, base)
    found = recognise(tree, [loaded])
    return found[0] if found else Likeness(loaded, (), tuple((m.file, m.says) for m in loaded.recognise))


def _likeliest(tree: Tree, place: Path) -> Likeness:
    found = recognise(tree, [shipped_layout(name) for name in shipped_names()])
    if found and (found[0].whole or len(found[0].seen) > len(found[0].lacking)):
        return found[0]
    details = [f"{one.layout.name}: no {says} ({pattern})" for one in found[:1] for pattern, says in one.lacking] or [
        f"none of the shipped layouts ({', '.join(shipped_names())}) has anything in common with it"
    ]
    zips = (
        [path for path in tree.paths() if "/" not in path and path.lower().endswith(".zip")] if place.is_dir() else []
    )
    raise NoLayoutError(
        "layout-not-recognised",
        "the layout of this folder is not recognised" if place.is_dir() else "the layout of this zip is not recognised",
        where=str(place),
        details=tuple(details),
        why="without a layout no file can be read for names and references",
        remedy=(f"if {zips[0]} is the map, run `hookset start {zips[0]}`; " if zips else "")
        + "go to the folder that has the map's descriptor in it, or say which layout it is: --layout NAME; to have one "
        f"made of what the files say: hookset start {quote(str(place))} --learn",
    )


def _counted_from(layout: str | None, root: Path) -> str | None:
    """A layout's file as the project names it: counted from the map's folder, where the builder counts from the folder
    that they are in."""
    if layout is None or not layout.endswith(".toml") or not Path(layout).is_file():
        return layout
    return Path(os.path.relpath(Path(layout).resolve(), root)).as_posix()
