"""Places in tables of separated values and in lists of lines: columns, fields."""

from __future__ import annotations

import itertools
import re
from array import array
from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Container, Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any

from msgspec import Struct

from hookset.learning.evidence import NUMBER
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.beside import variants
from hookset.learning.places.numbered import numbered
from hookset.learning.said import Said

__all__ = ["line_places", "table_places"]

_MOST = 40
"""Columns, or fields, that are looked at."""
_MANY = 10_000
"""Lines of numbers that are more than what people write."""
_FEW, _ENDS = 0.2, 0.1
"""Of the lines: how many are one word that there must be to look at them by themselves; of those: how many are a word
that ends a block, at least."""
_SENTENCE = 6
"""Fields of a line that is longer than what says one thing of one name."""
_HEAD = re.compile(r"(?![-+.\d]+(?:[eE][-+]?\d+)?$)[\w@!$%&+-][\w.:/@-]*")
"""A word that a line begins with which says what the line is: no number."""


_SELDOM, _FEW_LENGTHS = 20, 3
"""One in so many lines is no accident; lengths of lines, where something can be left out."""


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


class _Lines(Struct, frozen=True, dict=True):
    """The lines of a sort, in columns: there may be millions."""

    documents: Sequence[tuple[str, Any, Sequence[int]]]
    """With the numbers of the lines in them that are looked at."""
    words: Sequence[tuple[str, ...]]
    """Of each line, one document after the other."""

    @cached_property
    def ends(self) -> Sequence[int]:
        """The line behind the last of each document."""
        return [*itertools.accumulate(len(numbers) for *_, numbers in self.documents)]

    @classmethod
    def of(cls, sort: Sort) -> _Lines:
        """All of them, but for numbers where those are most, as in a mesh: they are measures, and say nothing."""
        every: list[Any] = [(path, document, document.read.words) for path, document in sort.documents.items()]  # type: ignore[attr-defined]
        telling = [[not NUMBER.fullmatch(words[0]) for words in lines] for *_, lines in every]
        count = sum(map(len, telling))
        if count - sum(map(sum, telling)) <= max(_MANY, count // 2):
            whole = [(path, document.read, range(len(lines))) for path, document, lines in every]
            return cls(whole, [words for *_, lines in every for words in lines])
        kept = [[number for number, tells in enumerate(one) if tells] for one in telling]
        documents = [(path, document.read, mine) for (path, document, _), mine in zip(every, kept, strict=True)]
        return cls(documents, [lines[number] for (*_, lines), mine in zip(every, kept, strict=True) for number in mine])

    def _by_document(self, lines: Sequence[int]) -> Iterator[tuple[int, Sequence[int]]]:
        """Some lines, rising, by the number of the document that they are in."""
        first = 0
        while first < len(lines):
            document = bisect_right(self.ends, lines[first])
            past = bisect_left(lines, self.ends[document], first)
            yield document, lines[first:past]
            first = past

    def said(self, number: int, lines: Sequence[int], wheres: Sequence[int]) -> Said:
        """What stands in the field of a number, in some lines."""
        said = Said()
        for document, here in self._by_document(lines):
            texts = [self.words[line][number - 1] for line in here]
            said.extend(self.documents[document][0], texts, [wheres[line] for line in here])
        return said

    def places(self, number: int, lines: Sequence[int]) -> array[int]:
        """Where the field of a number begins in each line; -1 where there is none, and for all but some lines."""
        wheres = array("q", [-1]) * len(self.words)
        for document, here in self._by_document(lines):
            _, rows, numbers = self.documents[document]
            first = self.ends[document] - len(numbers)
            places = rows.places(number - 1, (numbers[line - first] for line in here))
            for line, where in zip(here, places, strict=True):
                wheres[line] = where
        return wheres

    def alone(self, without: Container[str]) -> Said:
        """The lines that are one word, but for some words."""
        said, line = Said(), 0
        for path, rows, numbers in self.documents:
            for one in numbers:
                if len(self.words[line]) == 1 and self.words[line][0] not in without:
                    said.add(self.words[line][0], path, rows.start(one))
                line += 1
        return said


def line_places(sort: Sort) -> Iterator[Place]:
    """Each field, and each again for every word that lines begin with; whole lines where they are one field."""
    if not sort.options.get("fields"):
        yield Place(sort, {}, "value", "", "", _whole(sort))
        return
    lines = _Lines.of(sort)
    lengths: dict[str, Counter[int]] = {}
    for (word, length), often in Counter((words[0], len(words)) for words in lines.words).items():
        lengths.setdefault(word, Counter())[length] = often
    if not lengths:
        # All of it is remarks, or there is nothing.
        return
    things = numbered(lengths)
    several = {word: counts for word, counts in lengths.items() if counts.total() > 1 and word not in things}
    told = {word: _regular(counts) for word, counts in several.items() if _HEAD.fullmatch(word)}
    every = _regular(sum(lengths.values(), Counter()))
    found, heads = _fields(lines, every, told)
    by_field: dict[int, list[Place]] = {}
    for (word, number), said in heads.items() if len(lines.words) > len(lengths) * 2 else ():
        place = Place(sort, {"field": number, "when": {"1": word}}, "value", word, "", said)
        by_field.setdefault(number, []).append(place)
    for place in _alone(sort, lines):
        yield place
        if 2 * len(place.said.texts) > len(lines.words):
            # The first field is one of those, or a word that says what its line is.
            del found[1]
    yield from _by_field(sort, found, by_field)


def _fields(lines: _Lines, every: int, told: Mapping[str, int]) -> tuple[dict[int, Said], dict[tuple[str, int], Said]]:
    """(by number: what stands in the first fields, `every` many; by the word that lines begin with and number: what
    stands behind it, as far as `told`). Field by field, since there may be millions of lines."""
    found: dict[int, Said] = {}
    heads: dict[tuple[str, int], Said] = {}
    by_head: dict[str, list[int]] = {head: [] for head in told}
    for line, words in enumerate(lines.words):
        if words[0] in by_head:
            by_head[words[0]].append(line)
    for number in range(1, max(every, *told.values(), 1) + 1):
        meant = range(len(lines.words)) if number <= every else sorted(_beyond(by_head, told, number))
        wheres = lines.places(number, meant)
        if number <= every and (mine := [line for line, where in enumerate(wheres) if where >= 0]):
            found[number] = lines.said(number, mine, wheres)
        for head, most in told.items() if number > 1 else ():
            mine = [line for line in by_head[head] if wheres[line] >= 0] if number <= most else []
            if mine:
                heads[head, number] = lines.said(number, mine, wheres)
    return found, heads


def _beyond(by_head: Mapping[str, Sequence[int]], told: Mapping[str, int], number: int) -> Iterator[int]:
    """The lines of which a word says that a field counts."""
    return (line for head, mine in by_head.items() if number <= told[head] for line in mine)


def _by_field(sort: Sort, found: Mapping[int, Said], by_field: Mapping[int, Sequence[Place]]) -> Iterator[Place]:
    """What stands in each field, and again behind each of the words that lines begin with."""
    for number in sorted({*found, *by_field}):
        # What lines of several sorts say in the same field is one only if it means the same in all of them.
        parts = tuple(by_field.get(number, ())) if len(by_field.get(number, ())) > 1 else ()
        if number in found:
            yield Place(sort, {"field": number}, "value", str(number), "", found[number], parts=parts)
        yield from by_field.get(number, ())


def _alone(sort: Sort, lines: _Lines) -> Iterator[Place]:
    """What stands on lines by itself, where others begin with a word that says what they are: names within a block,
    but for the words that end one."""
    often = Counter(words[0] for words in lines.words if len(words) == 1)
    alone = often.total()
    if not _FEW * len(lines.words) < alone < len(lines.words):
        return
    ends = [word for word, count in often.items() if count > max(_ENDS * alone, 1)]
    said = lines.alone(ends)
    if said.texts:
        skip = {"skip": f"^(?:{'|'.join(map(re.escape, ends))})$"} if ends else {}
        yield Place(sort, {"only": r"^\S+$", **skip}, "value", "", "", said, used=True)


def _whole(sort: Sort) -> Said:
    """The lines as they are."""
    said = Said()
    for path, document in sort.documents.items():
        lines: Any = document
        for row in lines.read:
            said.add(row.entry, path, row.start)
    return said


def _regular(lengths: Counter[int]) -> int:
    """How many fields say something by their number: the first two, and all where most lines have as many. Long lines
    that are now of this length, now of that are texts for people."""
    length, often = lengths.most_common(1)[0]
    if often * 5 >= lengths.total() * 4:
        return min(length, _MOST)
    usual = [fields for fields, count in lengths.items() if count * _SELDOM > lengths.total()]
    plainly = len(usual) <= _FEW_LENGTHS and lengths.total() >= _SELDOM
    if plainly and sum(map(lengths.__getitem__, usual)) * 20 >= lengths.total() * 19:
        # What may be left out stands at the end: before that each field is what it is.
        return min(min(usual), _MOST)
    longest = sum(count for fields, count in lengths.items() if fields > _SENTENCE)
    return 2 if longest * 2 < lengths.total() else 1
