"""What would mend a finding without anybody having to choose."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hookset.model.names import Where

__all__ = ["AddRow", "DropRow", "Mend", "Respell"]


class Respell(Struct, frozen=True, tag=True):
    """Write a name as it is really called."""

    path: str
    where: Where
    written: str
    right: str


class AddRow(Struct, frozen=True, tag=True):
    """Give a file, or a name, its row in the manifest."""

    seat: str
    text: str | None = None
    record: Mapping[str, Any] | None = None


class DropRow(Struct, frozen=True, tag=True):
    """Take out a row that is there twice."""

    path: str
    where: Where


Mend = Respell | AddRow | DropRow
