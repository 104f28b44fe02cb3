"""Sounds: looked at for being what their name says.

Headers are read here: WAV is RIFF (Microsoft/IBM 1991), Ogg is RFC 3533, Vorbis I and Opus (RFC 7845) name
themselves in the first packet of the first page.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from typing import Any, ClassVar

from msgspec import Struct

from hookset.core.formats.base import Document, Format, Nothing, ReadOnly, Unreadable
from hookset.core.trees import Text

__all__ = ["FORMAT"]


class AudioOptions(Struct, frozen=True, forbid_unknown_fields=True):
    types: tuple[str, ...] = ()
    """What such a file may be: wav, vorbis, opus. Empty: any of them."""


class _Audio(Format):
    title: ClassVar[str] = "sound"
    binary: ClassVar[bool] = True
    selector: ClassVar[type[Struct]] = Nothing
    seat: ClassVar[type[Struct]] = Nothing
    options: ClassVar[type[Struct]] = AudioOptions
    bodies: ClassVar[Sequence[str]] = ()

    def open(self, source: Text | bytes, options: Any) -> Document:
        assert isinstance(source, bytes)
        kind = _kind_of(source)
        if options.types and kind not in options.types:
            raise Unreadable(f"is {kind} sound, not {' or '.join(options.types)} as its name says")
        return ReadOnly()


def _kind_of(data: bytes) -> str:
    if data[:4] == b"RIFF" and data[8:12] == b"WAVE":
        _check_wav(data)
        return "wav"
    if data[:4] == b"OggS":
        first = data[28:36]
        if first[1:7] == b"vorbis":
            return "vorbis"
        if first == b"OpusHead":
            return "opus"
        raise Unreadable("is an Ogg file whose first stream is neither Vorbis nor Opus")
    raise Unreadable("is no sound that can be recognised, whatever its name says" if data else "is empty")


def _check_wav(data: bytes) -> None:
    position, chunks = 12, {}
    while position + 8 <= len(data):
        name, size = struct.unpack_from("<4sI", data, position)
        chunks[name] = size
        if name == b"data" and position + 8 + size > len(data):
            raise Unreadable(f"is a WAV cut off: {size} bytes of sound are told, {len(data) - position - 8} are there")
        position += 8 + size + size % 2
    if b"fmt " not in chunks or b"data" not in chunks:
        raise Unreadable("is a WAV without a format or without any sound in it")


FORMAT = _Audio()
