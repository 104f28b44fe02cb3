"""What would mend a finding without anybody having to choose."""

from __future__ import annotations

from msgspec import Struct

from hookset.core.model.names import Where

__all__ = ["AddRow", "DropRow", "Mend", "Respell"]


class Respell(Struct, frozen=True, tag=True):
    """Write a name as it is really called."""

    path: str
    where: Where
    written: str
    right: str


class AddRow(Struct, frozen=True, tag=True):
    """Give a file its row in the manifest."""

    row: str


class DropRow(Struct, frozen=True, tag=True):
    """Take out a row that is there twice."""

    path: str
    where: Where


Mend = Respell | AddRow | DropRow
