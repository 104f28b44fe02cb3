"""How long a check takes, compared in the same run with only parsing the same bytes with the
same parsers. Writes docs/benchmarks.md and docs/benchmarks.png.

    python benchmarks/run.py [SCALE ...]
"""

from __future__ import annotations

import json
import os
import platform
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import asdict, dataclass
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

import big_map
from timing import timed

ROOT = Path(__file__).parent.parent
PAGE = ROOT / "docs/benchmarks.md"
PLOT = ROOT / "docs/benchmarks.png"


_BEFORE = """
(The yardstick makes a tree of the scene, with lxml. A check reads it with expat, which makes none: with that instead,
and nobody to listen, the yardstick took 1.24 s at size 1. Before scenes were read so, a check took 3.25 times the
yardstick, 4.31 times in CPU, and 1,200 MB at size 1, and 11,208 MB at size 10. Before layouts said where things stand,
it took 1.83 times the yardstick: judging that takes about a quarter of a check here. Before the columns of a scene were
worked out a part after the other, and what nobody asks for again was let go, a check took 696 MB at size 1 and 5,738 MB
at size 10.)
"""


_KEPT = """
The names of a long block are one text, which is not taken apart for this; of what became of references, that of files
that are as they were, to kinds that define what they did, is kept (`symbols/settled.py`). Before, a check after a
change to one script took 1.3 to 1.5 times as long. What is left is loading, listing, and a look at each file's facts.
"""


@dataclass(frozen=True)
class Run:
    """One size."""

    scale: float
    files: int
    megabytes: float
    references: int
    yardstick: float
    yardstick_cpu: float
    """Seconds of CPU time, in all processes."""
    cold: float
    cold_cpu: float
    cold_memory: float
    """MB, at most in any one process."""
    warm: float
    one_changed: float
    laps: dict[str, float]
    """Where the time goes when one script has changed, in seconds."""


def measured(scale: float, folder: Path) -> Run:
    place, cache = folder / "map", folder / "cache"
    big_map.make(place, scale)
    # Times of files settle: what was written in the last two seconds is not trusted to stay as it is.
    time.sleep(2.5)
    hookset = (sys.executable, "-m", "hookset")
    times = 3 if scale <= 1 else 1
    parsing = (sys.executable, str(Path(__file__).parent / "yardstick.py"), str(place))
    yardsticks = [timed(*parsing, folder=place, cache=cache) for _ in range(times)]
    colds = []
    for _ in range(times):
        shutil.rmtree(cache, ignore_errors=True)
        colds.append(timed(*hookset, "check", folder=place, cache=cache))
    timed(*hookset, "check", folder=place, cache=cache)
    warm = statistics.median(timed(*hookset, "check", folder=place, cache=cache).seconds for _ in range(times))
    changed = []
    for number in range(times):
        with (place / f"code/s{number:05}.lua").open("a") as script:
            script.write('\nfunction P0.more() local a = node("n000001") end\n'.replace("P0", f"P{number}"))
        time.sleep(2.5)
        changed.append(timed(*hookset, "check", folder=place, cache=cache).seconds)
    with (place / "code/s00007.lua").open("a") as script:
        script.write('\nfunction P7.less() local a = node("n000002") end\n')
    time.sleep(2.5)
    steps = (sys.executable, str(Path(__file__).parent / "laps.py"), str(place), str(cache))
    told = subprocess.run(steps, capture_output=True, check=True)
    said = subprocess.run(
        [*hookset, "check", "--json"],
        cwd=place,
        capture_output=True,
        check=False,
        env=os.environ | {"XDG_CACHE_HOME": str(cache)},
    )
    counts = json.loads(said.stdout)["counts"]
    return Run(
        scale=scale,
        files=counts["files"],
        megabytes=sum(file.stat().st_size for file in place.rglob("*") if file.is_file()) / 1e6,
        references=counts["references"],
        yardstick=statistics.median(took.seconds for took in yardsticks),
        yardstick_cpu=statistics.median(took.cpu for took in yardsticks),
        cold=statistics.median(took.seconds for took in colds),
        cold_cpu=statistics.median(took.cpu for took in colds),
        cold_memory=max(took.memory for took in colds),
        warm=warm,
        one_changed=statistics.median(changed),
        laps=json.loads(told.stdout),
    )


def page(runs: list[Run], version: float, bare: float, demo: float) -> str:
    text = f"""# How long a check takes

Measured by `benchmarks/run.py` on a machine with {os.cpu_count()} cores, Python {platform.python_version()}; the
median of three runs, of one for the largest map. The map is made by `benchmarks/big_map.py`: an XML scene, Lua, glTF,
pictures, sounds; three links in the scene lead nowhere, and are told with their lines. The yardstick only reads
the same files and parses them with the same parsers, on one core.
*Cold* is a check that remembers nothing; *warm* one of a map in which nothing has changed; then one script is changed.

| size | files | MB | references | yardstick | cold | cold / yardstick | in CPU | memory | warm | one script changed |
|---|---|---|---|---|---|---|---|---|---|---|
"""
    for run in runs:
        text += (
            f"| {run.scale:g} | {run.files:,} | {run.megabytes:,.0f} | {run.references:,} | {run.yardstick:.2f} s"
            f" | {run.cold:.2f} s | {run.cold / run.yardstick:.2f} | {run.cold_cpu / run.yardstick_cpu:.2f} |"
            f" {run.cold_memory:,.0f} MB | {run.warm:.2f} s"
            f" | {run.one_changed:.2f} s |\n"
        )
    one = next((run for run in runs if run.scale == 1), None)
    if one is not None:
        text += _BEFORE
        text += "\n## Beside the budgets, at size 1\n\n| what | budget | measured | |\n|---|---|---|---|\n"
        ten = [("memory at ten times the size", 2048.0, run.cold_memory, " MB") for run in runs if run.scale == 10]
        for what, budget, value, unit in (
            ("cold / yardstick", 2.0, one.cold / one.yardstick, ""),
            ("the same in CPU seconds", 2.0, one.cold_cpu / one.yardstick_cpu, ""),
            ("memory", 1024.0, one.cold_memory, " MB"),
            *ten,
            ("warm, nothing changed", 0.5, one.warm, " s"),
            ("warm, one script changed", 0.6, one.one_changed, " s"),
            ("`hookset --version`", 0.1, version, " s"),
        ):
            kept = "kept" if value <= budget else f"missed by {(value / budget - 1) * 100:.0f} %"
            text += f"| {what} | {budget:g}{unit} | {value:.2f}{unit} | {kept} |\n"
        text += "\nWhere the time goes when one script has changed:\n\n| step | seconds |\n|---|---|\n"
        text += "".join(f"| {step} | {seconds:.2f} |\n" for step, seconds in one.laps.items())
        text += _KEPT
        text += (
            f"\nFor comparison: Python itself starts in {bare:.2f} s; a check of the demo's map takes {demo:.2f} s.\n"
        )
    text += "\n![times over the size of the map](benchmarks.png)\n"
    return text


def plot(runs: list[Run]) -> None:
    import matplotlib

    matplotlib.use("Agg")
    import matplotlib.pyplot as plt

    figure, axes = plt.subplots(figsize=(9, 5.6), dpi=140)
    references = [run.references for run in runs]
    for values, label, colour, mark in (
        ([run.cold for run in runs], "check, cold", "#b3461e", "o"),
        ([run.yardstick for run in runs], "parsing alone, one core", "#7a858c", "s"),
        ([run.one_changed for run in runs], "check, one script changed", "#2d6a8e", "^"),
        ([run.warm for run in runs], "check, nothing changed", "#2d7a4e", "v"),
    ):
        axes.plot(references, values, color=colour, marker=mark, label=label, linewidth=2)
        axes.annotate(
            f"{values[-1]:.1f} s", (references[-1], values[-1]), (8, -3), textcoords="offset points", color=colour
        )
    straight = [runs[0].cold * count / references[0] for count in references]
    axes.plot(references, straight, color="#b3461e", linestyle=":", linewidth=1, label="cold, if it grew in proportion")
    axes.set(xscale="log", yscale="log", xlabel="references in the map", ylabel="seconds")
    axes.set_title("How a check grows with the map", loc="left", fontweight="bold")
    axes.set_xlim(references[0] * 0.8, references[-1] * 1.5)
    axes.grid(True, which="major", color="#e2e0da")
    axes.spines[["top", "right"]].set_visible(False)
    axes.legend(frameon=False)
    figure.tight_layout()
    figure.savefig(PLOT)


def main() -> None:
    scales = [float(word) for word in sys.argv[1:]] or [0.1, 1.0, 10.0]
    runs = []
    for scale in scales:
        with tempfile.TemporaryDirectory() as folder:
            runs.append(measured(scale, Path(folder)))
        print(json.dumps(asdict(runs[-1])), flush=True)
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        version = min(
            timed(sys.executable, "-m", "hookset", "--version", folder=place, cache=place).seconds for _ in range(5)
        )
        bare = min(timed(sys.executable, "-c", "", folder=place, cache=place).seconds for _ in range(5))
        shutil.copytree(ROOT / "src/hookset/demo/data/brackwater", place / "b")
        shutil.copy(ROOT / "src/hookset/demo/data/base.stock.json", place)
        timed(sys.executable, "-m", "hookset", "start", folder=place / "b", cache=place)
        check = (sys.executable, "-m", "hookset", "--no-cache", "check")
        demo = min(timed(*check, folder=place / "b", cache=place).seconds for _ in range(5))
    PAGE.write_text(page(runs, version, bare, demo), encoding="utf-8")
    plot(runs)


if __name__ == "__main__":
    main()
