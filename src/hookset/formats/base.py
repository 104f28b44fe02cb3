"""What every format module offers, and the plain data that goes in and out."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol

from msgspec import Struct

from hookset.formats._media import MediaFacts
from hookset.model import Where
from hookset.trees import Text

__all__ = [
    "AlreadyThere",
    "Body",
    "Clash",
    "Columns",
    "Document",
    "Edit",
    "Edits",
    "ExistingEntry",
    "Format",
    "NoSeat",
    "Nothing",
    "Placement",
    "Preparable",
    "Unreadable",
    "Value",
    "WrongBody",
    "columns_of",
    "columns_with_rows",
    "field_at",
    "spliced",
]


class Unreadable(Exception):  # noqa: N818
    """The file is not what its format asks for. `where` is a character offset, if the parser knows one."""

    def __init__(self, what: str, where: int = 0) -> None:
        super().__init__(what)
        self.what = what
        self.where = where


class Nothing(Struct, frozen=True, forbid_unknown_fields=True):
    """For formats without selectors, seats or options: there is nothing to say."""


class Value(Struct, frozen=True, gc=False):
    """One value that a selector found."""

    text: str
    where: Where
    pattern: bool = False
    """Known in part only: `*` stands in `text` for what the program adds at run time."""


@dataclass(frozen=True, slots=True)
class Columns:
    """Many values at once, in file order."""

    texts: Sequence[str]
    wheres: Sequence[Where]
    patterns: Sequence[int] = ()
    """Rows that are known in part only."""
    at: str = ""
    """What stands behind each of `wheres` in an address."""
    rows: Sequence[Mapping[str, str]] = ()
    """What stands beside each, where that was asked for."""

    def where(self, row: int) -> Where:
        """Return where the value of a row stands."""
        return f"{self.wheres[row]}{self.at}" if self.at else self.wheres[row]


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """What a hook says is to be set: text in the file's own language, or a record of keys and values."""

    text: str | None = None
    record: Mapping[str, Any] | None = None


@dataclass(frozen=True, slots=True)
class ExistingEntry:
    """An entry as it stands in a file, or in a text that was meant to be pasted into one."""

    start: int
    end: int
    body: Body


@dataclass(frozen=True, slots=True)
class Edit:
    """Characters `start` to `end` become `text`."""

    start: int
    end: int
    text: str


@dataclass(frozen=True, slots=True)
class Edits:
    """An entry can be set: these spans change, none of which touch each other."""

    edits: tuple[Edit, ...]


@dataclass(frozen=True, slots=True)
class AlreadyThere:
    """The same entry stands there already, in this or another spelling."""

    where: Where


@dataclass(frozen=True, slots=True)
class Clash:
    """An entry of the same name stands there and says something else."""

    where: Where
    what: str


@dataclass(frozen=True, slots=True)
class WrongBody:
    """The entry itself is not of the form that goes here."""

    what: str
    """What it should be, and is not."""


@dataclass(frozen=True, slots=True)
class NoSeat:
    """The landmark the seat goes by is not in this file, or is there more than once."""

    looked_for: str
    candidates: tuple[str, ...] = ()


Placement = Edits | AlreadyThere | Clash | WrongBody | NoSeat


class Document(Protocol):
    """One parsed file."""

    @property
    def problems(self) -> tuple[tuple[str, Where], ...]:
        """What is wrong in a file of which the rest could be read all the same. Such a file is not edited."""

    @property
    def facts(self) -> MediaFacts | None:
        """What is worth knowing of the file before it is used: how long a sound is, how large a picture."""
        return None

    def select(self, selector: Any) -> Iterator[Value]:
        """The values that `selector` (of the format's `selector` type) names, in file order."""

    def columns(self, selector: Any) -> Columns:
        """The same as `select`, for files with very many values."""
        return columns_of(self.select(selector))

    def rows(self, selector: Any) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """The same as `select`, each with the other values of the record that it stands in, by their keys. One that
        only the running game knows is `*`."""
        return ((value, {}) for value in self.select(selector))

    def said(self, where: Where) -> str:  # noqa: ARG002
        """The text of the entry whose key was selected at `where`; empty in formats that have no such entries."""
        return ""

    def records(self, selector: Any) -> Iterator[tuple[Where, Any]]:
        """Whole records, for formats that have them."""

    def field(self, record: Where, key: str) -> Where:  # noqa: ARG002
        """Where the value of `key` of a record stands, in formats in which that is known by its offset."""
        return record

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        """Character spans for addresses that `select` gave; of many at once, since finding them walks the file."""

    def places(self, selector: Any) -> Iterator[tuple[Where, Any]]:
        """Where each value stands that a selector names, and what it is: a text, and in formats that have them a
        number or a truth value. One that is known in part only is None."""
        return ((value.where, None if value.pattern else value.text) for value in self.select(selector))

    def value_span(self, where: Where) -> tuple[int, int] | None:
        """The characters that a value at a place takes, with its quotes; None where nobody can write there."""
        return self.spans([where]).get(where)

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:  # noqa: ARG002
        """The ways to write `value` where the characters of `span` stand, the likeliest first. Whoever uses one reads
        the file again to see that it says what it should."""
        return iter(())

    def put(self, seat: Any, body: Body) -> Placement:
        """How `body` would be set at `seat` (of the format's `seat` type)."""

    def existing(self, seat: Any) -> Iterator[ExistingEntry]:  # noqa: ARG002
        """The entries that stand at a seat, in file order; none in formats that have no such entries."""
        return iter(())

    def unit(self, where: Where) -> ExistingEntry | None:  # noqa: ARG002
        """The smallest thing of its own around a value, in formats in which things stand within things; None where
        that is the entry that the value is in."""
        return None

    def bare(self) -> str:
        """The file without its entries, where a seat cannot be found without what is above them (the columns of a
        table); empty where the format's `blank` will do."""
        return ""

    def standing(self, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Any:  # noqa: ARG002
        """For data: what stands now where `body` was set and somebody has changed it; None where that is not known."""
        return None

    def take(self, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Edits | None:  # noqa: ARG002
        """How `body` would be taken out again, for seats of which more than its text has to change; None for all
        others. `near`: where in the file it is thought to stand."""
        return None


class Format(Protocol):
    """An open format. A module makes one by inheriting from this and filling in the rest."""

    title: ClassVar[str]
    binary: ClassVar[bool]
    """Opened from bytes; every other format is opened from text."""
    selector: ClassVar[type[Struct]]
    """How a layout names a value in such a file."""
    seat: ClassVar[type[Struct]]
    """How a layout names a spot for a hook."""
    options: ClassVar[type[Struct]]
    """What a layout can say about how such files are written."""
    bodies: ClassVar[Sequence[str]]
    """The forms of `Body` that can be put: "text", "record"."""
    lined: ClassVar[bool] = False
    """Whether an entry is a line of its own, and nothing else stands in that."""
    largest: ClassVar[int] = 1 << 30
    """Bytes. What is larger is told and not read: nobody made it, and reading it would take minutes."""

    def open(self, source: Text | bytes, options: Any) -> Document:
        """Parse. Raises Unreadable."""

    def locate(self, source: Text, options: Any, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        """Character spans for addresses that were given before, of a file that can be read; the same as `spans` of its
        document, for formats in which that does not take reading all of it again."""
        return self.open(source, options).spans(wheres)

    def mistake(self, asked: Any, options: Any) -> str:  # noqa: ARG002
        """What is wrong with a selector or a seat of files with these options; empty where nothing is."""
        return ""

    def row_words(self, selector: Any) -> frozenset[str] | None:  # noqa: ARG002
        """The keys that `rows` can give for a selector; None where that is up to the files."""
        return frozenset()

    def blank(self, seat: Any) -> str:  # noqa: ARG002
        """The least that a file must hold for the seat to be found in it: what entries are tried on without a map."""
        return ""

    def pasted(self, seat: Any, text: str, options: Any, like: Document | None) -> tuple[ExistingEntry, ...]:  # noqa: ARG002
        """The entries in a text that was meant to be pasted at a seat, however much of the file around them it shows;
        none where it is not of the form. `like` is the file that it was meant for, if that is at hand, and `options`
        are those of such files."""
        return ()

    def declared_encoding(self, data: bytes) -> str | None:  # noqa: ARG002
        """The encoding that a file of this format names in itself, if it does."""
        return None


class Preparable(Document, ABC):
    """A document that finds the values of several selectors in one pass, if it knows beforehand which they are."""

    @abstractmethod
    def prepared(self, selectors: Iterable[Any]) -> Document:
        """The same document, prepared for being asked these."""


@dataclass(frozen=True)
class ReadOnly:
    """Base for documents that nobody edits by hand."""

    values: tuple[Value, ...] = field(default=())
    problems: tuple[tuple[str, Where], ...] = field(default=())
    facts: MediaFacts | None = None

    def select(self, selector: Any) -> Iterator[Value]:  # noqa: ARG002
        return iter(self.values)

    def records(self, selector: Any) -> Iterator[tuple[Where, Any]]:  # noqa: ARG002
        return iter(())

    def columns(self, selector: Any) -> Columns:
        return columns_of(self.select(selector))

    def rows(self, selector: Any) -> Iterator[tuple[Value, Mapping[str, str]]]:
        return ((value, {}) for value in self.select(selector))

    def said(self, where: Where) -> str:  # noqa: ARG002
        return ""

    def field(self, record: Where, key: str) -> Where:  # noqa: ARG002
        return record

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:  # noqa: ARG002
        return {}

    def places(self, selector: Any) -> Iterator[tuple[Where, Any]]:
        return ((value.where, value.text) for value in self.select(selector))

    def value_span(self, where: Where) -> tuple[int, int] | None:  # noqa: ARG002
        return None

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:  # noqa: ARG002
        return iter(())

    def put(self, seat: Any, body: Body) -> Placement:  # noqa: ARG002
        return NoSeat("a spot to set an entry: this format is read only")

    def existing(self, seat: Any) -> Iterator[ExistingEntry]:  # noqa: ARG002
        return iter(())

    def unit(self, where: Where) -> ExistingEntry | None:  # noqa: ARG002
        return None

    def bare(self) -> str:
        return ""

    def standing(self, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Any:  # noqa: ARG002
        return None

    def take(self, seat: Any, body: Body, near: Sequence[tuple[int, int]]) -> Edits | None:  # noqa: ARG002
        return None


def columns_of(values: Iterable[Value]) -> Columns:
    """Values as columns."""
    rows = list(values)
    patterns = [row for row, value in enumerate(rows) if value.pattern]
    return Columns([value.text for value in rows], [value.where for value in rows], patterns)


def columns_with_rows(document: Document, selector: Any) -> Columns:
    """Values as columns, with what stands beside each. What is beside them and not known makes them patterns."""
    pairs = list(document.rows(selector))
    patterns = [row for row, (value, _) in enumerate(pairs) if value.pattern]
    return Columns(
        [value.text for value, _ in pairs], [value.where for value, _ in pairs], patterns, rows=[r for _, r in pairs]
    )


def field_at(document: Document, record: Where, keys: Sequence[str | int]) -> Where:
    """Where a value inside of a record stands: by its address, or else by the offset of its outermost key."""
    if isinstance(record, int):
        return document.field(record, str(keys[0])) if keys else record
    return record + "".join(f"/{key}" for key in keys)


def spliced(string: str, edits: Iterable[Edit]) -> str:
    """`string` with spans replaced that do not overlap. Of several insertions at one place, the last comes first."""
    pieces: list[str] = []
    at = 0
    for _, edit in sorted(enumerate(edits), key=lambda pair: (pair[1].start, -pair[0])):
        pieces += (string[at : edit.start], edit.text)
        at = max(at, edit.end)
    return "".join((*pieces, string[at:]))
