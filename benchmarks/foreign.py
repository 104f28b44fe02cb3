"""What a check finds in two projects that other hands have made, with faults planted in them and traps that look like
faults: with their layouts as they came, and rewritten in the words that there are now. Writes docs/foreign.md.

    python benchmarks/foreign.py FOLDER_OF_THE_PROJECTS [HOOKSET]

The folder holds a `run.py` that plants each fault, runs `hookset check` and compares what is told with what should be.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent / "foreign"
PAGE = Path(__file__).parent.parent / "docs/foreign.md"
PROJECTS = ("cinder", "harrow")
FOUND = re.compile(r"faults: found (\d+)/(\d+), right place (\d+)/\d+, false alarms (\d+), traps alarmed (\d+)/(\d+)")
FIRST = {
    "cinder": "54 of 54 found, 52 on the right line, 1 false alarm, 0 of 20 traps with three `accept`s, 2 without",
    "harrow": "14 of 14 found, 14 on the right line, no false alarm, 1 of 6 traps",
}
"""On the day they came."""


@dataclass(frozen=True)
class Result:
    """One project with one layout."""

    found: int
    faults: int
    right: int
    false: int
    traps: int
    of_traps: int
    clean: tuple[str, ...]
    """What is told of the map without any fault."""
    lines: int
    """Of the layout."""
    accepts: int


def measured(projects: Path, name: str, hookset: str, rewritten: bool) -> Result:
    """Run the faults of one project in a copy of the folder."""
    with tempfile.TemporaryDirectory() as place:
        whole = Path(place) / "projects"
        shutil.copytree(projects, whole)
        layout, terms = whole / name / f"ours/{name}.toml", whole / name / "ours/hookset.faults.toml"
        if rewritten:
            shutil.copy(HERE / f"{name}.toml", layout)
            if terms.is_file():
                terms.write_text(terms.read_text(encoding="utf-8").partition("[[check.accept]]")[0], encoding="utf-8")
        command = [sys.executable, "run.py", "--hookset", hookset, "--what", "faults", name]
        told = subprocess.run(command, cwd=whole, capture_output=True, text=True, check=True).stdout
        match = FOUND.search(told)
        if match is None:
            raise SystemExit(told)
        found, faults, right, false, traps, of_traps = map(int, match.groups())
        clean = tuple(
            line.strip().removeprefix("clean: ") for line in told.splitlines() if line.startswith("    clean: ")
        )
        accepts = terms.read_text(encoding="utf-8").count("[[check.accept]]") if terms.is_file() else 0
        lines = len(layout.read_text(encoding="utf-8").splitlines())
        return Result(found, faults, right, false, traps, of_traps, clean, lines, accepts)


def page(results: dict[tuple[str, bool], Result]) -> str:
    text = """# Projects that other hands have made

Written by `python benchmarks/foreign.py`. Two made-up games in forms that no shipped layout has, each with a map,
faults planted in it one at a time, and traps: what looks like a fault and is none. *As it came* is the layout that
somebody wrote from the docs alone, for an earlier version; *now* is `benchmarks/foreign`, in today's words.

| project | layout | lines | `accept`s | faults found | on the right line | false alarms | traps told |
|---|---|---|---|---|---|---|---|
"""
    for (name, rewritten), one in results.items():
        text += (
            f"| {name} | {'now' if rewritten else 'as it came'} | {one.lines} | {one.accepts} |"
            f" {one.found} of {one.faults} | {one.right} | {one.false} | {one.traps} of {one.of_traps} |\n"
        )
    for name in PROJECTS:
        text += f"\n{name}, on the day it came: {FIRST[name]}.\n"
        told = results[name, True].clean
        text += "".join(f"* told of the map without any fault: {line}\n" for line in told) if told else ""
    return text + "\nWhat is told of harrow's own map is so: its makers list both as what a good check says of it.\n"


def main(projects: Path, hookset: str) -> None:
    results = {
        (name, rewritten): measured(projects, name, hookset, rewritten)
        for name in PROJECTS
        for rewritten in (False, True)
    }
    PAGE.write_text(page(results), encoding="utf-8")
    print(page(results))


if __name__ == "__main__":
    if len(sys.argv) < 2:
        raise SystemExit(__doc__)
    main(Path(sys.argv[1]), sys.argv[2] if len(sys.argv) > 2 else str(Path(sys.executable).parent / "hookset"))
