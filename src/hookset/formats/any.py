"""Any file at all: only its path is of interest, its bytes are not read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats.base import Document, Format, Nothing, ReadOnly, Value
from hookset.trees import Text

__all__ = ["FORMAT"]


class _Any(Format):
    title: ClassVar[str] = "any file, by its path"
    binary: ClassVar[bool] = True
    selector: ClassVar[type[Struct]] = Nothing
    seat: ClassVar[type[Struct]] = Nothing
    options: ClassVar[type[Struct]] = Nothing
    bodies: ClassVar[Sequence[str]] = ()

    def open(self, source: Text | bytes, options: Any) -> Document:  # noqa: ARG002
        # The file itself is the one value: its path comes in through the rule's name template.
        return ReadOnly((Value("", 0),))


FORMAT = _Any()
