"""Sounds: looked at for being what their name says.

Headers are read here: WAV is RIFF (Microsoft/IBM 1991), Ogg is RFC 3533, Vorbis I and Opus (RFC 7845) name
themselves in the first packet of the first page.
"""

from __future__ import annotations

import struct
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._media import MediaFacts
from hookset.formats.base import Unreadable
from hookset.formats.document import Document, MediaFile
from hookset.formats.format import Format
from hookset.trees import Text

__all__ = ["FORMAT"]


class AudioOptions(Struct, frozen=True, forbid_unknown_fields=True):
    types: tuple[str, ...] = ()
    """What such a file may be: wav, vorbis, opus. Empty: any of them."""


class _Audio(Format):
    title: ClassVar[str] = "sound"
    binary: ClassVar[bool] = True
    options: ClassVar[type[Struct]] = AudioOptions

    def open(self, source: Text | bytes, options: Any) -> Document:
        assert isinstance(source, bytes)
        facts = _facts(source)
        if options.types and facts.kind not in options.types:
            raise Unreadable(f"is {facts.kind} sound, not {' or '.join(options.types)} as its name says")
        return MediaFile(facts=facts)


def _facts(data: bytes) -> MediaFacts:
    """The codec; then seconds, channels and rate, where the header tells."""
    if data[:4] == b"RIFF" and data[8:12] == b"WAVE":
        return _wav(data)
    if data[:4] == b"OggS":
        first = data[28:58]
        if first[1:7] == b"vorbis" and len(first) >= 16:
            channels, rate = struct.unpack_from("<xBI", first, 10)
            return _sound("vorbis", _last_granule(data) / rate if rate else 0, channels, rate)
        if first[:8] == b"OpusHead" and len(first) >= 12:
            # Opus counts in 48,000ths of a second, whatever the rate that was recorded.
            return _sound("opus", _last_granule(data) / 48_000, first[9], 48_000)
        raise Unreadable("is an Ogg file whose first stream is neither Vorbis nor Opus")
    raise Unreadable("is no sound that can be recognised, whatever its name says" if data else "is empty")


def _sound(kind: str, seconds: float, channels: int, rate: int) -> MediaFacts:
    return MediaFacts(kind=kind, seconds=seconds, channels=channels, rate=rate)


def _last_granule(data: bytes) -> int:
    """The position that the last page ends at: how long the whole is."""
    page = data.rfind(b"OggS")
    return int(struct.unpack_from("<q", data, page + 6)[0]) if len(data) >= page + 14 else 0


def _wav(data: bytes) -> MediaFacts:
    position = 12
    found: dict[bytes, tuple[int, int]] = {}
    while position + 8 <= len(data):
        name, size = struct.unpack_from("<4sI", data, position)
        found[name] = position + 8, size
        if name == b"data" and position + 8 + size > len(data):
            raise Unreadable(f"is a WAV cut off: {size} bytes of sound are told, {len(data) - position - 8} are there")
        position += 8 + size + size % 2
    if b"fmt " not in found or b"data" not in found or found[b"fmt "][1] < 16 or found[b"fmt "][0] + 16 > len(data):
        raise Unreadable("is a WAV without a format or without any sound in it")
    _, channels, rate, per_second = struct.unpack_from("<HHII", data, found[b"fmt "][0])
    return _sound("wav", found[b"data"][1] / per_second if per_second else 0, channels, rate)


FORMAT = _Audio()
