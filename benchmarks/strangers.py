"""What drafting makes of packs by other hands. Writes docs/strangers.md.

    python benchmarks/strangers.py STRANGERS FOREIGN

Both are folders with a `run.py` of their own that installs each pack as drafted and judges the map that comes of it.
"""

from __future__ import annotations

import re
import stat
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

PAGE = Path(__file__).parent.parent / "docs/strangers.md"
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


def program(folder: Path, *more: str) -> Path:
    """A program that adds options to each install."""
    file = folder / ("hookset-" + "-".join(word.strip("-") for word in more) if more else "hookset-plain")
    added = " ".join(more)
    file.write_text(
        f'#!/bin/sh\ncase " $* " in *" install "*) exec {sys.executable} -m hookset "$@" {added};; esac\n'
        f'exec {sys.executable} -m hookset "$@"\n'
    )
    file.chmod(file.stat().st_mode | stat.S_IXUSR)
    return file


def strangers(folder: Path, hookset: Path) -> list[Outcome]:
    ran = subprocess.run(
        [sys.executable, str(folder / "run.py"), "--hookset", str(hookset)], capture_output=True, text=True, check=True
    )
    rows = re.findall(r"^(\S+) +(\d+)/(\d+) +(\d+) +exit (\d+)", ran.stdout, re.MULTILINE)
    return [Outcome(name, int(met), int(wanted), int(broken), code == "0") for name, met, wanted, broken, code in rows]


def foreign(folder: Path, hookset: Path) -> tuple[int, int]:
    ran = subprocess.run(
        [sys.executable, str(folder / "run.py"), "--hookset", str(hookset), "--what", "drafted"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    found = re.search(r"SUM +untouched (\d+)/(\d+) +drafted (\d+)/", ran.stdout)
    assert found is not None, ran.stdout
    before, every, after = map(int, found.groups())
    return after - before, every - before


def page(refusing: list[Outcome], going_on: list[Outcome], met: tuple[int, int]) -> str:
    wrong = [one for one in refusing if one.done and (one.broken or one.met < one.wanted)]
    text = f"""# Packs by other hands

Written by `python benchmarks/strangers.py`: packs as people publish them, by authors who had never seen this tool, for
maps of the shipped layouts (*strangers*) and for two projects that it had never seen (*foreign*). Each is installed as
drafted, without anybody's choices, and the map is judged by facts that hold where it was set up by hand.

First figures, before anything was mended:

{FIRST}

Now:

| | strangers | foreign |
|---|---|---|
| facts met, of those to be met, going on all the same | {_sum(going_on)} | {met[0]} of {met[1]} |
| facts broken that held before, going on all the same | {sum(one.broken for one in going_on)} | not counted |
| ended as done without `--incomplete`, and was not right | {len(wrong)} of {len(refusing)} packs | not counted |

A draft of which not all of the notes was understood is refused. *Going on all the same* is `--incomplete --anyway
--keep-mine`: without what was not understood, whatever is missing, and keeping the map's own files.

## Pack by pack

| pack | met | broken | without `--incomplete` |
|---|---|---|---|
"""
    for plain, forced in zip(refusing, going_on, strict=True):
        ended = "done" if plain.done else "refused or stopped"
        text += f"| {forced.name} | {forced.met} of {forced.wanted} | {forced.broken} | {ended} |\n"
    return text


def _sum(outcomes: list[Outcome]) -> str:
    return f"{sum(one.met for one in outcomes)} of {sum(one.wanted for one in outcomes)}"


def main() -> None:
    ours, theirs = Path(sys.argv[1]).resolve(), Path(sys.argv[2]).resolve()
    with tempfile.TemporaryDirectory() as place:
        plain, forced = program(Path(place)), program(Path(place), *FORCED)
        text = page(strangers(ours, plain), strangers(ours, forced), foreign(theirs, forced))
    PAGE.write_text(text, encoding="utf-8")
    print(text)


if __name__ == "__main__":
    main()
