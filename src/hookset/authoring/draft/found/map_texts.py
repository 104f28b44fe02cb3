"""The texts of a map, and the entries in them by the names that they define."""

from __future__ import annotations

import functools
import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from hookset.authoring.draft.site import SeatFile, Site
from hookset.authoring.draft.words import languages_said
from hookset.config.layouts import Seat
from hookset.formats import Body
from hookset.formats.document import entries_at, unit_around
from hookset.model import CouldNotError, Definition
from hookset.trees import decode

__all__ = ["MapTexts", "Stretch", "folded", "times_in", "whole_lines"]

_LARGEST = 16 << 20
"""Bytes of a file in which values are looked for."""


class Stretch(Struct, frozen=True):
    """Characters of a file: an entry, or all of it."""

    path: str
    start: int
    end: int
    whole: bool = False
    unit: bool = False
    """Whether others may stand in it."""


class MapTexts(Struct, frozen=True, dict=True):
    """The files of a map that text can be set into, and the entries in them by the names that they define."""

    site: Site

    @cached_property
    def texts(self) -> Mapping[str, str]:
        """The text of each file."""
        found = {one.path: one.text.string for one in self.site.every_seat_file if not one.blank}
        for path in self.site.tree.paths():
            if path in found or self.site.layout.text_rule(path) is None or self.site.tree.size(path) > _LARGEST:
                continue
            data = self.site.tree.read(path)
            try:
                found |= {path: decode(data, ("utf-8", "cp1252")).string} if b"\0" not in data else {}
            except CouldNotError:
                continue
        return found

    @cached_property
    def seats(self) -> Mapping[str, Sequence[SeatFile]]:
        """By file: its seats."""
        found: dict[str, list[SeatFile]] = {}
        for one in self.site.every_seat_file:
            if not one.blank:
                found.setdefault(one.path, []).append(one)
        return found

    @cached_property
    def defined(self) -> Mapping[str, Sequence[Definition]]:
        """By name: where it is defined in such a file."""
        found: dict[str, list[Definition]] = {}
        for facts in self.site.web.files:
            for one in facts.definitions if facts.path in self.seats else ():
                found.setdefault(one.name, []).append(one)
        return found

    def stretches(self, name: str, paths: Sequence[str]) -> Iterator[Stretch]:
        """The entries that define a name, in some files or, for none, in any."""
        for one in self.defined.get(name, ()):
            if not paths or one.path in paths:
                yield from self._around(one)

    def _around(self, one: Definition) -> Iterator[Stretch]:
        document = self.seats[one.path][0].document
        offset = one.where if isinstance(one.where, int) else document.spans([one.where]).get(one.where, (-1, -1))[0]
        unit = unit_around(document, one.where)
        if unit is not None:
            yield Stretch(one.path, unit.start, unit.end, unit=True)
            return
        text = self.texts[one.path]
        around = [span for span in self.entries(one.path) if span[0] <= offset < span[1]]
        # Where the name is the key of a whole row, the row begins behind it.
        around = around or [
            (offset, end)
            for start, end in self.entries(one.path)
            if text[offset:start].strip(" \t\r\n\"':=") == one.name
        ]
        if around:
            start, end = min(around, key=lambda span: span[1] - span[0])
            first = text.rfind("\n", 0, start) + 1
            if text[start:end].strip(" \t\"'") == one.name:
                # Of a paragraph for each name, the name alone is the entry.
                start, end = first, min(at for at in (text.find("\n\n", end), len(text)) if at >= 0)
            # Of keys with their values, the value alone is the entry.
            yield Stretch(one.path, first if text[first:start].strip(" \t\"'=:,{") == one.name else start, end)

    def entries(self, path: str) -> Sequence[tuple[int, int]]:
        """Where each entry of a file stands."""
        if path not in self._entries:
            found = (entry for one in self.seats[path] for entry in entries_at(one.document, one.seat.put))
            self._entries[path] = tuple((entry.start, entry.end) for entry in found)
        return self._entries[path]

    @cached_property
    def _entries(self) -> dict[str, Sequence[tuple[int, int]]]:
        return {}

    def names_another(self, said: Sequence[str]) -> bool:
        """Whether some words name a file of the map that no text is set into."""
        flat = {word.replace("\\", "/").casefold() for word in said}
        return any(path.casefold() in flat for path in self.site.tree.paths() if path not in self.texts)

    @cached_property
    def variants(self) -> frozenset[str]:
        """The languages that it has texts in."""
        return frozenset(one.language for files in self.seats.values() for one in files if one.variant)

    def at(self, stretch: Stretch) -> Iterator[tuple[Seat, Body]]:
        """The seats that an entry stands at, and what it says there."""
        for one in self.seats[stretch.path]:
            for entry in entries_at(one.document, one.seat.put):
                if (entry.start, entry.end) == (stretch.start, stretch.end):
                    yield one.seat, entry.body

    @cached_property
    def in_words(self) -> Mapping[str, str]:
        """Names of the map by what they are called in prose: `tidegate` for tide_gate."""
        return {folded(name): name for name in self.defined if re.search(r"\w[_-]\w", name)}

    def named_in(self, said: str) -> list[str]:
        """The files that a text names, or those of the languages that it names."""
        languages = languages_said(said)
        paths = self.named(re.findall(r"[\w./\\-]*\w", said))
        variants = [path for path, files in self.seats.items() if any(one.language in languages for one in files)]
        return paths or variants

    def named(self, said: Sequence[str]) -> list[str]:
        """The files that some words name."""
        flat = {word.replace("\\", "/").casefold() for word in said}
        paths = [path for path in self.texts if path.casefold() in flat]
        return paths or [path for path in self.texts if posixpath.basename(path).casefold() in flat]


@functools.lru_cache(maxsize=4096)
def folded(word: str) -> str:
    """A name without its letter case and what parts its words."""
    return re.sub(r"[_\s-]", "", word).casefold()


def whole_lines(text: str, start: int, end: int) -> tuple[int, int]:
    """The characters of the lines that hold some characters, without the last line's end."""
    last = text.find("\n", max(start, len(text[:end].rstrip())))
    return text.rfind("\n", 0, start) + 1, last if last >= 0 else len(text)


def times_in(text: str, rows: str) -> int:
    """How often some lines stand in a text, whatever they are indented by."""
    wanted = [row.strip() for row in rows.splitlines() if row.strip()]
    have = [row.strip() for row in text.splitlines() if row.strip()]
    return sum(have[at : at + len(wanted)] == wanted for at in range(len(have) - len(wanted) + 1))
