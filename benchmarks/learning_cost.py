"""What it takes to learn the layouts of open games, beside a check of the same files with the layout that a person
wrote. Each in a process of its own, as a user starts it, without a cache. Writes docs/learning-cost.md.

    python benchmarks/learning_cost.py [--packages FOLDER] [GAME ...]
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from open_games import GAMES, laid_out
from timing import Took, timed

ROOT = Path(__file__).parent.parent
PAGE = ROOT / "docs/learning-cost.md"
HOOKSET = (sys.executable, "-m", "hookset")
_MOST, _TIMES = 500, 2.0
"""MB, and how many checks learning should take at most."""


@dataclass(frozen=True)
class Cost:
    """Of one game."""

    name: str
    files: int
    check: Took
    learn: Took

    @property
    def times(self) -> float:
        """How many checks learning takes, in CPU time."""
        return self.learn.cpu / self.check.cpu


def cost_of(name: str, root: Path, spare: Path) -> Cost:
    files = sum(path.is_file() for path in root.rglob("*"))
    check = timed(*HOOKSET, "check", folder=root, cache=spare / f"{name}.check")
    learn = ("layout", "learn", str(root), "--to", str(spare / f"{name}.learned.toml"))
    return Cost(name, files, check, timed(*HOOKSET, *learn, folder=spare, cache=spare / "learn", codes=(0,)))


def page(costs: Sequence[Cost]) -> str:
    checks, learns = sum(one.check.cpu for one in costs), sum(one.learn.cpu for one in costs)
    over = sum(one.learn.memory > _MOST for one in costs)
    text = f"""# What it takes to learn a layout

Written by `python benchmarks/learning_cost.py`: `hookset layout learn` on the data of open games, beside `hookset
check` of the same files with the layout that a person wrote for them, both without a cache, in seconds of CPU time of
all their processes, and MB of the largest.

| | goal | together, or the most |
|---|---|---|
| learning, in checks | {_TIMES:g} | {learns / checks:.1f} |
| memory | {_MOST} MB | {max(one.learn.memory for one in costs):,.0f} MB; more than the goal in {over} of {len(costs)} |

A check asks for what the layout says, in the formats that it names. Learning tries formats, and looks at every place in
every file: of games whose hand-written layout has few rules for many files it takes many checks.

| game | files | check | learning | in checks | memory of the check | memory |
|---|---|---|---|---|---|---|
"""
    return text + "".join(
        f"| {one.name} | {one.files:,} | {one.check.cpu:.1f} s | {one.learn.cpu:.1f} s | {one.times:.1f}"
        f" | {one.check.memory:,.0f} MB | {one.learn.memory:,.0f} MB |\n"
        for one in costs
    )


def main(asked: argparse.Namespace) -> None:
    costs: list[Cost] = []
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        for game in GAMES:
            if not asked.game or game.name in asked.game:
                root = laid_out(game, Path(asked.packages or place), folder)
                costs.append(cost_of(game.name, root, folder))
                print(costs[-1], flush=True)
    if not asked.game:
        PAGE.write_text(page(costs), encoding="utf-8")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--packages")
    parser.add_argument("game", nargs="*")
    main(parser.parse_args())
