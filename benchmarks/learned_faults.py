"""How many faults that were planted in two projects of other hands a check finds by a layout that was learned from the
sound map, without a word of anybody: beside the layouts that people wrote, which find all of them."""

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

__all__ = ["FIRST_FAULTS", "Faults", "faults_of"]

HOOKSET = str(Path(sys.executable).parent / "hookset")
FIRST_FAULTS = {"cinder": "23 of 54", "harrow": "11 of 14"}
"""Of the first run, before anything was mended."""
_FOUND = re.compile(r"faults: found (\d+)/(\d+), right place (\d+)/\d+, false alarms (\d+), traps alarmed (\d+)/(\d+)")


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
        layout = Path(place) / f"{name}.layout.toml"
        base = ["--base", str(project / "base")] if (project / "base").is_dir() else []
        learn = [HOOKSET, "layout", "learn", str(sound), *base, "--to", str(layout)]
        subprocess.run(learn, check=True, capture_output=True)
        shutil.copy(layout, project / f"ours/{name}.toml")
        _told_of(project, layout.with_name(f"{name}.stock.json"))
        command = [sys.executable, "run.py", "--hookset", HOOKSET, "--what", "faults", name]
        told = subprocess.run(command, cwd=whole, capture_output=True, text=True, check=True).stdout
        match = _FOUND.search(told)
        if match is None:
            raise SystemExit(told)
        return Faults(name, *map(int, match.groups()))


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
