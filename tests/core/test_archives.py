"""Archives of every kind, whole and hostile: what is fine opens alike, what would do harm is refused with the reason."""

from __future__ import annotations

import bz2
import gzip
import io
import lzma
import struct
import tarfile
import unicodedata
import zipfile
from collections.abc import Callable
from pathlib import Path

import py7zr
import pytest

from hookset.model import CouldNotError
from hookset.packs import open_pack
from hookset.packs.sorts import sort_of
from hookset.trees import Tree, unsafe_reason
from hookset.trees.archives import Limits, look_inside, open_archive
from tests.refusals import refused

FILES = {"readme.txt": b"hello", "sounds/bell.wav": b"RIFF\0\0\0\0WAVE" + bytes(2000), "scripts/a.lua": b"return {}"}


def zipped(files: dict[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", method) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return data.getvalue()


def tarred(files: dict[str, bytes], form: int = tarfile.PAX_FORMAT) -> bytes:
    data = io.BytesIO()
    with tarfile.open(fileobj=data, mode="w", format=form) as archive:
        for name, content in files.items():
            info = tarfile.TarInfo(name)
            info.size = len(content)
            archive.addfile(info, io.BytesIO(content))
    return data.getvalue()


def sevened(files: dict[str, bytes]) -> bytes:
    data = io.BytesIO()
    with py7zr.SevenZipFile(data, "w") as archive:
        for name, content in files.items():
            archive.writestr(content, name)
    return data.getvalue()


FORMS: dict[str, Callable[[dict[str, bytes]], bytes]] = {
    "zip": zipped,
    "stored zip": lambda files: zipped(files, zipfile.ZIP_STORED),
    "bzip2 zip": lambda files: zipped(files, zipfile.ZIP_BZIP2),
    "lzma zip": lambda files: zipped(files, zipfile.ZIP_LZMA),
    "pax tar": tarred,
    "gnu tar": lambda files: tarred(files, tarfile.GNU_FORMAT),
    "ustar": lambda files: tarred(files, tarfile.USTAR_FORMAT),
    "tar.gz": lambda files: gzip.compress(tarred(files)),
    "tar.bz2": lambda files: bz2.compress(tarred(files)),
    "tar.xz": lambda files: lzma.compress(tarred(files)),
    "7z": sevened,
}


def opened(data: bytes, folder: Path, limits: Limits | None = None) -> Tree:
    # It goes by what is in it: the name says nothing.
    file = folder / "download.bin"
    file.write_bytes(data)
    return look_inside(open_archive(file, limits), file, limits, lambda _: True)


@pytest.mark.parametrize("form", FORMS)
def test_every_form_reads_alike(form: str, tmp_path: Path) -> None:
    tree = opened(FORMS[form](FILES), tmp_path)
    assert tree.paths() == tuple(sorted(FILES))
    assert {path: tree.read(path) for path in tree.paths()} == FILES
    assert {path: tree.size(path) for path in tree.paths()} == {path: len(data) for path, data in FILES.items()}
    with tree.open("sounds/bell.wav") as one, tree.open("sounds/bell.wav") as other:
        assert one.read(4) == other.read(4) == b"RIFF"
        assert one.read(2) == b"\0\0"


@pytest.mark.parametrize("form", FORMS)
def test_a_pack_of_every_form_opens(form: str, tmp_path: Path) -> None:
    (tmp_path / "pack.x").write_bytes(FORMS[form]({f"My Pack/{name}": data for name, data in FILES.items()}))
    pack = open_pack(tmp_path / "pack.x")
    assert pack.tree.paths() == tuple(sorted(FILES))
    assert pack.top == "My Pack/"


@pytest.mark.parametrize("form", ["zip", "gnu tar", "tar.gz"])
def test_archives_made_of_a_dot(form: str, tmp_path: Path) -> None:
    tree = opened(FORMS[form]({f"./{name}": data for name, data in FILES.items()}), tmp_path)
    assert tree.paths() == tuple(sorted(FILES))
    assert tree.read("readme.txt") == b"hello"


@pytest.mark.parametrize("outer", FORMS)
@pytest.mark.parametrize("inner", ["zip", "tar.gz", "7z"])
def test_archives_in_archives_are_folders(outer: str, inner: str, tmp_path: Path) -> None:
    name = {"zip": "content.zip", "tar.gz": "content.tgz", "7z": "content.7z"}[inner]
    tree = opened(FORMS[outer]({"notes.txt": b"x", name: FORMS[inner](FILES)}), tmp_path)
    assert tree.paths() == tuple(sorted(("notes.txt", *(f"{name}/{path}" for path in FILES))))
    assert tree.read(f"{name}/scripts/a.lua") == b"return {}"


def test_what_is_a_zip_by_the_way_stays_a_file(tmp_path: Path) -> None:
    tree = opened(zipped({"notes.docx": zipped(FILES), "map.pk9": zipped(FILES)}), tmp_path)
    assert tree.paths() == ("map.pk9", "notes.docx")


def test_archives_are_opened_to_a_depth(tmp_path: Path) -> None:
    data = zipped({"deep.txt": b"x"})
    for _ in range(6):
        data = zipped({"inner.zip": data})
    (path,) = opened(data, tmp_path).paths()
    assert path == "inner.zip/inner.zip/inner.zip/inner.zip"


# ---- hostile ---------------------------------------------------------------------------------------------------------

COMPOSED, DECOMPOSED = (unicodedata.normalize(form, "Brücke.lua") for form in ("NFC", "NFD"))
NAMES = [
    pytest.param("../evil", "outside of the map", id="parent"),
    pytest.param("a/../../evil", "outside of the map", id="parent-within"),
    pytest.param("..\\evil", "outside of the map", id="backslash"),
    pytest.param("/etc/evil", "absolute", id="absolute"),
    pytest.param("\\evil", "absolute", id="absolute-backslash"),
    pytest.param("\\\\host\\share\\evil", "absolute", id="network"),
    pytest.param("C:\\evil", "drive letter", id="drive"),
    pytest.param("c:evil", "drive letter", id="drive-relative"),
    pytest.param("a//b", "empty step", id="empty-step"),
    pytest.param("a/./b", "empty step", id="dot"),
    pytest.param("com1.txt", "device", id="device"),
    pytest.param("folder/NUL .lua", "device", id="device-blank"),
    pytest.param("a.lua.", "ends in a dot", id="dot-end"),
    pytest.param("a.lua:stream", "does not allow", id="stream"),
    pytest.param("a\tb", "does not allow", id="control"),
    pytest.param("．．/evil", "take for dots", id="wide-dots"),
    pytest.param("a／..／..／evil", "take for dots", id="wide-slash"),
    pytest.param("‥/evil", "take for dots", id="two-dot-leader"),
    pytest.param("harmless\u202egnp.exe", "not seen", id="turned-around"),
    pytest.param("x" * 300, "longer", id="long"),
]


@pytest.mark.parametrize(("name", "words"), NAMES)
@pytest.mark.parametrize("form", ["zip", "gnu tar", "7z"])
def test_paths_that_lead_elsewhere(form: str, name: str, words: str, tmp_path: Path) -> None:
    data = io.BytesIO()
    if form == "zip":
        with zipfile.ZipFile(data, "w") as archive:
            info = zipfile.ZipInfo("placeholder")
            info.filename = info.orig_filename = name
            archive.writestr(info, b"x")
        raw = data.getvalue()
    else:
        try:
            raw = FORMS[form]({name: b"x"})
        except (ValueError, OSError):
            pytest.skip("no such name can be written in this form")
        if form == "7z" and py7zr.SevenZipFile(io.BytesIO(raw)).namelist() != [name]:
            pytest.skip("its writer mends the name by itself")
    with refused("unsafe-archive") as told:
        opened(raw, tmp_path)
    assert any(words in line for line in told.value.details), told.value.details


@pytest.mark.parametrize("form", ["zip", "pax tar", "7z"])
@pytest.mark.parametrize(
    ("first", "second", "words"),
    [
        pytest.param("a/Bell.lua", "a/bell.lua", "letter case", id="case"),
        pytest.param(COMPOSED, DECOMPOSED, "the way its letters are encoded", id="normal-forms"),
        pytest.param("STRASSE.lua", "straße.lua", "letter case", id="sharp-s"),
        pytest.param("a", "a/b", "a folder as well", id="file-and-folder"),
    ],
)
def test_names_that_only_one_can_have(form: str, first: str, second: str, words: str, tmp_path: Path) -> None:
    with refused("unsafe-archive") as told:
        opened(FORMS[form]({first: b"1", second: b"2"}), tmp_path)
    assert any(words in line for line in told.value.details), told.value.details


@pytest.mark.parametrize(
    ("kind", "words"),
    [
        pytest.param(tarfile.SYMTYPE, "a link", id="symbolic"),
        pytest.param(tarfile.LNKTYPE, "a link", id="hard"),
        pytest.param(tarfile.CHRTYPE, "a device", id="device"),
        pytest.param(tarfile.FIFOTYPE, "a pipe", id="pipe"),
    ],
)
def test_what_is_no_file_in_a_tar(kind: bytes, words: str, tmp_path: Path) -> None:
    data = io.BytesIO()
    with tarfile.open(fileobj=data, mode="w", format=tarfile.GNU_FORMAT) as archive:
        info = tarfile.TarInfo("thing")
        info.type, info.linkname = kind, "/etc/passwd"
        archive.addfile(info)
    with refused("unsafe-archive") as told:
        opened(data.getvalue(), tmp_path)
    assert words in told.value.details[0]


def bomb(packer: Callable[[bytes], bytes]) -> bytes:
    """300 MB of zeros, as a tar: the same packed piece again and again, which is quicker made."""
    info = tarfile.TarInfo("zeros")
    info.size = 300_000_000
    return packer(info.tobuf()) + 30 * packer(bytes(10_000_000)) + packer(bytes(1024))


@pytest.mark.no_cover
@pytest.mark.parametrize("packer", [bz2.compress, lzma.compress], ids=["bzip2", "xz"])
def test_packed_bombs_stop_early(packer: Callable[[bytes], bytes], tmp_path: Path) -> None:
    data = bomb(packer)
    assert len(data) < 100_000
    with refused("unsafe-archive"):
        opened(data, tmp_path)


def test_a_zip_that_says_ten_gigabytes(tmp_path: Path) -> None:
    data = bytearray(zipped({"zeros": bytes(1_000_000)}))
    central = data.index(b"PK\x01\x02")
    struct.pack_into("<I", data, central + 24, 0xF0000000)
    with refused("unsafe-archive") as told:
        opened(bytes(data), tmp_path)
    assert "made to fill a disk" in told.value.details[0]


def test_a_bomb_in_a_bomb(tmp_path: Path) -> None:
    inner = zipped({f"{n}.bin": bytes(9_000_000) for n in range(40)})
    with refused("unsafe-archive"):
        opened(zipped({f"{n}.zip": inner for n in range(5)}), tmp_path, Limits(unpacked_bytes=1_000_000_000))


def test_members_that_share_their_bytes(tmp_path: Path) -> None:
    data = bytearray(zipped({"a": b"x" * 500, "b": b"x" * 500}, zipfile.ZIP_STORED))
    second = data.index(b"PK\x01\x02", data.index(b"PK\x01\x02") + 4)
    struct.pack_into("<I", data, second + 42, 10)
    with refused("unsafe-archive") as told:
        opened(bytes(data), tmp_path)
    assert any("shares its bytes" in line for line in told.value.details), told.value.details


def test_members_packed_by_an_unknown_method(tmp_path: Path) -> None:
    data = bytearray(zipped({"a": b"x" * 100}))
    struct.pack_into("<H", data, data.index(b"PK\x01\x02") + 10, 97)
    with refused("unsafe-archive") as told:
        opened(bytes(data), tmp_path)
    assert "unknown method (97)" in told.value.details[0]


def test_a_list_longer_than_any(tmp_path: Path) -> None:
    data = zipped({f"f{n}": b"" for n in range(300)})
    with refused("unsafe-archive") as told:
        opened(data, tmp_path, Limits(members=100))
    assert "which is the limit" in " ".join(told.value.details)


@pytest.mark.no_cover
def test_more_members_than_a_plain_zip_can_count(tmp_path: Path) -> None:
    assert len(opened(zipped({f"f{n}": b"" for n in range(70_000)}, zipfile.ZIP_STORED), tmp_path).paths()) == 70_000


def test_one_part_of_many(tmp_path: Path) -> None:
    with refused("unread-archive"):
        opened(b"PK\x07\x08" + zipped(FILES), tmp_path)
    data = bytearray(zipped(FILES))
    struct.pack_into("<H", data, data.index(b"PK\x01\x02") + 34, 3)
    with refused("unread-archive"):
        opened(bytes(data), tmp_path)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        pytest.param(b"", "not an archive", id="empty"),
        pytest.param(b"Rar!\x1a\x07\x01\0" + bytes(600), "RAR", id="rar"),
        pytest.param(b"MSCF" + bytes(600), "cabinet", id="cabinet"),
        pytest.param(gzip.compress(b"just a text" * 100), "one packed file", id="gzip-of-one-file"),
        pytest.param(gzip.compress(tarred(FILES))[:-30], "damaged", id="cut-gzip"),
        pytest.param(tarred(FILES)[:3000], "damaged", id="cut-tar"),
        pytest.param(sevened(FILES)[:100], "damaged", id="cut-7z"),
        pytest.param(b"<html>404</html>", "not an archive", id="page"),
    ],
)
def test_what_cannot_be_opened(data: bytes, words: str, tmp_path: Path) -> None:
    with pytest.raises(CouldNotError, match=words):
        opened(data, tmp_path)


def test_locked_archives(tmp_path: Path) -> None:
    data = io.BytesIO()
    with py7zr.SevenZipFile(data, "w", password="secret") as archive:
        archive.writestr(b"x", "a.txt")
    with refused("locked-archive"):
        opened(data.getvalue(), tmp_path)


def test_unseen_and_plain_names() -> None:
    for name in ("Grüße an Bord.txt", "波.lua", "a…b.txt", "½ turn.wav", "ﬁsh.png"):
        assert unsafe_reason(name) is None, name


@pytest.mark.parametrize(
    ("path", "head", "word", "runs"),
    [
        ("a.png", b"\x89PNG\r\n\x1a\n", "picture", False),
        ("a.png", b"MZ\x90", "program", True),
        ("setup.exe", b"text", "program", True),
        ("install.bat", b"echo", "program", True),
        ("build.sh", b"#!/bin/sh", "program", True),
        ("a.lua", b"local x", "script", False),
        ("a.lua", b"\x1bLua", "script", False),
        ("a.wav", b"RIFF\0\0\0\0WAVE", "sound", False),
        ("a.zip", b"PK\x03\x04", "archive", False),
        ("a.docx", b"PK\x03\x04", "data", False),
        ("model.gltf", b'{"asset": {"version": "2.0"}}', "model", False),
        ("x.bin", b"\0\1\2", "unknown", False),
        ("x", b"", "empty", False),
    ],
)
def test_sorts_go_by_content(path: str, head: bytes, word: str, runs: bool) -> None:
    assert (sort_of(path, head).word, sort_of(path, head).runs) == (word, runs)
