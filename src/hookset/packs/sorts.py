"""What a file is, by what it begins with rather than by what it is called."""

from __future__ import annotations

import re
from pathlib import PurePosixPath

from msgspec import Struct

from hookset.trees import Tree
from hookset.trees.archives import is_archive

__all__ = ["HEAD", "Sort", "sort_of", "sorts_in"]

HEAD = 512
"""Bytes that are looked at."""
_MOST = 20_000
"""Files that are looked into; of more, the rest goes by its ending."""


class Sort(Struct, frozen=True):
    """A sort of file."""

    word: str
    """picture, sound, model, script, data, text, notes, archive, program, link, unknown"""
    form: str = ""
    """PNG, WAVE, ZIP …"""
    runs: bool = False
    """It would run on this machine when somebody opened it."""


_OF_GAMES: tuple[tuple[int, bytes, Sort], ...] = (
    (0, b"DDS ", Sort("picture", "DDS")),
    (0, b"\xabKTX ", Sort("picture", "KTX")),
    (0, b"glTF", Sort("model", "binary glTF")),
    (0, b"BLENDER", Sort("source", "modelling file")),
    (0, b"Kaydara FBX", Sort("source", "modelling file")),
    (0, b"\x1bLua", Sort("script", "compiled Lua, which cannot be read")),
    (0, b"\x1bLJ", Sort("script", "compiled Lua, which cannot be read")),
    (0, b"\xcf\xfa\xed\xfe", Sort("program", "macOS program", runs=True)),
    (0, b"\xca\xfe\xba\xbe", Sort("program", "compiled classes", runs=True)),
)
"""What the package filetype does not know."""
_PAINTED = Sort("source", "layered picture")
_BY_KIND = {
    "jpg": Sort("picture", "JPEG"),
    "tif": Sort("picture", "TIFF"),
    "webp": Sort("picture", "WebP"),
    "psd": _PAINTED,
    "xcf": _PAINTED,
    "wav": Sort("sound", "WAVE"),
    "ogg": Sort("sound", "Ogg"),
    "midi": Sort("sound", "MIDI"),
    "mkv": Sort("film", "Matroska"),
    "webm": Sort("film", "WebM"),
    "pdf": Sort("notes", "PDF"),
    "rtf": Sort("notes", "RTF"),
    "doc": Sort("notes", "word processor document"),
    "sqlite": Sort("data", "SQLite"),
    "exe": Sort("program", "Windows program", runs=True),
    "elf": Sort("program", "Linux program", runs=True),
    "zip": Sort("archive", "ZIP"),
    "gz": Sort("archive", "gzip"),
    "7z": Sort("archive", "7z"),
    "cab": Sort("archive", "cabinet"),
    "ttf": Sort("font", "TrueType"),
    "otf": Sort("font", "OpenType"),
}
"""By the endings that the package filetype gives to what it knows."""
_BY_FAMILY = {"image": "picture", "audio": "sound", "video": "film"}
_ARCHIVES = frozenset(["rar", "bz2", "xz", "zst", "tar", "rpm", "deb", "ar", "lz", "lzo", "lz4", "Z"])
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
    sort = _by_content(head)
    if sort is not None and sort.form == "ZIP" and not is_archive(path, head):
        return Sort("data", f"a ZIP that is called .{ending}" if ending else "a ZIP without an ending")
    if sort is not None:
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


def _by_content(head: bytes) -> Sort | None:
    """What the first bytes tell; None for texts, and for what nobody knows."""
    for offset, magic, sort in _OF_GAMES:
        if head[offset : offset + len(magic)] == magic:
            return sort
    # Imported here: packs are opened more often than they are looked into.
    import filetype

    kind = filetype.guess(head) if head else None
    if kind is None:
        return None
    ending, family = kind.extension, kind.mime.partition("/")[0]
    if ending in _BY_KIND:
        return _BY_KIND[ending]
    if family in _BY_FAMILY:
        return Sort(_BY_FAMILY[family], ending.upper())
    if ending in ("docx", "odt", "xlsx", "ods", "pptx", "odp", "epub"):
        return _BY_KIND["zip"]
    return Sort("archive", ending.upper()) if ending in _ARCHIVES else None


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
