"""Learning a layout: the tree that is read, the answers, the file that is written."""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import msgspec

from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.config.sheets import nearest
from hookset.model import RefusedError, WrongUseError
from hookset.project import OUR_FOLDER, PROJECT_FILE, Stock, save_file
from hookset.project.stocks.listed import StockFile, StockList, StockNames
from hookset.trees import FolderTree, Tree, open_zip
from hookset.trees.archives import look_inside, open_archive

__all__ = ["Asked", "base_trees", "learn_layout"]

_MOST_FILES = 300_000
_ARCHIVES = (".zip", ".7z", ".tar", ".tar.gz", ".tgz", ".tar.xz", ".tar.bz2")
_MOST_ARCHIVES = 50
_MOST_UNLOADED = 2
"""Names of files that nothing loads, before it is not known after all what is loaded."""
_KIND = re.compile(r"[a-z][a-z0-9-]{0,60}")


@dataclass(frozen=True, slots=True)
class Asked:
    """What somebody wants to be learned."""

    place: Path
    base: tuple[Path, ...]
    target: Path | None
    drop: tuple[int, ...]
    called: tuple[str, ...]
    whole: bool
    as_json: bool


def learn_layout(run: Run, asked: Asked) -> None:
    """Learn, write, tell."""
    # Imported here: the other commands about layouts need none of it.
    from hookset.checks import judge
    from hookset.config.layouts.load import load_layout
    from hookset.learning import learned
    from hookset.reports.learned import learned_data
    from hookset.reports.text.learned import learned_text
    from hookset.reports.text.style import plural

    place = asked.place.resolve()
    name = _name(place)
    target = asked.target if asked.target is not None else run.beside(f"{name}.layout.toml")
    if target.suffix != ".toml":
        raise WrongUseError("a layout file ends in .toml", where=str(target), remedy=f"name it {target.stem}.toml")
    stock = target.with_name(f"{target.stem.removesuffix('.layout')}.stock.json") if asked.base else None
    for file in (target, stock):
        if file is not None and file.exists():
            raise RefusedError(
                "there is a file of that name already", where=str(file), remedy="name another one: --to FILE"
            )
    tree = _tree(place)
    with busy("looking for rules"):
        found = learned(tree, name, [tree for one in asked.base for tree in base_trees(one.resolve())])
    for number in asked.drop:
        if not 0 < number <= len(found.guesses):
            raise WrongUseError(
                f"there is no rule {number}", remedy=f"they are numbered from 1 to {len(found.guesses)}"
            )
    found = found.without(asked.drop).called(_names(asked.called, [kind.name for kind in found.kinds]))
    if not found.guesses:
        raise RefusedError(
            "no rule is found here",
            where=str(place),
            details=tuple(
                f"{plural(one.files, 'file')} {one.ending or 'without an ending'}: {one.why}" for one in found.unread
            ),
            why=f"of {len(tree.paths()):,} files {found.read:,} were read; nowhere are texts the names of other things",
            remedy="name the folder that has all of a map in it, and the base game's with --base; or begin by hand: "
            "`hookset layout new`",
        )
    names = tuple(StockNames(kind=kind, names=names) for kind, names in found.outside.items())
    stocks = Stock((StockList("the base game", names),))
    with busy("checking the map by them"):
        checked = judge(tree, load_layout(found.text.encode(), target.name), stocks).summary
        unloaded = sum(one.code == "not-loaded" for one in checked.findings)
        if unloaded > _MOST_UNLOADED:
            # In a map that works, all that is used is loaded, in ways that are not known then.
            found = replace(found, follows=False)
            checked = judge(tree, load_layout(found.text.encode(), target.name), stocks).summary
    save_file(target, found.text.encode())
    if stock is not None:
        title = f"what {name} may count on, by {target.name}"
        save_file(stock, msgspec.json.format(msgspec.json.encode(StockFile(stock=1, title=title, names=names))))
    files = (str(target), "" if stock is None else str(stock))
    if asked.as_json:
        run.show_json("layout learn", True, learned_data(found, files, checked))
    else:
        words = (
            "hookset",
            "start",
            *((str(asked.place),) if asked.place != run.folder else ()),
            "--layout",
            str(target),
        )
        run.print(learned_text(found, files, checked, asked.whole, shlex.join(words)))


def _tree(place: Path) -> Tree:
    """What is there, without what is ours."""
    if place.is_file():
        return open_zip(place).below_top()
    if not place.is_dir():
        raise WrongUseError("is no folder, and no zip", where=str(place), remedy="name the folder of a map, or its zip")
    tree = FolderTree(place, _ours)
    count = len(tree.paths())
    if count > _MOST_FILES:
        raise RefusedError(
            f"has {count:,} files",
            where=str(place),
            why="that is no map, and to look for rules in so much would take hours",
            remedy="name the folder of one map",
        )
    return tree


def base_trees(place: Path) -> Iterator[Tree]:
    """A base game's folder, and each archive that lies in it; or one archive."""
    archives = [place] if place.is_file() else []
    if place.is_dir():
        tree = _tree(place)
        yield tree
        archives = [place / path for path in tree.paths() if path.lower().endswith(_ARCHIVES)]
    elif not archives:
        raise WrongUseError("there is no such folder or archive", where=str(place), remedy="check the name")
    for file in archives[:_MOST_ARCHIVES]:
        tree = open_zip(file) if file.suffix.lower() == ".zip" else open_archive(file)
        yield look_inside(tree, file, None, lambda _: True)


def _ours(path: str) -> bool:
    first = path.partition("/")[0]
    return first in (OUR_FOLDER, PROJECT_FILE, ".git") or path.endswith(".layout.toml")


def _name(place: Path) -> str:
    return re.sub(r"[^a-z0-9]+", "-", place.stem.lower()).strip("-") or "map"


def _names(called: tuple[str, ...], known: list[str]) -> dict[str, str]:
    """The new name of each kind that gets one."""
    found: dict[str, str] = {}
    for one in called:
        kind, _, name = one.partition("=")
        if kind not in known:
            raise WrongUseError(
                f"there is no kind {kind!r}{nearest(kind, known)}", remedy=f"the kinds are {', '.join(known) or 'none'}"
            )
        if not _KIND.fullmatch(name) or name in known or name in found.values() or name == "file":
            raise WrongUseError(
                f"a kind cannot be called {name!r}",
                remedy="small letters, digits and dashes, and no other kind's name: --call sound=noise",
            )
        found[kind] = name
    return found
