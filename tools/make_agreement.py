"""Writes docs/agreement.md: every planted fault, the finding that tells it, and what the stand-in game says.

python tools/make_agreement.py [FILE]
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.core.test_games import CONSEQUENCES, MAPS, UNSEEN, FaultRow, played
from tests.faults import FAULTS, Fault
from tests.shipped import judged, started

from hookset.applying import Disk, apply_changes
from hookset.building import plan_archive, write_archive
from hookset.checks import judge
from hookset.demo import lay_out
from hookset.packs import open_pack
from hookset.planning import Choices, plan_install
from hookset.project import PROJECT_FILE, Ledger, begin, open_project, read_ledger
from hookset.standin import Log, play

HEAD = """# The checks against a game

Each fault below is planted, alone, in the demo map with both packs. `hookset check` judges the map by reading it. The
stand-in game, which shares no code with it, loads the built map, runs its scripts and uses every object. Each fault
that the game logs as an error is a finding of the check; the clean map has neither. `tests/core/test_agreement.py`
holds this true; `tools/make_agreement.py` writes this page.

"""


def verdicts(fault: Fault, folder: Path) -> tuple[str, str]:
    """(the finding, what the game logged first)"""
    lay_out(folder)
    root = folder / "brackwater"
    (root / PROJECT_FILE).write_text(begin(root, None, ()).text, encoding="utf-8")
    project = open_project(root)
    packs = [open_pack(folder / "packs" / f"{name}.zip") for name in ("lift-bridge", "fog-bell")]
    plan = plan_install(project, Ledger(), None, packs, Choices(), "2026-01-01T00:00:00Z")
    (root / ".hookset").mkdir()
    apply_changes(root, plan.all_changes, action="install", title="install", time="t", disk=Disk())
    fault.make(root)
    verdict = judge(project.tree, project.layout, project.stock, read_ledger(root))
    found = next(f for f in verdict.findings if (f.code, f.spot.path) == (fault.code, fault.path))
    archive = plan_archive(verdict.case, "brackwater", "3")
    write_archive(project.tree, archive, folder / archive.name)
    log = Log()
    play(folder / archive.name, 60, log)
    return f"`{found.code}` at {found.spot}", log.errors[0].text if log.errors else ""


def verdicts_elsewhere(name: str, row: FaultRow, folder: Path) -> tuple[str, str, str]:
    """(fault, the finding, what the game logged first) on another layout's map."""
    title, code, path, _, make = row
    root = started(name, folder)
    make(root)
    verdict = judged(root)
    found = next(f for f in verdict.findings if (f.code, f.spot.path) == (code, path))
    errors = played(root, verdict)
    logged = f"not noticed: {UNSEEN[title]}" if title in UNSEEN else errors[0].text
    if title in CONSEQUENCES:
        logged += f" (and more: {CONSEQUENCES[title]})"
    return title, f"`{found.code}` at {found.spot}", logged.replace("|", "\\|").replace("\n", " ")


def elsewhere() -> str:
    text = f"\n## On the maps of the other layouts: {sum(map(len, MAPS.values()))} faults\n\n"
    text += (
        "The stand-in has a small game of its own for each. Every line in which it logs an error has a finding, but\n"
    )
    text += "for the consequences that are marked as such.\n"
    for name, rows in MAPS.items():
        text += f"\n### {name}: {len(rows)}\n\n| fault | the check | the game |\n|---|---|---|\n"
        for row in rows:
            with tempfile.TemporaryDirectory() as folder:
                text += "| {} | {} | {} |\n".format(*verdicts_elsewhere(name, row, Path(folder)))
    return text


def page() -> str:
    seen: list[tuple[str, str, str]] = []
    unseen: list[tuple[str, str, str]] = []
    for fault in FAULTS:
        with tempfile.TemporaryDirectory() as folder:
            finding, logged = verdicts(fault, Path(folder) / "demo")
        logged = logged.replace("|", "\\|").replace("\n", " ")
        (unseen if fault.unseen else seen).append((fault.title, finding, fault.unseen or logged))
    text = HEAD + f"## Found by both: {len(seen)} faults\n\n" + "| fault | the check | the game |\n|---|---|---|\n"
    text += "".join(f"| {title} | {finding} | {logged} |\n" for title, finding, logged in seen)
    text += f"\n## What the game cannot notice: {len(unseen)} faults\n\n"
    text += "| fault | the check | why the game does not |\n|---|---|---|\n"
    text += "".join(f"| {title} | {finding} | {why} |\n" for title, finding, why in unseen)
    return text + elsewhere()


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs/agreement.md"
    target.write_text(page(), encoding="utf-8")
