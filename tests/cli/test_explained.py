"""What `layout explain` says of every file of the shipped layouts' maps, whole: each line was read against the file."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.cli.main import main
from hookset.config.layouts import shipped_names
from hookset.project import open_project
from tests.conftest import run_hookset
from tests.shipped import started

EXPLAINED = Path(__file__).parent.parent / "explained"
SHOWN_ELSEWHERE = (".png", ".wav", ".bin")
"""Files in which no names stand."""


@pytest.mark.parametrize("layout", shipped_names())
def test_every_line_is_as_it_was_read(
    layout: str, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("NO_COLOR", "1")
    monkeypatch.setenv("COLUMNS", "140")
    root = started("brackwater" if layout == "split-lua" else layout, tmp_path)
    project = open_project(root)
    told: list[str] = []
    for path in sorted(project.tree.paths()):
        if project.layout.text_rule(path) is not None and not path.endswith(SHOWN_ELSEWHERE):
            assert main(["--map", str(root), "layout", "explain", path]) == 0
            told.append(capsys.readouterr().out)
    assert "\n".join(told) == (EXPLAINED / f"{layout}.txt").read_text(encoding="utf-8")


def test_lines_beyond_the_first_are_shown_when_asked_for(tmp_path: Path) -> None:
    root = started("type-table", tmp_path)
    few, all_of_them = (
        run_hookset(root, "layout", "explain", "shapes/post.gltf", *options).out for options in ([], ["--all"])
    )
    assert "… and 27 lines more: `--all` shows them" in few
    assert "lines more" not in all_of_them
    assert len(all_of_them.splitlines()) == len(few.splitlines()) + 26
    assert len(run_hookset(root, "layout", "explain", "shapes/post.gltf", "--json").data["unseen"]) == 67


MANY = """
[layout]
name = "sheds"
title = "Sheds"

[kinds.shed]
label = "shed"
[kinds.door]
label = "door"

[[read]]
files = "sheds.csv"
format = "csv"
defines = [{ kind = "shed", column = "shed" }, { kind = "door", column = "door" }]
"""


def test_of_a_large_file_each_rule_shows_its_first_names(tmp_path: Path) -> None:
    rows = [f"shed_{number}," for number in range(600)] + [f",door_{number}" for number in range(3)]
    (tmp_path / "sheds.csv").write_text("\n".join(["shed,door", *rows]) + "\n", "utf-8")
    (tmp_path / "sheds.toml").write_text(MANY, "utf-8")
    (tmp_path / "hookset.toml").write_text('[map]\nname = "sheds"\nlayout = "sheds.toml"\n', "utf-8")
    few, all_of_them = (run_hookset(tmp_path, "layout", "explain", "sheds.csv", *way).out for way in ([], ["--all"]))
    assert "shed_11 " in few
    assert "shed_12 " not in few
    assert "… and 588 more" in few
    assert "door_2 " in few
    assert "603 names seen" in few
    assert "shed_599 " in all_of_them
