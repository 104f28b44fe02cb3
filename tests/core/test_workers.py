"""Files read by several processes, however the system starts them."""

from __future__ import annotations

import os
import zipfile
from pathlib import Path

import pytest

from hookset.config.layouts import map_words
from hookset.project import open_project
from hookset.symbols import workers
from hookset.symbols.cache import Read
from hookset.symbols.workers import StartMethod, read_files
from hookset.trees import FolderTree
from hookset.trees.archives.zipped import open_zip


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


def test_a_map_that_is_an_archive_is_read_by_several(demo: Path, tmp_path: Path, read_here: list[str]) -> None:
    with zipfile.ZipFile(tmp_path / "map.zip", "w") as archive:
        for file in (path for path in demo.rglob("*") if path.is_file()):
            archive.write(file, file.relative_to(demo).as_posix())
    tree, layout = open_zip(tmp_path / "map.zip"), open_project(demo).layout
    found = read_files(tree, tree.paths(), layout, map_words(tree, layout), "spawn")
    assert sorted(one.facts.path for one in found) == sorted(tree.paths())
    assert len(read_here) < len(found)


def test_what_cannot_be_handed_over_is_read_here(demo: Path, read_here: list[str]) -> None:
    tree, layout = FolderTree(demo, lambda path: path.startswith("models")), open_project(demo).layout
    found = read_files(tree, tree.paths(), layout, map_words(tree, layout), "spawn")
    assert sorted(one.facts.path for one in found) == sorted(tree.paths()) == sorted(read_here)
