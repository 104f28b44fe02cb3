"""Damaged and hostile files in a map: each a finding or a clear error, in bounded time, never a traceback."""

from __future__ import annotations

import json
import os
import struct
import unicodedata
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.project import MapProject
from tests.conftest import Ran
from tests.program import Limits, run_program

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover

Run = Callable[..., Ran]
LIMITS = Limits(seconds=60, memory=5 << 29)


def bounded(root: Path, *arguments: str) -> Ran:
    """The program with a limit on time and memory."""
    done = run_program(root, arguments, os.environ | {"NO_COLOR": "1", "COLUMNS": "140"}, LIMITS)
    assert "Traceback" not in done.err and "bug in Hook Set" not in done.err, done.err[-2000:]
    assert done.code >= 0, f"ended by signal {-done.code}"
    return Ran(done.code, done.out, done.err)


def picture(width: int, height: int) -> bytes:
    """A PNG that says it is huge and holds next to nothing."""
    import zlib

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0")) + chunk(b"IEND", b"")


def huge(head: str, tail: str) -> Callable[[], bytes]:
    """200 MB on one line, made when it is needed: held by the test's module it would slow every other test."""
    return lambda: head.encode() + b"a" * 200_000_000 + tail.encode()


CASES: list[tuple[str, bytes | Callable[[], bytes]]] = [
    ("scene/brackwater.gltf", b""),
    ("scene/brackwater.gltf", b"[" * 1_000_000),
    ("scene/brackwater.gltf", b'{"nodes": [{"extras": {"key": "a"}},'),
    ("scene/brackwater.gltf", b'{"a":' * 50_000 + b"1" + b"}" * 50_000),
    ("scene/brackwater.gltf", b"\xff\xfe{\x00}"),
    ("scene/brackwater.gltf", b'\xef\xbb\xbf\xef\xbb\xbf{"nodes": []}'),
    ("models/bell_post.gltf", huge('"', '"x')),
    ("sounds/aliases.toml", b"[[sound]]\nalias = \n"),
    ("sounds/aliases.toml", b"a = " + b"[" * 100_000),
    ("sounds/aliases.toml", huge("", "")),
    ("sounds/aliases.toml", b'[[sound]]\nalias = "a\0b"\n'),
    ("texts/en.toml", "ä = 1".encode("utf-16-be")),
    ("scripts/server/main.lua", b"("),
    ("scripts/server/main.lua", b"(" * 200_000),
    ("scripts/server/main.lua", b"a = {" * 20_000),
    ("scripts/server/main.lua", huge("x = '", "")),
    ("scripts/server/main.lua", b"\x81\x8d\x8f"),
    ("scripts/server/main.lua", b"local x = 1\0\0\0"),
    ("manifest.txt", b"\xc3\x28\n"),
    ("textures/iron.png", b""),
    ("textures/iron.png", b"\x89PNG\r\n\x1a\n" + b"\0" * 100),
    ("textures/iron.png", picture(200_000, 200_000)),
    ("sounds/harbour/gull_1.wav", b"OggS" + b"\0" * 60),
    ("sounds/harbour/gull_1.wav", b"RIFF\xff\xff\xff\xffWAVEfmt \xff\xff\xff\xff"),
]


@pytest.mark.parametrize(
    ("path", "data"), [pytest.param(*case, id=f"{n}-{Path(case[0]).name}") for n, case in enumerate(CASES)]
)
def test_damaged_files_are_findings(path: str, data: bytes | Callable[[], bytes], demo: Path) -> None:
    (demo / path).write_bytes(data if isinstance(data, bytes) else data())
    ran = bounded(demo, "check", "--json")
    assert ran.code == 1
    told = [f for f in json.loads(ran.out)["findings"] if f["code"] == "unreadable" and f["path"] == path]
    assert told, ran.out[-1500:]


@pytest.mark.parametrize(
    "command",
    [
        ["list"],
        ["check"],
        ["install", "../packs/lift-bridge.zip"],
        ["build"],
        ["undo"],
        ["layout", "explain", "map.toml"],
    ],
)
@pytest.mark.parametrize(
    "data", [b"", b"[map", b"\xff\xfe\0", b"[map]\nname = 3\n", b"[[map]]\n", b'map = "x"\n'], ids=range(6)
)
def test_damaged_project_files_are_told(command: list[str], data: bytes, demo: Path) -> None:
    (demo / "hookset.toml").write_bytes(data)
    ran = bounded(demo, *command)
    assert ran.code == 3
    assert "hookset.toml" in ran.err


def test_links_that_loop_and_lead_away(demo: Path, tmp_path: Path) -> None:
    (demo / "scripts/loop").symlink_to(demo / "scripts")
    (demo / "scripts/itself").symlink_to(demo / "scripts/itself")
    (demo / "scripts/server/nowhere.lua").symlink_to(tmp_path / "nowhere")
    ran = bounded(demo, "check", "--json")
    assert ran.code == 1
    findings = [(f["code"], f["path"]) for f in json.loads(ran.out)["findings"]]
    assert ("unreadable", "scripts/server/nowhere.lua") in findings
    assert ("link-not-followed", "scripts/loop") in findings


@pytest.mark.skipif(os.geteuid() == 0, reason="root reads everything")
def test_files_that_may_not_be_read_are_told(demo: Path) -> None:
    (demo / "texts/en.toml").chmod(0)
    assert bounded(demo, "check").code in (1, 3)


def test_names_in_several_normal_forms(packed: MapProject) -> None:
    root = packed.root
    composed, decomposed = (unicodedata.normalize(form, "Größe") for form in ("NFC", "NFD"))
    wav = (root / "sounds/harbour/gull_1.wav").read_bytes()
    (root / f"sounds/harbour/{decomposed}.wav").write_bytes(wav)
    aliases = root / "sounds/aliases.toml"
    aliases.write_text(
        aliases.read_text() + f'\n[[sound]]\nalias = "x"\nfile = "harbour/{composed}.wav"\nreach = 1.0\n'
    )
    ran = bounded(root, "check", "--json")
    assert ran.code == 1
    told = [(f["code"], f["path"], f["remedy"]) for f in json.loads(ran.out)["findings"]]
    assert ("wrong-form", "sounds/aliases.toml", "save both in the same Unicode normal form (NFC)") in told


def test_names_that_are_no_text(demo: Path) -> None:

    with open(os.fsencode(demo) + b"/textures/b\xffd.png", "wb") as stream:  # noqa: PTH123
        stream.write(b"x")
    ran = bounded(demo, "check", "--json")
    assert "in-unloaded-file" in [finding["code"] for finding in json.loads(ran.out)["findings"]]
    assert bounded(demo, "check", "--json").code == 0
    assert bounded(demo, "build", "--anyway").code == 0
    assert bounded(demo, "layout", "explain", "textures/iron.png").code == 0
