"""What planning costs beside checking the same map: installs, lifts and drafts in a large scene, CPU seconds of all
processes, in the same run. Writes docs/plan-benchmarks.md.

    python benchmarks/plans.py [SCALE]
"""

from __future__ import annotations

import os
import platform
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

import big_map
from timing import Took, timed

PAGE = Path(__file__).parent.parent / "docs/plan-benchmarks.md"
HOOKSET = (sys.executable, "-m", "hookset")
SCALE = 0.15
"""60,000 nodes in 7.7 MB."""


def took(*arguments: str, folder: Path, cache: Path, codes: tuple[int, ...] = (0, 1)) -> Took:
    return timed(*HOOKSET, *arguments, folder=folder, cache=cache, codes=codes)


Pair = tuple[Took, Took]
"""What was measured, and the check of the same map right before it."""


def median(measure: Callable[[], Took], check: Callable[[], Took]) -> Pair:
    """The one of nine pairs whose ratio is in the middle: the speed of machines changes from minute to minute."""
    pairs = [(check(), measure()) for _ in range(9)]
    plain, took = sorted(pairs, key=lambda pair: pair[1].cpu / pair[0].cpu)[4]
    return took, plain


def pack(folder: Path, count: int) -> Path:
    """Entries in the scene that look up ids of files, and one that is set before another element."""
    files = folder / "content"
    (files / "assets").mkdir(parents=True)
    lines = ['[pack]\nname = "yard"\nversion = "1"\n[[files]]\nfrom = "content/**"\n']
    for number in range(count):
        name = f"assets/yard_{number}.gltf"
        (files / name).write_text('{"asset": {"version": "2.0"}}\n')
        shape = f"{{listed:file-id:{name}}}"
        if number % 4 == 3:
            lines.append(
                '[[hook]]\nseat = "on-node"\nat = { node = "yard_0" }\n'
                f'text = \'<Thing key="yard_{number}" form="{shape}" at="0 0 {number}"/>\'\n'
            )
        else:
            lines.append(f'[[hook]]\nseat = "nodes"\ntext = \'<Thing key="yard_{number}" form="{shape}"/>\'\n')
    (folder / "hooksheet.toml").write_text("".join(lines))
    return folder


@dataclass(frozen=True)
class Row:
    words: str
    took: Took
    plain: Took
    most: float
    """How many times the plain one it may take."""

    def __str__(self) -> str:
        ratio = self.took.cpu / self.plain.cpu
        return (
            f"| {self.words} | {self.took.cpu:.2f} s | {self.plain.cpu:.2f} s | {ratio:.2f} | {self.most} × | "
            f"{self.took.memory:.0f} MB |"
        )


def in_a_scene(folder: Path, scale: float) -> Iterator[Row]:
    root, cache = folder / "map", folder / "cache"
    big_map.make(root, scale)

    def check() -> Took:
        return took("--no-cache", "check", folder=root, cache=cache)

    def cold(*arguments: str, folder: Path = root) -> Took:
        shutil.rmtree(cache, ignore_errors=True)
        return took(*arguments, folder=folder, cache=cache)

    def installed(place: Path) -> Took:
        result = cold("install", str(place))
        took("undo", folder=root, cache=cache)
        return result

    for count, most in ((17, 2.0), (1, 1.3)):
        place = pack(folder / f"pack-{count}", count)
        words = f"install of {count} entries" if count > 1 else "install of one entry"
        yield Row(words, *median(partial(installed, place), check), most)
    donor = folder / "donor"
    shutil.copytree(root, donor)
    lift = median(partial(cold, "lift", "n010000", "--from", str(donor), "--preview", folder=folder), check)
    yield Row("lift of one object", *lift, 2.0)
    published = folder / "published"
    (published / "code").mkdir(parents=True)
    for number in range(10):
        (published / f"code/yard_{number}.lua").write_text(f"function Yard{number}(who)\n  return {number}\nend\n")
    (published / "readme.txt").write_text(
        "Copy the folder code into your map.\nAdd to the files of your scene:\n"
        + "".join(f'<Source no="9{number}" from="code/yard_{number}.lua"/>\n' for number in range(10))
    )
    yield Row("draft of a ten-file pack", *median(partial(cold, "draft", str(published), "--show"), check), 1.5)
    (folder / "pack-1/hooksheet.toml").write_text('[pack]\nname = "yard"\nversion = "1"\n[[hook]]\nseta = "nodes"\n')
    wrong = median(lambda: took("install", str(folder / "pack-1"), folder=root, cache=cache, codes=(3,)), check)
    yield Row("a mistake in a sheet, told before the map is read", *wrong, 0.3)
    explained = median(lambda: took("--no-cache", "layout", "explain", folder=root, cache=cache), check)
    yield Row("`layout explain` without a file", *explained, 1.2)


def table(folder: Path) -> Iterator[Row]:
    """45 hooks into a table of 12,000 rows."""
    root, cache = folder / "town", folder / "cache2"
    (root / "tables").mkdir(parents=True)
    (root / "shapes").mkdir()
    (root / "shapes/shed.gltf").write_text('{"asset": {"version": "2.0"}}\n')
    rows = ",\n".join(
        f'    {{ "type": "type_{number}", "shape": "shed", "rank": "building" }}' for number in range(12_000)
    )
    (root / "tables/types.json").write_text(f'{{\n  "ranks": ["building"],\n  "types": [\n{rows}\n  ]\n}}\n')
    (root / "tables/groups.json").write_text('{"groups": [{ "group": "shore", "owner": "nobody" }]}\n')
    (root / "tables/places.csv").write_text("type;x;y;z;turn;group\ntype_1;0;0;0;0;shore\n")
    (root / "town.toml").write_text('[town]\nname = "town"\nversion = "1"\nplayers = 0\n')
    (root / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "type-table"\n')
    plain = took("--no-cache", "check", folder=root, cache=cache)
    sheet = '[pack]\nname = "types"\nversion = "1"\n'
    for number in range(45):
        record = f'{{ type = "more_{number}", shape = "shed", rank = "building" }}'
        sheet += f'[[hook]]\nseat = "types"\nrecord = {record}\n'
    (folder / "types").mkdir()
    (folder / "types/hooksheet.toml").write_text(sheet)
    yield Row("45 hooks into 12,000 rows", took("install", "../types", folder=root, cache=cache), plain, 2.0)


def main(scale: float) -> None:
    lines = [
        "# What planning costs",
        "",
        f"Written by `python benchmarks/plans.py` on {platform.machine()}, {os.cpu_count()} cores,",
        f"Python {platform.python_version()}. CPU seconds of all processes, beside a cold check of the same map in the",
        "same run. (First figures, before anything was changed: 71 s, 41 times, for 17 entries, and 6.4 s, 3.7",
        "times, for one; 17 s for the draft, 6.0 s for `layout explain`, 2.9 s for the table.) The rows of the scene",
        "are in the middle of nine pairs, each right after a check: the speed of the machine varies by half.",
        "",
        "| what | takes | beside | ratio | at most | memory |",
        "|---|---|---|---|---|---|",
    ]
    with tempfile.TemporaryDirectory() as place:
        for rows in (in_a_scene(Path(place), scale), table(Path(place))):
            for row in rows:
                print(row, flush=True)
                lines.append(str(row))
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else SCALE)
