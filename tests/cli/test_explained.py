"""What `layout explain` says of files of the shipped layouts' maps, whole: each line was read against the file."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.core.project import open_project
from tests.conftest import run_hookset
from tests.shipped import started

EXPLAINED = Path(__file__).parent.parent / "explained"


@pytest.mark.parametrize("expected", sorted(EXPLAINED.iterdir()), ids=lambda path: path.stem)
def test_every_line_is_as_it_was_read(expected: Path, tmp_path: Path) -> None:
    layout, _, name = expected.stem.partition(".")
    root = started(layout, tmp_path)
    (path,) = (path for path in open_project(root).tree.paths() if Path(path).name == name)
    assert run_hookset(root, "layout", "explain", path).out == expected.read_text()
