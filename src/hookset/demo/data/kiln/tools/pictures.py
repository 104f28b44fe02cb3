"""A grey picture of each drawing in art: one dot for each sign, as dark as the sign is heavy."""

import pathlib
import struct
import sys
import zlib

SHADES = {" ": 230, ".": 200, "~": 120, "#": 40}


def chunk(kind: bytes, data: bytes) -> bytes:
    """A part of a PNG file, with its sum."""
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


wrong = 0
for drawing in sorted(pathlib.Path("art").glob("*.txt")):
    lines = drawing.read_text().splitlines()
    rows = b""
    for number, line in enumerate(lines, 1):
        for sign in sorted(set(line) - set(SHADES)):
            print(f"{drawing.as_posix()}:{number}: there is no shade for {sign!r}")
            wrong = 1
        rows += b"\0" + bytes(SHADES.get(sign, 0) for sign in line)
    head = struct.pack(">IIBBBBB", len(lines[0]), len(lines), 8, 0, 0, 0, 0)
    picture = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    pathlib.Path("textures", drawing.stem + ".png").write_bytes(picture)
sys.exit(wrong)
