"""hookset layout …"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.groups import SuggestingGroup
from hookset.cli.learning import Asked, learn_layout
from hookset.cli.run import Run, json_option, pass_run
from hookset.config.layouts import layout_source, named_layout, shipped_layout, shipped_names
from hookset.config.sheets import nearest
from hookset.model import RefusedError, WrongUseError
from hookset.project import find_root, open_project, save_file
from hookset.reports.data import explained_data, layout_data, survey_data
from hookset.reports.text.layouts import explained_text, layout_text, layouts_text
from hookset.reports.text.surveys import survey_text
from hookset.symbols import explain as explain_file
from hookset.symbols import rooted, survey

__all__ = ["command"]

_UNSEEN = 40
"""Lines in which no rule saw a name: a scene has thousands, and a few tell what sort they are."""


@click.group("layout", cls=SuggestingGroup, short_help="See, write and try out layouts.")
def command() -> None:
    """A layout says how one kind of map project is arranged: which of its files define and refer to what, in which
    format, and where hooks can go. These commands show the shipped ones and help to write one for another game.

    \b
    Example, in the demo's map:
        hookset layout explain scripts/server/harbour.lua
    """


@command.command("list", short_help="The shipped layouts.")
@json_option
@pass_run
def list_them(run: Run, as_json: bool) -> None:
    """The shipped layouts.

    \b
    Example:
        hookset layout list
    """
    layouts = [shipped_layout(name) for name in shipped_names()]
    if as_json:
        run.show_json("layout list", True, {"layouts": [{"name": one.name, "title": one.title} for one in layouts]})
    else:
        run.print(layouts_text(layouts))


@command.command("show", short_help="What a layout says.")
@click.argument("name", required=False)
@click.option("--source", is_flag=True, help="The layout file itself.")
@json_option
@pass_run
def show(run: Run, name: str | None, source: bool, as_json: bool) -> None:
    """What a layout says: kinds, rules, seats. Without a name, the layout of this map.

    \b
    Example:
        hookset layout show split-lua
    """
    if source and name in shipped_names():
        click.echo(layout_source(name), nl=False)
        return
    layout = open_project(run.folder).layout if name is None else named_layout(name, Path())
    if as_json:
        run.show_json("layout show", True, layout_data(layout))
    else:
        run.print(layout_text(layout))


@command.command("new", short_help="A layout of your own, to fill in.")
@click.argument("file", type=click.Path(path_type=Path))
def new(file: Path) -> None:
    """Write a layout with an explanation for everything that it can say, to be filled in for another game.

    \b
    Example:
        hookset layout new my-game.toml
    """
    if file.exists():
        raise RefusedError(
            "file-exists", "there is a file of that name already", where=str(file), remedy="name another one"
        )
    save_file(file, layout_source("template").encode())
    click.echo(f"{file} is written. Name it in hookset.toml, or begin a map with it: `hookset start --layout {file}`.")


@command.command("learn", short_help="Find the rules in a map, and write a layout of them.")
@click.argument("folder", metavar="[FOLDER|ZIP]", required=False, type=click.Path(path_type=Path))
@click.option(
    "--base",
    multiple=True,
    metavar="FOLDER",
    type=click.Path(path_type=Path),
    help="A folder or an archive of the base game: names that it has are known.",
)
@click.option("--to", "target", metavar="FILE", type=click.Path(path_type=Path), help="The layout file to be written.")
@click.option("--drop", multiple=True, type=int, metavar="NUMBER", help="Leave this rule out.")
@click.option("--confirm", multiple=True, type=int, metavar="NUMBER", help="This rule is right, and no warning.")
@click.option("--call", "called", multiple=True, metavar="KIND=NAME", help="What a kind is called.")
@click.option("--onto", metavar="LAYOUT", default="", help="Complete this layout: learn only what it does not see.")
@click.option("--more", is_flag=True, help="Complete the map's own layout, with its stock.")
@click.option(
    "--beside",
    multiple=True,
    metavar="FOLDER",
    type=click.Path(path_type=Path),
    help="Another map of the same game, or its zip: what holds in one of them only is told.",
)
@click.option(
    "--pack",
    "packs",
    multiple=True,
    metavar="PACK",
    type=click.Path(path_type=Path),
    help="With --more or --onto: learn what no rule sees in what this pack brings.",
)
@click.option("--ask", is_flag=True, help="Go through the rules at the terminal, and say which are right.")
@click.option("--all", "whole", is_flag=True, help="Show every rule, not the first ones only.")
@json_option
@pass_run
def learn(
    run: Run,
    folder: Path | None,
    base: tuple[Path, ...],
    target: Path | None,
    drop: tuple[int, ...],
    confirm: tuple[int, ...],
    called: tuple[str, ...],
    onto: str,
    more: bool,
    beside: tuple[Path, ...],
    packs: tuple[Path, ...],
    ask: bool,
    whole: bool,
    as_json: bool,
) -> None:
    """Read a map that no layout fits, and find out where its files name what stands in others. Each rule is shown with
    what speaks for it: in how many places it holds, and where it does not. Rules that are only likely warn; those for
    which too little speaks stand in the layout as comments. What is written is the layout file, and with --base, beside
    it, a list of the names that only the base game has.

    With --onto or --more a layout at hand is completed, a shipped one or one that is half written: what is written has
    all of it, and behind it the rules for what it does not see.

    \b
    Examples, in the demo's folder:
        hookset layout learn brackwater
        hookset layout learn brackwater --to ours.toml --drop 9 --call text=words
    """
    place = folder or run.folder
    wanted = Asked(place, base, target, drop, called, whole, as_json, onto, more, confirm, beside, packs, ask)
    learn_layout(run, wanted)


@command.command("explain", short_help="What the layout sees in a file, and what it does not.")
@click.argument("file", required=False, type=click.Path(path_type=Path))
@click.option("--all", "whole", is_flag=True, help="Show every name and every line without one, not the first only.")
@json_option
@pass_run
def explain(run: Run, file: Path | None, whole: bool, as_json: bool) -> None:
    """Every name that the map's layout sees in a file, with line, column and the rule that saw it; and the lines in
    which no rule saw any. Without a file: what each rule sees in the whole map, and where its seats are.

    \b
    Examples, in the demo's map:
        hookset layout explain
        hookset layout explain scripts/server/harbour.lua
    """
    project = open_project(run.folder)
    if file is None:
        surveyed = survey(project.tree, project.layout, rooted(project, run.root_cache).stock)
        if as_json:
            run.show_json("layout explain", True, survey_data(surveyed))
        else:
            run.print(survey_text(project.layout, surveyed))
        return
    root = find_root(run.folder.resolve()) or project.root
    here = (Path.cwd() / file).resolve()
    path = here.relative_to(root).as_posix() if here.is_relative_to(root) else file.as_posix()
    tree = project.tree
    if not tree.has(path):
        path = file.as_posix() if tree.has(file.as_posix()) else path
    if not tree.has(path):
        raise WrongUseError(
            "not-found",
            f"the map has no file {path}{nearest(path, tree.paths())}",
            remedy="name a file of the map; what the layout ignores is no part of it",
        )
    explained = explain_file(tree, path, project.layout)
    if as_json:
        run.show_json("layout explain", not explained.problems, explained_data(explained))
    else:
        run.print(explained_text(explained, None if whole else _UNSEEN))
