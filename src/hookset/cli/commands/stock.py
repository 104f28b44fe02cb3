"""hookset stock …"""

from __future__ import annotations

import os
from itertools import chain, islice
from pathlib import Path

import click

from hookset.cli.busy import busy
from hookset.cli.groups import SuggestingGroup
from hookset.cli.run import Run, json_option, pass_run
from hookset.config.layouts import Layout, named_layout
from hookset.model import CouldNotError, WrongUseError
from hookset.project import PROJECT_FILE, find_root, open_layout, open_project, read_project
from hookset.project.stocks import read_stock, write_database
from hookset.reports.data import stock_changes_data, stock_data
from hookset.reports.text.stocks import changes_text, found_text, made_text
from hookset.symbols import analyse, rooted, rows_like, stock_changes, stock_rows
from hookset.trees import FolderTree, PrefixedTree, Tree, read_regular, unsafe_reason
from hookset.trees.archives import look_inside, open_archive, open_zip

__all__ = ["command"]


@click.group("stock", cls=SuggestingGroup, short_help="The names that the base game has.")
def command() -> None:
    """The stock is what the base game has: names that exist without being in the map. These commands make a list of
    them from the game's own files, and find things in it.

    \b
    Example, in the demo's map:
        hookset stock find bell
    """


@command.command("make", short_help="Make a stock of the base game's files.")
@click.argument("sources", nargs=-1, required=True, metavar="SOURCE...")
@click.option("--layout", "layout_name", metavar="NAME", help="What the game's files follow; default: as this map.")
@click.option("--to", "target", required=True, metavar="FILE", type=click.Path(path_type=Path), help="Ends in .stock.")
@click.option("--title", default="", help="What the game is called; default: the first source's name.")
@click.option("--kind", "kinds", multiple=True, metavar="KIND", help="Only names of this kind; default: every kind.")
@json_option
@pass_run
def make(
    run: Run,
    sources: tuple[str, ...],
    layout_name: str | None,
    target: Path,
    title: str,
    kinds: tuple[str, ...],
    as_json: bool,
) -> None:
    """Read folders and archives of the base game by a layout, and write the names that they define to one file. Name
    it in hookset.toml under [content]; it is asked without being loaded, however long it is. Several stocks can be
    named there: the engine's, the game's, an add-on's. Archives within archives are looked into.

    SOURCE=FOLDER reads a source as if it lay in that folder, where the game looks for it there.

    Without --layout the files are read as those of the map that you are in.

    \b
    Example:
        hookset stock make ~/games/base --layout split-lua --to base.stock
        hookset stock make base base/sounds.zip=sounds --to base.stock
    """
    if target.suffix != ".stock":
        raise WrongUseError("wrong-ending", "a stock's name ends in .stock", where=str(target), remedy="name it so")
    root = find_root(run.folder.resolve())
    layout = _layout(layout_name, root)
    if unknown := [kind for kind in kinds if kind not in layout.kinds]:
        raise WrongUseError(
            "unknown-kind",
            f"the layout {layout.name} has no kind called {unknown[0]}",
            remedy=f"it has: {', '.join(layout.kinds)}",
        )
    trees = [_tree(source) for source in sources]
    rows = chain.from_iterable(stock_rows(tree, layout, frozenset(kinds)) for tree in trees)
    with busy("reading the game's files"):
        count = write_database(target, title or Path(sources[0]).resolve().stem, rows)
    if as_json:
        run.show_json("stock make", True, {"file": str(target), "names": count})
    else:
        named = os.path.relpath(target, root) if root else target.name
        run.print(made_text(target, "" if root is not None and _is_named(root, target) else named, count))


def _is_named(root: Path, target: Path) -> bool:
    """Whether the map's hookset.toml names the stock already."""
    try:
        file, _ = read_project(read_regular(root / PROJECT_FILE, 1 << 20))
    except CouldNotError:
        # That is told by whatever needs it.
        return False
    return any((root / path).resolve() == target.resolve() for path in file.content.stock)


def _layout(name: str | None, root: Path | None) -> Layout:
    """The one that is named, or else that of the map that the program is run in."""
    if name is not None:
        return named_layout(name, Path())
    if root is None:
        raise WrongUseError(
            "layout-not-said", "which layout the game's files follow is not said", remedy="name it with --layout"
        )
    return open_layout(root)


def _tree(said: str) -> Tree:
    """A source, below the folder that is said behind it."""
    whole, prefix = Path(said), ""
    if not whole.exists() and "=" in said:
        name, _, prefix = said.rpartition("=")
        whole = Path(name)
    if (prefix := prefix.strip("/")) and (reason := unsafe_reason(prefix)):
        raise WrongUseError(
            "wrong-path", f"{prefix!r} is {reason}", where=said, remedy="name a folder as paths of the map begin"
        )
    tree = _source(whole)
    return PrefixedTree(tree, prefix) if prefix else tree


def _source(source: Path) -> Tree:
    if source.is_dir():
        return FolderTree(source)
    if source.exists():
        tree = open_zip(source) if source.suffix.lower() == ".zip" else open_archive(source)
        return look_inside(tree, source, None, lambda _: True)
    raise WrongUseError("not-found", "there is no such folder or archive", where=str(source), remedy="check the name")


@command.command("diff", short_help="What another version of the game has and has not.")
@click.argument("old", type=click.Path(path_type=Path))
@click.argument("new", type=click.Path(path_type=Path))
@json_option
@pass_run
def diff(run: Run, old: Path, new: Path, as_json: bool) -> None:
    """Compare two stocks, and tell what the second has no longer and this map uses. Ends with 1 where it uses any.

    \b
    Example, in a map:
        hookset stock diff ../base-1.stock ../base-2.stock
    """
    project = rooted(open_project(run.folder), run.root_cache)
    stocks = [read_stock([file]) for file in (old, new)]
    analysis = analyse(project.tree, project.layout, project.stock, run.cache(project))
    changes = stock_changes(stocks[0], stocks[1], analysis)
    if as_json:
        run.show_json("stock diff", not changes.used, stock_changes_data(changes))
    else:
        run.print(changes_text(changes))
    if changes.used:
        raise click.exceptions.Exit(1)


@command.command("find", short_help="Find names in the stock and in the map.")
@click.argument("part")
@click.option("--kind", metavar="KIND", help="Only names of this kind.")
@click.option("--limit", default=50, show_default=True, type=click.IntRange(1), help="Show so many at most.")
@json_option
@pass_run
def find(run: Run, part: str, kind: str | None, limit: int, as_json: bool) -> None:
    """Find names that hold PART, whatever their letter case: in the map, in its content roots and in its stock, each
    with where it is from and what is known of it (how long a sound is, how large a picture or a model).

    \b
    Example, in the demo's map:
        hookset stock find bell
    """
    project = open_project(run.folder)
    web = analyse(project.tree, project.layout, project.stock, run.cache(project)).web
    found = [("map", row) for row in rows_like(web, part, kind, limit + 1)]
    for name, tree in project.roots:
        cache = run.root_cache((project.root / name).resolve())
        there = analyse(tree, project.layout, project.stock, cache).web
        found += ((name, row) for row in rows_like(there, part, kind, limit + 1))
    found += (("stock", row) for row in islice(project.stock.search(part, kind), limit + 1))
    if as_json:
        run.show_json("stock find", True, stock_data(found[:limit], more=len(found) > limit))
    else:
        run.print(found_text(part, found[:limit], more=len(found) > limit))
