"""Pictures: looked at for being what their name says."""

from __future__ import annotations

import io
from array import array
from collections.abc import Sequence
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._media import MediaFacts
from hookset.formats.base import Unreadable
from hookset.formats.document import Document, MediaFile
from hookset.formats.format import Format
from hookset.model import with_article
from hookset.trees import Text

__all__ = ["FORMAT", "Greys", "greys_of"]

_GREY_MODES = ("L", "LA", "I", "I;16", "I;16B", "I;16L", "I;16N")
_MOST_PIXELS = 100_000_000


class PictureOptions(Struct, frozen=True, forbid_unknown_fields=True):
    types: tuple[str, ...] = ()
    """What such a file may be: PNG, JPEG, TGA, DDS … Empty: any picture."""


class _Picture(Format):
    title: ClassVar[str] = "picture"
    binary: ClassVar[bool] = True
    has_facts: ClassVar[bool] = True
    options: ClassVar[type[Struct]] = PictureOptions

    def open(self, source: Text | bytes, options: Any) -> Document:
        assert isinstance(source, bytes)
        # Imported here: only maps that have pictures pay for it.
        from PIL import Image, UnidentifiedImageError

        try:
            with Image.open(io.BytesIO(source)) as picture:
                kind = picture.format or "?"
                width, height = picture.width, picture.height
                picture.verify()
        except UnidentifiedImageError as error:
            raise Unreadable("is no picture that can be recognised, whatever its name says") from error
        except Exception as error:
            raise Unreadable("is a damaged picture") from error
        if options.types and kind not in options.types:
            raise Unreadable(f"is {with_article(kind)} picture, not {' or '.join(options.types)} as its name says")
        return MediaFile(facts=MediaFacts(kind=kind, width=width, height=height))


class Greys(Struct, frozen=True):
    """A picture of greys."""

    width: int
    height: int
    most: int
    """The level of white."""
    levels: Sequence[int]
    """Row after row, from the upper left corner."""


def greys_of(data: bytes) -> Greys:
    """The greys of a picture of 8 or 16 bits. Raises Unreadable for one that is damaged, too large, or has colours."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data)) as picture:
            mode, width, height = picture.mode, picture.width, picture.height
            if mode not in _GREY_MODES:
                raise Unreadable(f"has colours (as a picture of mode {mode}): heights are greys of 8 or 16 bits")
            if width * height > _MOST_PIXELS:
                raise Unreadable(f"has {width} × {height} pixels, more than {_MOST_PIXELS:,}")
            if mode in ("L", "LA"):
                return Greys(width, height, 255, picture.getchannel(0).tobytes())
            levels = array("i", picture.convert("I").tobytes())
    except Unreadable:
        raise
    except Exception as error:
        raise Unreadable("is a damaged picture, or none") from error
    if min(levels) < 0 or max(levels) > 65_535:
        raise Unreadable("has levels beyond those of 16 bits")
    return Greys(width, height, 65_535, levels)


FORMAT = _Picture()
