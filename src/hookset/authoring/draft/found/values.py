"""Values of what the map has that notes give another value: the reach of a sound, the words of a text."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.authoring.draft.cites import Cited, Why
from hookset.authoring.draft.found.map_texts import MapTexts, Stretch, folded, times_in, whole_lines
from hookset.authoring.draft.found.pairs import Place, bare, same, value_in, written_as
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.assignments import Assignment, about_that, assignments_in
from hookset.authoring.draft.said.parts import is_usage
from hookset.authoring.draft.words import language_of, languages_said, words
from hookset.formats import Body
from hookset.packs.hooksheet import HookEntry

__all__ = ["ValueChange", "Values", "new_version", "values_in"]

_LINES = 12
"""Of an entry that is written out as a whole; of a longer one only the line of the value is."""
_SMALL = 1 << 20
"""Characters of a file in which a value is looked for that is not said to be there."""
_MOST = 300
"""Values that notes give; more are there to keep a reader busy."""
_TELLING = 6
"""Letters of a name that means a value in a file that nobody names."""


class ValueChange(Struct, frozen=True):
    """Text of the map in which values become others."""

    hook: HookEntry
    why: Why
    doubts: tuple[str, ...] = ()


class Values(Struct, frozen=True):
    """What notes say of values of the map."""

    changes: tuple[ValueChange, ...] = ()
    copies: tuple[ValueChange, ...] = ()
    """New entries, made of others that the map has."""
    open: tuple[Cited, ...] = ()
    """Lines with values of something in the map that was not found."""
    keys: tuple[Cited, ...] = ()
    """The same for keys that something was to get which was not found."""


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
    found: dict[tuple[str, int, int], list[tuple[Place, Assignment]]] = {}
    copied: dict[tuple[str, tuple[int, ...]], list[Assignment]] = {}
    open_: list[Cited] = []
    keys: list[Cited] = []
    own = language_of("\n".join(line.text for one in notes for line in one.lines if not line.code))
    others = [variant for variant in texts.variants if variant != own]
    spoken = {"own": own, "other": others[0] if len(others) == 1 else "other"}
    for number, one in enumerate(assignments_in(notes)):
        if number >= _MOST:
            open_ += one.cited
            continue
        if is_usage(headings.get((one.notes, one.lines[0]), "")):
            continue
        if one.language == "own" and spoken["own"] not in texts.variants:
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
        if not places and one.new:
            keys += one.cited
        elif not places and (texts.named(one.about) or any(_is_name(texts, word) for word in one.what)):
            open_ += one.cited
    changes = []
    for (path, first, last), here in found.items():
        if _with_values(texts.texts[path], (first, last), here) == texts.texts[path][first:last]:
            # The map has it already.
            continue
        change = _change(texts.texts[path], path, (first, last), here)
        changes.append(change)
        # Two values for one place, or lines that stand there twice: which is meant is not known.
        open_ += [line for _, one in here for line in one.cited] if change is None else []
    copies = [(_copy(texts, every), every[0].cited) for every in copied.values()]
    open_ += [line for copy, lines in copies if copy is None for line in lines]
    return Values(
        tuple(one for one in changes if one is not None),
        tuple(ValueChange(copy, Why(lines)) for copy, lines in copies if copy is not None),
        tuple(dict.fromkeys(open_)),
        tuple(dict.fromkeys(keys)),
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
    places = [value_in(text, stretch, name, one) for one in every]
    known = [(place, one) for place, one in zip(places, every, strict=True) if place is not None]
    if len(known) < len(every) or not any(bare(text, place) == name for place, _ in known):
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


def _with_values(text: str, span: tuple[int, int], places: Sequence[tuple[Place, Assignment]]) -> str:
    """Some characters of a file with other values in them."""
    first, last = span
    new = text[first:last]
    # Of several that come to one spot, the first stands first.
    for place, one in sorted(places, key=lambda pair: pair[0].start)[::-1]:
        written = written_as(text, place, one.value)
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
    first, last = whole_lines(text, stretch.start, stretch.end)
    if text[first : stretch.start].strip() or text[stretch.end : last].strip(" \t\r,"):
        return None
    old = textwrap.dedent(text[first:last]).rstrip()
    return HookEntry(file=stretch.path, replaces=old, text=new) if times_in(text, old) == 1 else None


def _places_of(texts: MapTexts, one: Assignment) -> Sequence[Place]:
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


def _places_in(texts: MapTexts, one: Assignment, paths: Sequence[str]) -> Sequence[Place]:
    """The same, in some files or, for none, in any."""
    for names in (one.what, one.about, one.before if about_that(one.what) else ()):
        by_name = [_of_thing(texts, name, paths, one) for name in dict.fromkeys((*names, *_in_words(texts, names)))]
        found = [places for places in by_name if places]
        if found:
            return [place for places in found for place in places] if all(len(it) == 1 for it in found) else ()
    if one.new:
        # It is for one thing, which is not found.
        return ()
    if not paths and not one.old:
        one = replace(one, what=tuple(word for word in one.what if _is_telling((word,))))
    whole = [
        place
        for path in paths or _searched(texts, one)
        for stretch in (Stretch(path, 0, len(texts.texts[path]), whole=True),)
        if (place := value_in(texts.texts[path], stretch, "", one)) is not None
    ]
    if not paths and not _is_telling(one.what):
        whole = [place for place in whole if same(bare(texts.texts[place.stretch.path], place), one.old)]
        whole = [replace(place, many=len(whole) > 1) for place in whole]
        return whole
    return whole if len(whole) == 1 else ()


def _searched(texts: MapTexts, one: Assignment) -> Sequence[str]:
    """The files in which a value is looked for that no file is named for."""
    wanted = bool(one.old) or _is_telling(one.what)
    return [path for path, text in texts.texts.items() if wanted and len(text) <= _SMALL]


def _in_words(texts: MapTexts, said: Sequence[str]) -> Iterator[str]:
    """Names that prose writes as two words, or as three: "the tide gate's"."""
    plain = [re.sub(r"['’]s?$", "", word) for word in said]
    for count in (2, 3):
        for at in range(len(plain) - count + 1):
            name = texts.in_words.get(folded("".join(plain[at : at + count])))
            if name is not None:
                yield name


def _of_thing(texts: MapTexts, name: str, paths: Sequence[str], one: Assignment) -> Sequence[Place]:
    """The value in each entry that defines a name; of those in several languages, in those that are said."""
    found: dict[tuple[str, int], Place] = {}
    for stretch in texts.stretches(name, paths):
        body = next((body for _, body in texts.at(stretch)), None)
        record = body.record if body is not None else None
        place = value_in(texts.texts[stretch.path], stretch, name, one, record)
        if place is not None:
            found.setdefault((stretch.path, place.start), place)
    languages = (one.language,) if one.language else languages_said(one.said)
    variants = {file.path: file.language for files in texts.seats.values() for file in files}
    said = {key: place for key, place in found.items() if variants.get(key[0]) in languages}
    return tuple((said if said or one.language else found).values())


def _is_telling(what: Sequence[str]) -> bool:
    """Whether one of some words is a name that nobody would use twice."""
    return any(len(word) >= _TELLING and (word.isupper() or "_" in word) for word in what)


def _lines_around(text: str, place: Place) -> tuple[int, int]:
    """The lines that are written again: those of the entry, or that of the value."""
    stretch, line = place.stretch, whole_lines(text, place.start, place.end)
    if stretch.unit and times_in(text, text[line[0] : line[1]]) == 1:
        return line
    if not stretch.whole and text.count("\n", stretch.start, stretch.end) < _LINES:
        return whole_lines(text, stretch.start, stretch.end)
    return line


def _change(
    text: str, path: str, span: tuple[int, int], places: Sequence[tuple[Place, Assignment]]
) -> ValueChange | None:
    """All changes of some lines as one; None where those lines stand there more than once."""
    first, last = span
    new = _with_values(text, span, places)
    old = textwrap.dedent(text[first:last]).rstrip()
    if times_in(text, old) != 1 or len({(place.start, place.ahead) for place, _ in places}) < len(places):
        return None
    why = Why(tuple(dict.fromkeys(line for _, one in places for line in one.cited)))
    doubts = tuple(dict.fromkeys(doubt for place, one in places for doubt in _doubts(text, place, one)))
    return ValueChange(HookEntry(file=path, replaces=old, text=textwrap.dedent(new).rstrip()), why, doubts)


def _doubts(text: str, place: Place, one: Assignment) -> Iterator[str]:
    if one.old and not same(bare(text, place), one.old):
        yield f"the map has {bare(text, place)} there, and the notes were written for {one.old}"
    if place.many:
        yield "it stands in several files, and is changed in each"
    may = f"{words()['parts']['optional-said']}|{words()['takes-out']['may']}"
    if re.search(rf"(?<!\w)(?:{may})(?!\w)", one.said, re.IGNORECASE):
        yield "the notes leave it to you whether it is set"
