"""Places in tables that are written as values, in rows of several cells: `"needs", "rope", "always"`."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any

from msgspec.structs import replace

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.said import Said

__all__ = ["cell_places"]

_CELL = r"(?:\"[^\"\n]*\"|[^\",;{}\s]+)"
_ROW = re.compile(rf"^[ \t]*\{{?[ \t]*(?P<cells>{_CELL}(?:[ \t]*,[ \t]*{_CELL})+)[ \t]*,?[ \t]*(?:[;#].*)?$", re.M)
_ONE = re.compile(r"\"(?P<text>[^\"\n]*)\"|[^\",\s]+")
_QUOTED = r"\"(?P<value>[^\"\n]+)\""
_MOST_SORTS = 60
"""Different words in the first cell of rows that are told by them."""
_OFTEN = 3
"""Times that such a word is there, on the average."""


def cell_places(sort: Sort) -> Iterator[Place]:
    """What stands in each cell; of rows that say in the first one what they are, what stands in the second by that."""
    text = replace(sort, format="text", options={"comments": [r"(?:^|(?<=\s))[;#][^\n]*"]})
    columns: dict[tuple[str, int], Said] = {}
    by_word: dict[str, dict[str, Said]] = {}
    for path, document in sort.documents.items():
        found: Any = document
        for pair in found.pairs:
            heads: list[str] = []
            for row in _ROW.finditer(pair.value) if "\n" in pair.value else ():
                cells = list(_ONE.finditer(row["cells"]))
                if not heads:
                    heads = [cell["text"] or "" for cell in cells]
                    continue
                start = pair.value_start + row.start("cells")
                for number, cell in enumerate(cells):
                    if cell["text"]:
                        head = heads[number] if number < len(heads) else ""
                        columns.setdefault((head, number), Said()).add(cell["text"], path, start + cell.start("text"))
                if cells[0]["text"] and cells[1]["text"]:
                    said = by_word.setdefault(heads[0], {}).setdefault(cells[0]["text"], Said())
                    said.add(cells[1]["text"], path, start + cells[1].start("text"))
    told = {head: words for head, words in by_word.items() if _sorts(words)}
    for word, said in ((word, said) for words in told.values() for word, said in words.items()):
        match = rf'^[ \t{{]*"{re.escape(word)}"[ \t]*,[ \t]*{_QUOTED}'
        yield Place(text, {"match": match}, "value", word, "", said)
    # A cell is asked for by its number: that says something where all tables call the same cells the same.
    heads_of = Counter(number for _, number in columns)
    for (head, number), said in columns.items():
        if heads_of[number] == 1 and not (told and number < 2):
            match = rf"^[ \t{{]*(?:{_CELL}[ \t]*,[ \t]*){{{number}}}{_QUOTED}"
            yield Place(text, {"match": match}, "value", head, "", said)


def _sorts(words: Mapping[str, Said]) -> bool:
    """Whether the first cells say what sort of row each is: a few words, again and again."""
    rows = sum(len(said.texts) for said in words.values())
    return len(words) <= _MOST_SORTS and rows >= _OFTEN * len(words)
