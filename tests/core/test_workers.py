"""Files read by several processes, however the system starts them."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from hookset.config.layouts import map_words
from hookset.project import open_project
from hookset.symbols import workers
from hookset.symbols.cache import Read
from hookset.symbols.workers import StartMethod, read_files


@pytest.fixture
def read_here(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The paths that this process reads itself."""
    found: list[str] = []
    real = workers._read

    def noting(tree: object, path: str, *others: object) -> Read:
        found.append(path)
        return real(tree, path, *others)  # type: ignore[arg-type]

    monkeypatch.setattr(workers, "_read", noting)
    monkeypatch.setattr(os, "cpu_count", lambda: 2)
    return found


@pytest.mark.parametrize("start", ["fork", "spawn"])
def test_other_processes_read_what_this_one_would(demo: Path, start: StartMethod, read_here: list[str]) -> None:
    if start == "fork" and os.name == "nt":
        pytest.skip("this system starts processes afresh")
    project = open_project(demo)
    paths, words = project.tree.paths(), map_words(project.tree, project.layout)
    shared = read_files(project.tree, paths, project.layout, words, start)
    mine = list(read_here)
    assert 0 < len(mine) < len(paths)
    alone = [workers._read(project.tree, path, project.layout, words) for path in paths]
    assert {one.facts.path: one for one in shared} == {one.facts.path: one for one in alone}


def test_what_a_process_that_died_should_have_read_is_read_here(
    demo: Path, monkeypatch: pytest.MonkeyPatch, read_here: list[str]
) -> None:
    monkeypatch.setattr(workers, "_work", _dies)
    project = open_project(demo)
    paths, words = project.tree.paths(), map_words(project.tree, project.layout)
    found = read_files(project.tree, paths, project.layout, words, "spawn")
    assert sorted(one.facts.path for one in found) == sorted(paths) == sorted(read_here)


def _dies(*_: object) -> bytes:
    os._exit(3)
