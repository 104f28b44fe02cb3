"""What would be missing without a name is told by judging a few references: it must be what judging all of them tells."""

from __future__ import annotations

import importlib
from pathlib import Path

import pytest

from hookset.project import open_project
from hookset.symbols import analyse, trace
from tests.conftest import run_hookset

MAPS = ("brackwater", "maps/basin", "maps/course", "maps/kiln", "maps/old-quay", "maps/quay", "maps/shore")


@pytest.mark.no_cover
@pytest.mark.parametrize("where", MAPS)
def test_what_would_be_missing_is_the_same_by_judging_all(
    demo: Path, where: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = demo.parent / where
    if where != "brackwater":
        run_hookset(folder, "start")
    project = open_project(folder)
    analysis = analyse(project.tree, project.layout, project.stock)
    names = sorted({one.name for file in analysis.web.files for one in file.definitions})
    quickly = [trace(analysis, name) for name in names]
    monkeypatch.setattr(importlib.import_module("hookset.symbols.trace"), "_stands_alone", lambda *_: False)
    assert quickly == [trace(analysis, name) for name in names]
    assert any(one.breaks for found in quickly for one in found)
