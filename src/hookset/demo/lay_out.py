"""Map and packs into a folder of the user's."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path

from hookset.core.build.archive import zip_tree
from hookset.core.model import CouldNotError, RefusedError
from hookset.core.trees import FolderTree

__all__ = ["PACKS", "lay_out"]

PACKS = ("fog-bell", "lift-bridge")


def lay_out(folder: Path) -> None:
    """Brackwater, the stock list of its game, and each pack as the zip that somebody would download.

    Raises RefusedError when something is there already.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise RefusedError(
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
            (folder / "packs").mkdir()
            for pack in PACKS:
                tree = FolderTree(source / "packs" / pack)
                zip_tree(tree, tree.paths(), folder / "packs" / f"{pack}.zip")
    except OSError as error:
        raise CouldNotError(
            f"the demo could not be laid out: {error.strerror or error}",
            where=str(folder),
            remedy="name a folder that can be written to",
        ) from error
