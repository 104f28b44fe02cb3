"""Map and packs into a folder of the user's."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path

from hookset.building.forms import zip_tree
from hookset.model import CouldNotError, RefusedError
from hookset.trees import FolderTree

__all__ = ["MAPS", "PACKS", "PUBLISHED", "lay_out"]

PACKS = (
    "cable-ferry",
    "dredger",
    "fog-bell",
    "heronry",
    "lamp-row-1.0.0",
    "lamp-row-2.0.0",
    "lift-bridge",
    "market-stall",
    "regatta",
    "silt",
)
PUBLISHED = ("Heronry 1.0", "fog_bell_v0.4", "silt-0.9-final")
"""Packs as their authors put them up: a zip, notes, and no hook sheet."""
MAPS = {"basin": "scene-graph", "shore": "type-table", "course": "numbered-marks", "quay": "godot-3"}
"""Further maps of the scenario, each of another layout, by what their folder is called."""


def lay_out(folder: Path) -> None:
    """Brackwater, the stock list of its game, each pack as the zip that somebody would download, three of them with no
    more than notes, four further maps of the scenario, of which one is for a real engine, one to lift things from
    and one with steps, and the picture and the sound of somebody's own market stall.

    Raises RefusedError when something is there already.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise RefusedError(
            "file-exists",
            "there is something here already",
            where=str(folder),
            why="the demo begins with a map that nobody has changed",
            remedy="name another folder: hookset demo FOLDER; or delete this one",
        )
    data = resources.files("hookset.demo") / "data"
    try:
        with resources.as_file(data) as source:
            shutil.copytree(source / "brackwater", folder / "brackwater")
            shutil.copyfile(source / "base.stock.json", folder / "base.stock.json")
            for name, layout in MAPS.items():
                shutil.copytree(source / layout, folder / "maps" / name)
            for name in ("old-quay", "kiln"):
                shutil.copytree(source / name, folder / "maps" / name)
            shutil.copytree(source / "market", folder / "market")
            (folder / "packs").mkdir()
            for pack in PACKS:
                tree = FolderTree(source / "packs" / pack)
                zip_tree(tree, tree.paths(), folder / "packs" / f"{pack}.zip")
            (folder / "published").mkdir()
            for pack in PUBLISHED:
                tree = FolderTree(source / "published" / pack)
                zip_tree(tree, tree.paths(), folder / "published" / f"{pack}.zip")
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"the demo could not be laid out: {error.strerror or error}",
            where=str(folder),
            remedy="name a folder that can be written to",
        ) from error
