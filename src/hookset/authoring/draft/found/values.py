"""Values of what the map has that notes give another value: the reach of a sound, the words of a text."""

from __future__ import annotations

import html
import posixpath
import re
import textwrap
from collections.abc import Container, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.assignments import Assignment, assignments_in
from hookset.authoring.draft.said.parts import is_usage
from hookset.authoring.draft.site import SeatFile, Site
from hookset.authoring.draft.words import language_of, languages_said, words
from hookset.config.layouts import Seat
from hookset.formats import Body
from hookset.formats.document import entries_at, unit_around
from hookset.model import CouldNotError, Definition
from hookset.packs.hooksheet import HookEntry
from hookset.trees import decode

__all__ = ["MapTexts", "ValueChange", "Values", "new_version", "values_in"]

_ANSWER = r"\"(?:[^\"\\\n]|\\.)*\"|'(?:[^'\\\n]|\\.)*'"
_GIVEN = re.compile(
    rf"(?P<key>[\w.:-]+)[\"']?\]?[ \t]*(?:=>|:=|=|:)[ \t]*(?P<value>{_ANSWER}|[^\s,;{{}}\[\]()<>/\"']+)"
    rf"|^[ \t]*(?P<word>[A-Za-z_]\w*)[ \t]+(?P<behind>{_ANSWER}|[\w./-]+)[ \t]*;?[ \t]*$",
    re.MULTILINE,
)
"""A key with its value, as scripts, tables, data, blocks and elements have them."""
_WITHIN = re.compile(r"<(?P<tag>[\w:-]+)(?:\s[^<>]*)?>(?P<within>[^<>\n]+)</")
_LARGEST = 16 << 20
"""Bytes of a file in which values are looked for."""
_LINES = 12
"""Of an entry that is written out as a whole; of a longer one only the line of the value is."""
_TELLING = 6
"""Letters of a name that means a value in a file that nobody names."""


@dataclass(frozen=True, slots=True)
class ValueChange:
    """Text of the map in which values become others."""

    hook: HookEntry
    cites: tuple[str, ...]
    doubts: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Values:
    """What notes say of values of the map."""

    changes: tuple[ValueChange, ...] = ()
    copies: tuple[ValueChange, ...] = ()
    """New entries, made of others that the map has."""
    open: tuple[str, ...] = ()
    """`README.md:12` for lines with values of something in the map that was not found."""


@dataclass(frozen=True, slots=True)
class _Stretch:
    """Characters of a file: an entry, or all of it."""

    path: str
    start: int
    end: int
    whole: bool = False
    unit: bool = False
    """Whether others may stand in it."""


@dataclass(frozen=True, slots=True)
class _Place:
    """A value in a file, with its quotes."""

    stretch: _Stretch
    start: int
    end: int
    key: str
    ahead: str = ""
    """What goes in front of a value that is not there yet."""
    many: bool = False
    """Whether it stands in several places that are all to be changed."""


@dataclass(frozen=True)
class MapTexts:
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

    def stretches(self, name: str, paths: Sequence[str]) -> Iterator[_Stretch]:
        """The entries that define a name, in some files or, for none, in any."""
        for one in self.defined.get(name, ()):
            if not paths or one.path in paths:
                yield from self._around(one)

    def _around(self, one: Definition) -> Iterator[_Stretch]:
        document = self.seats[one.path][0].document
        offset = one.where if isinstance(one.where, int) else document.spans([one.where]).get(one.where, (-1, -1))[0]
        unit = unit_around(document, one.where)
        if unit is not None:
            yield _Stretch(one.path, unit.start, unit.end, unit=True)
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
            yield _Stretch(one.path, first if text[first:start].strip(" \t\"'=:,{") == one.name else start, end)

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

    def at(self, stretch: _Stretch) -> Iterator[tuple[Seat, Body]]:
        """The seats that an entry stands at, and what it says there."""
        for one in self.seats[stretch.path]:
            for entry in entries_at(one.document, one.seat.put):
                if (entry.start, entry.end) == (stretch.start, stretch.end):
                    yield one.seat, entry.body

    @cached_property
    def in_words(self) -> Mapping[str, str]:
        """Names of the map by what they are called in prose: `tidegate` for tide_gate."""
        return {_folded(name): name for name in self.defined if re.search(r"\w[_-]\w", name)}

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


def values_in(
    texts: MapTexts, notes: Sequence[Notes], headings: Mapping[tuple[str, int], str], chunks: Sequence[Chunk]
) -> Values:
    """Each text of the map in which the notes change values in prose, with all that they change in it; `chunks` are
    what is to be copied."""
    code = {(chunk.notes, line.number) for chunk in chunks if not chunk.inline for line in chunk.lines}
    notes = [
        replace(
            one,
            lines=tuple(replace(line, code=True) if (one.path, line.number) in code else line for line in one.lines),
        )
        for one in notes
    ]
    found: dict[tuple[str, int, int], list[tuple[_Place, Assignment]]] = {}
    copied: dict[tuple[str, tuple[int, ...]], list[Assignment]] = {}
    open_: list[str] = []
    own = language_of("\n".join(line.text for one in notes for line in one.lines if not line.code))
    others = [variant for variant in texts.variants if variant != own]
    spoken = {"own": own, "other": others[0] if len(others) == 1 else "other"}
    for one in assignments_in(notes):
        if is_usage(headings.get((one.notes, one.lines[0]), "")):
            continue
        if one.language in ("own", *texts.variants) and spoken["own"] not in texts.variants and one.language == "own":
            # In a language that the map has no texts in.
            continue
        if one.copied:
            copied.setdefault((one.notes, one.lines), []).append(one)
            continue
        places = _places_of(texts, replace(one, language=spoken.get(one.language, one.language)))
        for place in places:
            first, last = _lines_around(texts.texts[place.stretch.path], place)
            here = found.setdefault((place.stretch.path, first, last), [])
            if all((other.start, said.value) != (place.start, one.value) for other, said in here):
                here.append((place, one))
        if not places and (texts.named(one.about) or any(_is_name(texts, word) for word in one.what)):
            open_ += one.cite.split(", ")
    changes = (_change(texts.texts[path], path, (first, last), places) for (path, first, last), places in found.items())
    copies = [(_copy(texts, every), every[0].cite.split(", ")) for every in copied.values()]
    open_ += [cite for copy, cites in copies if copy is None for cite in cites]
    return Values(
        tuple(one for one in changes if one is not None),
        tuple(ValueChange(copy, tuple(cites)) for copy, cites in copies if copy is not None),
        tuple(dict.fromkeys(open_)),
    )


def _copy(texts: MapTexts, every: Sequence[Assignment]) -> HookEntry | None:
    """An entry of the map once more, with other values, its name among them; None where it is not sure which."""
    first = every[0]
    paths = texts.named((*first.what, *first.about)) or texts.named(first.before)
    by_name = {name: list(texts.stretches(name, paths)) for name in dict.fromkeys(first.about)}
    found = [(name, stretches[0]) for name, stretches in by_name.items() if len(stretches) == 1]
    if len(found) != 1:
        return None
    ((name, stretch),) = found
    text = texts.texts[stretch.path]
    places = [_value_in(text, stretch, name, one) for one in every]
    known = [(place, one) for place, one in zip(places, every, strict=True) if place is not None]
    if len(known) < len(every) or not any(_bare(text, place) == name for place, _ in known):
        return None
    seat, body = next(texts.at(stretch), (None, Body()))
    if seat is None:
        return None
    if body.record is not None:
        keys = {place.key: _typed(body.record.get(place.key), one.value) for place, one in known}
        same = keys.keys() <= body.record.keys()
        return HookEntry(seat=seat.name, record={**body.record, **keys}) if same else None
    new = _with_values(text, (stretch.start, stretch.end), known)
    return HookEntry(seat=seat.name, text=textwrap.dedent(new).strip("\n"))


def _typed(old: object, value: str) -> object:
    """A value of the sort that another one is of."""
    return type(old)(value.replace(",", ".")) if isinstance(old, int | float) and not isinstance(old, bool) else value


def _with_values(text: str, span: tuple[int, int], places: Sequence[tuple[_Place, Assignment]]) -> str:
    """Some characters of a file with other values in them."""
    first, last = span
    new = text[first:last]
    for place, one in sorted(places, key=lambda pair: -pair[0].start):
        written = _written(text, place, one.value)
        new = f"{new[: place.start - first]}{written}{new[place.end - first :]}"
    return new


def _is_name(texts: MapTexts, word: str) -> bool:
    """Whether a word is the name of something in the map, and none that prose would have."""
    return word in texts.defined and re.search(r"[\W\d_]", word) is not None


def new_version(texts: MapTexts, names: Sequence[str], paths: Sequence[str], new: str) -> HookEntry | None:
    """A text that takes the place of the entry of the map that defines one of these names; None where there is none,
    or more than one."""
    found = {stretch for name in names for stretch in texts.stretches(name, paths)}
    if len(found) != 1:
        return None
    (stretch,) = found
    text = texts.texts[stretch.path]
    first, last = _whole_lines(text, stretch.start, stretch.end)
    if text[first : stretch.start].strip() or text[stretch.end : last].strip(" \t\r,"):
        return None
    old = textwrap.dedent(text[first:last]).rstrip()
    return HookEntry(file=stretch.path, replaces=old, text=new) if _stands_once(text, old) else None


def _places_of(texts: MapTexts, one: Assignment) -> Sequence[_Place]:
    """The values of the map that are meant: one for each thing that has it; none where it is not sure which."""
    own = texts.named((*one.what, *one.about))
    if not own and texts.names_another((*one.what, *one.about)):
        return ()
    # What the sentence before names is meant, unless only another file has it.
    for paths in (own,) if own else (texts.named(one.before), []):
        places = _places_in(texts, one, paths)
        if places:
            return places
    return ()


def _places_in(texts: MapTexts, one: Assignment, paths: Sequence[str]) -> Sequence[_Place]:
    """The same, in some files or, for none, in any."""
    for names in (one.what, one.about, one.before if _of_that(one.what) else ()):
        by_name = [_of_thing(texts, name, paths, one) for name in dict.fromkeys((*names, *_in_words(texts, names)))]
        found = [places for places in by_name if places]
        if found:
            return [place for places in found for place in places] if all(len(it) == 1 for it in found) else ()
    if not paths and not one.old:
        one = replace(one, what=tuple(word for word in one.what if _is_telling((word,))))
    whole = [
        place
        for path in paths or [path for path in texts.texts if one.old or _is_telling(one.what)]
        for stretch in (_Stretch(path, 0, len(texts.texts[path]), whole=True),)
        if (place := _value_in(texts.texts[path], stretch, "", one)) is not None
    ]
    if not paths and not _is_telling(one.what):
        whole = [place for place in whole if _same(_bare(texts.texts[place.stretch.path], place), one.old)]
        whole = [replace(place, many=len(whole) > 1) for place in whole]
        return whole
    return whole if len(whole) == 1 else ()


def _in_words(texts: MapTexts, said: Sequence[str]) -> Iterator[str]:
    """Names that prose writes as two words, or as three: "the tide gate's"."""
    plain = [re.sub(r"['’]s?$", "", word) for word in said]
    for count in (2, 3):
        for at in range(len(plain) - count + 1):
            name = texts.in_words.get(_folded("".join(plain[at : at + count])))
            if name is not None:
                yield name


def _of_that(what: Sequence[str]) -> bool:
    """Whether a sentence is about what the one before it names: "its reach"."""
    return any(re.fullmatch(words()["assigns"]["its"], word, re.IGNORECASE) for word in what)


def _of_thing(texts: MapTexts, name: str, paths: Sequence[str], one: Assignment) -> Sequence[_Place]:
    """The value in each entry that defines a name; of those in several languages, in those that are said."""
    found: dict[tuple[str, int], _Place] = {}
    for stretch in texts.stretches(name, paths):
        body = next((body for _, body in texts.at(stretch)), None)
        record = body.record if body is not None else None
        place = _value_in(texts.texts[stretch.path], stretch, name, one, record)
        if place is not None:
            found.setdefault((stretch.path, place.start), place)
    languages = (one.language,) if one.language else languages_said(one.said)
    variants = {file.path: file.language for files in texts.seats.values() for file in files}
    said = {key: place for key, place in found.items() if variants.get(key[0]) in languages}
    return tuple((said if said or one.language else found).values())


def _is_telling(what: Sequence[str]) -> bool:
    """Whether one of some words is a name that nobody would use twice."""
    return any(len(word) >= _TELLING and (word.isupper() or "_" in word) for word in what)


def _value_in(
    text: str, stretch: _Stretch, name: str, one: Assignment, record: Mapping[str, object] | None = None
) -> _Place | None:
    """The value of an entry that is meant: that of a key that the words name; or the only one besides its name.
    `record` is what the entry says, where it has keys that do not stand in it."""
    given = [
        _Place(stretch, *match.span(part), match[key])
        for pattern in (_GIVEN, _WITHIN)
        for match in pattern.finditer(text, stretch.start, stretch.end)
        for key, part in (("key", "value"), ("word", "behind"), ("tag", "within"))
        if match.groupdict().get(key) is not None
    ]
    said = (*one.what, *one.before) if _of_that(one.what) else one.what
    called = {_folded(word) for word in said if word != name}
    by_key = [place for place in given if _folded(place.key) in called] or _beside_keys(text, given, called)
    if len(by_key) > 1 and one.old:
        by_key = [place for place in by_key if _same(_bare(text, place), one.old)]
    elif len(by_key) > 1:
        # The name itself stays, though the words may say what it is a name of.
        by_key = [place for place in by_key if _bare(text, place) != name]
    if not by_key and not stretch.whole:
        own = [place for place in given if place.key == name]
        others = [place for place in given if _bare(text, place) != name]
        was = [place for place in others if one.old and _same(_bare(text, place), one.old)]
        words_only = [place for place in others if re.search(r"[^\W\d]", _bare(text, place)) and " " in one.value]
        by_key = was or own or (words_only if len(others) == 1 else [])
    if not by_key and not stretch.whole:
        by_key = list(_cells(text, stretch, record, called))
    if not by_key and one.new and given and not stretch.whole:
        by_key = list(_behind(text, given[-1], one.new))
    return by_key[0] if len(by_key) == 1 and _written(text, by_key[0], one.value) is not None else None


def _cells(
    text: str, stretch: _Stretch, record: Mapping[str, object] | None, called: Container[str]
) -> Iterator[_Place]:
    """Values of a row whose keys stand above the table."""
    row = text[stretch.start : stretch.end]
    for key, value in (record or {}).items():
        if _folded(key) in called and value != "" and row.count(str(value)) == 1:
            at = stretch.start + row.index(str(value))
            yield _Place(stretch, at, at + len(str(value)), key)


def _behind(text: str, last: _Place, key: str) -> Iterator[_Place]:
    """The place for a key that an entry does not have yet, on a line below its last one."""
    start, end = _whole_lines(text, last.start, last.end)
    line = re.fullmatch(r"(?P<indent>\s*)[\w\"'-]+(?P<equals>\s*[:=]\s*)\S.*?", text[start:end].rstrip())
    if line is not None:
        at = start + len(text[start:end].rstrip())
        yield _Place(last.stretch, at, at, key, f"\n{line['indent']}{key}{line['equals']}")


def _beside_keys(text: str, given: Sequence[_Place], called: Container[str]) -> list[_Place]:
    """Values of keys that are values themselves: `<number key="weight" is="1200.5"/>`."""
    return [
        value
        for key, value in pairwise(given)
        if _folded(_bare(text, key)) in called and "\n" not in text[key.end : value.start]
    ]


def _folded(word: str) -> str:
    return re.sub(r"[_\s-]", "", word).casefold()


def _bare(text: str, place: _Place) -> str:
    return text[place.start : place.end].strip("\"'")


def _same(one: str, other: str) -> bool:
    try:
        return float(one) == float(other.replace(",", "."))
    except ValueError:
        return one == other


def _written(text: str, place: _Place, value: str) -> str | None:
    """A value as it is written in the place of another one; None where it is of another sort."""
    if place.ahead:
        return f"{place.ahead}{value}" if re.fullmatch(r"[\w.+-]+", value) else None
    old = text[place.start : place.end]
    if text[place.start - 1 : place.start] == ">":
        return html.escape(value, quote=False)
    quote = old[0] if old[:1] in ("'", '"') else ""
    if quote:
        return f"{quote}{value}{quote}" if quote not in value and "\\" not in value else None
    number = re.fullmatch(r"-?\d+(\.\d+)?", old)
    if number is not None:
        plain = value.replace(",", ".")
        whole = re.fullmatch(r"-?\d+", plain) is not None
        if re.fullmatch(r"-?\d+(?:\.\d+)?", plain) is None:
            return None
        return f"{plain}.0" if whole and number[1] is not None else plain
    return value if re.fullmatch(r"[\w./:-]+", value) and not value[:1].isdigit() else None


def _whole_lines(text: str, start: int, end: int) -> tuple[int, int]:
    """The characters of the lines that hold some characters, without the last line's end."""
    last = text.find("\n", max(start, len(text[:end].rstrip())))
    return text.rfind("\n", 0, start) + 1, last if last >= 0 else len(text)


def _lines_around(text: str, place: _Place) -> tuple[int, int]:
    """The lines that are written again: those of the entry, or that of the value."""
    stretch, line = place.stretch, _whole_lines(text, place.start, place.end)
    if stretch.unit and _stands_once(text, text[line[0] : line[1]]):
        return line
    if not stretch.whole and text.count("\n", stretch.start, stretch.end) < _LINES:
        return _whole_lines(text, stretch.start, stretch.end)
    return line


def _change(
    text: str, path: str, span: tuple[int, int], places: Sequence[tuple[_Place, Assignment]]
) -> ValueChange | None:
    """All changes of some lines as one; None where those lines stand there more than once."""
    first, last = span
    new = _with_values(text, span, places)
    old = textwrap.dedent(text[first:last]).rstrip()
    if not _stands_once(text, old) or len({place.start for place, _ in places}) < len(places):
        return None
    cites = tuple(dict.fromkeys(cite for _, one in places for cite in one.cite.split(", ")))
    if new == text[first:last]:
        return None
    doubts = tuple(dict.fromkeys(doubt for place, one in places for doubt in _doubts(text, place, one)))
    return ValueChange(HookEntry(file=path, replaces=old, text=textwrap.dedent(new).rstrip()), cites, doubts)


def _doubts(text: str, place: _Place, one: Assignment) -> Iterator[str]:
    if one.old and not _same(_bare(text, place), one.old):
        yield f"the map has {_bare(text, place)} there, and the notes were written for {one.old}"
    if place.many:
        yield "it stands in several files, and is changed in each"
    may = f"{words()['parts']['optional-said']}|{words()['takes-out']['may']}"
    if re.search(rf"(?<!\w)(?:{may})(?!\w)", one.said, re.IGNORECASE):
        yield "the notes leave it to you whether it is set"


def _stands_once(text: str, rows: str) -> bool:
    wanted = [row.strip() for row in rows.splitlines() if row.strip()]
    have = [row.strip() for row in text.splitlines() if row.strip()]
    return sum(have[at : at + len(wanted)] == wanted for at in range(len(have) - len(wanted) + 1)) == 1
