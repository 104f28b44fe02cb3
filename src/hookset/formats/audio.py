"""Sounds: looked at for being what their name says. Lengths, channels and rates are read by the package tinytag."""

from __future__ import annotations

import io
import struct
from collections.abc import Iterator
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._media import MediaFacts
from hookset.formats.base import Unreadable
from hookset.formats.document import Document, MediaFile
from hookset.formats.format import Format
from hookset.trees import Text

__all__ = ["FORMAT"]

_PACKET = 28
"""Bytes of the head of an Ogg page with one packet (RFC 3533, 6)."""
_BEGINS = {
    "flac": (b"fLaC",),
    "mp3": (b"ID3", b"\xff\xfb", b"\xff\xf3", b"\xff\xf2"),
    "aiff": (b"FORM",),
}


class AudioOptions(Struct, frozen=True, forbid_unknown_fields=True):
    types: tuple[str, ...] = ()
    """What such a file may be: wav, vorbis, opus, flac, mp3, aiff. Empty: any of them."""


class _Audio(Format):
    title: ClassVar[str] = "sound"
    binary: ClassVar[bool] = True
    has_facts: ClassVar[bool] = True
    options: ClassVar[type[Struct]] = AudioOptions

    def open(self, source: Text | bytes, options: Any) -> Document:
        assert isinstance(source, bytes)
        kind = _kind(source)
        if options.types and kind not in options.types:
            raise Unreadable(f"is {kind} sound, not {' or '.join(options.types)} as its name says")
        return MediaFile(facts=_facts(source, kind))


def _kind(data: bytes) -> str:
    """The codec, by what the file begins with."""
    if data[:4] == b"RIFF" and data[8:12] == b"WAVE":
        return "wav"
    if data[:4] == b"OggS":
        # Vorbis I, 4.2.1; Opus: RFC 7845, 5.1.
        if data[_PACKET + 1 : _PACKET + 7] == b"vorbis":
            return "vorbis"
        if data[_PACKET : _PACKET + 8] == b"OpusHead":
            return "opus"
        raise Unreadable("is an Ogg file whose first stream is neither Vorbis nor Opus")
    kind = next((kind for kind, begins in _BEGINS.items() if data.startswith(begins)), None)
    if kind is None:
        raise Unreadable("is no sound that can be recognised, whatever its name says" if data else "is empty")
    return kind


def _facts(data: bytes, kind: str) -> MediaFacts:
    # Imported here: only maps that have sounds pay for it.
    from tinytag import TinyTag

    if kind == "wav":
        for name, at, size in _chunks(data):
            if name == b"data" and at + size > len(data):
                raise Unreadable(f"is a WAV cut off: {size} bytes of sound are told, {len(data) - at} are there")
    try:
        read = TinyTag.get(file_obj=io.BytesIO(data), tags=False)
    except Exception as error:
        raise Unreadable(f"is damaged {kind} sound") from error
    if not read.samplerate or read.duration is None:
        raise Unreadable(f"is {kind} sound without a format or without any sound in it")
    return MediaFacts(kind=kind, seconds=read.duration, channels=read.channels or 1, rate=read.samplerate)


def _chunks(data: bytes) -> Iterator[tuple[bytes, int, int]]:
    """(name, where it begins, bytes that are told) of the chunks of a RIFF file."""
    position = 12
    while position + 8 <= len(data):
        name, size = struct.unpack_from("<4sI", data, position)
        yield name, position + 8, size
        position += 8 + size + size % 2


FORMAT = _Audio()
