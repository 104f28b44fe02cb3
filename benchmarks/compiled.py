"""What a compiled part would give to the reading of a large XML scene, by a prototype that nothing else uses. Needs a C
compiler and the headers of expat (Debian: libexpat1-dev). Writes docs/compiled-benchmarks.md.

    python benchmarks/compiled.py
"""

from __future__ import annotations

import gc
import importlib.machinery
import importlib.util
import platform
import statistics
import subprocess
import sys
import sysconfig
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

import big_map
from lxml import etree

from hookset.formats import format_named
from hookset.trees import decode

PAGE = Path(__file__).parent.parent / "docs/compiled-benchmarks.md"
SOURCE = Path(__file__).parent / "compiled/columns.c"
RULES = [
    ("Thing", "", "key"), ("Thing", "", "form"), ("Thing", "", "noise"), ("Thing", "", "at"),
    ("link", "Thing", "is"), ("call", "Thing", "is"), ("text", "Thing", "is"),
    ("Source", "", "no"), ("Source", "", "from"),
]  # fmt: skip
"""(element, the element around it, attribute): what a layout asks a scene for."""


def prototype(folder: Path) -> Any:
    """The compiled module."""
    out = folder / "columns.so"
    include = sysconfig.get_paths()["include"]
    line = ["cc", "-O2", "-Wall", "-Wextra", "-Werror", "-shared", "-fPIC", "-I", include, str(SOURCE), "-lexpat"]
    subprocess.run([*line, "-o", str(out)], check=True)
    loader = importlib.machinery.ExtensionFileLoader("columns", str(out))
    spec = importlib.util.spec_from_loader("columns", loader)
    assert spec is not None
    module = importlib.util.module_from_spec(spec)
    loader.exec_module(module)
    return module


def cpu(work: Callable[[], Any]) -> tuple[float, Any]:
    """(CPU seconds, the median of five runs; what came of the last)."""
    taken, result = [], None
    for _ in range(5):
        begun = time.process_time()
        result = work()
        taken.append(time.process_time() - begun)
    return statistics.median(taken), result


def main() -> None:
    # As the program does.
    gc.set_threshold(200_000, 50, 50)
    with tempfile.TemporaryDirectory() as place:
        big_map.make(Path(place) / "map", 1.0)
        data = next((Path(place) / "map/scene").glob("*.xml")).read_bytes()
        columns = prototype(Path(place)).columns
        compiled, found = cpu(lambda: columns(data, RULES))
    parser = etree.XMLParser(resolve_entities=False, huge_tree=True)
    bare, _ = cpu(lambda: etree.fromstring(data, parser))
    form = format_named("xml")
    asked = [form.selector(at=f"//{f'{above}/' if above else ''}{name}/@{key}") for name, above, key in RULES]

    def read() -> list[Any]:
        document: Any = form.open(decode(data, ("utf-8",)), form.options())
        return [document.columns(one) for one in asked]

    ours, said = cpu(read)
    same = all((list(a.texts), list(a.wheres)) == tuple(b) for a, b in zip(said, found, strict=True))
    assert same, "the prototype finds something else"
    count = sum(len(texts) for texts, _ in found)
    PAGE.write_text(
        f"""# What a compiled part would give

Written by `python benchmarks/compiled.py` on {platform.machine()}, Python {platform.python_version()}: CPU seconds on
one core, medians of five runs. An XML scene of {len(data) / 1e6:.0f} MB is read for {len(RULES)} attributes of its
elements, {count:,} values. The prototype (`benchmarks/compiled/columns.c`) takes them out while expat parses, and makes
no tree; what it finds is what a check finds, value by value.

| | CPU | over the bare parse |
|---|---|---|
| parsed with lxml, and nothing taken out | {bare:.2f} s | 1.00 |
| read as a check does | {ours:.2f} s | {ours / bare:.2f} |
| read by the prototype | {compiled:.2f} s | {compiled / bare:.2f} |

(When scenes were read by way of a tree, a check took 2.68 s for this.)

So a part in C could read a scene in less time than its tree takes to be made, and without the memory for one. It is not
in the program: installing it must not ask for a compiler, and nobody can say yet for which machines it would have to be
built.

Compiling the program's own Python does not help. With all of `formats` and `symbols` compiled by Cython 3, untyped, the
four made-up maps of [the page on kinds of maps](map-kind-benchmarks.md) took as long as without, within what two runs
differ by (3.84 against 3.77 times the bare parse for the scene, 3.06 against 3.07 for scripts, 3.44 against 3.53 for
data, 1.23 against 1.17 for blocks; measured once, not by this script): most of the time goes into the objects that lxml
and tree-sitter make for Python.
""",
        encoding="utf-8",
    )
    print(f"{bare:.2f} bare, {ours:.2f} as a check reads, {compiled:.2f} by the prototype")


if __name__ == "__main__":
    main()
