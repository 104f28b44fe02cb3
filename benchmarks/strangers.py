"""What drafting makes of packs by other hands, and what a walk through their notes. Writes docs/strangers.md.

    python benchmarks/strangers.py STRANGERS FOREIGN

Both are folders with a `run.py` of their own that installs each pack as drafted and judges the map that comes of it.
For the strangers there is in `walks/` what a builder decided (NAME.toml), and what the builder wishes as options of
`install` (NAME.options).
"""

from __future__ import annotations

import json
import re
import shlex
import shutil
import stat
import subprocess
import sys
import tempfile
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

PAGE = Path(__file__).parent.parent / "docs/strangers.md"
WALKS = Path(__file__).parent / "walks"
LAYOUTS = {"brackwater": "split-lua"}
"""The layout of a map that is not called after it."""
FORCED = ("--incomplete", "--anyway", "--keep-mine")
"""Options that go on whatever is open, and keep the map's own files."""
FIRST = """| | strangers | foreign |
|---|---|---|
| facts met, of those to be met | 2 of 195 | 107 of 293 |
| facts broken that held before | 1 | not counted |
| ended as done, and was not right | 1 of 8 packs | not counted |"""


@dataclass(frozen=True)
class Outcome:
    """What came of one pack."""

    name: str
    met: int
    wanted: int
    broken: int
    done: bool


def program(folder: Path, *more: str, wishes: Path | None = None) -> Path:
    """A program that adds options to each install, and the builder's wishes where there are any for the pack."""
    file = folder / ("hookset-" + "-".join(word.strip("-") for word in (*more, "wished" if wishes else "plain")))
    rows = [
        f'*"/{one.stem}.zip "*) set -- "$@" {shlex.join(one.read_text(encoding="utf-8").splitlines())};;'
        for one in (sorted(wishes.glob("*.options")) if wishes is not None else ())
    ]
    wished = "\n".join(['case " $* " in', *rows, "esac"])
    called = f'exec {sys.executable} -m hookset "$@"'
    added = " ".join(more)
    file.write_text(
        f'#!/bin/sh\ncase " $* " in *" install "*)\n{wished}\n{called} {added};; esac\n{called}\n', encoding="utf-8"
    )
    file.chmod(file.stat().st_mode | stat.S_IXUSR)
    return file


@dataclass(frozen=True)
class Walked:
    """What came of one pack after the walk."""

    name: str
    met: int
    every: int
    decisions: int
    open: int
    """Lines that were not understood, and entries that were unsure, before anything was decided."""


def strangers(folder: Path, hookset: Path, cases: Path) -> list[Outcome]:
    ran = subprocess.run(
        [sys.executable, str(folder / "run.py"), "--hookset", str(hookset), "--cases", str(cases)],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    rows = re.findall(r"^(\S+) +(\d+)/(\d+) +(\d+) +exit (\d+)", ran.stdout, re.MULTILINE)
    return [Outcome(name, int(met), int(wanted), int(broken), code == "0") for name, met, wanted, broken, code in rows]


def with_wishes(folder: Path, hookset: Path, place: Path) -> Path:
    """The cases with the builder's wishes as options."""
    cases = place / "cases"
    shutil.copytree(folder / "cases", cases)
    # The facts compare with the map as it was.
    (place / "maps").symlink_to(folder / "maps")
    for case in cases.iterdir():
        root = laid_out(folder, case, hookset, place / "drafted" / case.name)
        draft = json.loads(run(hookset, root, "draft", pack_of(root), "--show", "--json").stdout)
        (case / "options.txt").write_text("".join(f"{word}\n" for word in options(case.name, draft)), encoding="utf-8")
    return cases


def options(name: str, draft: Mapping[str, Any]) -> list[str]:
    """What the builder wishes of a pack, as options: settings and places that the draft has, and all else."""
    words = (WALKS / f"{name}.options").read_text(encoding="utf-8").splitlines()
    pairs = [(words[n], words[n + 1]) for n in range(0, len(words), 2)]
    known = {
        "--set": {one["entry"]["name"] for one in draft["setting"]},
        "--at": {one["entry"]["name"] for one in draft["place"]},
    }
    return [
        word for pair in pairs if pair[1].split("=")[0] in known.get(pair[0], pair[1].split("=")[0]) for word in pair
    ]


def of_today(folder: Path, place: Path, layouts: str) -> Path:
    """A copy of the cases in which the layouts say where things stand, which they could not when these were made."""
    made = place / folder.name
    shutil.copytree(folder, made)
    for layout in made.glob(layouts):
        stand = WALKS / "stand" / layout.name
        if stand.exists():
            layout.chmod(0o644)
            layout.write_text(
                layout.read_text(encoding="utf-8") + "\n" + stand.read_text(encoding="utf-8"), encoding="utf-8"
            )
    return made


def laid_out(folder: Path, case: Path, hookset: Path, place: Path) -> Path:
    """A fresh map for a case, started; its pack lies beside it. Gives the map's folder."""
    base = (case / "map.txt").read_text().strip()
    place.mkdir(parents=True)
    shutil.copytree(folder / "maps" / base, place / "map")
    shutil.copyfile(folder / "maps/base.stock.json", place / "base.stock.json")
    shutil.copyfile(folder / "layouts" / f"{LAYOUTS.get(base, base)}.toml", place / "layout.toml")
    shutil.copyfile(case / "pack.zip", place / f"{case.name}.zip")
    run(hookset, place, "start", "map", "--layout", "layout.toml")
    return place / "map"


def pack_of(root: Path) -> str:
    return str(next(root.parent.glob("*.zip")))


def run(hookset: Path, folder: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([str(hookset), *arguments], cwd=folder, capture_output=True, text=True, check=False)


def walked(folder: Path, hookset: Path, place: Path) -> list[Walked]:
    """Each pack after the decisions of its walk, with the builder's wishes."""
    found = []
    for case in sorted((folder / "cases").iterdir()):
        decided = WALKS / f"{case.name}.toml"
        root = laid_out(folder, case, hookset, place / case.name)
        found.append(after_walk(folder, hookset, case, root, decided, None))
    return found


def foreign_map(project: Path, case: str, hookset: Path, place: Path) -> Path:
    """A fresh map for a case of a foreign project, with its layout and stock; its pack lies beside it."""
    ours = tomllib.loads((project / "ours/run.toml").read_text(encoding="utf-8"))
    lay = place / project.name / "lay"
    if not lay.exists():
        lay.mkdir(parents=True)
        for layout in (project / "ours").glob("*.toml"):
            shutil.copy(layout, lay)
        for arguments in ours.get("stock", ()):
            run(hookset, lay, *(word.replace("{project}", str(project)) for word in arguments))
    root = lay.parent / case
    start = next(one.get("start", "map") for one in ours["case"] if one["name"] == case)
    source = project / "map" if start == "map" else project / "cases" / case / start
    if source.is_dir():
        shutil.copytree(source, root / "map")
    else:
        shutil.unpack_archive(source, root / "map")
    shutil.copy(project / "ours/hookset.toml", root / "map")
    shutil.copy(project / "cases" / case / "pack.zip", root / f"{case}.zip")
    return root / "map"


def foreign_walked(folder: Path, hookset: Path, place: Path) -> list[Walked]:
    """Those packs of the foreign projects of which there is a walk, with the builder's wishes."""
    found = []
    for decided in sorted((WALKS / "foreign").glob("*.toml")):
        (case,) = folder.glob(f"*/cases/{decided.stem}")
        root = foreign_map(case.parent.parent, case.name, hookset, place)
        found.append(after_walk(folder, hookset, case, root, decided, foreign_wishes(decided, case)))
    return found


def foreign_wishes(decided: Path, case: Path) -> list[str]:
    """What the builder wishes of a foreign pack, as options."""
    lists = [decided.with_suffix(ending) for ending in (".options", ".walked")]
    words = [word for one in lists if one.exists() for word in one.read_text(encoding="utf-8").splitlines()]
    return [word.replace("{case}", str(case)) for word in words]


@dataclass(frozen=True)
class Upgrade:
    """An earlier version that is installed first, and what its builder has changed in it since (`NAME.before`)."""

    case: str
    file: str
    old: str
    new: str


def upgraded(hookset: Path, case: Path, root: Path, decided: Path) -> Path | None:
    """Have the earlier version of a pack in the map, if there is one. Gives a copy of the map as it is then."""
    before = decided.with_suffix(".before")
    if not before.exists():
        return None
    change = Upgrade(*before.read_text(encoding="utf-8").splitlines())
    shutil.rmtree(root)
    earlier = foreign_map(case.parent.parent, change.case, hookset, root.parent.parent / "before" / case.name)
    shutil.move(earlier, root)
    shutil.move(earlier.parent / f"{change.case}.zip", root.parent)
    walk = decided.with_name(f"{change.case}.toml")
    pack = str(root.parent / f"{change.case}.zip")
    run(hookset, root, "draft", pack, "--answers", str(walk), "--json")
    run(hookset, root, "install", pack, "--anyway", *foreign_wishes(walk, case.with_name(change.case)))
    file = root / change.file
    file.write_text(file.read_text(encoding="utf-8").replace(change.old, change.new), encoding="utf-8")
    shutil.copytree(root, root.with_name("as-before"))
    return root.with_name("as-before")


def after_walk(
    folder: Path, hookset: Path, case: Path, root: Path, decided: Path, wishes: Sequence[str] | None
) -> Walked:
    """What comes of a pack after the decisions of a walk; without `wishes` with those that the draft has."""
    pack = str(root.parent / f"{case.name}.zip")
    compared = upgraded(hookset, case, root, decided)
    before = json.loads(run(hookset, root, "draft", pack, "--show", "--json").stdout)
    after = json.loads(run(hookset, root, "draft", pack, "--answers", str(decided), "--json").stdout)
    assert not after["not_understood"], f"{case.name}: lines that nobody has decided about"
    wanted = options(case.name, after) if wishes is None else wishes
    if (made := decided.with_suffix(".derive")).exists():
        # A template is no pack for a map: one is derived from it.
        words = made.read_text(encoding="utf-8").splitlines()
        run(hookset, root, "derive", pack, *words, "--yes", "--out", str(root.parent / "derived"))
        pack = str(root.parent / "derived")
    run(hookset, root, "install" if compared is None else "upgrade", pack, "--anyway", *wanted)
    ignored = ["--ignore", "hookset.toml", "--ignore", ".hookset/**"]
    ignored += [] if compared is None else ["--before", str(compared)]
    judged = subprocess.run(
        [sys.executable, str(folder / "judge.py"), str(case), str(root), *ignored],
        capture_output=True, text=True, check=False,
    ).stdout  # fmt: skip
    holds = re.search(r"(\d+) of (\d+) facts hold", judged)
    assert holds is not None, judged
    decisions = len(tomllib.loads(decided.read_text(encoding="utf-8"))["step"])
    waiting = before["not_understood"] + before["unsure"]
    return Walked(case.name, int(holds[1]), int(holds[2]), decisions, waiting)


def foreign(folder: Path, hookset: Path) -> tuple[int, int]:
    ran = subprocess.run(
        [sys.executable, str(folder / "run.py"), "--hookset", str(hookset), "--what", "drafted"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    found = re.search(r"SUM +untouched (\d+)/(\d+) +drafted (\d+)/", ran.stdout)
    assert found is not None, ran.stdout
    before, every, after = map(int, found.groups())
    return after - before, every - before


def page(
    refusing: list[Outcome], going_on: list[Outcome], met: tuple[int, int], walks: list[Walked], theirs: list[Walked]
) -> str:
    wrong = [one for one in refusing if one.done and (one.broken or one.met < one.wanted)]
    facts, others = (f"{sum(w.met for w in lot)} of {sum(w.every for w in lot)}" for lot in (walks, theirs))
    text = f"""# Packs by other hands

Written by `python benchmarks/strangers.py`: packs as people publish them, by authors who had never seen this tool, for
maps of the shipped layouts (*strangers*) and for two projects that it had never seen (*foreign*). Each is installed as
drafted, and the map is judged by facts that hold where it was set up by hand.

First figures, before anything was mended, without anybody's wishes:

{FIRST}

Now, with the builder's wishes as options, where the draft has a setting or a place for them. (The layouts that these
packs were made for could not say where things stand: `benchmarks/walks/stand/` adds that.)

| | strangers | foreign |
|---|---|---|
| facts met, of those to be met, going on all the same | {_sum(going_on)} | {met[0]} of {met[1]} |
| facts broken that held before, going on all the same | {sum(one.broken for one in going_on)} | not counted |
| ended as done without `--incomplete`, and was not right | {len(wrong)} of {len(refusing)} packs | not counted |
| facts that hold after a walk through the notes | {facts} | {others}, of {len(theirs)} packs |

A draft of which not all of the notes was understood is refused. *Going on all the same* is `--incomplete --anyway
--keep-mine`: without what was not understood, whatever is missing, and keeping the map's own files. A *walk* is
`hookset draft PACK --answers FILE`, with a decision for each place that somebody has to decide; those of these packs
are in `benchmarks/walks/`, written by somebody who had read the notes and knew the map. From one of the foreign packs,
a template, the builder's own is derived; another is a new version, whose notes say how to come from the one before:
that is installed, changed by hand, and upgraded. (First figures of these two: of the template 14 of 54 facts, since
what was derived from it needed a picture that it brings itself; of the new version 50 of 51, since a thing that takes
the place of another went to the end of its file.)

## Pack by pack

| pack | met | broken | without `--incomplete` | open in the draft | decisions | facts after the walk |
|---|---|---|---|---|---|---|
"""
    for plain, forced, walk in zip(refusing, going_on, walks, strict=True):
        ended = "done" if plain.done else "refused or stopped"
        text += f"| {forced.name} | {forced.met} of {forced.wanted} | {forced.broken} | {ended} "
        text += f"| {walk.open} | {walk.decisions} | {walk.met} of {walk.every} |\n"
    for walk in theirs:
        text += f"| {walk.name} (foreign) | | | | {walk.open} | {walk.decisions} | {walk.met} of {walk.every} |\n"
    return text


def _sum(outcomes: list[Outcome]) -> str:
    return f"{sum(one.met for one in outcomes)} of {sum(one.wanted for one in outcomes)}"


def main() -> None:
    ours, theirs = Path(sys.argv[1]).resolve(), Path(sys.argv[2]).resolve()
    with tempfile.TemporaryDirectory() as name:
        place = Path(name)
        plain, forced = program(place), program(place, *FORCED)
        ours = of_today(ours, place, "layouts/*.toml")
        theirs = of_today(theirs, place, "*/ours/*.toml")
        cases = with_wishes(ours, plain, place)
        drafts = strangers(ours, plain, cases), strangers(ours, forced, cases)
        wished = program(place, *FORCED, wishes=WALKS / "foreign")
        walks = walked(ours, plain, place / "walked"), foreign_walked(theirs, plain, place / "foreign-walked")
        text = page(*drafts, foreign(theirs, wished), *walks)
    PAGE.write_text(text, encoding="utf-8")
    print(text)


if __name__ == "__main__":
    main()
