"""Learning a layout: the tree that is read, the answers, the file that is written."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.config.sheets import nearest
from hookset.model import RefusedError, WrongUseError
from hookset.project import OUR_FOLDER, PROJECT_FILE, Stock, save_file
from hookset.trees import FolderTree, Tree, open_zip

__all__ = ["Asked", "learn_layout"]

_MOST_FILES = 300_000
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

    place = asked.place.resolve()
    name = _name(place)
    target = asked.target if asked.target is not None else run.beside(f"{name}.layout.toml")
    if target.suffix != ".toml":
        raise WrongUseError("a layout file ends in .toml", where=str(target), remedy=f"name it {target.stem}.toml")
    if target.exists():
        raise RefusedError(
            "there is a file of that name already", where=str(target), remedy="name another one: --to FILE"
        )
    tree = _tree(place)
    with busy("looking for rules"):
        found = learned(tree, name, [_tree(one.resolve()) for one in asked.base])
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
                f"{one.files:,} files {one.ending or 'without an ending'}: {one.why}" for one in found.unread
            ),
            why=f"of {len(tree.paths()):,} files {found.read:,} were read; nowhere are texts the names of other things",
            remedy="name the folder that has all of a map in it, and the base game's with --base; or begin by hand: "
            "`hookset layout new`",
        )
    layout = load_layout(found.text.encode(), target.name)
    with busy("checking the map by them"):
        checked = judge(tree, layout, Stock()).summary
    save_file(target, found.text.encode())
    if asked.as_json:
        run.show_json("layout learn", True, learned_data(found, str(target), checked))
    else:
        run.print(learned_text(found, str(target), checked, asked.whole))


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
