"""Where the time of a check goes when little has changed: seconds per step, as JSON.

python benchmarks/laps.py FOLDER CACHE_FOLDER
"""

from __future__ import annotations

import gc
import json
import sys
import time
from pathlib import Path


def main() -> None:
    gc.set_threshold(200_000, 20, 20)
    laps: dict[str, float] = {}
    last = time.perf_counter()

    def lap(name: str) -> None:
        nonlocal last
        now = time.perf_counter()
        laps[name] = now - last
        last = now

    from hookset.checks import all_checks, judge_analysis
    from hookset.project import Ledger, open_project
    from hookset.symbols import FactsCache, analyse

    assert all_checks()
    lap("loading the program")
    project = open_project(Path(sys.argv[1]))
    lap("reading the layout")
    tree = project.tree
    tree.paths()
    lap("listing the files")
    (cache,) = Path(sys.argv[2]).rglob("*.sqlite")
    kept = FactsCache(cache)
    analysis = analyse(tree, project.layout, project.stock, kept)
    lap("what files said, from the cache, and reading the one that changed")
    assert analysis.index is not None
    lap("one table of each kind's names")
    assert analysis.reach is not None
    lap("which files the game loads")
    assert analysis.resolutions
    lap("judging every reference")
    assert judge_analysis(analysis, Ledger(), project.terms, kept).counts.checks
    lap("the checks")
    print(json.dumps(laps))


if __name__ == "__main__":
    main()
