"""glTF 2.0's binary container: its JSON chunk is read like any other JSON (Khronos glTF 2.0, 4.4)."""

from __future__ import annotations

import json
import struct
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._data import DataSelector, model_facts, select
from hookset.formats._media import MediaFacts
from hookset.formats.base import Unreadable, Value
from hookset.formats.document import Document, HasFacts
from hookset.formats.format import Format
from hookset.model import Where
from hookset.trees import Text

__all__ = ["FORMAT"]

_JSON = 0x4E4F534A


@dataclass(frozen=True)
class _Glb(HasFacts):
    data: Any
    problems: tuple[tuple[str, Where], ...] = ()

    @property
    def facts(self) -> MediaFacts | None:
        return model_facts(self.data)

    def select(self, selector: DataSelector) -> Iterator[Value]:
        return select(self.data, selector)

    def spans(self, _wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        return {}


class _GlbFormat(Format):
    title: ClassVar[str] = "binary glTF"
    binary: ClassVar[bool] = True
    selector: ClassVar[type[Struct]] = DataSelector
    has_rows: ClassVar[bool] = True
    has_facts: ClassVar[bool] = True

    def open(self, source: Text | bytes, _options: Any) -> Document:
        assert isinstance(source, bytes)
        if len(source) < 20 or source[:4] != b"glTF":
            raise Unreadable("is no binary glTF, whatever its name says")
        version, length, chunk, kind = struct.unpack_from("<IIII", source, 4)
        if version != 2:
            raise Unreadable(f"is binary glTF of version {version}; 2 is read")
        if length > len(source) or 20 + chunk > len(source) or kind != _JSON:
            raise Unreadable(f"is cut off: {length} bytes are told, {len(source)} are there")
        try:
            return _Glb(json.loads(source[20 : 20 + chunk]))
        except (ValueError, RecursionError) as error:
            raise Unreadable("holds no JSON in its JSON chunk") from error


FORMAT = _GlbFormat()
