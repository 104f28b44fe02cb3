"""One file written in the place of another: whole or not at all."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.model import CouldNotError, RefusedError
from hookset.model.digits import natural_number
from hookset.project.saving import replacing, save_file


def names(folder: Path) -> list[str]:
    return sorted(path.name for path in folder.iterdir())


def test_a_file_takes_the_place_of_the_one_that_was_there(tmp_path: Path) -> None:
    file = tmp_path / "deep/report.html"
    save_file(file, b"one")
    save_file(file, b"two")
    assert file.read_bytes() == b"two"
    assert names(file.parent) == ["report.html"]


def test_what_fails_half_way_leaves_the_earlier_file(tmp_path: Path) -> None:
    file = tmp_path / "report.html"
    file.write_bytes(b"one")
    with pytest.raises(ZeroDivisionError), replacing(file) as stream:
        stream.write(b"half of tw")
        raise ZeroDivisionError
    assert file.read_bytes() == b"one"
    assert names(tmp_path) == ["report.html"]


def test_a_link_is_replaced_and_not_followed(tmp_path: Path) -> None:
    victim = tmp_path / "victim.txt"
    victim.write_bytes(b"keep")
    link = tmp_path / "report.html"
    link.symlink_to(victim)
    with replacing(link) as stream:
        stream.write(b"new")
    assert victim.read_bytes() == b"keep"
    assert not link.is_symlink() and link.read_bytes() == b"new"


def test_a_folder_is_not_replaced(tmp_path: Path) -> None:
    (tmp_path / "report.html").mkdir()
    with pytest.raises(CouldNotError):
        save_file(tmp_path / "report.html", b"new")
    assert names(tmp_path) == ["report.html"]


def test_nothing_is_saved_through_a_link_out_of_a_map(tmp_path: Path) -> None:
    (tmp_path / "elsewhere").mkdir()
    root = tmp_path / "map"
    root.mkdir()
    (root / "hookset.toml").write_text("")
    (root / "reports").symlink_to(tmp_path / "elsewhere")
    with pytest.raises(RefusedError):
        save_file(root / "reports/report.html", b"new")
    assert names(tmp_path / "elsewhere") == []


@pytest.mark.parametrize(
    ("text", "number"),
    [
        ("0", 0),
        ("007", 7),
        ("42", 42),
        ("²", None),
        ("٣", None),
        ("-1", None),
        ("", None),
        ("1.5", None),
        ("9" * 19, None),
    ],
)
def test_only_what_counts_is_a_number(text: str, number: int | None) -> None:
    assert natural_number(text) == number
