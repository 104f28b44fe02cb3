"""Archives that are written again: only what changed is packed, and the bytes are as if all of it had been."""

from __future__ import annotations

import hashlib
import io
import zipfile
from pathlib import Path
from typing import BinaryIO

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hookset.building.archive import Archive, write_archive
from hookset.building.forms import zip_tree
from tests.conftest import run_hookset

NAMES = st.sampled_from(["map.toml", "a.lua", "b/c.png", "b/d.lua", "e.txt", "ü.ogg", "z.json"])
FILES = st.dictionaries(NAMES, st.binary(max_size=3_000), min_size=1)


class Files:
    """A tree of these files, of which each is known by its bytes."""

    links: tuple[str, ...] = ()

    def __init__(self, files: dict[str, bytes], known: bool = True) -> None:
        self.files = files
        self.known = known

    def paths(self) -> tuple[str, ...]:
        return tuple(sorted(self.files))

    def has(self, path: str) -> bool:
        return path in self.files

    def size(self, path: str) -> int:
        return len(self.files[path])

    def stamp(self, path: str) -> bytes:
        return hashlib.sha256(self.files[path]).digest() if self.known else b""

    def read(self, path: str) -> bytes:
        return self.files[path]

    def open(self, path: str) -> BinaryIO:
        return io.BytesIO(self.files[path])


def whole(files: dict[str, bytes], order: tuple[str, ...]) -> bytes:
    out = io.BytesIO()
    assert zip_tree(Files(files), order, out) == len(order)
    return out.getvalue()


@pytest.mark.parametrize("limit", [None, 500], ids=["small", "beyond the first limit of the form"])
@settings(max_examples=25)
@given(st.lists(st.tuples(FILES, st.randoms()), min_size=2, max_size=4))
def test_what_is_packed_again_is_as_if_packed_for_the_first_time(
    tmp_path_factory: pytest.TempPathFactory, limit: int | None, versions: list[tuple[dict[str, bytes], object]]
) -> None:
    folder = tmp_path_factory.mktemp("built")
    target, memory = folder / "map.zip", folder / "memory"
    before: dict[str, bytes] = {}
    with pytest.MonkeyPatch.context() as patch:
        if limit is not None:
            patch.setattr(zipfile, "ZIP64_LIMIT", limit)
        for files, shuffled in versions:
            order = list(files)
            shuffled.shuffle(order)  # type: ignore[attr-defined]
            packed = write_archive(Files(files), Archive("map.zip", tuple(order), ()), target, memory)
            assert target.read_bytes() == whole(files, tuple(order))
            assert packed == sum(before.get(path) != data for path, data in files.items())
            before = files
            with zipfile.ZipFile(target) as archive:
                assert archive.testzip() is None
                assert archive.namelist() == order


def test_an_archive_that_somebody_else_has_changed_is_packed_as_a_whole(tmp_path: Path) -> None:
    files = {"a.lua": b"a" * 100, "b.lua": b"b" * 100}
    target, memory, archive = tmp_path / "map.zip", tmp_path / "memory", Archive("map.zip", ("a.lua", "b.lua"), ())
    right = whole(files, archive.members)
    assert write_archive(Files(files), archive, target, memory) == 2
    assert write_archive(Files(files), archive, target, memory) == 0
    target.write_bytes(target.read_bytes()[:-1] + b"x")
    assert write_archive(Files(files), archive, target, memory) == 2
    assert target.read_bytes() == right
    for spoilt in (b"", b"nonsense", memory.read_bytes()[:-3]):
        memory.write_bytes(spoilt)
        assert write_archive(Files(files), archive, target, memory) == 2
    # Files of which only their bytes can tell that they are as they were are read.
    assert write_archive(Files(files, known=False), archive, target, memory) == 2
    assert write_archive(Files(files, known=False), archive, target, memory) == 0
    assert write_archive(Files(files | {"b.lua": b"c" * 100}, known=False), archive, target, memory) == 1
    assert write_archive(Files(files, known=False), archive, target, memory) == 1
    assert target.read_bytes() == right


def test_a_second_build_packs_nothing_and_one_change_one_file(demo: Path) -> None:
    first = run_hookset(demo, "build", "--json").data
    assert first["packed"] == len(first["members"])
    again = run_hookset(demo, "build", "--json").data
    assert (again["packed"], again["sha256"]) == (0, first["sha256"])
    script = demo / "scripts/server/harbour.lua"
    script.write_text(script.read_text(encoding="utf-8") + "-- a word more\n", encoding="utf-8")
    changed = run_hookset(demo, "build", "--json").data
    assert changed["packed"] == 1
    fresh = run_hookset(demo, "--no-cache", "build", "--json").data
    assert fresh["packed"] == len(fresh["members"])
    assert fresh["sha256"] == changed["sha256"]
