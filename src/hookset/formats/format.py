"""What every format module offers."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Sequence
from typing import Any, ClassVar

from msgspec import Struct, structs

from hookset.formats.base import ExistingEntry
from hookset.formats.document import Document
from hookset.model import Where
from hookset.trees import Pattern, Text

__all__ = ["Format", "Nothing", "Snippet"]


class Nothing(Struct, frozen=True, forbid_unknown_fields=True):
    """For formats without selectors, seats or options: there is nothing to say."""


class Format(ABC):
    """An open format. A module makes one by inheriting from this and filling in the rest."""

    title: ClassVar[str]
    binary: ClassVar[bool] = False
    """Opened from bytes; every other format is opened from text."""
    selector: ClassVar[type[Struct]] = Nothing
    """How a layout names a value in such a file."""
    seat: ClassVar[type[Struct]] = Nothing
    """How a layout names a spot for a hook."""
    options: ClassVar[type[Struct]] = Nothing
    """What a layout can say about how such files are written."""
    bodies: ClassVar[Sequence[str]] = ()
    """The forms of `Body` that can be put: "text", "record". None for what is read only."""
    has_guards: ClassVar[bool] = False
    """Whether parts of a file can count only where something is there."""
    has_rows: ClassVar[bool] = False
    """Whether values stand beside others, by keys that are up to the files."""
    has_facts: ClassVar[bool] = False
    """Whether there may be something worth knowing of a file before it is used, such as how long a sound is."""
    has_parts: ClassVar[bool] = False
    """Whether records in a file can stand for things that stand somewhere."""
    lined: ClassVar[bool] = False
    """Whether an entry is a line of its own, and nothing else stands in that."""
    largest: ClassVar[int] = 1 << 30
    """Bytes. What is larger is told and not read: nobody made it, and reading it would take minutes."""

    @abstractmethod
    def open(self, source: Text | bytes, options: Any) -> Document:
        """Parse. Raises Unreadable."""

    def locate(self, source: Text, options: Any, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        """Character spans for addresses that were given before, of a file that can be read; the same as `spans` of its
        document, for formats in which that does not take reading all of it again."""
        return self.open(source, options).spans(wheres)

    def mistake(self, _asked: Any, _options: Any) -> str:
        """What is wrong with a selector or a seat of files with these options; empty where nothing is."""
        return ""

    def way_mistake(self, _way: str) -> str:
        """What is wrong with a way to a value of a record; empty where nothing is."""
        return ""

    def row_words(self, _selector: Any) -> frozenset[str] | None:
        """The keys of what stands beside the values that a selector names; None where that is up to the files."""
        return None if self.has_rows else frozenset()

    def blank(self, _seat: Any) -> str:
        """The least that a file must hold for the seat to be found in it: what entries are tried on without a map."""
        return ""

    def pasted(self, _seat: Any, _snippet: Snippet) -> tuple[ExistingEntry, ...]:
        """The entries in a text that was meant to be pasted at a seat, however much of the file around them it shows;
        none where it is not of the form."""
        return ()

    def head(self, _seat: Any) -> Pattern | None:
        """What the first line of each entry at a seat looks like, where entries are lines of any kind below such a
        one; None where their form says what belongs to one."""
        return None

    def constant(self, name: str) -> dict[str, Any] | None:
        """What a value that is given to a name is asked with; None where files of this form give none."""
        return {"assign": name} if "assign" in {field.name for field in structs.fields(self.selector)} else None

    def declared_encoding(self, _data: bytes) -> str | None:
        """The encoding that a file of this format names in itself, if it does."""
        return None


class Snippet(Struct, frozen=True):
    """A text that was meant to be pasted into a file."""

    text: str
    options: Any = None
    """Those of such files."""
    like: Document | None = None
    """The file that it was meant for, if that is at hand."""
