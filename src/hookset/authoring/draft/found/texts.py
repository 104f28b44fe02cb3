"""Texts that notes give in their prose: "hoist.up = Der Korb kommt hoch", "two, gate.open is "Open it" and …"."""

from __future__ import annotations

import itertools
import re
from collections.abc import Collection, Iterator, Mapping, Sequence, Set

from msgspec import Struct

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.found.seating import Seated, lines_of
from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.notes.tables import cells_of, is_below_titles
from hookset.authoring.draft.said.languages import by_language, unquoted_by_language
from hookset.authoring.draft.said.sentences import Sentence, sentences_of
from hookset.authoring.draft.site import SeatFile, Site
from hookset.authoring.draft.words import language_of, languages_said
from hookset.formats import Body

__all__ = ["SaidText", "text_entries", "texts_behind", "texts_said"]

_QUOTED = re.compile(r"[\"“„»](?P<text>[^\"“”„«»\n]{1,200})[\"”“«]")
_EQUALS = r"[`\"'”]?\s*(?:=|:|\bis\b|\bheißt\b|\best\b|->|→)\s*"
_COLUMNS = 2
_LONGEST = 200
_MEANS = re.compile(r"[<>&\"\\\\]")
"""Signs that mean something in texts that are files: written as they are, they would damage one."""


class SaidText(Struct, frozen=True):
    """A text for a name, in a language."""

    name: str
    text: str
    language: str
    why: Why


def texts_said(notes: Sequence[Notes], asked: Collection[str], files: Mapping[str, str]) -> Iterator[SaidText]:
    """The texts for names that something asks for. `files` are those for texts: the language of each by its path."""
    if not asked:
        return
    any_name = "|".join(re.escape(name) for name in sorted(asked, key=len, reverse=True))
    own = language_of("\n".join(line.text for one in notes for line in one.lines if not line.code))
    found: dict[tuple[str, str], SaidText] = {}
    said_at = {(one.path, line.number): line.text for one in notes for line in one.lines}
    last, language = 0, own
    for sentence in sentences_of(notes):
        said = tuple(of for path, of in files.items() if path in sentence.text) or languages_said(sentence.text)
        # "Somebody sent German texts! gate.open = …"
        language = said[-1] if said else language if sentence.lines[0] in (last, last + 1) else own
        last = sentence.lines[-1]
        for name, text, behind in _in_sentence(sentence, any_name):
            # What is said later holds.
            at = next((n for n in sentence.lines if name in said_at.get((sentence.notes, n), "")), sentence.lines[0])
            found[name, behind or language] = SaidText(name, text, behind or language, at_line(sentence.notes, at))
    found |= {(one.name, one.language): one for one in _in_tables(notes, asked)}
    found |= {(one.name, one.language): one for one in _side_by_side(notes, any_name, own, set(files.values()))}
    found |= {(one.name, one.language): one for one in _labelled(notes, any_name)}
    yield from found.values()


def texts_behind(notes: Sequence[Notes], shown: Sequence[Seated], kind: str) -> Iterator[SaidText]:
    """The texts that stand right behind an entry for those in another language: "(German: Kran)"."""
    have = {(one.seat_file.language, name) for one in shown for name in _names(one, kind)}
    for one in shown:
        names = _names(one, kind)
        if len(names) != 1 or not one.seat_file.variant:
            continue
        last = max(lines_of(one)) if one.chunk.inline else one.chunk.lines[-1].number
        rows = (line for note in notes if note.path == one.chunk.notes for line in note.lines)
        below = next((line for line in rows if line.number > last and line.text.strip()), None)
        for language, text in by_language(below.text).items() if below is not None else ():
            if (language, names[0]) not in have and below is not None:
                yield SaidText(names[0], text, language, at_line(one.chunk.notes, below.number))


def _names(one: Seated, kind: str) -> list[str]:
    return [definition.name for definition in one.told.defines if definition.kind == kind]


def _in_tables(notes: Sequence[Notes], asked: Collection[str]) -> Iterator[SaidText]:
    """The texts of tables with a column for each language."""
    for one in notes:
        languages: dict[int, str] = {}
        for line, below in itertools.pairwise((*one.lines, Line(0, ""))):
            cells = [cell.strip('"') for cell in cells_of(line.text)]
            if len(cells) < _COLUMNS:
                languages = {}
            elif is_below_titles(below.text):
                said = {n: languages_said(f"{cell}:") for n, cell in enumerate(cells) if len(cell.split()) == 1}
                languages = {n: names[0] for n, names in said.items() if len(names) == 1}
            elif (name := next((cell for cell in cells if cell in asked), None)) is not None:
                for n, language in languages.items():
                    if n < len(cells) and 0 < len(cells[n]) <= _LONGEST and cells[n] != name:
                        yield SaidText(name, cells[n], language, at_line(one.path, line.number))


def _side_by_side(notes: Sequence[Notes], any_name: str, own: str, languages: Set[str]) -> Iterator[SaidText]:
    """The texts of lines with a name and its words in two languages: `chain.pull   Pull  /  Ziehen`."""
    others = languages - {own}
    row = re.compile(
        rf"(?:[^|/\n]{{0,60}}?[\s,])??[\s*+-]*[`\"]?(?P<name>{any_name})[`\"]?"
        r"(?:\s{2,}|\t|\s*(?:[-=]>|→|[:=–-](?!>))\s*|,?\s+(?:which |that )?(?:is|says|reads|heißt|est)\s*:?\s+)"
        r"(?P<one>[^/|\n]+?)\s+[/|]\s+(?P<other>[^/|\n]+)"
    )
    if own not in languages or len(others) != 1:
        return
    (other,) = others
    for one in notes:
        for line in one.lines:
            match = row.fullmatch(line.text.rstrip())
            if match is not None:
                texts = (match["one"].strip(' "“”„'), match["other"].strip(' "“”„'))
                own_first = language_of(texts[0]) != other or language_of(texts[1]) == other
                for language, text in zip((own, other) if own_first else (other, own), texts, strict=True):
                    yield SaidText(match["name"], text, language, at_line(one.path, line.number))


def _labelled(notes: Sequence[Notes], any_name: str) -> Iterator[SaidText]:
    """The texts of lines with the language in front of the name, or of each text: `en  gate.siren = The siren wails`,
    `quay.lantern   de: Laterne   en: Lantern`."""
    name = rf"[`\"]?(?P<name>{any_name})[`\"]?"
    ahead = re.compile(rf"[\s*+-]*[\[(]?(?P<language>[^\W\d_]{{2,12}})[\])]?[\s:]+{name}{_EQUALS}(?P<text>\S.*)")
    each = re.compile(rf"[\s*+-]*{name}\s*[:=–|;-]?\s+(?P<rest>\S.*)")
    for one in notes:
        for line in one.lines:
            texts: dict[str, str] = {}
            if (match := ahead.fullmatch(line.text.rstrip())) is not None:
                said = languages_said(f"{match['language']}:")
                texts = {said[0]: match["text"]} if len(said) == 1 else {}
            elif (match := each.fullmatch(line.text.rstrip())) is not None:
                texts = unquoted_by_language(match["rest"])
            for language, text in texts.items():
                if match is not None and 0 < len(plain := text.strip(" \t\"'`“”„«»")) <= _LONGEST:
                    yield SaidText(match["name"], plain, language, at_line(one.path, line.number))


def _in_sentence(sentence: Sentence, any_name: str) -> Iterator[tuple[str, str, str]]:
    """(name, text, the language that stands in brackets behind the text, if one does)."""
    name = rf"(?<![\w.-])(?P<name>{any_name})(?![\w-])(?!\.\w)"
    found = list(re.finditer(name + _EQUALS, sentence.text))
    for match, after in itertools.zip_longest(found, found[1:]):
        rest = sentence.text[match.end() : after.start() if after is not None else None]
        if each := by_language(rest):
            yield from ((match["name"], text, language) for language, text in each.items())
            continue
        quoted = _QUOTED.match(rest)
        text = quoted["text"] if quoted is not None else re.sub(r"(?:,|\s+(?:and|und|et))?\s*$", "", rest)
        text = text.strip(" \t.,;\"'`")
        if 0 < len(text) <= _LONGEST and text != match["name"]:
            yield match["name"], text, ""
    names = [match["name"] for match in re.finditer(name, sentence.text)]
    texts = [match["text"] for match in _QUOTED.finditer(sentence.text)]
    texts = [text for text in texts if text not in names]
    if not found and "<" not in sentence.text and len(names) == len(texts) == len(set(names)):
        # "texts a and b ("One" / "Two")"
        yield from ((name, text, "") for name, text in zip(names, texts, strict=True))


def text_entries(site: Site, said: Sequence[SaidText], kind: str) -> Iterator[tuple[SeatFile, Body, SaidText]]:
    """Each as an entry at the map's seat for texts of its language, in the form that the map's own have there."""
    seat_files = [one for one in site.seat_files if one.variant and one.seat.kind == kind]
    for one in said:
        for seat_file in seat_files:
            if seat_file.language == one.language:
                body = _like(site, seat_file, kind, one)
                if body is not None:
                    yield seat_file, body, one


def _like(site: Site, seat_file: SeatFile, kind: str, said: SaidText) -> Body | None:
    """A text written as the map writes its own."""
    for existing in seat_file.siblings:
        body = existing.body
        if body.record is not None:
            if len(body.record) == 1:
                return Body(record={said.name: said.text})
            continue
        names = [one.name for one in site.told(seat_file, body).defines if one.kind == kind] or _keys(body, site, kind)
        if body.text is None or len(names) != 1:
            continue
        for match in re.finditer(r">([^<>\n]+)<|\"([^\"\n]+)\"", body.text):
            value = match[1] or match[2]
            if value != names[0] and not _MEANS.search(said.text):
                text = body.text.replace(value, said.text).replace(names[0], said.name)
                return Body(text=text)
    return None


def _keys(body: Body, site: Site, kind: str) -> list[str]:
    """The names of the map that an entry which stands there already defines."""
    quoted = re.findall(r"\"([^\"\n]+)\"", body.text or "")
    return [name for name in quoted if site.index.get(kind, name)]
