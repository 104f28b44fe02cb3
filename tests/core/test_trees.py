"""Trees, paths and text."""

from __future__ import annotations

import codecs
import io
import struct
import zipfile
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from hookset.model import CouldNotError
from hookset.trees import (
    EmptyTree,
    FolderTree,
    Glob,
    Inline,
    Overlay,
    decode,
    joined,
    line_and_column,
    unsafe_among,
    unsafe_reason,
)
from hookset.trees.archives import Limits, open_zip
from tests.refusals import refused


@given(
    st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0\ufeff")),
    st.sampled_from(["", "8", "16le", "16be"]),
)
def test_text_goes_back_to_its_bytes(string: str, mark: str) -> None:
    bom, encoding = {
        "": (b"", "utf-8"),
        "8": (codecs.BOM_UTF8, "utf-8"),
        "16le": (codecs.BOM_UTF16_LE, "utf-16-le"),
        "16be": (codecs.BOM_UTF16_BE, "utf-16-be"),
    }[mark]
    data = bom + string.encode(encoding)
    text = decode(data)
    assert text.string == string
    assert text.encode(text.string) == data


@given(st.text(st.characters(exclude_categories=["Cs"])))
def test_byte_offsets_come_back_as_characters(string: str) -> None:
    text = decode("".join(c for c in string if c not in "\0\ufeff").encode())
    for index in range(len(text.string) + 1):
        assert text.char_at(len(text.string[:index].encode())) == index


def test_old_encodings_are_tried_in_turn() -> None:
    text = decode("Brücke".encode("cp1252"), ("utf-8", "cp1252"))
    assert (text.string, text.encoding) == ("Brücke", "cp1252")
    assert text.encode("Brücken") == b"Br\xfccken"
    with refused("wrong-encoding"):
        text.encode("Мост")


@pytest.mark.parametrize(
    ("data", "words"),
    [
        pytest.param(b"a\nb\xff", r"not UTF-8: the byte 0xff at offset 3 \(line 2\)", id="wrong-encoding"),
        pytest.param(b"a\n\nb\0c", "NUL character in line 3", id="nul"),
        pytest.param(codecs.BOM_UTF16_LE + b"a", "not UTF-16-LE", id="odd-utf-16"),
    ],
)
def test_what_is_no_text_is_told_with_its_line(data: bytes, words: str) -> None:
    with pytest.raises(CouldNotError, match=words):
        decode(data)


@pytest.mark.parametrize(
    ("string", "newline", "indent"),
    [
        ("a\r\n  b\r\nc\n", "\r\n", "  "),
        ("a\n\tb\n\t\tc\n", "\n", "\t"),
        ("{\n    a {\n        b\n    }\n  odd\n}", "\n", "    "),
        ("", "\n", "  "),
    ],
)
def test_the_manner_of_a_file_is_found(string: str, newline: str, indent: str) -> None:
    text = decode(string.encode())
    assert (text.newline, text.indent) == (newline, indent)


def test_lines_and_columns_count_from_one() -> None:
    assert line_and_column("ab\ncd", 0) == (1, 1)
    assert line_and_column("ab\ncd", 4) == (2, 2)


@pytest.mark.parametrize(
    "path",
    ["", "/etc/x", "../x", "a/../../x", "a\\..\\..\\x", "C:\\x", "c:x", "a//b", "a/./b", "con", "sub/NUL.txt", "com1.lua",
     "a\x00b", "a\nb", "what?", "a:b", "end.", "end ", "x" * 256],
)  # fmt: skip
def test_unsafe_paths_have_a_reason(path: str) -> None:
    assert unsafe_reason(path)


@pytest.mark.parametrize("path", ["a", "a/b.lua", "scripts/Größe.lua", "console.lua", ".hidden", "a..b", "x" * 255])
def test_ordinary_paths_are_safe(path: str) -> None:
    assert unsafe_reason(path) is None


PIECES = ["con", "NUL", "a", "b1", "lamp", ".", "..", "/", "_", "-", " ", "é", ":", "\\", "\n", "x" * 150]


@example(["lamps/con.txt", "lamps/quay.txt"])
@example(["lamps/quay. ", "quay"])
@example(["lamps/..", "quay"])
@example(["quay/", "lamps"])
@example(["quay", "x" * 300])
@given(st.lists(st.lists(st.sampled_from(PIECES), max_size=5).map("".join), max_size=6))
def test_many_paths_are_judged_as_each_is(paths: list[str]) -> None:
    assert [*unsafe_among(paths)] == [(path, reason) for path in paths if (reason := unsafe_reason(path))]


@pytest.mark.parametrize(
    ("folder", "path", "whole"),
    [
        ("models/a", "../../textures/x.png", "textures/x.png"),
        ("sounds", "a\\b.wav", "sounds/a/b.wav"),
        ("", "./x", "x"),
        ("models", "../../x", None),
        ("", "/x", None),
        ("", "C:/x", None),
    ],
)
def test_references_count_from_their_folder(folder: str, path: str, whole: str | None) -> None:
    assert joined(folder, path) == whole


@pytest.mark.parametrize(
    ("pattern", "path", "inner", "words"),
    [
        ("scripts/server/**/*.lua", "scripts/server/packs/a.lua", "packs/a.lua", {}),
        ("scripts/server/**/*.lua", "scripts/server/a.lua", "a.lua", {}),
        ("scripts/{side}/**/*.lua", "scripts/client/p/a.lua", "p/a.lua", {"side": "client"}),
        ("texts/{variant}.toml", "texts/de.toml", "de.toml", {"variant": "de"}),
        ("**", "a/b", "a/b", {}),
        ("map.toml", "map.toml", "map.toml", {}),
        ("content/**", "content/a/b", "a/b", {}),
        ("{unit}/{unit}.{list,t*t}", "a/a.text", "a.text", {"unit": "a"}),
        ("a/{b,c}/*.lua", "a/c/d.lua", "c/d.lua", {}),
    ],
)
def test_patterns_keep_what_matched(pattern: str, path: str, inner: str, words: dict[str, str]) -> None:
    match = Glob(pattern).match(path)
    assert match is not None
    assert (match.inner, match.words) == (inner, words)


@pytest.mark.parametrize(
    ("pattern", "path"),
    [
        ("a/*.lua", "a/b/c.lua"),
        ("texts/{v}.toml", "texts/a/b.toml"),
        ("a.lua", "aXlua"),
        ("*", "a/b"),
        ("{unit}/{unit}.list", "a/b.list"),
        ("a.{lua,txt}", "a.luatxt"),
        ("a{b*,c}", "ab/d"),
    ],
)
def test_patterns_stay_within_a_folder(pattern: str, path: str) -> None:
    assert Glob(pattern).match(path) is None


@pytest.mark.parametrize(
    ("pattern", "right"),
    [("a/{b,c}/**", True), ("{word}/*", True), ("a{b", False), ("a}", False), ("{a b}", False), ("{a/b,c}", False), ("a//b", False)],
)  # fmt: skip
def test_what_means_nothing_in_a_pattern_is_told(pattern: str, right: bool) -> None:
    assert (Glob(pattern).mistake == "") is right


def test_overlay_shows_the_planned_state() -> None:
    tree = Overlay(Overlay(EmptyTree(), {"a": Inline(b"1"), "b": Inline(b"2")}), {"a": None, "c": Inline(b"3")})
    assert tree.paths() == ("b", "c")
    assert (tree.read("b"), tree.read("c"), tree.size("c")) == (b"2", b"3", 1)
    assert not tree.has("a")


def test_folder_tree_does_not_follow_loops(tmp_path: Path) -> None:
    (tmp_path / "a").mkdir()
    (tmp_path / "a" / "x").write_bytes(b"1")
    (tmp_path / "a" / "loop").symlink_to(tmp_path)
    (tmp_path / "a" / "itself").symlink_to(tmp_path / "a" / "itself")
    tree = FolderTree(tmp_path)
    assert tree.paths() == ("a/itself", "a/x")
    with refused("unreadable-file"):
        tree.read("a/itself")


# ---- archives -------------------------------------------------------------------------------------------------


def archive(folder: Path, members: dict[str, bytes], mode: int = 0o100644) -> Path:
    file = folder / "pack.zip"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as opened:
        for name, data in members.items():
            info = zipfile.ZipInfo("placeholder")
            info.filename = info.orig_filename = name
            info.external_attr = mode << 16
            info.compress_type = zipfile.ZIP_DEFLATED
            opened.writestr(info, data)
    return file


@pytest.mark.parametrize(
    ("members", "mode", "words"),
    [
        pytest.param({"../evil": b""}, 0o100644, "outside of the map", id="parent"),
        pytest.param({"/evil": b""}, 0o100644, "absolute", id="absolute"),
        pytest.param({"a\\..\\..\\evil": b""}, 0o100644, "outside of the map", id="backslashes"),
        pytest.param({"C:\\evil": b""}, 0o100644, "drive letter", id="drive"),
        pytest.param({"link": b"/etc/passwd"}, 0o120777, "a link", id="link"),
        pytest.param({"pipe": b""}, 0o010644, "a device", id="pipe"),
        pytest.param({"aux.lua": b""}, 0o100644, "a device", id="reserved"),
        pytest.param({"a/X": b"1", "a/x": b"2"}, 0o100644, "letter case only", id="case"),
        pytest.param({"bomb": bytes(40_000_000)}, 0o100644, "made to fill a disk", id="bomb"),
    ],
)
def test_hostile_archives_are_refused_whole(members: dict[str, bytes], mode: int, words: str, tmp_path: Path) -> None:
    with refused("unsafe-archive") as told:
        open_zip(archive(tmp_path, {"good.txt": b"x", **members}, mode))
    assert any(words in line for line in told.value.details), told.value.details


def test_limits_can_be_set(tmp_path: Path) -> None:
    file = archive(tmp_path, {f"f{n}": b"12345" for n in range(10)})
    with refused("unsafe-archive"):
        open_zip(file, Limits(members=9))
    with refused("unsafe-archive"):
        open_zip(file, Limits(unpacked_bytes=49))
    assert len(open_zip(file, Limits(members=10, unpacked_bytes=50)).paths()) == 10


def test_backslashes_in_an_archive_are_separators(tmp_path: Path) -> None:
    assert open_zip(archive(tmp_path, {"a\\b\\c.txt": b"x"})).paths() == ("a/b/c.txt",)


def test_damaged_archives_are_told(tmp_path: Path) -> None:
    whole = archive(tmp_path, {"a.txt": b"hello" * 1000}).read_bytes()
    cut = tmp_path / "cut.zip"
    cut.write_bytes(whole[: len(whole) // 2])
    with refused("damaged-archive"):
        open_zip(cut)
    flipped = bytearray(whole)
    flipped[45] ^= 0xFF
    (tmp_path / "flipped.zip").write_bytes(bytes(flipped))
    tree = open_zip(tmp_path / "flipped.zip")
    with refused("damaged-archive"):
        tree.read("a.txt")
    (tmp_path / "page.zip").write_text("<html>Not found</html>")
    with refused("unread-archive"):
        open_zip(tmp_path / "page.zip")


def test_encrypted_members_are_refused(tmp_path: Path) -> None:
    data = bytearray(archive(tmp_path, {"a.txt": b"x"}).read_bytes())
    central = data.index(b"PK\x01\x02")
    struct.pack_into("<H", data, central + 8, 1)
    (tmp_path / "locked.zip").write_bytes(bytes(data))
    with refused("locked-archive"):
        open_zip(tmp_path / "locked.zip")


def test_a_member_reads_like_a_stream(tmp_path: Path) -> None:
    tree = open_zip(archive(tmp_path, {"a": b"0123456789"}))
    with tree.open("a") as stream:
        assert stream.read(4) == b"0123"
        assert io.BytesIO(stream.read()).getvalue() == b"456789"
