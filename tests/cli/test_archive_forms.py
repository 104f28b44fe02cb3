"""The forms of a built map: zip, tar, folder, archives in the archive; read back, and judged as the game would see it."""

from __future__ import annotations

import io
import json
import os
import tarfile
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.building.archive import Archive, write_archive
from hookset.building.forms.zipped import ZIP
from hookset.trees import FolderTree
from tests.conftest import Ran
from tests.refusals import refused

Run = Callable[..., Ran]
LAYOUT = """
[layout]
name = "own"
title = "A map"
[descriptor]
file = "map.json"
name = {{ at = "$.name" }}
version = {{ at = "$.version" }}
[build]
{build}
first = ["map.json"]
[kinds.file]
label = "file"
path = true
[[read]]
files = "**"
format = "any"
defines = [{{ kind = "file", name = "{{path}}" }}]
[[read]]
files = "map.json"
format = "json"
refers = [{{ kind = "file", at = "$.shows[*]" }}]
"""


def town(root: Path, build: str) -> Path:
    for path, data in {
        "map.json": b'{"name": "town", "version": "1", "shows": ["sounds/bell.raw"]}',
        "sounds/bell.raw": b"ding" * 500,
        "sounds/gong.raw": b"dong" * 500,
        "textures/sign.txt": b"sign" * 100,
        "textures/deep/wall.txt": b"wall" * 100,
        "own.toml": LAYOUT.format(build=build).encode(),
        "hookset.toml": b'[map]\nname = "town"\nlayout = "own.toml"\n',
    }.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_bytes(data)
    return root


MEMBERS = ["map.json", "own.toml", "sounds/bell.raw", "sounds/gong.raw", "textures/deep/wall.txt", "textures/sign.txt"]


def tree_of(folder: Path) -> dict[str, bytes]:
    return {path.relative_to(folder).as_posix(): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.no_cover
def test_what_is_stored_is_not_packed_and_the_ending_is_the_layouts(tmp_path: Path, hookset: Run) -> None:
    root = town(tmp_path / "town", 'archive = "{name}.harbour"\nstored = ["sounds/**"]')
    assert hookset("build", folder=root).code == 0
    with zipfile.ZipFile(root / "build/town.harbour") as archive:
        kept = {info.filename: info.compress_type == zipfile.ZIP_STORED for info in archive.infolist()}
        assert list(kept) == MEMBERS
        assert {name for name, stored in kept.items() if stored} == {"sounds/bell.raw", "sounds/gong.raw"}
    # Another wish of the layout packs all again, though no file has changed.
    (root / "own.toml").write_text(LAYOUT.format(build='archive = "{name}.harbour"'))
    assert hookset("build", "--json", folder=root).data["packed"] == len(MEMBERS)


def test_a_tar_has_the_same_bytes_for_the_same_content(tmp_path: Path, hookset: Run) -> None:
    root = town(tmp_path / "town", 'archive = "{name}.tar"\nform = "tar"')
    assert hookset("build", folder=root).code == 0
    first = (root / "build/town.tar").read_bytes()
    with tarfile.open(fileobj=io.BytesIO(first)) as archive:
        assert archive.getnames() == MEMBERS
        assert {(one.mtime, one.uid, one.uname) for one in archive} == {(0, 0, "")}
    assert hookset("build", "--json", folder=root).data["packed"] == 0
    os.utime(root / "sounds/bell.raw", (1, 1))
    assert hookset("--no-cache", "build", folder=root).code == 0
    assert (root / "build/town.tar").read_bytes() == first


def test_a_folder_is_exchanged_and_delivered_as_a_whole(tmp_path: Path, hookset: Run) -> None:
    root = town(tmp_path / "town", 'archive = "{name}"\nform = "folder"')
    game = tmp_path / "game"
    game.mkdir()
    assert hookset("build", folder=root).code == 0
    built = tree_of(root / "build/town")
    assert sorted(built) == MEMBERS
    assert hookset("build", "--json", folder=root).data["packed"] == 0
    # What lies there by hand is gone with the next build that changes anything; what was built is no part of the map.
    (root / "build/town/mine.txt").write_text("x")
    (root / "sounds/gong.raw").unlink()
    assert hookset("build", folder=root).code == 0
    assert sorted(tree_of(root / "build/town")) == [one for one in MEMBERS if one != "sounds/gong.raw"]
    first = hookset("deliver", "game", "--to", str(game), "--json", folder=root).data["delivered"][0]
    assert first["same"] is False
    assert hookset("deliver", "--json", folder=root).data["delivered"][0]["same"] is True
    before = tree_of(game)
    (game / "town-old").mkdir()
    for path, data in tree_of(game / "town").items():
        (game / "town-old" / path).parent.mkdir(parents=True, exist_ok=True)
        (game / "town-old" / path).write_bytes(data)
    (root / "sounds/bell.raw").write_bytes(b"new")
    aside = hookset("deliver", "--json", folder=root).data["delivered"][0]["aside"]
    assert {Path(one["was"]).name for one in aside} == {"town", "town-old"}
    assert (game / "town/sounds/bell.raw").read_bytes() == b"new"
    assert [one.name for one in game.iterdir()] == ["town"]
    assert hookset("deliver", "--back", folder=root).code == 0
    assert {path for path in tree_of(game) if path.startswith("town/")} == set(before)
    assert tree_of(game / "town") == tree_of(game / "town-old")


def test_archives_in_the_archive_are_packed_again_where_something_in_them_has_changed(
    tmp_path: Path, hookset: Run
) -> None:
    inner = (
        'archive = "{name}.zip"\n'
        'inner = [{ name = "textures.pack", files = ["textures/**"], below = "textures" },'
        ' { name = "sounds.tar", files = ["sounds/**"], form = "tar" }]'
    )
    root = town(tmp_path / "town", inner)
    assert hookset("build", "--json", folder=root).data["packed"] == 8
    with zipfile.ZipFile(root / "build/town.zip") as archive:
        assert archive.namelist() == ["map.json", "own.toml", "textures.pack", "sounds.tar"]
        with zipfile.ZipFile(io.BytesIO(archive.read("textures.pack"))) as within:
            assert within.namelist() == ["deep/wall.txt", "sign.txt"]
        with tarfile.open(fileobj=io.BytesIO(archive.read("sounds.tar"))) as sounds:
            assert sounds.getnames() == ["sounds/bell.raw", "sounds/gong.raw"]
    whole = (root / "build/town.zip").read_bytes()
    assert hookset("build", "--json", folder=root).data["packed"] == 0
    (root / "textures/sign.txt").write_bytes(b"new sign")
    assert hookset("build", "--json", folder=root).data["packed"] == 2, "the file, and the archive that it is in"
    (root / "textures/sign.txt").write_bytes(b"sign" * 100)
    assert hookset("--no-cache", "build", folder=root).code == 0
    assert (root / "build/town.zip").read_bytes() == whole
    (root / "textures.pack").write_text("in the way")
    assert hookset("build", folder=root).code == 3


def test_what_is_used_and_stays_out_is_no_build(demo: Path, hookset: Run) -> None:
    rows = (demo / "manifest.txt").read_text().splitlines()
    left = [row for row in rows if "gull_2" not in row]
    assert left != rows
    (demo / "manifest.txt").write_text("\n".join(left) + "\n")
    assert hookset("build").code == 1
    with (demo / "hookset.toml").open("a") as file:
        file.write('\n[check]\nseverity = { not-in-manifest = "off" }\n')
    # The whole map has no error now; what would be shipped of it has.
    assert hookset("check").code == 0
    refused = hookset("build", "--json")
    assert refused.code == 1
    assert any("gull_2" in line for line in refused.data["error"]["details"])
    assert hookset("build", "--anyway").code == 0


@pytest.mark.parametrize("damage", ["a member", "the list"])
def test_a_disk_that_does_not_keep_what_is_written_is_found(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, damage: str
) -> None:
    root = town(tmp_path / "town", 'archive = "{name}.zip"')
    write = ZIP.write

    def damaged(*arguments: object) -> int:
        packed = write(*arguments)  # type: ignore[arg-type]
        file = arguments[3]
        assert isinstance(file, Path)
        data = bytearray(file.read_bytes())
        at = data.index(b"\x03\x04", 200) + 60 if damage == "a member" else data.rindex(b"PK\x01\x02")
        data[at : at + 8] = b"\0" * 8
        file.write_bytes(data)
        return packed

    monkeypatch.setattr(type(ZIP), "write", lambda _, *arguments: damaged(*arguments))
    tree = FolderTree(root)
    with refused("archive-differs"):
        write_archive(tree, Archive("town.zip", tree.paths(), ()), tmp_path / "town.zip")


@pytest.mark.parametrize(
    ("build", "told"),
    [
        ('form = "rar"', "form"),
        ('inner = [{ name = "../x", files = ["**"] }]', "no path in an archive"),
        ('inner = [{ name = "x", files = [] }]', "holds nothing"),
        ('stored = ["a//b"]', "no path"),
    ],
)
def test_mistakes_in_the_forms_are_told(tmp_path: Path, hookset: Run, build: str, told: str) -> None:
    root = town(tmp_path / "town", build)
    done = hookset("build", "--json", folder=root)
    assert done.code == 3
    assert told in json.dumps(done.data["error"])
