"""Values that prose gives: "set the reach of quay_bell to 90", "tide.high becomes “High water!”", tables of old and
new."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from hookset.authoring.draft.cites import Cited
from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.notes.tables import cells_of, is_below_titles
from hookset.authoring.draft.said.languages import by_language
from hookset.authoring.draft.said.sentences import Sentence, sentences_of
from hookset.authoring.draft.words import words

__all__ = ["Assignment", "about_that", "assignments_in"]

_TEXT = r"`[^`\n]+`|\"[^\"\n]+\"|“[^“”\n]+[”\"“]|„[^„“”\n]+[“”]|«[^«»\n]+»|(?<!\w)'[^'\n]+'(?!\w)"
_NUMBER = r"-?\d+(?:[.,]\d+)?(?:\s?(?:m|s|ms|px|%)(?!\w))?(?![\w.,]*\d)(?![\w-])"
_WORD = r"(?:true|false)(?!\w)|[A-Za-z_][\w-]*(?:[./:][\w-]+)+|[A-Za-z][A-Za-z0-9]*_[\w-]*"
_NAME = r"[A-Za-z_]\w*(?:[./:-]\w+)*"
_VALUE = rf"(?:{_TEXT}|{_NUMBER}|{_WORD})"
_IS = re.compile(rf"(?<![\w.-])(?P<key>{_NAME})\s*(?:\bis\b|=|:|\bist\b|\best\b)\s*(?P<old>{_VALUE}|{_NAME})\W*$")
_FILE = re.compile(r"[\w./-]*\w\.[a-z]\w{1,4}(?![\w.]*\w)")
_TOKEN = re.compile(rf"{_TEXT}|[^\W\d][\w-]*(?:[./:][\w-]+)*")
_QUOTES = "`\"“”„«»' "
_UNIT = re.compile(r"(?<=\d)\s?(?:m|s|ms|px|%)$")
_LONGEST = 1_000
"""Characters of a sentence: what is longer is a listing."""
_RANGE = 30
"""Characters before "from 1 to 24" in which it says that a number out of those is meant."""
_ARROWS = ("->", "=>", "→")


class Assignment(Struct, frozen=True):
    """A value that something is to have."""

    notes: str
    lines: tuple[int, ...]
    what: tuple[str, ...]
    """The words right before it, of which one is what the value is called, or what has it."""
    about: tuple[str, ...]
    """The words of the sentence: what has it, and in which file."""
    before: tuple[str, ...]
    """Those of the sentence before."""
    value: str
    old: str = ""
    """What it was, where that is said."""
    said: str = ""
    """The sentence."""
    language: str = ""
    """Of a text in two languages: its code; or `own` for that of the notes, and `other`."""
    copied: bool = False
    """Whether it is for a copy of what the words name."""
    new: str = ""
    """The key that the value is for, where what has it may not have the key yet."""

    @property
    def cited(self) -> tuple[Cited, ...]:
        """Each of its lines."""
        return tuple((self.notes, number) for number in self.lines)


def assignments_in(notes: Sequence[Notes]) -> Iterator[Assignment]:
    """Each value that the notes give in prose or in rows of a table, in their order."""
    for one in notes:
        before: tuple[str, ...] = ()
        last: Sentence | None = None
        for sentence in sentences_of((one,)):
            tokens = _tokens(sentence.text)
            if not sentence.text.lstrip().startswith("|") and len(sentence.text) <= _LONGEST:
                for found in _of_sentence(sentence.text):
                    # What something gets is said right behind its name.
                    about = (*found.what, *found.about) if found.new else tokens
                    found = replace(found, notes=one.path, lines=sentence.lines, about=about, before=before)
                    yield _of_both(last, found) if last is not None and about_that(found.what) else found
            before, last = tokens, sentence
        yield from _of_tables(one)


def _of_both(before: Sentence, one: Assignment) -> Assignment:
    """What is said in two sentences: "start is race_start. Make it vane_start"."""
    match = _IS.search(before.text)
    if match is None or one.old:
        return one
    lines = (*before.lines, *(number for number in one.lines if number not in before.lines))
    return replace(one, what=(match["key"],), about=one.before, old=_plain(match["old"]), lines=lines)


def about_that(what: Sequence[str]) -> bool:
    """Whether a sentence is about what the one before it names: "its reach"."""
    return any(re.fullmatch(words()["assigns"]["its"], word, re.IGNORECASE) for word in what)


def _of_sentence(text: str) -> Iterator[Assignment]:
    """Each value in a sentence that tells to set it."""
    table = words()["assigns"]
    if re.search(rf"(?<!\w)(?:{table['not-told']})(?!\w)", text, re.IGNORECASE):
        return
    told = _has(text, table["set"])
    copied = _has(text, table["copies"])
    pattern = re.compile(
        rf"(?:^|\s)(?:(?P<is>{table['becomes']}|->|=>|→)|{table['to']})\s+(?P<value>{_VALUE})"
        rf"(?:\s+(?:{table['instead']})\s+(?P<old>{_VALUE}))?"
        rf"(?:\s*/\s*(?P<other>{_TEXT}))?",
        re.IGNORECASE,
    )
    start = 0
    for match in pattern.finditer(text):
        said = text[start : match.start()]
        front = "" if match["is"] in _ARROWS else rf"(?:{table['from']})\s+"
        was = re.search(rf"\s{front}(?P<old>{_VALUE})$", said, re.IGNORECASE)
        ranges = was is not None and _has(said[: was.start()][-_RANGE:], table["ranges"])
        if was is None and match["is"] is None and re.search(r"(?<![\w.,])\d+(?:[.,]\d+)?\s*$", said):
            # "0.1 to 1.0"
            continue
        if match["is"] or (was is not None and not ranges) or (told and was is None):
            old = _plain(match["old"] or (was["old"] if was is not None else ""))
            what = _tokens(f"{said[: was.start()] if was is not None else said} {match['is'] or ''}")
            one = Assignment("", (), what, (), (), _plain(match["value"]), old, text, copied=copied)
            each = by_language(text[match.start("value") :])
            texts = {"own": one.value} | ({"other": _plain(match["other"])} if match["other"] else {})
            texts = each if one.value in each.values() else texts | each
            yield from (replace(one, value=value, language=of if len(texts) > 1 else "") for of, value in texts.items())
            start = match.end()
    yield from _replacements(text, copied)
    yield from _given(text)
    yield from _keys_given(text)


def _replacements(text: str, copied: bool) -> Iterator[Assignment]:
    """Each "replace A with B", also with the key in front of both."""
    table = words()["becomes"]
    pattern = re.compile(
        rf"(?<!\w)(?:{table['change']})\s+(?:\w+\s+){{0,3}}?(?:(?P<key>[\w.-]+)\s*[:=]\s*)?(?P<old>{_VALUE}|{_NAME})"
        rf"\s+(?:{table['to']})\s+(?:(?P=key)\s*[:=]\s*)?(?P<value>{_VALUE}|{_NAME})",
        re.IGNORECASE,
    )
    # `at="1 2" becomes at="3 4"`
    again = re.compile(
        rf"(?<![\w-])(?P<key>[\w-]+(?: [\w-]+)?)\s*[:=]\s*(?P<old>{_VALUE}|{_NAME})\s+(?:{table['to']}|"
        rf"{words()['assigns']['becomes']})\s+(?P=key)\s*[:=]\s*(?P<value>{_VALUE}|{_NAME})",
        re.IGNORECASE,
    )
    for match in again.finditer(text):
        what = (*_tokens(f"{text[: match.start()]} {text[match.end() :]}"), match["key"], match["key"].split()[-1])
        yield Assignment("", (), what, (), (), _plain(match["value"]), _plain(match["old"]), text, copied=copied)
    for match in pattern.finditer(text):
        rest = f"{text[: match.start('old')]} {text[match.end() :]}"
        # Without a key or quotes, two words of prose are no values.
        if match["key"] or all(match[name][0] in _QUOTES for name in ("old", "value")):
            old, value = _plain(match["old"]), _plain(match["value"])
            yield Assignment("", (), _tokens(rest), (), (), value, old, text, copied=copied)


def _given(text: str) -> Iterator[Assignment]:
    """Each "rope_creak gets times: 1"."""
    pattern = re.compile(
        rf"(?<![\w.-])(?P<what>{_NAME})\W+(?:{words()['assigns']['gets']})\W+(?:\w+\s+){{0,2}}?"
        rf"(?P<key>[A-Za-z_]\w*)\s*[:=]\s*(?P<value>{_VALUE}|{_NAME})",
        re.IGNORECASE,
    )
    for match in pattern.finditer(text):
        what = (match["what"], match["key"])
        yield Assignment("", (), what, (), (), _plain(match["value"]), "", text, new=match["key"])


def _keys_given(text: str) -> Iterator[Assignment]:
    """Each key of "give the shed also sound: "door" and reach: 15", "dem Eintrag shed noch sound: "door" geben"."""
    table = words()["assigns"]
    key = r"[\"`'“]?(?P<key>[A-Za-z_]\w*)[\"`'”]?\s*[:=]\s*"
    to_key = r"(?P<what>[^:=]*?)(?=\s[\"`'“]?[A-Za-z_]\w*[\"`'”]?\s*[:=])"
    ahead = re.search(rf"(?<!\w)(?:{table['give']})(?!\w){to_key}", text, re.IGNORECASE)
    last = re.search(rf"(?<!\w)(?:{table['given']})\W*$", text, re.IGNORECASE)
    match = ahead or (re.search(rf"(?:^|[.:!]\s){to_key}", text, re.IGNORECASE) if last is not None else None)
    pair = rf"{key}(?P<value>{_VALUE}|{_NAME})"
    if match is None:
        return
    what = _tokens(match["what"])
    for one in re.finditer(pair, text[match.end("what") :], re.IGNORECASE) if what else ():
        files = tuple(_FILE.findall(text))
        yield Assignment("", (), (*what, one["key"]), files, (), _plain(one["value"]), "", text, new=one["key"])


def _of_tables(notes: Notes) -> Iterator[Assignment]:
    """The values in tables that have a column for what is new, or for what was and what is."""
    titles: Sequence[str] = ()
    above: tuple[Line, ...] = ()
    for line, below in pairwise((*notes.lines, Line(0, ""))):
        if "|" not in line.text:
            titles = ()
            above = ((line,) if line.text.rstrip().endswith(":") else ()) if line.text.strip() else above
        elif is_below_titles(below.text):
            titles = cells_of(line.text)
        elif titles and not is_below_titles(line.text) and len(row := cells_of(line.text)) == len(titles):
            found = list(_of_row(notes.path, (*above, line), titles, row))
            yield from found
            # A row of steps has sentences in its cells.
            about = _tokens(" ".join(row))
            for one in _of_sentence(" ".join(row)) if not found else ():
                yield replace(one, notes=notes.path, lines=(line.number,), about=about)


def _of_row(path: str, lines: tuple[Line, ...], titles: Sequence[str], row: Sequence[str]) -> Iterator[Assignment]:
    table = words()["becomes"]
    new = [at for at, title in enumerate(titles) if _has(title, table["new"])]
    old = [at for at, title in enumerate(titles) if _has(title, table["old"])]
    if not new or not old:
        return
    at, was = new[0], old[0]
    others = [cell for place, cell in enumerate(row) if place not in (at, was)]
    tokens = tuple(token for cell in others for token in _tokens(cell))
    called = tuple(token for token in _tokens(titles[at]) if not _has(token, table["new"]))
    before = tuple(token for line in lines[:-1] for token in _tokens(line.text))
    numbers = tuple(line.number for line in lines)
    what = (*tokens, *called)
    yield Assignment(path, numbers, what, tokens, before, _plain(row[at]), _plain(row[was]), " ".join(row))


def _has(text: str, source: str) -> bool:
    return re.search(rf"(?<!\w)(?:{source})(?!\w)", text, re.IGNORECASE) is not None


def _tokens(text: str) -> tuple[str, ...]:
    """The words of a text, and what it quotes; without those that only hold a sentence together."""
    found = (match.group() for match in _TOKEN.finditer(text))
    plain = re.compile(words()["assigns"]["no-keys"], re.IGNORECASE)
    return tuple(word.strip(_QUOTES) for word in found if plain.fullmatch(word) is None)


def _plain(value: str) -> str:
    """A value without the quotes around it and the unit behind it."""
    bare = value.strip(_QUOTES)
    return _UNIT.sub("", bare) if bare[:1].isdigit() or bare[:1] == "-" else bare
