"""How much of a hand-written layout `hookset layout learn` finds by itself, first pass and without a word of anybody.
Writes docs/learning-benchmarks.md.

    python benchmarks/learning.py [--packages FOLDER] [--foreign FOLDER] [MATERIAL …]

Truth are layouts that people wrote: the shipped ones with their demo maps, those of the foreign projects, and those of
open games in benchmarks/open_games, each written before the first run on its game. A rule of such a layout is found if
four in five of its references are seen at the same place and mean the same there. A learned rule is right if four in
five of its references are references in the hand-written layout as well that mean the same. What a person found of
the others stands beside it (benchmarks/open_games/learned.toml).
"""

from __future__ import annotations

import argparse
import bisect
import gc
import json
import re
import subprocess
import sys
import tempfile
import time
import tomllib
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

import msgspec
from learned_faults import FIRST_FACTS, FIRST_FAULTS, Faults, Packs, faults_of, packs_of
from open_games import GAMES, laid_out

from hookset.cli.learning import base_trees
from hookset.config.layouts import Layout, named_layout
from hookset.config.layouts.load import load_layout
from hookset.learning import Learned, learned
from hookset.model import Definition, Where
from hookset.project import Stock, open_project
from hookset.project.stocks.listed import StockList, StockNames
from hookset.symbols import Analysis, analyse
from hookset.trees import FolderTree, Tree

ROOT = Path(__file__).parent.parent
PAGE = ROOT / "docs/learning-benchmarks.md"
FIRST = {
    "demo: brackwater": ("14 of 21", "110 of 144", "8 of 8"),
    "demo: basin": ("5 of 16", "13 of 32", "3 of 3"),
    "demo: kiln": ("0 of 3", "0 of 5", "0 of 1"),
    "demo: old-quay": ("4 of 17", "23 of 48", "1 of 1"),
    "demo: shore": ("3 of 7", "12 of 32", "1 of 1"),
    "docs: salt-fen": ("7 of 28", "58 of 829", "4 of 8"),
    "foreign: cinder": ("12 of 53", "168 of 1,496", "9 of 11"),
    "foreign: harrow": ("6 of 7", "12,755 of 12,756", "3 of 3"),
    "open game: boswars": ("12 of 24", "722 of 39,345", "11 of 28"),
    "open game: cataclysm": ("0 of 47", "0 of 86,621", "0 of 1"),
    "open game: flare": ("10 of 21", "1,325 of 4,861", "16 of 48"),
    "open game: enigma": ("0 of 5", "0 of 4,188", "0 of 19"),
    "open game: megaglest": ("14 of 40", "4,413 of 8,832", "11 of 53"),
    "open game: freeciv": ("1 of 42", "97 of 12,300", "1 of 25"),
    "open game: crossfire": ("7 of 20", "558,400 of 577,112", "5 of 67"),
    "open game: scorched": ("44 of 48", "1,230 of 1,287", "40 of 51"),
    "open game: warzone": ("2 of 53", "1,284 of 28,832", "9 of 489"),
    "open game: horizons": ("9 of 17", "10,319 of 15,456", "287 of 305"),
    "open game: widelands": ("0 of 23", "350 of 3,230", "1 of 31"),
    "open game: warmux": ("6 of 12", "461 of 982", "14 of 20"),
    "open game: hedgewars": ("none: no layout that could be read", "0 of 841", "0 of 0"),
    "open game: trigger": ("16 of 16", "2,490 of 2,490", "16 of 18"),
    "open game: torcs": ("none: no end in five minutes", "0 of 828", "0 of 0"),
    "open game: freedroid": ("none: it failed", "0 of 2,048", "0 of 0"),
    "open game: pingus": ("none: no rule was found", "0 of 40,296", "0 of 0"),
    "open game: endless": ("7 of 79", "8,362 of 28,977", "8 of 9"),
    "open game: freecol": ("33 of 43", "1,638 of 2,847", "53 of 97"),
    "open game: colobot": ("none: no end in eight minutes", "0 of 27,048", "0 of 0"),
    "open game: freeorion": ("0 of 27", "32 of 7,415", "2 of 14"),
    "open game: btanks": ("11 of 18", "2,141 of 5,525", "9 of 15"),
    "open game: supertux": ("14 of 20", "9,404 of 10,890", "43 of 54"),
    "open game: fillets": ("8 of 18", "21,918 of 26,238", "7 of 15"),
    "open game: etr": ("none: no file could be read", "0 of 37,044", "0 of 0"),
    "open game: ufoai": ("49 of 62", "3,521 of 4,608", "39 of 76"),
    "open game: singularity": ("1 of 27", "110 of 465", "1 of 3"),
    "open game: caveexpress": ("6 of 11", "20,889 of 21,357", "7 of 9"),
    "open game: lincity": ("none: a layout that could not be read", "0 of 17,857", "0 of 0"),
    "open game: paxbritannica": ("7 of 13", "161 of 267", "4 of 7"),
    "open game: trackballs": ("3 of 6", "90 of 110", "2 of 2"),
    "open game: freedink": ("1 of 15", "138 of 950", "1 of 2"),
    "open game: rescue": ("16 of 22", "602 of 746", "12 of 13"),
    "open game: opencity": ("4 of 5", "524 of 603", "4 of 4"),
    "open game: granatier": ("1 of 4", "33 of 49", "1 of 1"),
    "open game: dustracing": ("7 of 8", "12,913 of 12,915", "4 of 5"),
    "open game: cuyo": ("0 of 12", "0 of 1,671", "0 of 0"),
    "open game: blobandconquer": ("15 of 39", "514 of 109,120", "16 of 20"),
}
"""Of the first run on each material, before anything was mended: rules, references, sure rules."""
_KIND = re.compile(r": \S+ by ")
HOOKSET = (sys.executable, "-m", "hookset")
Place = tuple[str, Where]
"""Path, and where in the file: formats say alike where a value stands."""


@dataclass(frozen=True)
class Seen:
    """The references that one rule sees: for each place what is meant there."""

    title: str
    meant: Mapping[Place, frozenset[str]]
    severity: str


@dataclass(frozen=True)
class Result:
    """What came of one material."""

    name: str
    rules: int
    found: int
    references: int
    met: int
    sure: int
    right: int
    likely: int
    likely_right: int
    missing: tuple[str, ...]
    wrong: tuple[str, ...]
    sure_references: int
    false: int
    """Of those: what sure rules call broken, and the hand-written layout does not."""
    meant: int
    looked_at: int
    """Of sure rules that are not confirmed: those that a person looked at, and found to be meant."""
    seconds: float


def seen(analysis: Analysis) -> list[Seen]:
    """Rule by rule: where its references stand, and where that is defined."""
    web, by_rule = analysis.web, dict[tuple[int, int], list[tuple[str, Where, str, str]]]()
    for file in web.files:
        blocks = iter(file.referred)
        for number, _, referred in file.by_rule:
            for part, count in enumerate(referred):
                if not count:
                    continue
                block = next(blocks)
                for row, name in enumerate(block.names):
                    if row not in block.patterns:
                        by_rule.setdefault((number, part), []).append((file.path, block.where(row), block.kind, name))
                        for other in block.others.get(row, ()):
                            by_rule[number, part].append((file.path, block.where(row), block.kind, other))
    found = []
    for (number, part), rows in sorted(by_rule.items()):
        meant: dict[Place, frozenset[str]] = {}
        for path, where, kind, name in rows:
            defined = frozenset(said for one in analysis.index.get(kind, name) for said in _defined(one))
            meant[path, where] = meant.get((path, where), frozenset()) | defined
        rule = web.layout.reads[number - 1]
        refer = rule.refers[part]
        asked = {k: v for k, v in msgspec.to_builtins(refer.selector).items() if v not in (None, False, "", {}, 1)}
        title = f"{rule.files[0].pattern}: {refer.kind} by {json.dumps(asked)}"
        found.append(Seen(title, meant, refer.severity))
    return found


def _defined(one: Definition) -> Iterator[str]:
    """Where a name is defined: in a file, and in the folder that is called so, by whichever of its files a rule knows
    it."""
    yield one.path
    steps = one.path.split("/")[:-1]
    if one.name in steps:
        yield "/".join(steps[: steps.index(one.name) + 1])


def _agree(one: frozenset[str], other: frozenset[str]) -> bool:
    """Whether two layouts mean the same; what neither finds in the map is the same nothing."""
    return bool(one & other) or not one or not other


def compared(name: str, truth: Analysis, result: Learned, tree: Tree, judged: Mapping[str, Any], took: float) -> Result:
    """A learned layout beside the one that a person wrote."""
    names = tuple(StockNames(kind=kind, names=names) for kind, names in result.outside.items())
    mine = analyse(tree, load_layout(result.text.encode(), "learned.toml"), Stock((StockList("the base game", names),)))
    theirs, ours = seen(truth), seen(mine)
    lines = Lines(tree)
    known, true = Meanings(ours, lines), Meanings(theirs, lines)
    rules = [one for one in theirs if one.meant]
    # Rule by rule: several may be called the same, such as those for texts that begin with a slash and for others.
    met = [sum(known.has(place, meant) for place, meant in one.meant.items()) for one in rules]
    missing = [(one, number) for one, number in zip(rules, met, strict=True) if number < 0.8 * len(one.meant)]
    bands = {"sure": [0, 0], "likely": [0, 0]}
    wrong: list[str] = []
    looked_at: Counter[bool | None] = Counter()
    for one in ours:
        band = "likely" if one.severity else "sure"
        share = sum(true.has(place, meant) for place, meant in one.meant.items()) / len(one.meant)
        verdict = judged.get(_KIND.sub(": ", one.title, count=1))
        right = share >= 0.8
        if band == "sure" and not right:
            looked_at[verdict] += 1
        bands[band][0] += 1
        bands[band][1] += right
        if not right:
            wrong.append(f"{band}: {one.title} ({share:.0%} of {len(one.meant)})")
    sure = {place for one in ours if not one.severity for place in one.meant}
    # Where a likely rule looks, too, and only that one misses something, no sure rule calls it broken.
    sure_missing = [one.reference for one in mine.resolutions.missing if not one.reference.severity]
    # What a person has looked at and found missing is no mistake.
    genuine = judged.get("broken", {})
    broken = {(one.path, one.where) for one in sure_missing if not genuine.get(one.name)}
    broken -= {(one.reference.path, one.reference.where) for one in truth.resolutions.missing}
    return Result(
        name,
        len(rules),
        len(rules) - len(missing),
        sum(len(one.meant) for one in rules),
        sum(met),
        bands["sure"][0],
        bands["sure"][1],
        bands["likely"][0],
        bands["likely"][1],
        tuple(f"{one.title} ({number} of {len(one.meant)})" for one, number in missing),
        tuple(wrong),
        len(sure),
        len(sure & broken),
        looked_at[True],
        looked_at[True] + looked_at[False],
        took,
    )


class Lines:
    """In which line of its file a place is."""

    def __init__(self, tree: Tree) -> None:
        self.tree = tree
        self.starts: dict[str, list[int]] = {}

    def of(self, place: Place) -> tuple[str, int] | None:
        """The file and the line; None for what is no offset."""
        path, where = place
        if not isinstance(where, int):
            return None
        if path not in self.starts:
            data = self.tree.read(path)
            try:
                text = data.decode("utf-8-sig")
            except UnicodeDecodeError:
                text = data.decode("cp1252", "replace")
            self.starts[path] = [at for at, character in enumerate(text) if character == "\n"]
        return path, bisect.bisect_left(self.starts[path], where)


class Meanings:
    """What is meant where, by all rules of a layout."""

    def __init__(self, rules: list[Seen], lines: Lines) -> None:
        self.lines = lines
        self.exact: dict[Place, list[frozenset[str]]] = {}
        self.near: dict[tuple[str, int], frozenset[str]] = {}
        for one in rules:
            for place, meant in one.meant.items():
                self.exact.setdefault(place, []).append(meant)
                line = lines.of(place)
                if line is not None:
                    self.near[line] = self.near.get(line, frozenset()) | meant

    def has(self, place: Place, meant: frozenset[str]) -> bool:
        """Whether a rule means the same there, or the same thing in the same line: one may ask for the whole way to a
        module, and another for its last step."""
        if any(_agree(meant, other) for other in self.exact.get(place, ())):
            return True
        line = self.lines.of(place)
        if line is None or line not in self.near:
            return False
        return bool(meant & self.near[line]) or not (meant or self.near[line])


@dataclass(frozen=True)
class Material:
    """A map, and the layout that a person wrote for it."""

    name: str
    root: Path
    layout: Layout
    base: Path | None = None


def materials(folder: Path, packages: Path, foreign: Path) -> Iterator[Material]:
    """The demo maps, the foreign projects, the open games."""
    demos = folder / "demos"
    subprocess.run([*HOOKSET, "demo", str(demos)], check=True, capture_output=True)
    for file in sorted(demos.rglob("hookset.toml")):
        yield Material(f"demo: {file.parent.name}", file.parent, open_project(file.parent).layout)
    subprocess.run([sys.executable, ROOT / "tools/make_salt_fen.py", str(folder)], check=True, capture_output=True)
    layout = named_layout("salt-fen.toml", ROOT / "docs/own-layout")
    yield Material("docs: salt-fen", folder / "salt-fen", layout, folder / "game")
    for name in ("cinder", "harrow"):
        if (foreign / name).is_dir():
            layout = named_layout(f"{name}.toml", foreign / name / "ours")
            base = foreign / name / "base"
            yield Material(f"foreign: {name}", foreign / name / "map", layout, base if base.is_dir() else None)
    for game in GAMES:
        root = laid_out(game, packages, folder)
        yield Material(f"open game: {game.name}", root, open_project(root).layout)


def without_ours(root: Path) -> FolderTree:
    """The map as it is without anything of Hook Set."""
    return FolderTree(root, lambda path: path.startswith(".hookset") or path == "hookset.toml")


def main(asked: argparse.Namespace) -> None:
    judgements = Path(__file__).parent / "open_games/learned.toml"
    judged = tomllib.loads(judgements.read_text(encoding="utf-8")) if judgements.is_file() else {}
    results: list[Result] = []
    # As the program itself does: what is read stays, and is not looked through again and again.
    gc.set_threshold(200_000, 20, 20)
    with tempfile.TemporaryDirectory() as place:
        packages = Path(asked.packages or place)
        for one in materials(Path(place), packages, Path(asked.foreign or place)):
            if asked.material and not any(word in one.name for word in asked.material):
                continue
            tree = without_ours(one.root)
            truth = analyse(tree, one.layout, Stock())
            further = [*base_trees(one.base)] if one.base is not None else []
            begun = time.process_time()
            result = learned(tree, one.name, further)
            took = time.process_time() - begun
            results.append(compared(one.name, truth, result, tree, judged.get(one.name, {}), took))
            show(results[-1])
    projects = Path(asked.foreign) if asked.foreign else None
    if not asked.material:
        names = ("cinder", "harrow") if projects else ()
        faults = [faults_of(Path(projects or ""), name) for name in names]
        by_hand = ROOT / "benchmarks/foreign"
        packs = [
            (packs_of(Path(projects or ""), name, None), packs_of(Path(projects or ""), name, by_hand / f"{name}.toml"))
            for name in names
        ]
        PAGE.write_text(page(results, _of_faults(faults) + _of_packs(packs)), encoding="utf-8")


def page(results: list[Result], used: str) -> str:
    text = """# What is learned without a word

Written by `python benchmarks/learning.py`: layouts learned from maps, first pass and without any answers, beside those
that people wrote for the same maps. A rule of the hand-written layout is *found* if four in five of its references are
seen at the same place and mean the same there; a reference is *met* if it is. What is called as a folder is defined in
that folder, by whichever of its files a rule knows it. A learned rule is *confirmed* if the hand-written layout has it
as well. What is not confirmed is not therefore wrong: hand-written layouts of large games have only a part of what
there is. *First* are the figures of the first run on a material, before anything was mended: what is to be expected of
a game that nobody has looked at. Together, {found} of {rules} rules and {met} of {references} references of {games}
open games.

| material | rules found | first | references met | first | sure rules confirmed | first | likely ones | CPU |
|---|---|---|---|---|---|---|---|---|
"""
    games = [one for one in results if one.name.startswith("open game")]
    text = text.format(
        found=sum(one.found for one in games),
        rules=sum(one.rules for one in games),
        met=f"{sum(one.met for one in games):,}",
        references=f"{sum(one.references for one in games):,}",
        games=len(games),
    )
    for one in results:
        rules, references, sure = FIRST.get(one.name, ("", "", ""))
        text += (
            f"| {one.name} | {one.found} of {one.rules} | {rules} | {one.met:,} of {one.references:,} | {references}"
            f" | {one.right} of {one.sure} | {sure} | {one.likely_right} of {one.likely} | {one.seconds:.1f} s |\n"
        )
    text += _of_looked_at(results) + used + _of_false(results)
    for one in results:
        if one.missing:
            text += f"\n## {one.name}: not found\n\n" + "".join(f"* `{title}`\n" for title in one.missing)
    return text


def _of_looked_at(results: list[Result]) -> str:
    text = """
## Sure rules that are not in the hand-written layouts

Looked at by hand, by names and examples: whether the game means it so (benchmarks/open_games/learned.toml).

| material | sure | confirmed | looked at | meant so | right, of those known |
|---|---|---|---|---|---|
"""
    for one in results:
        if one.looked_at:
            right, known = one.right + one.meant, one.right + one.looked_at
            text += f"| {one.name} | {one.sure} | {one.right} | {one.looked_at} | {one.meant} | {right / known:.0%} |\n"
    return text


def _of_faults(faults: list[Faults]) -> str:
    text = """
## Faults found

Two projects of other hands with faults planted in them one at a time, and traps: what looks like a fault and is none.
The layout is learned from the sound map, with the base game where there is one. Layouts written by people find all.

| project | faults found | first | on the right line | false alarms | traps told |
|---|---|---|---|---|---|
"""
    for one in faults:
        text += f"| {one.name} | {one.found} of {one.faults} | {FIRST_FAULTS[one.name]} | {one.right} | {one.false}"
        text += f" | {one.traps} of {one.of_traps} |\n"
    found, whole = sum(one.found for one in faults), sum(one.faults for one in faults)
    return text + (f"\nTogether {found} of {whole}, {found / whole:.0%}.\n" if whole else "")


def _of_packs(packs: list[tuple[Packs, Packs]]) -> str:
    text = """
## Packs installed

The packs of both projects, drafted and installed without a word, going on with whatever of the notes was not
understood: how many of the facts hold that should, by a layout learned from the map as it was, and by the one that a
person wrote.

| project | untouched | learned | first | written by a person |
|---|---|---|---|---|
"""
    for mine, theirs in packs:
        text += f"| {mine.name} | {mine.untouched} of {mine.facts} | {mine.drafted} | {FIRST_FACTS[mine.name]}"
        text += f" | {theirs.drafted} |\n"
    return text


def _of_false(results: list[Result]) -> str:
    text = """
## What sure rules call broken and the hand-written layout does not

Names that both call missing are missing: the maps of open games have some. Of the others each may be a mistake of the
learned layout; those that were looked at and are missing indeed (`broken` in `benchmarks/open_games/learned.toml`) are
left out.

| material | references by sure rules | called broken | in 1,000 |
|---|---|---|---|
"""
    for one in results:
        rate = 1000 * one.false / max(1, one.sure_references)
        text += f"| {one.name} | {one.sure_references:,} | {one.false:,} | {rate:.1f} |\n"
    return text


def show(one: Result) -> None:
    print(
        f"{one.name}: rules {one.found}/{one.rules}, references {one.met}/{one.references},"
        f" sure {one.right}/{one.sure}, likely {one.likely_right}/{one.likely}, {one.seconds:.1f} s of CPU"
    )
    for title in one.missing:
        print(f"   not found: {title}")
    for title in one.wrong:
        print(f"   not in the layout: {title}")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--packages")
    parser.add_argument("--foreign")
    parser.add_argument("material", nargs="*")
    main(parser.parse_args())
