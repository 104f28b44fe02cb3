"""What a learned layout is good for, in two projects of other hands, without a word of anybody: how many of the faults
that were planted in them a check finds by it, and how many of the facts hold once their packs were installed by it."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
import tempfile
import zipfile
from dataclasses import dataclass
from pathlib import Path

from foreign import FOUND

__all__ = ["FIRST_FACTS", "FIRST_FAULTS", "Faults", "Packs", "faults_of", "packs_of"]

HOOKSET = str(Path(sys.executable).parent / "hookset")
FIRST_FAULTS = {"cinder": "23 of 54", "harrow": "11 of 14"}
FIRST_FACTS = {"cinder": "210 of 354", "harrow": "51 of 60"}
"""Of the first runs of these measures; packs of layouts without seats cannot be installed, and were not counted."""
_SUM = re.compile(r"^ *sum +(\d+)/(\d+) +(\d+)/\d+", re.M)
_FORCED = '"--anyway", "--incomplete", "--keep-mine"'


@dataclass(frozen=True)
class Faults:
    """What the check of one project came to."""

    name: str
    found: int
    faults: int
    right: int
    """Told on the right line."""
    false: int
    traps: int
    of_traps: int


def faults_of(projects: Path, name: str) -> Faults:
    """Learn from the map in which all is done, and check it with each of the faults."""
    with tempfile.TemporaryDirectory() as place:
        whole = Path(place) / "projects"
        shutil.copytree(projects, whole)
        project, sound = whole / name, Path(place) / "sound"
        source = project / json.loads((project / "faults.json").read_text(encoding="utf-8"))["map"]
        if source.is_dir():
            shutil.copytree(source, sound)
        else:
            with zipfile.ZipFile(source) as archive:
                archive.extractall(sound)
        _learned(project, sound, Path(place))
        match = FOUND.search(_run(whole, "faults", name))
        assert match is not None
        return Faults(name, *map(int, match.groups()))


@dataclass(frozen=True)
class Packs:
    """Facts that hold of those that should once all packs of a project are installed."""

    name: str
    facts: int
    untouched: int
    """That hold before anything is done."""
    drafted: int
    """With drafts as they came, gone on with whatever they did not understand."""


def packs_of(projects: Path, name: str, layout: Path | None) -> Packs:
    """Install the packs of a project by a layout that somebody wrote, or by one that is learned from its map."""
    with tempfile.TemporaryDirectory() as place:
        whole = Path(place) / "projects"
        shutil.copytree(projects, whole)
        project = whole / name
        if layout is None:
            _learned(project, project / "map", Path(place))
        else:
            shutil.copy(layout, project / f"ours/{name}.toml")
        run = project / "ours/run.toml"
        run.write_text(run.read_text(encoding="utf-8").replace('"--anyway"', _FORCED), encoding="utf-8")
        match = _SUM.search(_run(whole, "drafted", name))
        assert match is not None
        untouched, facts, drafted = map(int, match.groups())
        return Packs(name, facts, untouched, drafted)


def _run(projects: Path, what: str, name: str) -> str:
    command = [sys.executable, "run.py", "--hookset", HOOKSET, "--what", what, name]
    return subprocess.run(command, cwd=projects, capture_output=True, text=True, check=True).stdout


def _learned(project: Path, source: Path, place: Path) -> None:
    """Put what is learned from a map in the place of the layout that somebody wrote."""
    name = project.name
    layout = place / f"{name}.layout.toml"
    base = ["--base", str(project / "base")] if (project / "base").is_dir() else []
    learn = [HOOKSET, "layout", "learn", str(source), *base, "--to", str(layout)]
    subprocess.run(learn, check=True, capture_output=True)
    shutil.copy(layout, project / f"ours/{name}.toml")
    _told_of(project, layout.with_name(f"{name}.stock.json"))


def _told_of(project: Path, stock: Path) -> None:
    """The project's own settings, less what goes with the layout of its maker."""
    run = project / "ours/run.toml"
    lines = run.read_text(encoding="utf-8").splitlines()
    run.write_text("\n".join(line for line in lines if not line.startswith("stock =")), encoding="utf-8")
    for file in (project / "ours/hookset.toml", project / "ours/hookset.faults.toml"):
        if not file.is_file():
            continue
        text = file.read_text(encoding="utf-8").partition("[[check.accept]]")[0]
        text = re.sub(r"(?m)^(players|severity).*$", "", text)
        stocks = f"stock = [{json.dumps(str(stock))}]" if stock.is_file() else "stock = []"
        file.write_text(re.sub(r"(?m)^stock = .*$", stocks.replace("\\", "\\\\"), text), encoding="utf-8")
