"""A first hookset.toml for a map that has none."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

from hookset.core.formats import Unreadable, format_named, text_of
from hookset.core.formats.toml import written
from hookset.core.layouts import Layout, Likeness, named_layout, recognise, shipped_layout, shipped_names
from hookset.core.model import CouldNotError, RefusedError, WrongUseError
from hookset.core.project.places import PROJECT_FILE
from hookset.core.project.project import map_tree
from hookset.core.trees import FolderTree, Tree

__all__ = ["Beginning", "begin"]


@dataclass(frozen=True, slots=True)
class Beginning:
    """What `start` found out, and the file it would write."""

    likeness: Likeness
    name: str
    version: str
    stock: tuple[str, ...]
    text: str


def begin(root: Path, layout: str | None, stock: tuple[Path, ...]) -> Beginning:
    """Recognise the layout of the map in `root` and write up its project file, as text.

    Raises RefusedError when there is a project already, or none of the layouts fits well enough to choose.
    """
    root = root.resolve()
    if (root / PROJECT_FILE).exists():
        raise RefusedError(
            f"there is a {PROJECT_FILE} here already",
            where=str(root),
            remedy="edit it, or delete it to start anew; what was installed stays in the ledger",
        )
    if not root.is_dir():
        raise WrongUseError("is not a folder", where=str(root), remedy="name the folder of an unpacked map")
    likeness = _named(root, layout) if layout is not None else _likeliest(root)
    tree = map_tree(root, likeness.layout, "build")
    name, version = _descriptor(tree, likeness.layout)
    beside = (
        path for folder in (root, root.parent) for path in (*folder.glob("*.stock.json"), *folder.glob("*.stock"))
    )
    lists = stock or tuple(sorted(beside))
    paths = tuple(Path(os.path.relpath(path.resolve(), root)).as_posix() for path in lists)
    lines = [
        "# What Hook Set needs to know about this map. It is never shipped to players.",
        "[map]",
        f"name = {written(name or root.name)}",
        f"version = {written(version or '1')}",
        f"layout = {written(layout or likeness.layout.name)}",
        "",
        "[content]",
        "# Lists of the names that the base game has; without them they would all look missing.",
        f"stock = {written(list(paths))}",
    ]
    if (root / "build").exists():
        # The map has a folder of that name itself.
        lines += ["", "[build]", 'folder = "hookset-build"']
    return Beginning(likeness, name or root.name, version or "1", paths, "\n".join(lines) + "\n")


def _named(root: Path, layout: str) -> Likeness:
    loaded = named_layout(layout, root)
    found = recognise(FolderTree(root), [loaded])
    return found[0] if found else Likeness(loaded, (), tuple((m.file, m.says) for m in loaded.recognise))


def _likeliest(root: Path) -> Likeness:
    tree = FolderTree(root)
    found = recognise(tree, [shipped_layout(name) for name in shipped_names()])
    if found and (found[0].whole or len(found[0].seen) > len(found[0].lacking)):
        return found[0]
    details = [f"{one.layout.name}: no {says} ({pattern})" for one in found[:1] for pattern, says in one.lacking] or [
        f"none of the shipped layouts ({', '.join(shipped_names())}) has anything in common with it"
    ]
    raise RefusedError(
        "the layout of this folder is not recognised",
        where=str(root),
        details=tuple(details),
        why="without a layout no file can be read for names and references",
        remedy="go to the folder that has the map's descriptor in it, or say which layout it is: --layout NAME",
    )


def _descriptor(tree: Tree, layout: Layout) -> tuple[str, str]:
    """The map's name and version as its own descriptor says them; empty where it does not."""
    entry = layout.descriptor
    if entry is None or not tree.has(entry.file):
        return "", ""
    form = format_named(entry.rule.format)
    try:
        text = text_of(form, tree.read(entry.file), entry.rule.encodings)
        document = form.open(text, entry.rule.options)
        asked = [document.select(selector) for selector in (entry.name, entry.version)]
    except (Unreadable, CouldNotError):
        # `check` tells what is wrong with it; a start can do without.
        return "", ""
    name, version = (next((value.text for value in values), "") for values in asked)
    return name, version
