"""Learning a layout: the tree that is read, the answers, the file that is written."""

from __future__ import annotations

import os
import re
import shlex
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from hookset.cli.busy import busy
from hookset.cli.kind_names import kind_names
from hookset.cli.run import Run
from hookset.cli.shelves import source_of
from hookset.config.layouts import Layout, layout_file, named_layout
from hookset.config.layouts.load import load_layout
from hookset.model import CouldNotError, Finding, RefusedError, WrongUseError
from hookset.project import OUR_FOLDER, PROJECT_FILE, Ledger, Stock, Terms, find_root, open_project, save_file
from hookset.project.project import map_tree
from hookset.project.stocks.listed import StockFile, StockList, StockNames
from hookset.trees import Content, FolderTree, Member, Overlay, Tree
from hookset.trees.archives import look_inside, open_archive, open_zip

if TYPE_CHECKING:
    from hookset.learning import Beside, Learned
    from hookset.reports.learned import LearnedOutcome

__all__ = ["SHOWN", "Asked", "base_trees", "learn_layout", "write_layout"]

_MOST_FILES = 300_000
_ARCHIVES = (".zip", ".7z", ".tar", ".tar.gz", ".tgz", ".tar.xz", ".tar.bz2")
_MOST_ARCHIVES = 50
SHOWN = 40
"""Rules that are shown, if not all are asked for."""
_MOST_UNLOADED = 2
"""Names of files that nothing loads, before it is not known after all what is loaded."""


class Asked(Struct, frozen=True):
    """What somebody wants to be learned."""

    place: Path
    base: tuple[Path, ...] = ()
    target: Path | None = None
    drop: tuple[int, ...] = ()
    called: tuple[str, ...] = ()
    whole: bool = False
    as_json: bool = False
    onto: str = ""
    """The layout that is completed."""
    more: bool = False
    """Whether that is the layout that the map has."""
    confirm: tuple[int, ...] = ()
    """Rules that are right."""
    beside: tuple[Path, ...] = ()
    """Other maps of the same game."""
    packs: tuple[Path, ...] = ()
    """Packs of which only what they bring is learned."""
    ask: bool = False
    """Whether somebody goes through the rules at a terminal."""


class _Source(Struct, frozen=True):
    """What is looked at."""

    tree: Tree
    name: str
    further: tuple[Tree, ...]
    """What the map may count on."""
    stock: Stock
    onto: _Onto | None
    brought: frozenset[str] = frozenset()
    """Files of packs, which the map has not yet."""


class _Onto(Struct, frozen=True):
    """A layout that is completed."""

    name: str
    layout: Layout
    text: str


def learn_layout(run: Run, asked: Asked) -> None:
    """Learn, write, tell."""
    from hookset.reports.learned import learned_data
    from hookset.reports.text.learned import learned_text

    outcome = write_layout(run, asked)
    if asked.as_json:
        run.show_json("layout learn", True, learned_data(outcome))
    else:
        # What somebody has gone through need not be shown once more.
        most = 0 if asked.ask else None if asked.whole else SHOWN
        run.print(learned_text(outcome, most, _next(run, asked, outcome.layout)))


def write_layout(run: Run, asked: Asked) -> LearnedOutcome:
    """Learn a layout, and write it. Raises RefusedError where there is nothing to learn, or a file is there already."""
    # Imported here: the other commands about layouts need none of it.
    from hookset.cli.confirming import confirmed_by_hand, need_terminal
    from hookset.learning import known_by, learned
    from hookset.reports.learned import LearnedOutcome

    if asked.ask:
        need_terminal()
    place = asked.place.resolve()
    source = _with_packs(_source(asked, place), asked.packs)
    target, stock = _targets(run, asked, source)
    with busy("looking for rules"):
        onto = source.onto
        known = known_by(source.tree, onto.layout, source.stock, onto.text) if onto is not None else None
        found = learned(source.tree, source.name, source.further, known)
    if asked.packs:
        found = found.about(source.brought)
    found = _as_asked(found, asked)
    if asked.ask and found.guesses:
        found = confirmed_by_hand(run, found)
    if not found.guesses and known is None:
        raise _nothing(found, place)
    names = tuple(StockNames(kind=kind, names=names) for kind, names in found.outside.items())
    with busy("checking the map by them"):
        found, checked = _checked(found, source, names, target.name)
    others = tuple(_beside(found, source, names, place) for place in asked.beside)
    if not found.guesses:
        return LearnedOutcome(found, checked, "", "", others)
    save_file(target, found.text.encode())
    if stock is not None:
        title = f"what {source.name} may count on, by {target.name}"
        save_file(stock, msgspec.json.format(msgspec.json.encode(StockFile(stock=1, title=title, names=names))))
    return LearnedOutcome(found, checked, str(target), str(stock or ""), others)


def _source(asked: Asked, place: Path) -> _Source:
    """What is looked at, and the layout that is completed."""
    name = _name(place)
    further = tuple(tree for one in asked.base for tree in base_trees(one.resolve()))
    if asked.more:
        project = open_project(place)
        named = asked.onto or project.file.map.layout
        onto = _onto(named, Path() if asked.onto else project.root)
        return _Source(project.tree, name, (*further, *(tree for _, tree in project.roots)), project.stock, onto)
    tree = _tree(place)
    if not asked.onto:
        return _Source(tree, name, further, Stock(), None)
    onto = _onto(asked.onto, Path())
    if isinstance(tree, FolderTree):
        tree = map_tree(place, onto.layout, "build")
    return _Source(tree, name, further, Stock(), onto)


def _with_packs(source: _Source, packs: tuple[Path, ...]) -> _Source:
    """The map with what packs bring: each file where it would go, or, where no hook sheet says, as it lies there."""
    if not packs:
        return source
    from hookset.packs import open_pack

    if source.onto is None:
        raise WrongUseError(
            "conflicting-options", "--pack is for a layout that is completed", remedy="add --more, or --onto LAYOUT"
        )
    brought: dict[str, Content | None] = {}
    for file in packs:
        pack = open_pack(source_of(file))
        targets = pack.targets or {path: path for path in pack.tree.paths()}
        brought |= {target: Member(pack.tree, path) for target, path in targets.items()}
    return replace(source, tree=Overlay(source.tree, brought), brought=frozenset(brought))


def _onto(name: str, base: Path) -> _Onto:
    data, _ = layout_file(name, base)
    return _Onto(name, named_layout(name, base), data.decode())


def _targets(run: Run, asked: Asked, source: _Source) -> tuple[Path, Path | None]:
    """The layout and the stock that will be written. Raises RefusedError where there is one already."""
    target = asked.target
    if target is None:
        stem = source.name
        if source.onto is not None:
            stem = f"{Path(source.onto.name).name.removesuffix('.toml').removesuffix('.layout')}-more"
        target = run.beside(f"{stem}.layout.toml")
    if target.suffix != ".toml":
        raise WrongUseError(
            "wrong-ending", "a layout file ends in .toml", where=str(target), remedy=f"name it {target.stem}.toml"
        )
    stock = target.with_name(f"{target.stem.removesuffix('.layout')}.stock.json") if asked.base else None
    for file in (target, stock):
        if file is not None and file.exists():
            raise RefusedError(
                "file-exists",
                "there is a file of that name already",
                where=str(file),
                remedy="name another one: --to FILE",
            )
    return target, stock


def _as_asked(found: Learned, asked: Asked) -> Learned:
    """Without the rules that are dropped, and with kinds called as somebody wants them."""
    for number in (*asked.drop, *asked.confirm):
        if not 0 < number <= len(found.guesses):
            raise WrongUseError(
                "unknown-number",
                f"there is no rule {number}",
                remedy=f"they are numbered from 1 to {len(found.guesses)}"
                if found.guesses
                else "leave out --drop and --confirm",
            )
    left = found.confirmed(asked.confirm).without(asked.drop)
    names = kind_names(asked.called, [kind.name for kind in left.kinds if not kind.known], left.kinds_at_hand)
    return left.called(names)


def _nothing(found: Learned, place: Path) -> RefusedError:
    from hookset.reports.text.style import plural

    return RefusedError(
        "nothing-learned",
        "no rule is found here",
        where=str(place),
        details=tuple(
            f"{plural(one.files, 'file')} {one.ending or 'without an ending'}: {one.why}" for one in found.unread
        ),
        why=f"of {len(found.material.tree.paths()):,} files {found.read:,} were read; nowhere are texts the names of "
        "other things",
        remedy="name the folder that has all of a map in it, and the base game's with --base; or begin by hand: "
        "`hookset layout new`",
    )


def _checked(
    found: Learned, source: _Source, names: tuple[StockNames, ...], name: str
) -> tuple[Learned, tuple[Finding, ...]]:
    """What a check by the rules finds; without what is loaded, if the map speaks against that. Of a layout that is
    completed: what it does not find itself."""
    from hookset.checks import judge_analysis
    from hookset.learning import previewed

    stock = Stock((*source.stock.sources, StockList("the base game", names)))

    def findings(layout: Layout) -> tuple[Finding, ...]:
        analysis = previewed(found.material, layout, stock)
        return tuple(judge_analysis(analysis, Ledger(), Terms()).summary.findings)

    if source.onto is not None:
        known = {_where(one) for one in findings(source.onto.layout)}
        after = findings(_loaded(found, name, source.onto)) if found.guesses else ()
        return found, tuple(one for one in after if _where(one) not in known)
    checked = findings(load_layout(found.text.encode(), name))
    if sum(one.code == "not-loaded" for one in checked) > _MOST_UNLOADED:
        # In a map that works, all that is used is loaded, in ways that are not known then.
        found = replace(found, follows=False)
        checked = findings(load_layout(found.text.encode(), name))
    return found, checked


def _beside(found: Learned, source: _Source, names: tuple[StockNames, ...], place: Path) -> Beside:
    """What another map says to it."""
    from hookset.learning import beside

    other = place.resolve()
    stock = Stock((*source.stock.sources, StockList("the base game", names)))
    with busy(f"looking at {place.name}"):
        layout = load_layout(found.text.encode(), "learned.toml")
        return beside(found, layout, stock, _tree(other), _name(other), source.further)


def _where(one: Finding) -> tuple[str, str, str, int]:
    return one.code, one.name, one.spot.path, one.spot.line


def _loaded(found: Learned, name: str, onto: _Onto) -> Layout:
    """The completed layout. Raises RefusedError where nothing can stand behind the one at hand."""
    try:
        return load_layout(found.text.encode(), name)
    except CouldNotError as error:
        raise RefusedError(
            "layout-not-extended",
            "rules cannot be added to this layout",
            where=onto.name,
            details=error.details or (error.what,),
            why="they would stand behind it as [[read]] and [kinds.NAME], which cannot be where `read` or `kinds` are "
            "written within one line or one list",
            remedy="write its [[read]] and [kinds.NAME] as tables of their own",
        ) from error


def _next(run: Run, asked: Asked, layout: str) -> str:
    """What to do with the layout."""
    if not layout:
        return ""
    root = find_root(asked.place.resolve())
    if root is not None:
        return f'in hookset.toml: layout = "{Path(os.path.relpath(Path(layout).resolve(), root)).as_posix()}"'
    folder = (str(asked.place),) if asked.place != run.folder else ()
    return shlex.join(("hookset", "start", *folder, "--layout", layout))


def _tree(place: Path) -> Tree:
    """What is there, without what is ours."""
    if place.is_file():
        return open_zip(place).below_top()
    if not place.is_dir():
        raise WrongUseError(
            "no-map", "is no folder, and no zip", where=str(place), remedy="name the folder of a map, or its zip"
        )
    tree = FolderTree(place, _ours)
    count = len(tree.paths())
    if count > _MOST_FILES:
        raise RefusedError(
            "too-many",
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
        raise WrongUseError(
            "not-found", "there is no such folder or archive", where=str(place), remedy="check the name"
        )
    for file in archives[:_MOST_ARCHIVES]:
        tree = open_zip(file) if file.suffix.lower() == ".zip" else open_archive(file)
        yield look_inside(tree, file, None, lambda _: True)


def _ours(path: str) -> bool:
    first = path.partition("/")[0]
    return first in (OUR_FOLDER, PROJECT_FILE, ".git") or path.endswith(".layout.toml")


def _name(place: Path) -> str:
    return re.sub(r"[^a-z0-9]+", "-", place.stem.lower()).strip("-") or "map"
