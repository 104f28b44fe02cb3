"""A stock of a million names: made, looked through, and a check that rests on it. Writes docs/stock-benchmarks.md.

python benchmarks/stocks.py [NAMES]
"""

from __future__ import annotations

import os
import platform
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

PAGE = Path(__file__).parent.parent / "docs/stock-benchmarks.md"
LAYOUT = """
[layout]
name = "cries"
title = "lists of sounds"
[kinds.sound]
label = "sound"
[[read]]
files = "game/**/*.list"
format = "lines"
defines = [{ kind = "sound" }]
[[read]]
files = "*.use"
format = "lines"
refers = [{ kind = "sound" }]
"""
FILES, USED = 200, 1000


def name(number: int) -> str:
    return f"area_{number % 997:03}/bell_{number:07}"


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000
    rows: list[tuple[str, str]] = []

    def timed(what: str, folder: Path, *arguments: str, code: int = 0) -> None:
        begun = time.perf_counter()
        done = subprocess.run([sys.executable, "-m", "hookset", *arguments], cwd=folder, capture_output=True, text=True)
        assert done.returncode == code, done.stdout + done.stderr
        rows.append((what, f"{time.perf_counter() - begun:.2f} s"))

    with tempfile.TemporaryDirectory() as place:
        os.environ["XDG_CACHE_HOME"] = place
        base, root = Path(place) / "base", Path(place) / "map"
        (base / "game").mkdir(parents=True)
        root.mkdir()
        (Path(place) / "cries.toml").write_text(LAYOUT)
        for part in range(FILES):
            lines = (name(number) for number in range(part, count, FILES))
            (base / "game" / f"{part}.list").write_text("\n".join(lines) + "\n")
        begun = time.perf_counter()
        names = {line for file in base.rglob("*.list") for line in file.read_text().splitlines()}
        rows.append(("yardstick: all lines read into a set", f"{time.perf_counter() - begun:.2f} s"))
        assert len(names) == count
        timed("`stock make`", root, "stock", "make", "../base", "--layout", "../cries.toml", "--to", "../base.stock")
        size = (Path(place) / "base.stock").stat().st_size >> 20
        used = [name(number) for number in range(0, count, max(count // USED, 1))]
        (root / "a.use").write_text("\n".join(used) + "\n")
        (root / "hookset.toml").write_text(
            '[map]\nname = "m"\nversion = "1"\nlayout = "../cries.toml"\n[content]\nstock = ["../base.stock"]\n'
        )
        timed(f"`check` of a map that uses {len(used):,} of them", root, "check")
        (root / "a.use").write_text("\n".join([*used, used[7][:-1] + "x"]) + "\n")
        timed("the same with one that is misspelt, and what may have been meant", root, "check", code=1)
        timed("`stock find` of a part of a name", root, "stock", "find", "bell_00123")
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss >> 10
    table = "\n".join(f"| {what} | {took} |" for what, took in rows)
    PAGE.write_text(
        f"""# A stock of {count:,} names

Measured by `benchmarks/stocks.py` on a machine with {os.cpu_count()} cores, Python {platform.python_version()}. A base
game with {count:,} sounds in {FILES} files is made into one file of {size} MB; a map is checked with it, in new
processes that remember nothing.

| what | took |
|---|---|
{table}

The most memory that any of these took: {peak} MB.
""",
        encoding="utf-8",
    )
    print(PAGE.read_text())


if __name__ == "__main__":
    main()
