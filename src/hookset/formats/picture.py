"""Pictures: looked at for being what their name says."""

from __future__ import annotations

import io
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._media import MediaFacts
from hookset.formats.base import Unreadable
from hookset.formats.document import Document, MediaFile
from hookset.formats.format import Format
from hookset.model import with_article
from hookset.trees import Text

__all__ = ["FORMAT"]


class PictureOptions(Struct, frozen=True, forbid_unknown_fields=True):
    types: tuple[str, ...] = ()
    """What such a file may be: PNG, JPEG, TGA, DDS … Empty: any picture."""


class _Picture(Format):
    title: ClassVar[str] = "picture"
    binary: ClassVar[bool] = True
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


FORMAT = _Picture()
