"""Which files of a pack are notes, and their lines."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterator
from pathlib import PurePosixPath

from msgspec.structs import replace

from hookset.authoring.draft.notes import commands, differences, forum, frames, html, markdown, pdf, rtf, wiki
from hookset.authoring.draft.notes.line import LONGEST_LINE, MOST_LINES, Line, Notes
from hookset.trees import Tree

__all__ = ["is_licence", "is_notes", "read_notes"]

_MOST = 1 << 18
"""Bytes of notes that are read: nobody wrote more, and what is longer is there to keep a reader busy."""
_ENDINGS = frozenset(
    ["", ".txt", ".md", ".markdown", ".rst", ".htm", ".html", ".rtf", ".pdf", ".nfo", ".diz", ".1st", ".text"]
)
_SCISSORS = re.compile(r"\s*[-=~_. ]{2,}(?:8<|>8|%<|>%|✂)[-=~_. ]{2,}")
_BLANKS = re.compile(r"[ \t]{61,}")
_LISTINGS = frozenset([".patch", ".diff"])
"""Endings of listings of changes: whatever they are called, and wherever they are."""
_BOXES = re.compile(rb"[\xb0-\xb2\xc4\xcd\xdb\xdc\xdf]{4,}")
"""Lines and shades as DOS draws them (code page 437)."""
_ARROW = re.compile(r"(?P<text>\s*\S.*?[;)}>\]\"'])\s{2,}(?:<-+|<=+|←|⇐)\s*(?P<said>\w[^<>{}=;]*)")
"""A remark behind what is to be copied: `gate.open();   <- in start()`."""
_LETTERS = {"cp850": "äöüÄÖÜßéèàç", "cp1252": "äöüÄÖÜßéèàç–“”’…"}
_CLOCK = re.compile(r"^\s*[\[(]?(?:\d{1,2}:)?\d{1,2}:\d{2}[\])]?(?:\s*[-–—:|]\s*|\s+)(?=[^\W\d])")
"""The moment of a film, before what is done there."""
_CALLED = re.compile(
    r"read.?me|install|how.?to|notes?\b|instruction|manual|guide|help|changelog|credits|setup|usage|about|info"
    r"|lies.?mich|anleitung|hinweise|einbau|lisez|notice|leggimi|leeme|instruc",
    re.IGNORECASE,
)
_PAST = re.compile(r"(?:old(?:er)?|previous|backup|archive|alt(?:e[rs]?)?)\b", re.IGNORECASE)
"""Folders of what used to be."""
_LICENCE = re.compile(r"licen[cs]e|lizenz|copying|copyright|unlicense", re.IGNORECASE)


_TIMED = 3
"""Lines with a clock from which on they are the steps of a film."""


def is_licence(path: str) -> bool:
    """Whether a file is called like a licence."""
    place = PurePosixPath(path)
    return bool(_LICENCE.search(place.stem)) and place.suffix.lower() in _ENDINGS


def is_notes(path: str) -> bool:
    """Whether a file is notes, by its name and ending: any document at the top, and those further down that are called
    so."""
    place = PurePosixPath(path)
    if place.suffix.lower() in _LISTINGS:
        return not any(_PAST.match(part) for part in place.parts[:-1])
    if place.suffix.lower() not in _ENDINGS or is_licence(path):
        return False
    if not place.suffix and not _CALLED.search(place.name):
        return False
    if place.suffix.lower() == ".txt" and place.stem.lower() == "manifest":
        return False
    if any(_PAST.match(part) for part in place.parts[:-1]):
        return False
    return len(place.parts) == 1 or bool(_CALLED.search(place.stem))


def read_notes(tree: Tree, paths: tuple[str, ...]) -> tuple[Notes, ...]:
    """The notes among these files, those nearest to the top first."""
    found = []
    for path in sorted(paths, key=lambda path: (path.count("/"), path)):
        with tree.open(path) as stream:
            data = stream.read(_MOST + 1)
        cut = len(data) > _MOST
        # A document that is cut off is none: of those, all or nothing is read.
        if cut and data[:4] == b"%PDF":
            found.append(Notes(path, (), cut=True))
        else:
            told = differences.with_signs(commands.in_words(_with_remarks(_cut_out(_lines(data[:_MOST])))))
            lines = tuple(itertools.islice(_shortened(told), MOST_LINES + 1))
            found.append(Notes(path, lines[:MOST_LINES], cut or len(lines) > MOST_LINES))
    return tuple(found)


def _lines(data: bytes) -> Iterator[Line]:
    if data.startswith(b"%PDF"):
        return pdf.lines_of(data)
    if data.startswith(b"{\\rtf"):
        return rtf.lines_of(data)
    text = _decoded(data)
    page = re.match(r"\s*(?:<!doctype html|<html|<head|<body|<h\d)", text, re.IGNORECASE)
    reader: Callable[[str], Iterator[Line]] = forum.lines_of if forum.is_post(text) else markdown.lines_of
    return html.lines_of(text) if page else _without_clocks(reader(wiki.in_markdown(frames.unframed(text))))


def _code_page(data: bytes) -> str:
    """Which of the code pages of one byte a letter a text is written in: of DOS where it draws boxes, or has more of
    the letters of German and French in their places there."""
    if _BOXES.search(data):
        return "cp437"
    dos, windows = (sum(data.count(byte) for byte in letters.encode(page)) for page, letters in _LETTERS.items())
    return "cp850" if dos > windows else "cp1252"


def _without_clocks(lines: Iterator[Line]) -> Iterator[Line]:
    """The lines without the moments of a film, where several begin with one: each is a step."""
    every = list(lines)
    timed = sum(not line.code and _CLOCK.match(line.text) is not None for line in every)
    for line in every:
        step = timed >= _TIMED and not line.code and _CLOCK.match(line.text) is not None
        yield replace(line, text=f"- {_CLOCK.sub('', line.text)}") if step else line


def _cut_out(lines: Iterator[Line]) -> Iterator[Line]:
    """The lines, those between two drawn pairs of scissors marked as what is to be copied."""
    held: list[Line] | None = None
    for line in lines:
        cut = not line.code and _SCISSORS.fullmatch(line.text) is not None
        if held is None and cut:
            held = [line]
        elif held is None:
            yield line
        elif not cut:
            held.append(line)
        else:
            yield replace(held[0], text="")
            yield from (replace(one, code=True, heading=False) for one in held[1:])
            yield replace(line, text="")
            held = None
    yield from held or ()


def _with_remarks(lines: Iterator[Line]) -> Iterator[Line]:
    """The lines; what an arrow behind one says of it, as a line of its own above it."""
    for line in lines:
        match = _ARROW.fullmatch(line.text)
        if match is None:
            yield line
        else:
            yield Line(line.number, f"{match['said'].strip()}:")
            yield replace(line, text=match["text"])


def _shortened(lines: Iterator[Line]) -> Iterator[Line]:
    for line in lines:
        # Runs of blanks mean nothing, and there are those that go on for pages.
        text = _BLANKS.sub(lambda match: match.group()[:60], line.text)
        text = text.replace("\u00a0", " ").replace("\u200b", "").replace("\ufeff", "")
        yield replace(line, text=text[:LONGEST_LINE])


def _decoded(data: bytes) -> str:
    """As text, whatever it is: notes are read by people, who see past a wrong letter."""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        text = data.decode("utf-16", "replace")
    else:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            # A file that was cut off may end within a letter.
            whole = error.start >= len(data) - 3
            other = _code_page(data)
            text = data[: error.start].decode("utf-8-sig") if whole else data.decode(other, "replace")
    return text.replace("\0", "")
