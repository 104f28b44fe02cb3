"""How soon a save is told of in a watched map, whether what is told is what a check from nothing tells, and whether
memory stays as it is. Writes docs/watch-benchmarks.md.

    python benchmarks/watches.py [SCALE ...]
"""

from __future__ import annotations

import gc
import json
import os
import platform
import random
import resource
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import msgspec

sys.path.insert(0, str(Path(__file__).parent))

import big_map

from hookset.checks import judge
from hookset.checks.watched import Watched, judged_again, watched
from hookset.project import begin, open_project, read_ledger

ROOT = Path(__file__).parent.parent
PAGE = ROOT / "docs/watch-benchmarks.md"
SAVES = 20
EDITS = 3_000
EARLY = 300
"""Edits after which memory is looked at first."""
WORDS = (b"tide", b"harbour", b"quay_bell", b"lamp_1", b"\n", b'"', b"{", b"-- ", b"\xff")


@dataclass(frozen=True)
class Told:
    """One size of map, watched by the program."""

    scale: float
    files: int
    first: float
    """Seconds until watching begins, nothing remembered."""
    judged: float
    """The median of what the program says that it took to judge."""
    soon: float
    """The median from a save to the line that tells of it."""
    late: float
    """The longest."""


def told(scale: float, folder: Path) -> Told:
    root = folder / "map"
    big_map.make(root, scale)
    scripts = sorted((root / "code").glob("*.lua"))[:SAVES]
    environment = os.environ | {"XDG_CACHE_HOME": str(folder / "cache")}
    begun = time.perf_counter()
    process = subprocess.Popen(
        [sys.executable, "-m", "hookset", "watch", "--json"],
        cwd=root,
        stdout=subprocess.PIPE,
        text=True,
        env=environment,
    )
    assert process.stdout is not None
    process.stdout.readline()
    first = time.perf_counter() - begun
    time.sleep(1)
    soon, judged = [], []
    for script in scripts:
        text = script.read_bytes()
        saved = time.perf_counter()
        script.write_bytes(text + b"\nplay_sound('nowhere')\n")
        line = json.loads(process.stdout.readline())
        soon.append(time.perf_counter() - saved)
        judged.append(line["seconds"])
        time.sleep(0.2)
    process.send_signal(signal.SIGINT)
    process.wait()
    files = sum(1 for path in root.rglob("*") if path.is_file())
    return Told(scale, files, first, statistics.median(judged), statistics.median(soon), max(soon))


def edit(root: Path, first: Path, choice: random.Random) -> None:
    """Something that somebody does to a file: a word more, a part less, the file as it was at first, or gone."""
    paths = sorted(path for path in root.rglob("*") if path.is_file() and path.name != "hookset.toml")
    path, what = choice.choice(paths), choice.random()
    if what < 0.4:
        data = path.read_bytes()
        at = choice.randrange(len(data) + 1)
        path.write_bytes(data[:at] + choice.choice(WORDS) + data[at:])
    elif what < 0.55:
        data = path.read_bytes()
        at = choice.randrange(len(data) + 1)
        path.write_bytes(data[:at] + data[at + choice.randrange(60) :])
    elif what < 0.6:
        path.unlink()
    else:
        there = choice.choice(sorted(one for one in first.rglob("*") if one.is_file()))
        target = root / there.relative_to(first)
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copy2(there, target)


@dataclass(frozen=True)
class Edited:
    """A small map after many edits."""

    same: int
    verdicts: int
    early: float
    late: float
    """MB in use after the first edits, and after all."""


def in_use() -> float:
    gc.collect()
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e6


def from_nothing(last: Watched) -> bytes:
    project = last.project
    verdict = judge(project.tree, project.layout, project.stock, read_ledger(project.root), project.terms)
    return msgspec.msgpack.encode(verdict.summary)


def many_edits(folder: Path) -> Edited:
    root, first = folder / "brackwater", folder / "first"
    shutil.copytree(ROOT / "src/hookset/demo/data/brackwater", root)
    shutil.copy(ROOT / "src/hookset/demo/data/base.stock.json", folder)
    (root / "hookset.toml").write_text(begin(root, None, ()).text, encoding="utf-8")
    shutil.copytree(root, first)
    choice, last, same, early = random.Random(1), watched(open_project(root)), 0, 0.0
    verdicts: set[bytes] = set()
    for number in range(EDITS):
        edit(root, first, choice)
        last, _ = judged_again(last, ())
        mine = msgspec.msgpack.encode(last.summary)
        same += mine == from_nothing(last)
        verdicts.add(mine)
        if number + 1 == EARLY:
            early = in_use()
    kept = sum(map(len, verdicts)) / 1e6
    return Edited(same, len(verdicts), early, in_use() - kept)


def page(runs: list[Told], edits: Edited) -> str:
    rows = "\n".join(
        f"| {one.scale:g} | {one.files:,} | {one.first:.1f} s | {one.judged:.2f} s | {one.soon:.2f} s "
        f"| {one.late:.2f} s |"
        for one in runs
    )
    return f"""# A map that is watched

Written by `python benchmarks/watches.py` on {platform.machine()}, {os.cpu_count()} cores, Python
{platform.python_version()}. The maps are those of [benchmarks.md](benchmarks.md): `hookset watch --json` runs in one,
a script is saved {SAVES} times, each time with a sound that is not there, and the time is taken until the line comes
that tells of it. The goal is 0.3 s in a map of 5,000 files. Of that 0.06 s are waited for: what is written is judged
once it is written.

| size | files | until watching begins | to judge | from save to line | the longest |
|---|---|---|---|---|---|
{rows}

(Before what was found of where things stand was kept, a change to a script of the map of 5,000 files took 8 to 12 s to
judge; before what the game loads and what became of references were taken over where nothing leads elsewhere, 0.46 s.)

After each of {EDITS:,} random edits of the demo's map (words more, parts less, files gone and back again), what is told
was compared with a check from nothing: {edits.same:,} of {EDITS:,} times it was the same, byte for byte, with
{edits.verdicts:,} different verdicts among them. The process had {edits.early:.0f} MB in use after {EARLY} edits, and
{edits.late:.0f} MB after all of them, beside the verdicts that the comparison keeps.
"""


def main() -> None:
    scales = [float(word) for word in sys.argv[1:]] or [0.1, 1.0]
    runs = []
    for scale in scales:
        with tempfile.TemporaryDirectory() as folder:
            runs.append(told(scale, Path(folder)))
        print(runs[-1], flush=True)
    with tempfile.TemporaryDirectory() as folder:
        edits = many_edits(Path(folder))
    print(edits, flush=True)
    PAGE.write_text(page(runs, edits), encoding="utf-8")


if __name__ == "__main__":
    main()
