"""What checks of four kinds of maps cost beside only parsing the same files. Writes docs/map-kind-benchmarks.md.

python benchmarks/map_kinds.py [SCALE ...]
python benchmarks/map_kinds.py --bare KIND FOLDER    only parses, on one core
"""

from __future__ import annotations

import json
import os
import platform
import random
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

import big_map
import scripts
from timing import timed

PAGE = Path(__file__).parent.parent / "docs/map-kind-benchmarks.md"
BARE = Path(__file__).parent / "yardstick.py"
WORDS = scripts.WORDS
HEAD = """
[layout]
name = "made"
title = "A map for a benchmark"
[descriptor]
file = "map.toml"
name = "$.map.name"
version = "$.map.version"
[[read]]
files = "map.toml"
format = "toml"
"""
DATA = """
[kinds]
item = { label = "item", unique = true }
recipe = { label = "recipe", unique = true }
text = { label = "text", unique = true }
[[read]]
files = "items/**/*.json"
format = "json"
defines = [{ kind = "item", at = "$.items[*].id" }]
refers = [
  { kind = "text", at = "$.items[*].title" },
  { kind = "item", at = "$.items[*].made_of[*].item" },
  { kind = "recipe", at = "$.items[*].recipe" },
]
[[read]]
files = "recipes/**/*.yaml"
format = "yaml"
defines = [{ kind = "recipe", at = "$.recipes[*].id" }]
refers = [{ kind = "item", at = "$.recipes[*].gives" }, { kind = "item", at = "$.recipes[*].takes[*]" }]
[[read]]
files = "texts/*.json"
format = "json"
defines = [{ kind = "text", keys = "$" }]
"""
BLOCKS = r"""
[kinds]
part = { label = "part", unique = true }
noise = { label = "noise", unique = true }
deed = { label = "deed", unique = true }
[[read]]
files = "parts/**/*.blk"
format = "block"
defines = [{ kind = "part", at = "**/part/@1" }]
refers = [
  { kind = "part", at = "**/stands_on" },
  { kind = "noise", at = "**/noise" },
  { kind = "deed", at = "**/on_use" },
]
[[read]]
files = "deeds/**/*.run"
format = "text"
options = { comments = ['--[^\n]*'] }
defines = [{ kind = "deed", match = '^deed (?P<value>\w+)' }]
refers = [
  { kind = "noise", match = '\bplay (?P<value>\w+)' },
  { kind = "part", match = '\bshow (?P<value>\w+)' },
  { kind = "deed", match = '\bthen (?P<value>\w+)' },
]
[[read]]
files = "noises.txt"
format = "lines"
defines = [{ kind = "noise" }]
"""


def begun(folder: Path, layout: str) -> None:
    """The files that every made map has."""
    (folder / "layout.toml").write_text(layout)
    (folder / "map.toml").write_text('[map]\nname = "made"\nversion = "1"\n')
    (folder / "hookset.toml").write_text('[map]\nname = "made"\nversion = "1"\nlayout = "layout.toml"\n')


def filled(folder: Path, texts: dict[str, str]) -> None:
    for path, text in texts.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text)


def whole(number: int, script: str, rng: random.Random) -> str:
    """A script of which each reference to a thing is met: maps that somebody works on have few faults."""
    script = script.replace('import("texts")', "texts")
    things = re.findall(r'yard\.thing\(own \.\. "(\w+)"', script)
    script = re.sub(r'(yard\.place\(next, own \.\. )"\w+"', lambda m: f'{m[1]}"{rng.choice(things)}"', script)
    swapped = re.compile(r'i > 2 and "\w+" or "\w+"')
    return swapped.sub(lambda _: f'"yard{number}:{rng.choice(things)}"', script)


def scripts_map(folder: Path, scale: float) -> None:
    """1,000 scripts of 7 KB, read by twelve rules."""
    rng = random.Random(7)
    texts = {f"code/p{n // 100}/part_{n}.lua": whole(n, scripts.script(n, rng), rng) for n in range(int(1000 * scale))}
    filled(folder, texts)
    begun(folder, scripts.LAYOUT)


def data_map(folder: Path, scale: float) -> None:
    """1,500 files of JSON and 500 of YAML, 20 records each."""
    rng, files = random.Random(8), int(1500 * scale)
    items = 20 * files
    texts: dict[str, str] = {"texts/en.json": json.dumps({f"title_{n}": f"Thing {n}" for n in range(items)}, indent=1)}
    for number in range(files):
        rows = [
            {
                "id": f"item_{one}",
                "title": f"title_{one}",
                "weight": one % 90,
                "made_of": [{"item": f"item_{rng.randrange(items)}", "count": 2} for _ in range(3)],
                "recipe": f"recipe_{rng.randrange(items // 3)}",
            }
            for one in range(20 * number, 20 * number + 20)
        ]
        texts[f"items/p{number // 100}/items_{number}.json"] = json.dumps({"items": rows}, indent=2)
    for number in range(files // 3):
        lines = ["recipes:"]
        for one in range(20 * number, 20 * number + 20):
            takes = ", ".join(f"item_{rng.randrange(items)}" for _ in range(3))
            lines += [f"  - id: recipe_{one}", f"    gives: item_{rng.randrange(items)}", f"    takes: [{takes}]"]
        texts[f"recipes/p{number // 100}/recipes_{number}.yaml"] = "\n".join(lines) + "\n"
    filled(folder, texts)
    begun(folder, HEAD + DATA)


def block_map(folder: Path, scale: float) -> None:
    """1,000 files of nested blocks and 1,000 scripts that are read by regular expressions."""
    rng, files = random.Random(9), int(1000 * scale)
    parts, deeds = 20 * files, 10 * files
    texts: dict[str, str] = {"noises.txt": "".join(f"noise_{n}\n" for n in range(300))}
    for number in range(files):
        lines = []
        for one in range(20 * number, 20 * number + 20):
            lines += [
                f'part "part_{one}" {{',
                f"  at {rng.randrange(900)} 0 {rng.randrange(900)}",
                f'  stands_on "part_{rng.randrange(parts)}"',
                "  use {",
                f'    noise "noise_{rng.randrange(300)}"',
                f'    on_use "deed_{rng.randrange(deeds)}"',
                "  }",
                "}",
            ]
        texts[f"parts/p{number // 100}/parts_{number}.blk"] = "\n".join(lines) + "\n"
        lines = []
        for one in range(10 * number, 10 * number + 10):
            lines += [
                f"deed deed_{one}",
                f"  show part_{rng.randrange(parts)} -- and wait",
                f"  play noise_{rng.randrange(300)}",
                f"  then deed_{rng.randrange(deeds)}",
                "end",
            ]
        texts[f"deeds/p{number // 100}/deeds_{number}.run"] = "\n".join(lines) + "\n"
    filled(folder, texts)
    begun(folder, HEAD + BLOCKS)


def bare_data(folder: Path) -> None:
    import yaml

    for file in sorted(folder.rglob("*")):
        if file.suffix == ".json":
            json.loads(file.read_bytes())
        elif file.suffix == ".yaml":
            # The events of the C parser: what a reader needs that knows where each value stands.
            for _ in yaml.parse(file.read_bytes(), Loader=yaml.CSafeLoader):
                pass


def bare_blocks(folder: Path) -> None:
    """There is no parser of such blocks but ours; scripts are decoded, and gone over once by one expression."""
    import regex

    from hookset.formats import format_named, open_file

    form = format_named("block")
    words = regex.compile(r"\w+")
    for file in sorted(folder.rglob("*")):
        if file.suffix == ".blk":
            open_file(form, file.read_bytes(), ("utf-8",), form.options())
        elif file.suffix in (".run", ".txt"):
            sum(1 for _ in words.finditer(file.read_bytes().decode()))


@dataclass(frozen=True)
class MapKind:
    name: str
    words: str
    make: Callable[[Path, float], None]
    changes: str
    """A pattern over files of which one is changed, by a remark at its end."""
    remark: str
    bare: Callable[[Path], None] | None = None
    """None: `yardstick.py`."""

    def parses(self, folder: Path) -> tuple[str, ...]:
        if self.bare is None:
            return (sys.executable, str(BARE), str(folder))
        return (sys.executable, __file__, "--bare", self.name, str(folder))


KINDS = (
    MapKind("scene", "an XML scene with Lua, glTF, pictures, sounds", big_map.make, "code/*.lua", "-- x\n"),
    MapKind("scripts", "many Lua files, twelve rules", scripts_map, "code/**/*.lua", "-- x\n"),
    MapKind("data", "JSON and YAML", data_map, "items/**/*.json", "\n", bare_data),
    MapKind("blocks", "nested blocks, scripts by text rules", block_map, "deeds/**/*.run", "-- x\n", bare_blocks),
)


@dataclass(frozen=True)
class Run:
    """One kind at one size: seconds, and CPU seconds of all processes."""

    kind: MapKind
    scale: float
    files: int
    megabytes: float
    references: int
    bare_cpu: float
    bare: float
    cold_cpu: float
    cold: float
    memory: float
    warm_cpu: float
    changed: float

    def __str__(self) -> str:
        return (
            f"| {self.kind.words} | {self.scale:g} | {self.files:,} | {self.megabytes:.0f} | {self.references:,} "
            f"| {self.bare_cpu:.2f} s | {self.cold_cpu / self.bare_cpu:.1f} | {self.cold / self.bare:.1f} "
            f"| {self.memory:,.0f} MB | {self.warm_cpu:.2f} s | {self.changed:.2f} s |"
        )


def measured(kind: MapKind, scale: float, folder: Path) -> Run:
    place, cache = folder / "map", folder / "cache"
    place.mkdir(parents=True)
    kind.make(place, scale)
    # Times of files settle: what was written in the last two seconds is not trusted to stay as it is.
    time.sleep(2.5)
    hookset = (sys.executable, "-m", "hookset", "check")
    times = 3 if scale <= 1 else 1
    bares = [timed(*kind.parses(place), folder=place, cache=cache) for _ in range(times)]
    colds = []
    for _ in range(times):
        shutil.rmtree(cache, ignore_errors=True)
        colds.append(timed(*hookset, folder=place, cache=cache))
    timed(*hookset, folder=place, cache=cache)
    warms = [timed(*hookset, folder=place, cache=cache) for _ in range(times)]
    changed = []
    for file in sorted(place.glob(kind.changes))[:times]:
        file.write_text(file.read_text() + kind.remark)
        time.sleep(2.5)
        changed.append(timed(*hookset, folder=place, cache=cache).seconds)
    said = subprocess.run([*hookset, "--json"], cwd=place, capture_output=True, check=False)
    counts = json.loads(said.stdout)["counts"]
    return Run(
        kind=kind,
        scale=scale,
        files=counts["files"],
        megabytes=sum(file.stat().st_size for file in place.rglob("*") if file.is_file()) / 1e6,
        references=counts["references"],
        bare_cpu=statistics.median(one.cpu for one in bares),
        bare=statistics.median(one.seconds for one in bares),
        cold_cpu=statistics.median(one.cpu for one in colds),
        cold=statistics.median(one.seconds for one in colds),
        memory=max(one.memory for one in colds),
        warm_cpu=statistics.median(one.cpu for one in warms),
        changed=statistics.median(changed),
    )


def page(runs: list[Run]) -> str:
    rows = "\n".join(map(str, runs))
    return f"""# What checks of four kinds of maps cost

Written by `python benchmarks/map_kinds.py` on {platform.machine()}, {os.cpu_count()} cores, Python
{platform.python_version()}; medians of three runs. Each map is made up, the same each time. *Bare* only reads the files
and parses them with the same parsers on one core (blocks with ours, since there is no other; scripts that are read by
regular expressions are gone over once by one of them). *Cold* is a check that remembers nothing, beside the bare
parse, in CPU seconds and by the clock; *warm* one of a map in which nothing has changed, in CPU seconds; then a remark
is added to one file.

| map | size | files | MB | references | bare, CPU | cold / bare, CPU | clock | memory | warm, CPU | one changed |
|---|---|---|---|---|---|---|---|---|---|---|
{rows}

What limits each: in the scene expat makes a text of each attribute, and where 400,000 things stand is judged; in
scripts and in data Python makes an object of each node that a rule may mean; blocks are parsed by Python itself, which
is why the bare parse costs as much there. (The bare parse of the scene makes a tree with lxml; a check makes none.)
"""


def main() -> None:
    if sys.argv[1:2] == ["--bare"]:
        bare = next(kind.bare for kind in KINDS if kind.name == sys.argv[2])
        assert bare is not None
        bare(Path(sys.argv[3]))
        return
    scales = [float(one) for one in sys.argv[1:]] or [0.1, 1.0]
    runs: list[Run] = []
    for kind in KINDS:
        for scale in scales:
            with tempfile.TemporaryDirectory() as place:
                runs.append(measured(kind, scale, Path(place)))
            print(runs[-1], flush=True)
    PAGE.write_text(page(runs), encoding="utf-8")


if __name__ == "__main__":
    main()
