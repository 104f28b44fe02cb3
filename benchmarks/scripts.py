"""How fast scripts are read: 190 Lua files of 1.4 MB, made up, by twelve rules; beside the grammar alone.

Run as `python benchmarks/scripts.py` from the project's folder; writes docs/script-benchmarks.md.
"""

from __future__ import annotations

import multiprocessing
import platform
import random
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import tree_sitter_lua
from tree_sitter import Language, Parser

from hookset.config.layouts import map_words
from hookset.project import open_project
from hookset.symbols.reading import read_file

WORDS = (
    "pier",
    "lamp",
    "crate",
    "net",
    "winch",
    "rope",
    "bell",
    "buoy",
    "sluice",
    "mast",
    "keel",
    "oar",
    "gull",
    "silt",
)
LAYOUT = r"""
[layout]
name = "made"
title = "Many scripts, for a benchmark"

[descriptor]
file = "map.toml"
name = "$.map.name"
version = "$.map.version"

[kinds]
thing = { label = "thing" }
picture = { label = "picture" }
noise = { label = "noise" }
recipe = { label = "recipe" }
module = { label = "module" }
helper = { label = "helper" }

[[read]]
files = "map.toml"
format = "toml"

[[read]]
files = "code/**/*.lua"
format = "lua"
defines = [
  { kind = "thing", call = "yard.thing", arg = 1 },
  { kind = "thing", call = "yard.tool", arg = 1 },
  { kind = "thing", call = "yard.loose", arg = 1 },
  { kind = "helper", function = "*" },
  { kind = "recipe", assign = "recipe_*" },
  { kind = "module", members = "HARBOUR" },
]
refers = [
  { kind = "module", call = "import", arg = 1 },
  { kind = "noise", call = "play", arg = 1 },
  { kind = "noise", call = "*:play", arg = 1 },
  { kind = "thing", call = "yard.place", arg = 2 },
  { kind = "thing", call = "yard.swap", arg = 2 },
  { kind = "picture", query = "(field name: (identifier) @key value: (string) @value (#eq? @key \"image\"))" },
]
"""
# Twelve rules, as a person would write them who has read a few of the files.


def script(number: int, rng: random.Random) -> str:
    """About 7 KB: mostly tables, some functions, comments, texts put together."""

    def name() -> str:
        return f"{rng.choice(WORDS)}_{rng.choice(WORDS)}_{rng.randrange(200)}"

    lines = [f"-- the yard's things, part {number}", 'local S = import("texts")', f'local own = "yard{number}:"', ""]
    while sum(map(len, lines)) < 7000:
        one = name()
        lines += [
            f'yard.thing(own .. "{one}", {{',
            f'  title = S("{one.replace("_", " ").title()}"),',
            f'  image = "{one}_side.png", layers = {{"{one}_top.png", "{one}_low.png", "{name()}.png"}},',
            f"  groups = {{ wood = {rng.randrange(4)}, dig = {rng.randrange(9)}, wet = 1 }},",
            f"  light = {rng.randrange(15)},",
            f"  box = {{ -0.5, -0.5, -0.5, {rng.random():.3f}, {rng.random():.3f}, 0.5 }},",
            "  on_use = function(at, who, stack)",
            f'    if who and who:is("{name()}") then play("{name()}", {{ at = at, gain = {rng.random():.2f} }}) end',
            f"    local next = {{ x = at.x, y = at.y + {rng.randrange(3)}, z = at.z }}",
            f'    yard.place(next, own .. "{name()}")',
            f'    for i = 1, {rng.randrange(2, 9)} do yard.swap(next, i > 2 and "{name()}" or "{name()}") end',
            "    return stack",
            "  end,",
            "})",
            "",
            f"local function helper_{len(lines)}(a, b) -- what is between two things",
            f"  return (a.x - b.x) * {rng.random():.4f} + math.abs(a.z - b.z) % {rng.randrange(2, 50)}",
            "end",
            "",
        ]
    return "\n".join(lines) + "\n"


def made(root: Path) -> Path:
    rng = random.Random(7)
    (root / "code").mkdir(parents=True)
    for number in range(190):
        (root / f"code/part_{number:03}.lua").write_text(script(number, rng))
    (root / "map.toml").write_text('[map]\nname = "yards"\nversion = "1"\n')
    (root / "layout.toml").write_text(LAYOUT)
    (root / "hookset.toml").write_text('[map]\nname = "yards"\nversion = "1"\nlayout = "layout.toml"\n')
    return root


def parsed(root: Path) -> tuple[float, int]:
    """Seconds for the grammar alone."""
    texts = [file.read_bytes() for file in sorted(root.rglob("*.lua"))]
    language = Language(tree_sitter_lua.language())
    begun = time.process_time()
    for text in texts:
        Parser(language).parse(text)
    return time.process_time() - begun, 0


def read(root: Path) -> tuple[float, int]:
    """Seconds, and how many names were found."""
    project = open_project(root)
    words = map_words(project.tree, project.layout)
    paths = project.tree.paths()
    read_file(project.tree, "map.toml", project.layout, words)
    begun = time.process_time()
    facts = [read_file(project.tree, path, project.layout, words) for path in paths]
    taken = time.process_time() - begun
    defined = sum(len(block.names) for one in facts for block in one.defined)
    return taken, defined + sum(len(block.names) for one in facts for block in one.referred)


def measured(work: Callable[[Path], tuple[float, int]], root: Path) -> tuple[float, int]:
    """The median of three, each in a process of its own: files that were parsed once are kept."""
    with ProcessPoolExecutor(1, multiprocessing.get_context("spawn"), max_tasks_per_child=1) as pool:
        return sorted(pool.submit(work, root).result() for _ in range(3))[1]


def queries() -> str:
    """The layout with twelve queries instead."""
    query = '(field name: (identifier) @key value: (string) @value (#eq? @key \\"%s\\"))'
    rule = f'  {{ kind = "picture", query = "{query}" }},\n'
    front = LAYOUT[: LAYOUT.index("defines = [\n")]
    return front + "refers = [\n" + "".join(rule % word for word in ("image", *WORDS[:11])) + "]\n"


def main() -> None:
    with tempfile.TemporaryDirectory() as place:
        root = made(Path(place) / "yards")
        texts = sorted(root.rglob("*.lua"))
        size = sum(file.stat().st_size for file in texts) / 1e6
        bare, _ = measured(parsed, root)
        rows = [f"| the grammar alone | | {bare:.2f} s | {size / bare:.1f} MB | |"]
        for title, layout in (("twelve rules as a person writes them", LAYOUT), ("twelve queries", queries())):
            (root / "layout.toml").write_text(layout)
            taken, names = measured(read, root)
            rows.append(f"| {title} | {names:,} | {taken:.2f} s | {size / taken:.1f} MB | {taken / bare:.1f} |")
    lines = "\n".join(rows)
    Path("docs/script-benchmarks.md").write_text(f"""# How fast scripts are read

Written by `python benchmarks/scripts.py` on {platform.machine()}, Python {platform.python_version()}: {len(texts)} Lua
files of {size:.2f} MB, made up: tables, functions, texts put together. CPU seconds on one core, the median of three.

| read by | names | takes | in a second | times the grammar |
|---|---|---|---|---|
{lines}

The budget is 1 MB in a second for twelve rules. (First figures: 1.5 MB for the rules, and 0.7 MB for the
queries, each of which went over the syntax tree by itself; all of a file's queries go over it together now.)
""")
    print(lines)


if __name__ == "__main__":
    main()
