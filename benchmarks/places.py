"""How long many things take: a scene of 100,000 things checked, drawn, searched, and copied in, beside a check of the
same map by a layout that says nothing of places. Writes docs/place-benchmarks.md.

    python benchmarks/places.py [THINGS]
"""

from __future__ import annotations

import platform
import random
import re
import shutil
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

from timing import Took, timed

from hookset.config.layouts.load import layout_source

PAGE = Path(__file__).parent.parent / "docs/place-benchmarks.md"
HOOKSET = (sys.executable, "-m", "hookset")
FRESH = (*HOOKSET, "--no-cache")
STANDS = """
[[stand]]
title = "lamps keep apart"
class = "lamp"
clear = 0.01
severity = "note"
[[stand]]
title = "benches stand near lamps"
class = "bench"
near = { class = "lamp", most = 500.0 }
severity = "note"
"""


def scene(root: Path, things: int) -> None:
    """A map of the layout `scene-graph`, two things in five turned, one in fifty within another one."""
    lot = random.Random(7)
    (root / "scene").mkdir(parents=True)
    (root / "texts").mkdir()
    (root / "world.json").write_text('{"name": "wide", "revision": 1, "scene": "scene/wide.xml", "title": "wide"}')
    (root / "texts/en.xml").write_text('<Texts><Text key="wide">Wide</Text></Texts>\n')
    with (root / "scene/wide.xml").open("w") as file:
        file.write("<Basin>\n  <Sources/>\n  <Runs/>\n  <Things>\n")
        for number in range(things):
            sort = lot.choice(("tree", "rock", "lamp", "bench"))
            at = f"{lot.uniform(-4000, 4000):.2f} 0 {lot.gauss(0, 900):.2f}"
            turn = f' turn="{lot.randrange(360)} 0 0"' if lot.random() < 0.4 else ""
            inner = f'<Thing key="inner_{number}" at="0 1 0"/></Thing>' if not number % 50 else "</Thing>"
            file.write(f'    <Thing key="thing_{number}" sort="{sort}" at="{at}"{turn}>{inner}\n')
        file.write("  </Things>\n</Basin>\n")


def bare(source: str) -> str:
    """The layout without what it says of places."""
    return re.sub(r"# ---- where things stand -.*?(?=\n# ---- seats -)", "", source, flags=re.DOTALL)


def project(root: Path, layout: str) -> None:
    (root / "own.toml").write_text(layout)
    (root / "hookset.toml").write_text('[map]\nname = "wide"\nlayout = "own.toml"\n')


def main(things: int) -> None:
    folder = Path(tempfile.mkdtemp())
    root, cache = folder / "wide", folder / "cache"
    scene(root, things)
    source = layout_source("scene-graph")
    project(root, bare(source))
    timed(*FRESH, "check", folder=root, cache=cache)
    yardstick = min((timed(*FRESH, "check", folder=root, cache=cache) for _ in range(2)), key=lambda one: one.cpu)
    project(root, source + STANDS)
    rows: list[tuple[str, Took]] = []
    for title, *command in (
        ("check, with places judged", *FRESH, "check"),
        ("check again, nothing changed", *HOOKSET, "check"),
        ("where: one thing", *HOOKSET, "where", "thing_5"),
        ("draw, from above", *HOOKSET, "draw", str(folder / "map.png")),
        ("place: one copy", *HOOKSET, "place", "thing_5", "--at", "1,0,1"),
        ("place: a grid of 400", *HOOKSET, "place", "thing_5", "--at", "1,0,1", "--count", "20", "--rows", "20",
         "--step", "3,3"),
        ("move", *HOOKSET, "move", "thing_7", "--by", "1,0,0"),
    ):  # fmt: skip
        if title == "check again, nothing changed":
            timed(*command, folder=root, cache=cache)
        runs = []
        for _ in range(3):
            runs.append(timed(*command, folder=root, cache=cache))
            if title.startswith(("place", "move")):
                timed(*HOOKSET, "undo", folder=root, cache=cache)
        rows.append((title, min(runs, key=lambda one: one.cpu)))
        print(f"{title}: {rows[-1][1].cpu:.2f} s of CPU")
    shutil.rmtree(folder)
    twice = 2 * next(one.cpu for title, one in rows if title.startswith("where"))
    lines = [
        "# Many things\n",
        f"Written by `python benchmarks/places.py` on {platform.machine()}, Python {platform.python_version()}: a",
        f"scene of {things:,} things in XML. The yardstick is a check of the same map, nothing remembered, by a layout",
        f"that says nothing of places: {yardstick.cpu:.2f} s of CPU, {yardstick.memory:.0f} MB. A change is planned,",
        "judged, written and read back; how the map was judged before is known. `where` does little else than read",
        "all things: the last column is beside twice of that. Of three runs the quickest counts.\n",
        "| what | CPU | ratio | memory | beside reading twice |\n|---|---|---|---|---|",
        *(
            f"| {title} | {one.cpu:.2f} s | {one.cpu / yardstick.cpu:.1f} | {one.memory:.0f} MB "
            f"| {one.cpu / twice:.1f} |"
            for title, one in rows
        ),
    ]
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000)
