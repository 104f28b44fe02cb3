"""The small maps of the shipped layouts, and single faults in them."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

from hookset.core.checks import Verdict, judge
from hookset.core.project import begin, open_project
from tests.test_house import DATA

PLAYERS = {"type-table": 2, "numbered-marks": 2}
"""How many the maps are for, where that matters."""


def started(name: str, folder: Path) -> Path:
    """A copy of the map, with its project file; the base game's stock list beside it."""
    shutil.copytree(DATA / name, folder / name)
    shutil.copy(DATA / "base.stock.json", folder)
    text = begin(folder / name, None, ()).text
    if name in PLAYERS:
        text = text.replace("[content]", f"players = {PLAYERS[name]}\n\n[content]")
    (folder / name / "hookset.toml").write_text(text)
    return folder / name


def replaced(path: str, old: str, new: str, encoding: str = "utf-8") -> Callable[[Path], object]:
    """One text for another, once, every other byte as it was."""

    def make(root: Path) -> None:
        data = (root / path).read_bytes()
        assert old.encode(encoding) in data
        (root / path).write_bytes(data.replace(old.encode(encoding), new.encode(encoding), 1))

    return make


def judged(root: Path) -> Verdict:
    project = open_project(root)
    return judge(project.tree, project.layout, project.stock, None, project.terms)


def assert_told(root: Path, code: str, path: str, line: int) -> None:
    """A check tells it, in this file and (for a line over 0) in this line."""
    findings = judged(root).findings
    told = [finding for finding in findings if (finding.code, finding.spot.path) == (code, path)]
    assert told, [(finding.code, str(finding.spot), finding.message) for finding in findings]
    assert not line or line in [finding.spot.line for finding in told], [str(finding.spot) for finding in told]
