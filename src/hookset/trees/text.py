"""Text that goes back to the very bytes it came from, except where it was edited."""

from __future__ import annotations

import codecs
import re
from bisect import bisect_left
from collections import Counter
from collections.abc import Iterable
from functools import cached_property

from msgspec import Struct

from hookset.model import CouldNotError

__all__ = ["Text", "decode", "excerpt", "known_encoding", "line_and_column", "lines_and_columns"]

_BOMS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)


_BEGIN = 1 << 20
"""Characters by which it is judged how a file is written."""


class Text(Struct, frozen=True, dict=True):
    """Decoded characters, with what it takes to write them back."""

    string: str
    encoding: str
    bom: bytes = b""

    @cached_property
    def newline(self) -> str:
        """The line ending that most lines at the beginning have; `\\n` for a file with none."""
        begin = self._begin
        both = begin.count("\r\n")
        counts = {"\r\n": both, "\n": begin.count("\n") - both, "\r": begin.count("\r") - both}
        most = [ending for ending, count in counts.items() if count and count == max(counts.values())]
        # Of as many, the one that comes first.
        return min(most, key=begin.index, default="\n")

    @property
    def _begin(self) -> str:
        """Enough of it to see how it is written; whole lines."""
        end = self.string.rfind("\n", 0, _BEGIN) + 1
        return self.string[:end] if end and len(self.string) > _BEGIN else self.string

    @cached_property
    def indent(self) -> str:
        """One step of indentation: what a deeper line most often adds to the line above it."""
        steps: Counter[str] = Counter()
        above = ""
        for lead in re.findall(r"(?m)^([ \t]*)(?=[^\s])", self._begin):
            if lead.startswith(above) and lead != above:
                steps[lead[len(above) :]] += 1
            above = lead
        return max(steps, key=lambda step: steps[step]) if steps else "  "

    @classmethod
    def of(cls, data: bytes, encoding: str, bom: bytes = b"") -> Text:
        """The text of bytes that stand behind a byte order mark. Raises CouldNotError where they are not valid."""
        text = cls(_strict(data, encoding, len(bom)), encoding, bom)
        if codecs.lookup(encoding).name == "utf-8":
            # A second copy of a large file would take as much memory as the first.
            text.__dict__["utf8"] = data
        return text

    @cached_property
    def utf8(self) -> bytes:
        """For parsers that want bytes; `char_at` brings their offsets back."""
        return self.string.encode("utf-8", "surrogatepass")

    def without_bytes(self) -> Text:
        """The same text, which makes its `utf8` again when it is asked for: of a large file it is as large."""
        self.__dict__.pop("utf8", None)
        return self

    @cached_property
    def _continuations(self) -> list[int]:
        if self.string.isascii():
            return []
        return [m.start() for m in re.finditer(rb"[\x80-\xbf]", self.utf8)]

    def char_at(self, byte: int) -> int:
        """The character offset of a byte offset into `utf8`."""
        return byte - bisect_left(self._continuations, byte) if self._continuations else byte

    def byte_at(self, character: int) -> int:
        """The byte offset into `utf8` of a character offset."""
        if self.string.isascii():
            return character
        return len(self.string[:character].encode("utf-8", "surrogatepass"))

    def encode(self, string: str) -> bytes:
        """The whole file with `string` as its characters. Raises CouldNotError for characters it cannot hold."""
        try:
            return self.bom + string.encode(self.encoding)
        except UnicodeEncodeError as error:
            raise CouldNotError(
                "wrong-encoding",
                f"{string[error.start : error.end]!r} cannot be written in this file's encoding, {self.encoding}",
                why="the character would be lost or would damage the text around it",
                remedy="save the file as UTF-8, or write the entry without this character",
            ) from error


def decode(data: bytes, encodings: tuple[str, ...] = ("utf-8",)) -> Text:
    """`data` as text: by its byte order mark, else in the first of `encodings` that it is valid in.

    Raises CouldNotError with the offset and line of the first byte that fits none of them.
    """
    for bom, encoding in _BOMS:
        if data.startswith(bom):
            return Text.of(data[len(bom) :], encoding, bom)
    first: CouldNotError | None = None
    for encoding in encodings:
        try:
            return Text.of(data, encoding)
        except CouldNotError as error:
            first = first or error
    raise first or CouldNotError(
        "unknown-encoding", "no encoding to read it in", remedy="name one in `encodings` in the layout"
    )


def known_encoding(name: str) -> bool:
    """Whether text can be read and written in it: `base64` and `rot13` are codecs as well, and no encodings of text."""
    try:
        return "".encode(name).decode(name) == ""
    except (LookupError, ValueError):
        return False


def _strict(data: bytes, encoding: str, shift: int) -> str:
    try:
        string = data.decode(encoding)
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise CouldNotError(
            "wrong-encoding",
            f"is not {encoding.upper()}: the byte 0x{data[error.start]:02x} at offset {error.start + shift} "
            f"(line {line}) does not fit",
            why="text read in the wrong encoding turns names into other names",
            remedy="save the file in that encoding, or name its own in the layout's read rule (encodings = [...])",
        ) from error
    if "\0" in string:
        line = string.count("\n", 0, string.index("\0")) + 1
        raise CouldNotError(
            "wrong-encoding",
            f"holds a NUL character in line {line}: it is no text",
            why="the file was cut off by a crash, or is of another format than its name says",
            remedy="restore it from a copy, or export it again",
        )
    return string


def excerpt(string: str, offset: int) -> str:
    """What stands at a character offset, in words: ``near `b: c` `` or `at the end of the file`."""
    words = string[offset : offset + 200].strip().split("\n")[0].strip()[:40]
    return f"near `{words}`" if words else "at the end of the file"


def line_and_column(string: str, offset: int) -> tuple[int, int]:
    """Line and column, from one, of a character offset."""
    start = string.rfind("\n", 0, offset) + 1
    return string.count("\n", 0, offset) + 1, offset - start + 1


def lines_and_columns(string: str, offsets: Iterable[int]) -> dict[int, tuple[int, int]]:
    """The same for many, in one pass."""
    found: dict[int, tuple[int, int]] = {}
    line, position = 1, 0
    for offset in sorted(set(offsets)):
        line += string.count("\n", position, offset)
        position = offset
        found[offset] = (line, offset - string.rfind("\n", 0, offset))
    return found
