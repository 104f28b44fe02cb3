"""How long it takes to build a map again, beside `cp` of its archive: at 10 MB, 100 MB and 1 GB. Writes
docs/rebuild-benchmarks.md.

    python benchmarks/rebuilds.py [MEGABYTES ...]
"""

from __future__ import annotations

import os
import platform
import random
import shutil
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

from timing import Took, timed

PAGE = Path(__file__).parent.parent / "docs/rebuild-benchmarks.md"
HOOKSET = (sys.executable, "-m", "hookset")
LAYOUT = """
[layout]
name = "own"
title = "Any files"
may_be_empty = true
[[read]]
files = "**"
format = "any"
"""
_SETTLED = 2.1
"""Seconds after which a file that is as it was is known to be."""


def town(root: Path, megabytes: int) -> None:
    """A map of pictures and sounds, nine tenths of it, and of scripts."""
    lot = random.Random(11)
    for folder in ("pictures", "sounds", "scripts"):
        (root / folder).mkdir(parents=True)
    for number in range(megabytes):
        if number % 10:
            folder, ending = ("pictures", "png") if number % 2 else ("sounds", "ogg")
            (root / folder / f"{number}.{ending}").write_bytes(lot.randbytes(1 << 20))
        else:
            words = " ".join(lot.choice(("gate", "bell", "quay", "opens", "rings")) for _ in range(180_000))
            (root / "scripts" / f"{number}.lua").write_text(f"-- {words}\n")
    (root / "own.toml").write_text(LAYOUT)
    (root / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "own.toml"\n')


def measured(megabytes: int, folder: Path) -> list[tuple[str, Took]]:
    """Each of the builds, and the copy."""
    root, cache = folder / "town", folder / "cache"
    town(root, megabytes)
    time.sleep(_SETTLED)
    rows = [("all of it", timed(*HOOKSET, "build", folder=root, cache=cache))]
    archive = root / "build/town-0.zip"
    archive = next((root / "build").iterdir()) if not archive.exists() else archive
    copies = [timed("cp", str(archive), str(folder / "copy.zip"), folder=root, cache=cache) for _ in range(3)]
    rows.append(("`cp` of the archive", min(copies, key=lambda one: one.seconds)))
    # As a build does it: what was there is whole until the new one takes its place, and is then freed.
    by_hand = f"cp '{archive}' '{folder}/new.zip' && mv '{folder}/new.zip' '{folder}/copy.zip'"
    replaced = []
    for _ in range(3):
        os.sync()
        replaced.append(timed("sh", "-c", by_hand, folder=root, cache=cache))
    rows.append(("`cp` of it, and `mv` over the one before", min(replaced, key=lambda one: one.seconds)))
    rows.append(("nothing changed", timed(*HOOKSET, "build", folder=root, cache=cache)))
    changed = []
    for _ in range(3):
        (root / "scripts/0.lua").write_text(f"-- {time.time_ns()}\n")
        time.sleep(_SETTLED)
        os.sync()
        changed.append(timed(*HOOKSET, "build", folder=root, cache=cache))
    rows.append(("one small file changed", min(changed, key=lambda one: one.seconds)))
    return rows


def main(sizes: list[int]) -> None:
    lines = [
        "# Builds again\n",
        f"Written by `python benchmarks/rebuilds.py` on {platform.machine()}, {os.cpu_count()} cores, Python",
        f"{platform.python_version()}: a map of pictures and sounds, a tenth of it scripts, in files of 1 MB. A build",
        "checks the map first. First figures, with the archive's digest worked out each time: 7.7 s for all of 1 GB,",
        "4.6 s with nothing changed, 5.5 s with one file. Now what was written is read back, too; of three builds with",
        "one file changed, and of three copies, the quickest counts.\n",
        "A build puts its archive in the place of the one before, which is whole until then: the system brings the new",
        "one to the disk before it takes the old one's place, and frees that one. `cp` of an archive to a new file",
        "does neither; `cp` and `mv` over the one before does both, and is what to compare with. What a build takes",
        "where nothing has changed, Python and the check, is about the rest.\n",
        "| map | what | seconds | CPU | beside `cp` | beside `cp` and `mv` |\n|---|---|---|---|---|---|",
    ]
    for size in sizes:
        with tempfile.TemporaryDirectory() as folder:
            rows = measured(size, Path(folder))
            copied, replaced = (one for title, one in rows if title.startswith("`cp`"))
            for title, one in rows:
                ratios = " | ".join(f"{one.seconds / other.seconds:.2f}" for other in (copied, replaced))
                lines.append(f"| {size:,} MB | {title} | {one.seconds:.2f} | {one.cpu:.2f} | {ratios} |")
                print(lines[-1])
            shutil.rmtree(Path(folder) / "town")
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main([int(one) for one in sys.argv[1:]] or [10, 100, 1000, 5000])
