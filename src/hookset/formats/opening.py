"""Files opened by their format. The same bytes are parsed once, however many rules, hooks and checks ask for them."""

from __future__ import annotations

import functools
import hashlib
from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from hookset.formats.base import Edit, spliced
from hookset.formats.document import Document, Insertable
from hookset.formats.format import Format
from hookset.model import CouldNotError
from hookset.trees import Text, decode, known_encoding

__all__ = ["is_kept", "open_file", "open_with_insertions", "text_of"]

_SMALL = 64 << 10
_LARGE = 64 << 20
"""Bytes of a file beyond which its document is not kept for long: a map has few so large, and each takes several times
that."""
_SMALL_KEPT = 200
_LARGE_KEPT = 2
"""Before and after a change. To let go of one takes as long as to parse it: at the end of the run it is for nothing."""


def is_kept(size: int) -> bool:
    """Whether the document of a file of so many bytes is kept for all who ask for it."""
    return size <= _LARGE


def open_file(
    form: Format, data: bytes, encodings: tuple[str, ...], options: Any, again: bool = False
) -> tuple[Text, Document]:
    """A file of a text format, decoded and parsed; `again`: somebody asks for it once more, and it is kept until then,
    however large it is. Raises Unreadable for what the format cannot be, CouldNotError as `text_of`."""
    if not is_kept(len(data)):
        return _awaited(form, data, encodings, options, again)
    # Each format is one object, and its own key.
    key: Any = form
    return (_small if len(data) <= _SMALL else _large)(key, data, encodings, options)


def open_with_insertions(
    form: Format, before: tuple[Text, Document], edits: Sequence[Edit], encodings: tuple[str, ...], options: Any
) -> bytes:
    """The bytes of a file with something inserted. Where its document says what comes of that, it is opened already:
    whoever opens those bytes next need not parse them. Raises CouldNotError for characters that it cannot hold."""
    text, document = before
    after = replace(text, string=spliced(text.string, edits))
    data = after.encode(after.string)
    if isinstance(document, Insertable) and len(data) > _SMALL and is_kept(len(data)):
        made = document.inserted(after, edits)
        if made is not None:
            _large.keep((after, made), form, data, encodings, options)
    return data


def text_of(form: Format, data: bytes, encodings: tuple[str, ...]) -> Text:
    """A file of a text format as text: by its byte order mark, by what it says of itself, or as the layout says.

    Raises CouldNotError when it is in none of these encodings, or larger than such files are.
    """
    if len(data) > form.largest:
        raise CouldNotError(
            "too-large",
            f"is {len(data) >> 20} MB; {form.title} of more than {form.largest >> 20} MB is not read",
            why="nobody made such a file by hand, and what is in it would not be known for minutes",
            remedy="see what wrote it; a part of it may be repeated without end",
        )
    declared = form.declared_encoding(data)
    if declared and not known_encoding(declared):
        raise CouldNotError(
            "unknown-encoding",
            f"names an encoding that there is not: {declared!r}",
            why="text read in the wrong encoding turns names into other names, and other programs refuse the file",
            remedy="save the file as UTF-8, and have it say so where it names its encoding",
        )
    return decode(data, (declared, *encodings) if declared else encodings)


def _opened(form: Any, data: bytes, encodings: tuple[str, ...], options: Any) -> tuple[Text, Document]:
    text = text_of(form, data, encodings)
    return text, form.open(text, options)


class _Latest:
    """The latest documents. The oldest goes before another one is parsed, so that there are never more of them."""

    def __init__(self, most: int) -> None:
        self.most = most
        self.kept: dict[tuple[Any, ...], tuple[Text, Document]] = {}

    def __call__(self, *asked: Any) -> tuple[Text, Document]:
        """As `_opened`."""
        found = self.kept.pop(asked, None)
        while found is None and len(self.kept) >= self.most:
            self.kept.pop(next(iter(self.kept)), None)
        found = found or _opened(*asked)
        self.kept[asked] = found
        return found

    def keep(self, opened: tuple[Text, Document], *asked: Any) -> None:
        """One that was opened in another way."""
        while len(self.kept) >= self.most:
            self.kept.pop(next(iter(self.kept)), None)
        self.kept[asked] = opened


class _Awaited:
    """The latest document of a file that is too large to be kept. A check asks for two things of a scene: what it says,
    and where its things stand; whoever asks second takes it away."""

    def __init__(self) -> None:
        self._kept: dict[tuple[Any, ...], tuple[Text, Document]] = {}

    def __call__(
        self, form: Any, data: bytes, encodings: tuple[str, ...], options: Any, again: bool
    ) -> tuple[Text, Document]:
        """As `_opened`."""
        # The bytes themselves would be kept with it.
        key = (form, hashlib.sha256(data).digest(), encodings, options) if again or self._kept else ()
        found = self._kept.pop(key, None)
        self._kept.clear()
        if found is None:
            found = _opened(form, data, encodings, options)
            if again:
                self._kept[key] = found
        return found


# Documents are never changed: to keep the latest is the same as to parse them again.
_small = functools.lru_cache(maxsize=_SMALL_KEPT)(_opened)
_large = _Latest(_LARGE_KEPT)
_awaited = _Awaited()
