"""Any file at all: only its path is of interest, its bytes are not read."""

from __future__ import annotations

from typing import Any, ClassVar

from hookset.formats.base import Value
from hookset.formats.document import Document, MediaFile
from hookset.formats.format import Format
from hookset.trees import Text

__all__ = ["FORMAT"]


class _Any(Format):
    title: ClassVar[str] = "any file, by its path"
    binary: ClassVar[bool] = True

    def open(self, _source: Text | bytes, _options: Any) -> Document:
        # The file itself is the one value: its path comes in through the rule's name template.
        return MediaFile((Value("", 0),))


FORMAT = _Any()
