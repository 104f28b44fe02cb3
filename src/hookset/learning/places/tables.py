"""Places in tables of separated values and in lists of lines: columns, fields."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from hookset.learning.material import Sort
from hookset.learning.place import Place, Said
from hookset.learning.places.beside import variants

__all__ = ["line_places", "table_places"]

_MOST = 40
"""Columns, or fields, that are looked at."""


def table_places(sort: Sort) -> Iterator[Place]:
    """Each column, by what its head says or by its number."""
    found: dict[str, Said] = {}
    rows: dict[tuple[str, int], int] = {}
    headed = sort.options.get("header", True)
    for path, document in sort.documents.items():
        table: Any = document
        for row in table.read:
            for column, cell in enumerate(row.cells[:_MOST]):
                if cell.text:
                    name = table.names[column] if headed and column < len(table.names) else str(column + 1)
                    found.setdefault(name, Said()).add(cell.text, path, cell.start)
                    rows[path, cell.start] = row.start
    known = [
        Place(sort, {"column": name if headed else int(name)}, "value", name, "", said)
        for name, said in found.items()
        if name
    ]
    yield from known
    # Rows of a table without a head often say first what they are.
    yield from variants(known, lambda path, where: rows[path, int(where)], () if headed else ("1",))


def line_places(sort: Sort) -> Iterator[Place]:
    """Each field, and each again for every word that lines begin with; whole lines where they are one field."""
    found: dict[int, Said] = {}
    heads: dict[tuple[str, int], Said] = {}
    fielded = bool(sort.options.get("fields"))
    for path, document in sort.documents.items():
        lines: Any = document
        for row in lines.read:
            if not fielded:
                found.setdefault(0, Said()).add(row.entry, path, row.start)
                continue
            for number, field in enumerate(row.fields[:_MOST], 1):
                found.setdefault(number, Said()).add(field.text, path, field.start)
                if number > 1:
                    heads.setdefault((row.fields[0].text, number), Said()).add(field.text, path, field.start)
    words = len({word for word, _ in heads})
    by_field: dict[int, list[Place]] = {}
    for (word, number), said in heads.items():
        if len(said.texts) >= 2 and len(found[1].texts) > words * 2:
            place = Place(sort, {"field": number, "when": {"1": word}}, "value", word, "", said)
            by_field.setdefault(number, []).append(place)
    for number, said in found.items():
        # What lines of several sorts say in the same field is one only if it means the same in all of them.
        parts = tuple(by_field.get(number, ())) if len(by_field.get(number, ())) > 1 else ()
        called = str(number) if number else ""
        yield Place(sort, {"field": number} if number else {}, "value", called, "", said, parts=parts)
        yield from by_field.get(number, ())
