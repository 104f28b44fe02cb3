"""What became of each line of the notes: done, a choice of the builder's, background, not understood, or what a
builder decided.

A draft that does what it understands and keeps silent about the rest is worse than none: a line that tells somebody to
do something, and of which nothing in the draft comes, is shown with its number.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from enum import Enum
from itertools import pairwise

from msgspec import Struct

from hookset.authoring.draft.cites import Cited
from hookset.authoring.draft.found.placing import Left, Placed, Placing
from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.notes.tables import is_below_titles
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.chunks import is_statement, looks_like_code
from hookset.authoring.draft.said.history import superseded
from hookset.authoring.draft.said.parts import is_usage
from hookset.authoring.draft.words import concepts, says, words

__all__ = ["Accounted", "CoveredLine", "Fate", "covered"]

_CALL = re.compile(r"(?<![\w.:`\"'])[A-Za-z_]\w*(?:[.:]\w+)+\([^()\n]{0,80}\)")
_SENTENCE = re.compile(r"(?<=[.!?;])\s+|\s+(?=\()|(?<=\))\s+")
_FILE = re.compile(r"(?<![\w./\\-])[\w./\\-]*[\w-]\.[A-Za-z]\w{1,4}\b")
_LABEL = re.compile(r"\s*\[?[\w .-]{2,30}\]?:?\s*")
_TAG = re.compile(
    r"</?(?:p|b|i|u|em|strong|br|hr|h\d|div|span|a|ul|ol|li|table|t[dhr]|img|center|code|pre)\b[^<>]*>", re.I
)
"""Tags of pages, which some write into plain notes."""
_MARKS = re.compile(r"[=(){}<>\[\]\"';]|^\s*[\w-]+:")
_REMARK = re.compile(r"\s*(?:--|//|#|;|<!--|/\*)")
_QUOTE = re.compile(r"^(?:\s*>)+\s?")
_QUOTED = re.compile(r"[\"']([^\"']+)[\"']")
_WORD = re.compile(r"[^\W\d_]{2,}")
_SETTING = re.compile(r"\|[^|]*\d\s*(?:–|-|to|bis|…|\.{2,3})\s*\d[^|]*\|")
"""A range in a row of a table."""
_CELLS = re.compile(r"(?:[^\s,;<>|]*[,;]){2,}[^\s,;<>|]*")
_SPOKEN = 5
"""Words from which on a line that ends with a full stop is a sentence."""
_GIVEN = re.compile(r"(?<![\w.=])[\w.]+\s*=\s*[\w./\"'-]+")
_TICKED = re.compile(r"`([^`\n]{2,120})`|\"([^\"\n]{2,120})\"")
_STARTS = re.compile(r"\s*(?:[-*•+]|[(\[]?\d{1,2}[.):\]]?|[A-Z][.)])\s")
_PARAGRAPH = 3
"""Lines of prose just before a text that are about it."""


class Fate(Enum):
    """What became of a line."""

    DONE = "done"
    CHOICE = "a choice"
    BACKGROUND = "background"
    NOT_UNDERSTOOD = "not understood"
    BY_HAND = "by hand"
    LEFT_OUT = "left out"


class CoveredLine(Struct, frozen=True):
    """A line of notes, and what became of it."""

    notes: str
    number: int
    text: str
    fate: Fate
    code: bool = False
    """Whether it is one of those to be copied."""


class Accounted(Struct, frozen=True, kw_only=True):
    """What a draft has made of the notes."""

    decided: Mapping[tuple[str, int], Fate]
    """What a builder decided, by the file of notes and the line."""
    chunks: Mapping[int, frozenset[int]]
    """By the `id` of a text to be copied: the lines of it that became entries, or stand in the map already."""
    shown: Mapping[int, str]
    """By the same: what those entries say, and where they go, in words."""
    standing: frozenset[str]
    """Lines of the map's own files: what is shown around an entry is often one of those."""
    planned: frozenset[str]
    """Entries that would be set, on one line each; rows of lists among them, which files get by themselves."""
    cites: Iterable[Cited]
    """The line, for each thing in the draft that was read from a line."""
    choices: Iterable[Cited]
    """The same for what the builder chooses: settings, blanks, holes."""
    words: Iterable[str]
    """Names of settings and of what is chosen, as the notes write them."""
    missing: Iterable[str]
    """Names that the drafted map would lack: what is said of them was not understood."""
    shared: frozenset[str]
    """Files of the map that take entries."""
    lists: frozenset[str]
    """Those that list what a build ships."""
    open: Iterable[Cited]
    """Where values are given for something of the map that was not found."""
    keys: Iterable[Cited]
    """Where something was to get keys, and was not found."""
    headings: Mapping[tuple[str, int], str]
    """What each line is under."""
    heads: Iterable[Cited]
    """Where title, authors, version and licence were found."""


def covered(
    notes: Sequence[Notes], chunks: Sequence[Chunk], placing: Placing, accounted: Accounted
) -> Iterator[CoveredLine]:
    """Every line of the notes that says something, in their order."""
    introducing, code = _of_chunks(chunks, accounted)
    cited = set(accounted.cites)
    done = cited | introducing
    choices = set(accounted.choices)
    words = _any_of(accounted.words)
    waiting = {(chunk.notes, chunk.first) for chunk in chunks if _is_lost(chunk, accounted, words)}
    waiting |= set(_lost_calls(chunks, accounted))
    # Keys that a line gives are not in what it introduces.
    waiting |= set(accounted.keys) - cited
    waiting |= set(accounted.open) - done - {place for place, mine in code.items() if mine}
    files = _Files.of(placing, accounted)
    heads, idle = set(accounted.heads), _idle(notes)
    lacking = _any_of((*accounted.missing, *files.unsure))
    for one in notes:
        lines = [line for line in one.lines if any(letter.isalnum() for letter in _plain(line.text))]
        for number, line in enumerate(lines):
            below = lines[number + 1] if number + 1 < len(lines) else None
            at = (one.path, line.number)
            chosen = at in choices or words.search(line.text) is not None
            if at in accounted.decided:
                fate = accounted.decided[at]
            elif at in waiting:
                # Whatever else of the line was understood.
                fate = Fate.NOT_UNDERSTOOD
            elif (
                at in done
                or code.get(at)
                or files.lists(line.text)
                or " ".join(line.text.split()) in accounted.planned
                or (_LABEL.fullmatch(line.text) and below is not None and code.get((one.path, below.number)))
            ):
                fate = Fate.DONE
            elif at in idle:
                fate = Fate.BACKGROUND
            elif is_usage(accounted.headings.get(at, "")):
                fate = Fate.CHOICE if at in code and _is_code(line) else Fate.BACKGROUND
            elif line.sign or (at in code and _is_code(line)):
                fate = Fate.NOT_UNDERSTOOD
            else:
                # Of what a file is called, it says where that goes; a title names the thing itself.
                said = "" if at in heads else files.without_sure(line.text)
                open_ = lacking.search(said) is not None or _gives(line, files, accounted)
                fate = _of_prose(line, files, chosen, open_)
                fate = Fate.DONE if fate is Fate.BACKGROUND and at in heads else fate
            yield CoveredLine(one.path, line.number, line.text.strip(), fate, at in code)


_Place = tuple[str, int]


def _of_chunks(chunks: Sequence[Chunk], accounted: Accounted) -> tuple[set[_Place], dict[_Place, bool]]:
    """(lines that introduce what became an entry, lines to be copied with whether something came of them)."""
    introducing: set[_Place] = set()
    code: dict[_Place, bool] = {}
    for chunk in chunks:
        used = accounted.chunks.get(id(chunk), frozenset())
        for line in chunk.lines if not chunk.inline else ():
            mine = line.number in used or (bool(used) and _beside(line, chunk, accounted))
            code[chunk.notes, line.number] = mine or code.get((chunk.notes, line.number), False)
        for line in chunk.gap.instead if chunk.gap is not None else ():
            code[chunk.notes, line.number] = bool(used)
        if used:
            shown = accounted.shown.get(id(chunk), "")
            introducing |= {(chunk.notes, line.number) for line in _introducing(chunk, shown)}
            introducing |= {(chunk.notes, line.number) for line in chunk.lines if chunk.inline}
    return introducing, code


def _idle(notes: Sequence[Notes]) -> set[_Place]:
    """Lines that tell of nothing to do: what stands around a change, who wrote the notes when, what the columns of a
    table are, what was in earlier versions."""
    found = set(superseded(notes))
    told = re.compile(rf"\W*(?:{words()['parts']['head']})\s*:[^/\\]*|\s*(?:\(c\)|©|copyright\b)[^/\\]*", re.IGNORECASE)
    for one in notes:
        for line, below in pairwise((*one.lines, Line(0, ""))):
            titles = "|" in line.text and is_below_titles(below.text)
            head = told.fullmatch(line.text) is not None and _FILE.search(line.text) is None
            if line.sign == " " or titles or head:
                found.add((one.path, line.number))
    return found


def _is_lost(chunk: Chunk, accounted: Accounted, words: re.Pattern[str]) -> bool:
    """Whether a statement or a row within a sentence has become no entry, is in none, and stands nowhere in the map;
    `words` are of what the builder chooses or brings."""
    text = chunk.text.strip()
    if not chunk.inline or not (is_statement(text) or _is_row(text)):
        return False
    if accounted.chunks.get(id(chunk)) or words.fullmatch(text):
        return False
    return text not in accounted.standing and not any(text in shown for shown in accounted.shown.values())


def _lost_calls(chunks: Sequence[Chunk], accounted: Accounted) -> Iterator[_Place]:
    """Lines that name a call behind an entry within a sentence, without quotes, of which nothing came: "… at the
    imports, gate.start() in start"."""
    known = (*accounted.shown.values(), *accounted.standing, *accounted.planned)
    behind = re.compile(words()["parts"]["behind-call"], re.IGNORECASE)
    for chunk in chunks:
        if not chunk.inline or not chunk.near or not accounted.chunks.get(id(chunk)):
            continue
        rest = chunk.near[-1].text.partition(chunk.text)[2]
        calls = (call[0] for call in _CALL.finditer(rest) if behind.match(rest, call.end()))
        if any(not any(call in one for one in known) for call in calls):
            yield chunk.notes, chunk.lines[-1].number


def _plain(text: str) -> str:
    """A line without the tags around it."""
    return _TAG.sub("", text) if text.lstrip().startswith("<") else text


def _is_code(line: Line) -> bool:
    """Whether a line that was taken for one to be copied is no prose after all, and no remark."""
    prose = line.text.rstrip().endswith(".") and len(_WORD.findall(line.text)) >= _SPOKEN
    return (
        line.code
        or _is_row(line.text)
        or (_MARKS.search(_plain(line.text)) is not None and not _REMARK.match(line.text) and not prose)
    )


def _is_row(text: str) -> bool:
    """Whether a line is one of a table that is to be copied: `6,pass,green_6,port`."""
    return _CELLS.fullmatch(text.strip()) is not None and looks_like_code(text)


def _beside(line: Line, chunk: Chunk, accounted: Accounted) -> bool:
    """Whether a line beside an entry is what the map has there, a remark, or a part of what the entry says."""
    quoted = _QUOTED.findall(line.text)
    shown = accounted.shown.get(id(chunk), "")
    said = bool(quoted) and all(word in shown for word in quoted)
    text = _QUOTE.sub("", line.text).strip()
    return said or text in accounted.standing or _REMARK.match(line.text) is not None


def _any_of(words: Iterable[str]) -> re.Pattern[str]:
    """A pattern for any of these words; for none it finds nothing."""
    known = "|".join(re.escape(word) for word in sorted(set(words), key=lambda word: (-len(word), word)) if word)
    return re.compile(rf"(?<![\w-])(?:{known})(?![\w-])" if known else r"(?!)", re.IGNORECASE)


def _of_prose(line: Line, files: _Files, chosen: bool, lacking: bool) -> Fate:
    """What became of a line of prose that no entry comes of; `lacking` where it is about something that is not there
    yet."""
    if line.heading:
        return Fate.BACKGROUND
    if lacking and not chosen:
        return Fate.NOT_UNDERSTOOD
    said = _SENTENCE.split(_plain(line.text))
    trouble = re.match(words()["parts"]["trouble"], line.text, re.IGNORECASE) is not None
    terms = re.compile(words()["about"]["terms"], re.IGNORECASE)
    told = [one for one in said if (says("tells", one) or says("theirs", one)) and not trouble]
    told = [one for one in told if terms.search(one) is None]
    if _SETTING.search(line.text) and not chosen:
        # A row of a table of what can be set, and nothing here sets it.
        return Fate.NOT_UNDERSTOOD
    if not told:
        return Fate.CHOICE if chosen else Fate.BACKGROUND
    if all(files.brought(sentence) for sentence in told):
        return Fate.DONE
    return Fate.CHOICE if chosen else Fate.NOT_UNDERSTOOD


def _gives(line: Line, files: _Files, accounted: Accounted) -> bool:
    """Whether a line gives something for a file that takes entries, marked as code, and none of the entries has it."""
    flat = line.text.replace("\\", "/")
    if not any(re.search(rf"(?<![\w./-]){re.escape(path)}(?![\w/-])(?!\.\w)", flat) for path in accounted.shared):
        return False
    shown = "".join("".join(one.split()) for one in (*accounted.shown.values(), *accounted.planned))
    said = [(match[1] or match[2]).strip() for match in _TICKED.finditer(line.text)]
    said += [match.group() for match in _GIVEN.finditer(line.text)] if says("tells", line.text) else []
    given = [one for one in said if not _FILE.fullmatch(one) and not one.endswith(("/", "()"))]
    values = ["".join(one.split()).strip("\"'.,;") for one in given if one.casefold() not in files.folders]
    return any(one not in shown for one in values)


def _introducing(chunk: Chunk, shown: str) -> Iterator[Line]:
    """The lines just before a text that say where it goes: with a colon, or with words for what it is or where."""
    about = concepts(shown)
    first = chunk.first if chunk.gap is None else chunk.gap.first
    below, labelled = first, False
    for line in reversed(chunk.near[-_PARAGRAPH:]):
        gap = _PARAGRAPH if (below == first or labelled) and not chunk.inline else 1
        if below - line.number > gap:
            return
        below, labelled = line.number, _LABEL.fullmatch(line.text) is not None
        becomes = re.fullmatch(rf"\W*(?:{words()['assigns']['becomes']})\W*", line.text, re.IGNORECASE) is not None
        if becomes or line.text.rstrip().endswith((":", "：")) or concepts(line.text) & about:
            yield line
        if _STARTS.match(line.text):
            # What stands above is another step.
            return


class _Files(Struct, frozen=True):
    """The files of a pack, as notes speak of them."""

    sure: frozenset[str]
    """Names of those of which it is sure where they go, or that they stay out."""
    folders: Mapping[str, bool]
    """By the name of a folder in the pack: whether that is so of all that is in it."""
    left: frozenset[str]
    """Names of folders of which nothing goes into the map."""
    targets: frozenset[str]
    shared: frozenset[str]
    """Names of files of the map that take entries."""
    unsure: frozenset[str]
    """Names, with and without their ending, of those of which it is not sure where they go."""
    copies: frozenset[str]
    """Names of files of the map that the pack has a copy of its own of."""
    manifests: frozenset[str]
    """Names of the lists of what a build ships."""
    listed: frozenset[str]
    """Names of those that get a row in one."""

    @property
    def whole(self) -> bool:
        """Whether it is sure of all of them."""
        return all(self.folders.values())

    @classmethod
    def of(cls, placing: Placing, accounted: Accounted) -> _Files:
        files: tuple[Placed | Left, ...] = (*placing.placed, *placing.left)
        every = {one.path: one.sure for one in files}
        folders: dict[str, bool] = {"": True}
        for path, sure in every.items():
            for name in ("", *path.casefold().split("/")[:-1]):
                folders[name] = folders.get(name, True) and sure
        placed = {name for one in placing.placed for name in one.path.casefold().split("/")[:-1]}
        return cls(
            frozenset(posixpath.basename(path).casefold() for path, sure in every.items() if sure),
            folders,
            frozenset(folders) - placed,
            frozenset(one.target.casefold() for one in placing.placed),
            frozenset(posixpath.basename(path).casefold() for path in accounted.shared),
            frozenset(name for path, sure in every.items() if not sure for name in _names_of(path)),
            frozenset(posixpath.basename(path).casefold() for path, _ in placing.shared),
            frozenset(posixpath.basename(path).casefold() for path in accounted.lists),
            frozenset(
                posixpath.basename(one.target).casefold() for one in placing.placed if one.target in accounted.planned
            ),
        )

    def without_sure(self, text: str) -> str:
        """A line without the names of files of which it is sure where they go."""
        return _FILE.sub(lambda match: "" if _name(match.group()) in self.sure else match.group(), text)

    def lists(self, text: str) -> bool:
        """Whether a line is the path of a file, and nothing else: a row of a list, which each file gets by itself."""
        return text.strip(" \t`\"',;").replace("\\", "/").casefold() in self.targets

    def brought(self, sentence: str) -> bool:
        """Whether a sentence tells to bring files to where they are sure to go, or to leave those that stay out."""
        every = (_name(path) for path in _FILE.findall(sentence))
        named = [name for name in every if name not in self.shared]
        words = frozenset(re.findall(r"[\w.-]+", sentence.casefold()))
        if words & self.left and not named:
            return True
        if words & self.copies and not named:
            # What is new in the pack's own copy is taken out of it.
            return True
        if says("lists", sentence) and ("manifest" in concepts(sentence) or words & self.manifests):
            # Every file gets its row by itself.
            return self.listed.issuperset(name for name in named if name not in self.manifests) and bool(self.listed)
        if not says("brings", sentence):
            return False
        folders = [sure for name, sure in self.folders.items() if name in words]
        whole = says("whole", sentence)
        if named or folders:
            return all(name in self.sure for name in named) and all(folders) and (self.whole or not whole)
        return self.whole and whole


def _name(path: str) -> str:
    return posixpath.basename(path.replace("\\", "/")).casefold()


def _names_of(path: str) -> Iterator[str]:
    """What notes call a file: its name, and what stands before its ending where that is no common word."""
    name = posixpath.basename(path)
    stem, _ = posixpath.splitext(name)
    yield name
    if re.search(r"[_\d-]", stem):
        yield stem
