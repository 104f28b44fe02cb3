"""Maps that are a zip, and zips and folders that the game looks into as well."""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path
from typing import IO, cast

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hookset.trees import Inline
from hookset.trees.archives import open_zip
from hookset.trees.rezipped import Rezipped
from tests.conftest import run_hookset
from tests.core.test_install import write_pack
from tests.core.test_scene_graph import SHEET
from tests.shipped import started
from tests.test_house import DATA


class Streamed:
    """What an archive is streamed into: it cannot go back, so sizes must follow each member's bytes."""

    def __init__(self, file: Path) -> None:
        self.stream = file.open("wb")

    def write(self, data: bytes) -> int:
        return self.stream.write(data)

    def flush(self) -> None:
        self.stream.flush()


@pytest.fixture
def zipped(tmp_path: Path) -> Path:
    """A folder with the basin as a zip that was streamed, with dates, a comment and stored members in it."""
    target = tmp_path / "maps"
    target.mkdir()
    stream = Streamed(target / "basin.zip")
    source = DATA / "scene-graph"
    with zipfile.ZipFile(cast(IO[bytes], stream), "w", zipfile.ZIP_DEFLATED) as archive:
        for file in sorted(source.rglob("*")):
            if file.is_file():
                info = zipfile.ZipInfo(file.relative_to(source).as_posix(), (1999, 12, 31, 23, 59, 58))
                info.compress_type = zipfile.ZIP_STORED if file.suffix == ".png" else zipfile.ZIP_DEFLATED
                archive.writestr(info, file.read_bytes())
        archive.comment = "Grüße".encode()
    stream.stream.close()
    assert run_hookset(target, "start", "basin.zip").code == 0
    return target


def test_a_pack_is_set_into_a_zip_and_taken_back(zipped: Path) -> None:
    assert run_hookset(zipped, "check").code == 0
    write_pack(zipped / "silt", SHEET, {"content/code/silt.lua": "Silt = {}\nfunction Silt.dig(who) end\n"})
    before = (zipped / "basin.zip").read_bytes()
    os.utime(zipped / "basin.zip", (1_000_000_000, 1_000_000_000))
    told = run_hookset(zipped, "install", "silt")
    assert told.code == 0, told.err
    assert run_hookset(zipped, "check").code == 0
    with zipfile.ZipFile(zipped / "basin.zip") as archive, zipfile.ZipFile(io.BytesIO(before)) as old:
        assert archive.testzip() is None
        assert archive.comment == old.comment
        assert b"silt_bank" in archive.read("scene/basin.xml")
        assert archive.read("code/silt.lua") == b"Silt = {}\nfunction Silt.dig(who) end\n"
        touched = {"scene/basin.xml", "texts/en.xml", "texts/de.xml"}
        assert [i.filename for i in archive.infolist()] == [i.filename for i in old.infolist()] + ["code/silt.lua"]
        for info in old.infolist():
            assert archive.getinfo(info.filename).date_time == info.date_time
            if info.filename not in touched:
                assert archive.read(info.filename) == old.read(info.filename)
    assert run_hookset(zipped, "build").code == 0
    assert run_hookset(zipped, "undo").code == 0
    assert (zipped / "basin.zip").read_bytes() == before
    assert (zipped / "basin.zip").stat().st_mtime == 1_000_000_000


def test_start_names_the_zip_where_the_folder_is_no_map(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "quay.zip", "w") as archive:
        archive.writestr("readme.txt", "nothing")
    told = run_hookset(tmp_path, "start")
    assert told.code == 1
    assert "hookset start quay.zip" in told.err
    assert run_hookset(tmp_path, "start", "quay.zip").code == 1


def test_a_damaged_zip_is_told(zipped: Path) -> None:
    data = (zipped / "basin.zip").read_bytes()
    (zipped / "basin.zip").write_bytes(data[: len(data) // 2])
    told = run_hookset(zipped, "check", "--json")
    assert (told.code, told.told) == (3, ["damaged-archive"])


@settings(max_examples=15, deadline=None)
@given(
    st.dictionaries(st.sampled_from("abcdef"), st.binary(max_size=200), min_size=1),
    st.dictionaries(st.sampled_from("cdefgh"), st.none() | st.binary(max_size=200)),
)
def test_rezipped_reads_as_the_changes_over_the_archive(
    tmp_path_factory: pytest.TempPathFactory, old: dict[str, bytes], changes: dict[str, bytes | None]
) -> None:
    file = tmp_path_factory.mktemp("zip") / "a.zip"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in old.items():
            archive.writestr(name, data)
    made = Rezipped(open_zip(file), {n: None if data is None else Inline(data) for n, data in changes.items()})
    with zipfile.ZipFile(io.BytesIO(made.read())) as archive:
        assert archive.testzip() is None
        found = {name: archive.read(name) for name in archive.namelist()}
    assert found == {name: data for name, data in {**old, **changes}.items() if data is not None}


@pytest.mark.parametrize("form", ["folder", "zip"])
def test_content_roots_count_like_the_base_game(zipped: Path, form: str) -> None:
    scene = "scene/basin.xml"
    tree = open_zip(zipped / "basin.zip")
    told = tree.read(scene).replace(b'is="tide_gate"', b'is="far_gate"')
    (zipped / "basin.zip").write_bytes(Rezipped(tree, {scene: Inline(told)}).read())
    assert "`far_gate` is defined nowhere" in run_hookset(zipped, "check").out
    library = b'<Basin><Things><Thing key="far_gate"/></Things></Basin>'
    if form == "folder":
        (zipped / "library/scene").mkdir(parents=True)
        (zipped / "library/scene/far.xml").write_bytes(library)
    else:
        with zipfile.ZipFile(zipped / "library", "w") as archive:
            archive.writestr("scene/far.xml", library)
    project = zipped / "hookset.toml"
    project.write_text(project.read_text() + 'roots = ["library"]\n')
    checked = run_hookset(zipped, "check")
    assert checked.code == 0, checked.out + checked.err
    project.write_text(project.read_text().replace('"library"', '"libary"'))
    lacking = run_hookset(zipped, "check", "--json")
    assert (lacking.code, lacking.told) == (3, ["not-found"])


def test_a_zip_made_of_a_folder_is_seen_from_that_folder(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "basin.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        for file in sorted((DATA / "scene-graph").rglob("*")):
            if file.is_file():
                archive.write(file, f"basin/{file.relative_to(DATA / 'scene-graph').as_posix()}")
    assert run_hookset(tmp_path, "start", "basin.zip").code == 0
    assert run_hookset(tmp_path, "check").code == 0
    before = (tmp_path / "basin.zip").read_bytes()
    write_pack(tmp_path / "silt", SHEET, {"content/code/silt.lua": "Silt = {}\nfunction Silt.dig(who) end\n"})
    assert run_hookset(tmp_path, "install", "silt").code == 0
    with zipfile.ZipFile(tmp_path / "basin.zip") as archive:
        assert "basin/code/silt.lua" in archive.namelist()
        assert b"silt_bank" in archive.read("basin/scene/basin.xml")
    assert run_hookset(tmp_path, "check").code == 0
    assert run_hookset(tmp_path, "undo").code == 0
    assert (tmp_path / "basin.zip").read_bytes() == before


@pytest.mark.parametrize(
    "layout", ["paired-modules", "scene-graph", "type-table", "mirrored-folders", "numbered-marks"]
)
def test_maps_of_every_layout_are_tried_in_their_game(layout: str, tmp_path: Path) -> None:
    root = started(layout, tmp_path)
    assert run_hookset(root, "build").code == 0
    dry_run = run_hookset(root, "trial")
    assert dry_run.code == 0, dry_run.out
    assert "No errors: everything that was asked for was there." in dry_run.out
    assert "no scripts" not in dry_run.out
    sounds = [line for line in dry_run.out.splitlines() if line.startswith("sounds")]
    assert ".wav" in sounds[0]


def test_a_locked_map_is_refused_with_the_reason(zipped: Path) -> None:
    archive = zipped / "basin.zip"
    assert run_hookset(zipped, "start", "basin.zip").code in (0, 1)
    data = bytearray(archive.read_bytes())
    for sign, flags in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        at = data.find(sign)
        while at >= 0:
            data[at + flags] |= 1
            at = data.find(sign, at + 4)
    archive.write_bytes(data)
    refused = run_hookset(zipped, "check", "--json")
    assert (refused.code, refused.told) == (3, ["locked-archive"])
    assert archive.read_bytes() == data
