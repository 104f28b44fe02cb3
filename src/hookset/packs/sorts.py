"""What a file is, by what it begins with rather than by what it is called."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import PurePosixPath

from hookset.trees import Tree, is_archive

__all__ = ["HEAD", "Sort", "sort_of", "sorts_in"]

HEAD = 512
"""Bytes that are looked at."""
_MOST = 20_000
"""Files that are looked into; of more, the rest goes by its ending."""


@dataclass(frozen=True, slots=True)
class Sort:
    """A sort of file."""

    word: str
    """picture, sound, model, script, data, text, notes, archive, program, link, unknown"""
    form: str = ""
    """PNG, WAVE, ZIP …"""
    runs: bool = False
    """It would run on this machine when somebody opened it."""


_MAGIC: tuple[tuple[int, bytes, Sort], ...] = (
    (0, b"\x89PNG\r\n\x1a\n", Sort("picture", "PNG")),
    (0, b"\xff\xd8\xff", Sort("picture", "JPEG")),
    (0, b"GIF8", Sort("picture", "GIF")),
    (0, b"BM", Sort("picture", "BMP")),
    (0, b"DDS ", Sort("picture", "DDS")),
    (0, b"II*\0", Sort("picture", "TIFF")),
    (0, b"MM\0*", Sort("picture", "TIFF")),
    (8, b"WEBP", Sort("picture", "WebP")),
    (0, b"\xabKTX ", Sort("picture", "KTX")),
    (0, b"8BPS", Sort("source", "layered picture")),
    (0, b"gimp xcf", Sort("source", "layered picture")),
    (8, b"WAVE", Sort("sound", "WAVE")),
    (0, b"OggS", Sort("sound", "Ogg")),
    (0, b"fLaC", Sort("sound", "FLAC")),
    (0, b"ID3", Sort("sound", "MP3")),
    (0, b"\xff\xfb", Sort("sound", "MP3")),
    (4, b"ftyp", Sort("film", "MP4")),
    (0, b"\x1aE\xdf\xa3", Sort("film", "Matroska")),
    (8, b"AVI ", Sort("film", "AVI")),
    (0, b"glTF", Sort("model", "binary glTF")),
    (0, b"BLENDER", Sort("source", "modelling file")),
    (0, b"Kaydara FBX", Sort("source", "modelling file")),
    (0, b"%PDF", Sort("notes", "PDF")),
    (0, b"{\\rtf", Sort("notes", "RTF")),
    (0, b"MZ", Sort("program", "Windows program", runs=True)),
    (0, b"\x7fELF", Sort("program", "Linux program", runs=True)),
    (0, b"\xcf\xfa\xed\xfe", Sort("program", "macOS program", runs=True)),
    (0, b"\xca\xfe\xba\xbe", Sort("program", "compiled classes", runs=True)),
    (0, b"\x1bLua", Sort("script", "compiled Lua, which cannot be read")),
    (0, b"\x1bLJ", Sort("script", "compiled Lua, which cannot be read")),
    (0, b"Rar!", Sort("archive", "RAR")),
    (0, b"7z\xbc\xaf\x27\x1c", Sort("archive", "7z")),
    (0, b"PK\x03\x04", Sort("archive", "ZIP")),
    (0, b"\x1f\x8b", Sort("archive", "gzip")),
    (0, b"MSCF", Sort("archive", "cabinet")),
    (0, b"SQLite format 3\0", Sort("data", "SQLite")),
    (0, b"\x00\x01\x00\x00", Sort("font", "TrueType")),
    (0, b"OTTO", Sort("font", "OpenType")),
)
_RUNS = {
    "bat": "command file",
    "cmd": "command file",
    "com": "program",
    "exe": "program",
    "msi": "installer",
    "ps1": "command file",
    "vbs": "command file",
    "wsf": "command file",
    "hta": "program in a page",
    "scr": "program",
    "lnk": "shortcut",
    "url": "shortcut",
    "reg": "registry entries",
    "jar": "program",
    "sh": "command file",
    "command": "command file",
    "app": "program",
    "dll": "program library",
    "so": "program library",
}
_TEXTS = {
    "script": "lua js mjs cjs ts py nut as squirrel cs gd rb php pl sqf",
    "data": "json gltf xml toml yaml yml ini cfg conf csv tsv po pot properties mtl obj",
    "notes": "md markdown rst html htm rtf",
}
_BY_ENDING = {ending: word for word, endings in _TEXTS.items() for ending in endings.split()}


def sort_of(path: str, head: bytes) -> Sort:
    """What the file is that begins with these bytes (the first 512)."""
    ending = PurePosixPath(path).suffix.lower().removeprefix(".")
    if ending in _RUNS and not (ending in ("com", "app", "as", "so") and not head.startswith((b"MZ", b"\x7fELF"))):
        return Sort("program", _RUNS[ending], runs=True)
    for offset, magic, sort in _MAGIC:
        if head[offset : offset + len(magic)] == magic:
            if sort.form == "ZIP" and not is_archive(path, head):
                return Sort("data", f"a ZIP that is called .{ending}" if ending else "a ZIP without an ending")
            return sort
    if head.startswith(b"#!"):
        return Sort("program", "command file", runs=True)
    if is_archive(path, head):
        return Sort("archive", "tar")
    if not head:
        return Sort("empty", "empty file")
    if b"\0" in head and not head.startswith((b"\xff\xfe", b"\xfe\xff")):
        return Sort("unknown", f".{ending}" if ending else "no ending")
    if re.match(rb"\s*(?:<!doctype html|<html)", head, re.IGNORECASE):
        return Sort("notes", "HTML")
    if ending == "gltf" or (b'"asset"' in head and b'"version"' in head):
        return Sort("model", "glTF")
    return Sort(_BY_ENDING.get(ending, "text"), f".{ending}" if ending else "")


def sorts_in(tree: Tree) -> dict[str, Sort]:
    """Every file of a tree, by path."""
    found: dict[str, Sort] = {}
    for number, path in enumerate(tree.paths()):
        head = b""
        if number < _MOST:
            with tree.open(path) as stream:
                head = stream.read(HEAD)
        found[path] = sort_of(path, head)
    return found
