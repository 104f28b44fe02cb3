"""A parsed file, and what can be asked of it. Every document can be read; what else it offers, it says by inheriting
from the classes here: a format implements what it has, and the functions below give what the others have instead."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, is_dataclass, replace
from typing import Any

from hookset.formats._media import MediaFacts
from hookset.formats.base import Body, Columns, Edit, Edits, ExistingEntry, NoSeat, Placement, Value, columns_of
from hookset.formats.parts import PartTable
from hookset.model import Where
from hookset.trees import Text

__all__ = [
    "BesideTest",
    "Document",
    "Editable",
    "HasFacts",
    "HasFields",
    "HasGuards",
    "HasHead",
    "HasIndex",
    "HasParts",
    "HasRecords",
    "HasRows",
    "HasUnits",
    "HasWording",
    "Insertable",
    "MediaFile",
    "Preparable",
    "Reshaping",
    "Restorable",
    "Writable",
    "columns_with_rows",
    "entries_at",
    "facts_of",
    "field_at",
    "fresh",
    "guards_of",
    "head_of",
    "may_match",
    "placement_at",
    "prepared",
    "records_of",
    "standing_at",
    "string_of",
    "unit_around",
    "wording_at",
]


BesideTest = tuple[str, Callable[[str], bool]]
"""The key of what stands beside a value, and what must hold for it."""


class Document(ABC):
    """One parsed file, as it is read."""

    @property
    @abstractmethod
    def problems(self) -> tuple[tuple[str, Where], ...]:
        """What is wrong in a file of which the rest could be read all the same. Such a file is not edited."""

    @property
    def unseen(self) -> tuple[tuple[str, Where], ...]:
        """What the file takes from elsewhere, so that the names in it are not seen here."""
        return ()

    @abstractmethod
    def select(self, selector: Any) -> Iterator[Value]:
        """The values that `selector` (of the format's `selector` type) names, in file order."""

    def columns(self, selector: Any) -> Columns:
        """The same as `select`, for files with very many values."""
        return columns_of(self.select(selector))

    @abstractmethod
    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        """Character spans for addresses that `select` gave; of many at once, since finding them walks the file."""


class Preparable(Document):
    """A document that finds the values of several selectors in one pass, if it knows beforehand which they are."""

    @abstractmethod
    def prepared(self, selectors: Iterable[Any]) -> Document:
        """The same document, prepared for being asked these."""


class HasIndex(Document):
    """A document that looks up which of many selectors match nothing in it, without asking for the values of each."""

    @abstractmethod
    def may_match(self, selectors: Sequence[Any]) -> Collection[int]:
        """The numbers of those that may match something."""


class HasRows(Document):
    """A document whose values stand beside others."""

    @abstractmethod
    def rows(self, selector: Any) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """The same as `select`, each with the other values of the record that it stands in, by their keys. One that
        only the running game knows is `*`."""

    def rows_where(self, selector: Any, tests: Sequence[BesideTest]) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """Those beside which all of these hold; what is not there is an empty text."""
        found: Iterable[tuple[Value, Mapping[str, str]]] = self.rows(selector)
        for key, holds in tests:
            found = [row for row in found if holds(row[1].get(key, ""))]
        yield from found


class HasGuards(Document):
    """A document of which parts count only where something is there."""

    @abstractmethod
    def guarded(self, selector: Any) -> Iterator[tuple[str, int, int]]:
        """What is asked for in the way that `selector` names, and the characters that count only where it is there;
        without one, names that are tested by themselves."""


class HasRecords(Document):
    """A document that holds whole records."""

    @abstractmethod
    def records(self, selector: Any) -> Iterator[tuple[Where, Any]]:
        """Where each record stands that `selector` names, and what it says."""


class HasFields(HasRecords):
    """A document in which the place of a record's value is known by its offset."""

    @abstractmethod
    def field(self, record: Where, key: str) -> Where:
        """Where the value of `key` of a record stands; where the record does if it has none."""


class HasWording(Document):
    """A document of keys and the texts that the game shows for them."""

    @abstractmethod
    def wording(self, where: Where) -> str:
        """The text of the entry whose key was selected at `where`."""


class HasUnits(Document):
    """A document in which things stand within things."""

    @abstractmethod
    def unit(self, where: Where) -> ExistingEntry | None:
        """The smallest thing of its own around a value; None where that is the entry that the value is in."""


class Writable(Document):
    """A document in which a value can be written in the place of another one."""

    def places(self, selector: Any) -> Iterator[tuple[Where, Any]]:
        """Where each value stands that a selector names, and what it is: a text, and in formats that have them a
        number or a truth value. One that is known in part only is None."""
        return ((value.where, None if value.pattern else value.text) for value in self.select(selector))

    def value_span(self, where: Where) -> tuple[int, int] | None:
        """The characters that a value at a place takes, with its quotes; None where nobody can write there."""
        return self.spans([where]).get(where)

    @abstractmethod
    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        """The ways to write `value` where the characters of `span` stand, the likeliest first. Whoever uses one reads
        the file again to see that it says what it should."""


class HasParts(HasRecords, Writable):
    """A document whose records have parts that can be read, written and added: things that stand somewhere."""

    @abstractmethod
    def parts(self, selector: Any, ways: Sequence[str]) -> PartTable:
        """The records that a selector names, in file order, each with what `ways` lead to in it."""

    def around(self, selector: Any) -> Sequence[Where | None]:
        """For each of these records the closest one around it; none in a format that has no records in records."""
        return [None] * len(self.parts(selector, ()))

    @abstractmethod
    def ways(self, record: Where) -> tuple[str, ...]:
        """The ways to all that a record says, in its order."""

    @abstractmethod
    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        """How a record gets values that it lacks, by the ways to them; None where nobody can write them."""


class Editable(Document):
    """A document that takes entries."""

    @abstractmethod
    def put(self, seat: Any, body: Body) -> Placement:
        """How `body` would be set at `seat` (of the format's `seat` type)."""

    @abstractmethod
    def existing(self, seat: Any) -> Iterator[ExistingEntry]:
        """The entries that stand at a seat, in file order."""


class Insertable(Editable):
    """A document that knows what it is once something has been inserted, without being read again."""

    @abstractmethod
    def inserted(self, text: Text, edits: Sequence[Edit]) -> Document | None:
        """The document of `text`, which is that of this one with the edits made; None where it has to be read."""


class HasHead(Editable):
    """A document in which a seat cannot be found without what is above the entries: the columns of a table."""

    @abstractmethod
    def head(self) -> str:
        """The file without its entries."""


class Restorable(Editable):
    """A document that knows an entry again after somebody has changed it."""

    @abstractmethod
    def standing(self, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Any:
        """What stands now where `body` was set, `near` where it is thought to stand; None where that is not known."""


class Reshaping(Editable):
    """A document in which more than the text of an entry has to change when it is taken out."""

    @abstractmethod
    def take(self, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Edits | None:
        """How `body` would be taken out again, `near` where it is thought to stand; None for seats at which taking
        out its text will do."""


class HasFacts(Document):
    """A file of which something is worth knowing before it is used."""

    @property
    @abstractmethod
    def facts(self) -> MediaFacts | None:
        """How long a sound is, how large a picture; None where nothing of the kind is known."""


@dataclass(frozen=True)
class MediaFile(HasFacts):
    """A file that is looked at as a whole: a picture, a sound, any file by its path."""

    values: tuple[Value, ...] = ()
    problems: tuple[tuple[str, Where], ...] = ()
    facts: MediaFacts | None = None

    def select(self, _selector: Any) -> Iterator[Value]:
        """The one value that such a file is, if it is one."""
        return iter(self.values)

    def spans(self, _wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        """None: nothing of it is text."""
        return {}


def facts_of(document: Document) -> MediaFacts | None:
    """What is worth knowing of a file before it is used; None where nothing is."""
    return document.facts if isinstance(document, HasFacts) else None


def string_of(document: Document) -> str:
    """The characters of a file that is text; empty for others."""
    text = getattr(document, "text", None)
    return text.string if isinstance(text, Text) else ""


def prepared(document: Document, selectors: Iterable[Any]) -> Document:
    """The document, ready to be asked these."""
    return document.prepared(selectors) if isinstance(document, Preparable) else document


def fresh(document: Document) -> Document:
    """The same document as if nobody had asked it for anything yet: what it keeps for whoever asks next is as large as
    itself, and is thrown away with this one."""
    same: Any = document
    has_fields = is_dataclass(document)
    made: Document = replace(same) if has_fields else copy(same)
    return made


def may_match(document: Document, selectors: Sequence[Any]) -> Collection[int]:
    """The numbers of the selectors that may match something in a document."""
    return document.may_match(selectors) if isinstance(document, HasIndex) else range(len(selectors))


def columns_with_rows(document: Document, selector: Any, tests: Sequence[BesideTest] = ()) -> Columns:
    """Values as columns, with what stands beside each, of those beside which all tests hold. What is beside them and
    not known makes them patterns."""
    if not isinstance(document, HasRows):
        return document.columns(selector)
    pairs = list(document.rows_where(selector, tests))
    patterns = [row for row, (value, _) in enumerate(pairs) if value.pattern]
    return Columns(
        [value.text for value, _ in pairs], [value.where for value, _ in pairs], patterns, rows=[r for _, r in pairs]
    )


def guards_of(document: Document, selector: Any) -> Iterator[tuple[str, int, int]]:
    """The guarded parts of a document; none in formats that have no such parts."""
    return document.guarded(selector) if isinstance(document, HasGuards) else iter(())


def records_of(document: Document, selector: Any) -> Iterator[tuple[Where, Any]]:
    """The records that a selector names; none in formats that have no records."""
    return document.records(selector) if isinstance(document, HasRecords) else iter(())


def field_at(document: Document, record: Where, keys: Sequence[str | int]) -> Where:
    """Where a value inside of a record stands: by its address, or else by the offset of its outermost key."""
    if isinstance(record, int):
        return document.field(record, str(keys[0])) if keys and isinstance(document, HasFields) else record
    return record + "".join(f"/{key}" for key in keys)


def wording_at(document: Document, where: Where) -> str:
    """The text of the entry whose key was selected at `where`; empty in formats that have no such entries."""
    return document.wording(where) if isinstance(document, HasWording) else ""


def entries_at(document: Document, seat: Any) -> Iterator[ExistingEntry]:
    """The entries that stand at a seat; none in formats that are read only."""
    return document.existing(seat) if isinstance(document, Editable) else iter(())


def placement_at(document: Document, seat: Any, body: Body) -> Placement:
    """How `body` would be set at `seat`."""
    if not isinstance(document, Editable):
        return NoSeat("a spot to set an entry: this format is read only")
    return document.put(seat, body)


def standing_at(document: Document, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Any:
    """What stands now where `body` was set; None where that is not known."""
    return document.standing(seat, body, near) if isinstance(document, Restorable) else None


def unit_around(document: Document, where: Where) -> ExistingEntry | None:
    """The smallest thing of its own around a value; None where that is the entry that the value is in."""
    return document.unit(where) if isinstance(document, HasUnits) else None


def head_of(document: Document) -> str:
    """The file without its entries, where a seat is not found without what is above them; else empty."""
    return document.head() if isinstance(document, HasHead) else ""
