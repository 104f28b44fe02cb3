"""Sounds: what they are by their content, and how long."""

from __future__ import annotations

import contextlib
import struct

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import Unreadable, format_named
from hookset.formats.document import facts_of


def ogg(first: bytes, samples: int) -> bytes:
    """Two pages: the first packet, and one that says how long the whole is (RFC 3533)."""
    head = b"OggS\0\2" + struct.pack("<qIII", 0, 1, 0, 0) + bytes([1, len(first)]) + first
    return head + b"OggS\0\4" + struct.pack("<qIII", samples, 1, 1, 0) + b"\1\4last"


FLAC = struct.pack(">HH6xQ16x", 4096, 4096, 44_100 << 44 | 1 << 41 | 15 << 36 | 88_200)
SOUNDS = {
    "vorbis": (ogg(b"\1vorbis" + struct.pack("<IBI13xB", 0, 2, 44_100, 1), 132_300), 3.0, 2, 44_100),
    "opus": (ogg(b"OpusHead\1\2" + struct.pack("<HIHB", 312, 48_000, 0, 0), 96_312), 2.0, 2, 48_000),
    "flac": (b"fLaC\x80\0\0\x22" + FLAC, 2.0, 2, 44_100),
    "mp3": ((b"\xff\xfb\x90\x00" + bytes(413)) * 40, 1.0, 2, 44_100),
}


@pytest.mark.parametrize("kind", SOUNDS)
def test_sounds_of_every_sort_are_measured(kind: str) -> None:
    data, seconds, channels, rate = SOUNDS[kind]
    form = format_named("audio")
    facts = facts_of(form.open(data, form.options()))
    assert facts is not None and facts.seconds == pytest.approx(seconds, abs=0.1)
    assert (facts.kind, facts.channels, facts.rate) == (kind, channels, rate)
    with pytest.raises(Unreadable, match=f"is {kind} sound, not wav"):
        form.open(data, form.options(types=("wav",)))


@given(st.sampled_from(sorted(SOUNDS)), st.data())
def test_damaged_sounds_are_told_as_such(kind: str, data: st.DataObject) -> None:
    sound = bytearray(SOUNDS[kind][0])
    for at in data.draw(st.lists(st.integers(0, len(sound) - 1), max_size=8)):
        sound[at] = data.draw(st.integers(0, 255))
    form = format_named("audio")
    with contextlib.suppress(Unreadable):
        form.open(bytes(sound[: data.draw(st.integers(0, len(sound)))]), form.options())
