"""Writes docs/engine-faults.md: single faults in the demo's quay, as a real engine and as the check see them.

python tools/make_engine_page.py     where the engine is installed
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.engine_faults import FAULTS, EngineFault

from hookset.demo import lay_out

ENGINE = "godot3-server"
PAGE = ROOT / "docs/engine-faults.md"
HEAD = """# Faults, as a real engine and as the check see them

Written by `python tools/make_engine_page.py`, with {version}. The demo's quay
(`hookset-demo/maps/quay`) is a project of {files} files that the engine loads and plays without a word, and in which
the check finds nothing. Each row is that project with one slip in it: what `hookset trial --in godot3-server` says
then. Errors of the engine that only follow from the same slip, such as scenes that need the one that is broken, are
counted behind a +.

Of {count} slips the check finds {checked}, the engine {told}; what the engine finds, the check finds, on the line
where it is. {silent} the engine loads and plays without saying anything. In the first run the check missed the three
slips about autoloads that scripts ask for: the layout read those names wrongly. The slips about methods and values that
only another script has, and about ways to nodes in scripts, came later: the check of then found none of those eight.

| slip | the engine | the check |
|---|---|---|
"""


def run(root: Path, *arguments: str) -> Any:
    done = subprocess.run(
        [sys.executable, "-m", "hookset", *arguments, "--json"], cwd=root, capture_output=True, text=True, check=False
    )
    return json.loads(done.stdout)


def row(root: Path, fault: EngineFault) -> tuple[str, bool, bool]:
    told = run(root, "trial", "--in", ENGINE)
    errors = [one for both in told["both"] for one in both["engine"]] + told["only_engine"]
    findings = [both["finding"] for both in told["both"]] + told["only_check"]
    says = errors[0]["text"] if errors else told["wrong"] or "nothing"
    says = says if len(says) <= 90 else f"{says[:88]}…"
    more = f" +{len(told['follows'])}" if told["follows"] else ""
    place = f"{findings[0]['path']}:{findings[0]['line']}" if findings else ""
    check = f"`{findings[0]['code']}` {place}" if findings else "nothing"
    cells = (fault.title, f"{says}{more}".replace("|", "\\|"), check)
    return f"| {' | '.join(cells)} |", bool(errors or told["wrong"]), bool(findings)


def main() -> None:
    with tempfile.TemporaryDirectory() as place:
        os.environ |= {f"XDG_{one}_HOME": f"{place}/{one}" for one in ("CONFIG", "CACHE", "DATA")}
        lay_out(Path(place, "clean"))
        root = Path(place, "clean/maps/quay")
        files = sum(path.is_file() for path in root.rglob("*"))
        run(root, "start")
        word = run(root, "trial", "--in", ENGINE)["error"]["remedy"].partition("--allow ")[2]
        assert run(root, "trial", "--in", ENGINE, "--allow", word)["ok"]
        rows = []
        for number, fault in enumerate(FAULTS):
            lay_out(Path(place, str(number)))
            other = Path(place, str(number), "maps/quay")
            run(other, "start")
            fault.make(other)
            rows.append(row(other, fault))
            print(rows[-1][0])
    told, checked = sum(one[1] for one in rows), sum(one[2] for one in rows)
    version = subprocess.run([ENGINE, "--version"], capture_output=True, text=True, check=False).stdout.split("\n")[0]
    head = HEAD.format(version=f"{ENGINE} {version.strip()}", files=files, count=len(rows), checked=checked, told=told,
                       silent=len(rows) - told)  # fmt: skip
    PAGE.write_text(head + "\n".join(one[0] for one in rows) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
