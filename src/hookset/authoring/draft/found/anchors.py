"""Texts that go beside a line of another file of the map: "in captions, right under the line with harbour.rung"."""

from __future__ import annotations

import posixpath
import re
import textwrap
from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache

from hookset.authoring.draft.found.map_texts import times_in
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import words
from hookset.formats import format_named
from hookset.model import CouldNotError
from hookset.packs.hooksheet import HookEntry
from hookset.trees import decode

__all__ = ["anchored", "anchored_in_listing", "at_the_end", "replacing", "stands_nowhere", "taken_out"]

_TOKEN = re.compile(
    r"[`\"'“„](?P<quoted>[^`\"'“”„\n]{3,80})[`\"'”“]|(?<![\w.:-])(?P<bare>[\w-]+(?:(?:::|[.:])[\w-]+)+(?:\(\))?)"
)
_SMALL = 200_000
_FILE = re.compile(r"[\w.-]*/[\w./-]*\w\.\w{1,5}")
_TELLING = 6
"""Letters of a line that says by itself which file is meant."""


def anchored(site: Site, chunk: Chunk) -> HookEntry | None:
    """The text as an entry above or below a line that the words around it name; None where they name none, or where it
    is not sure which."""
    said = chunk.near[-1].text if chunk.near else ""
    if chunk.inline:
        said = said.partition(chunk.text)[0]
    way = _way(said)
    if way is None:
        return None
    direction, rest = way
    files = _texts(site)
    named = [
        path for stem, path in files.items() if re.search(rf"(?<![\w./-]){re.escape(stem)}(?![\w-])(?!\.\w)", said)
    ]
    if len(named) != 1:
        return None
    try:
        text = decode(site.tree.read(named[0]), ("utf-8", "cp1252")).string
    except CouldNotError:
        return None
    for token in _tokens(rest):
        rows = [row.strip() for row in text.splitlines() if token in row]
        if len(rows) == 1 and text.count(rows[0]) == 1:
            anchor = {"after": rows[0]} if direction == "below" else {"before": rows[0]}
            return HookEntry(file=named[0], text=chunk.text.strip("\n"), **anchor)  # type: ignore[arg-type]
    return None


def at_the_end(site: Site, chunk: Chunk) -> tuple[HookEntry, ...]:
    """A text as what comes last in each file without seats that the words before it name: "at the end of red.csv and
    blue.csv"; nothing where they name none."""
    said = chunk.near[-1].text if chunk.near and not chunk.inline else ""
    way = re.search(rf"(?<!\w)(?:{words()['in']['end']})(?!\w)", said, re.IGNORECASE)
    if way is None:
        return ()
    seats = {one.path for one in site.seat_files}
    rows_of = [path for path in site.tree.paths() if path not in seats and _is_text(site, path)]
    paths = _named_in(rows_of, said) or _named_in([posixpath.basename(path) for path in rows_of], said)
    paths = [path for path in rows_of if path in paths or posixpath.basename(path) in paths]
    found = []
    for path in paths:
        rows = [row.strip() for row in decode(site.tree.read(path), ("utf-8", "cp1252")).string.splitlines()]
        last = next((row for row in reversed(rows) if row), "")
        if rows.count(last) == 1:
            found.append(HookEntry(file=path, after=last, text=textwrap.dedent(chunk.text).strip("\n")))
    return tuple(found) if len(found) == len(paths) else ()


def anchored_in_listing(site: Site, chunk: Chunk) -> HookEntry | None:
    """What a listing of changes has new, as an entry between the lines that it shows, or in place of some; None where
    the map has no such line, or more than one."""
    if chunk.gap is None:
        return None
    gap, text = chunk.gap, chunk.text.strip("\n")
    gone = "\n".join(line.text for line in gap.instead).strip("\n")
    paths = [path for path in site.tree.paths() if _takes_text(site, path)]
    said = f"{chunk.around}\n{chunk.said}".replace("\\", "/").casefold()
    named = _named_in(paths, chunk.said) or _named_in(paths, chunk.around)
    if not named and _FILE.search(said):
        # Of a file that this map does not have.
        return None
    for anchor in ({"replaces": gone}, {"after": gap.above.strip()}, {"before": gap.below.strip()}):
        (key, row), *_ = anchor.items()
        if not row or not (named or sum(letter.isalnum() for letter in row) >= _TELLING):
            continue
        here = [path for path in named[-1:] or paths if _often(site, path, row) == 1]
        if len(here) == 1:
            return HookEntry(file=here[0], text=text, **anchor)  # type: ignore[arg-type]
        if key == "replaces":
            return None
    return None


def _named_in(paths: Sequence[str], said: str) -> Sequence[str]:
    flat = said.replace("\\", "/").casefold()
    return [path for path in paths if re.search(rf"(?<![\w.-]){re.escape(path.casefold())}(?![\w-])", flat)]


def replacing(site: Site, chunk: Chunk, old: str) -> HookEntry | None:
    """A text as one in place of another, which stands once in one file of the map, of those that the notes name there;
    None where that is not sure."""
    here = _standing_in(site, chunk, old)
    new = textwrap.dedent(chunk.text).strip()
    return HookEntry(file=here[0], replaces=old, text=new) if len(here) == 1 else None


def taken_out(site: Site, chunk: Chunk) -> HookEntry | None:
    """That a text is taken out of the one file of the map in which it stands once, of those that the notes name there;
    None where that is not sure."""
    text = textwrap.dedent(chunk.text).strip()
    here = _standing_in(site, chunk, text)
    return HookEntry(file=here[0], replaces=text, text="") if len(here) == 1 else None


def _standing_in(site: Site, chunk: Chunk, text: str) -> Sequence[str]:
    """The files in which a text stands once: those that are named around another, or any where none is."""
    paths = [path for path in site.tree.paths() if _is_text(site, path)]
    said = f"{chunk.around}\n{chunk.said}"
    names = _named_in(tuple({posixpath.basename(path) for path in paths}), said)
    named = _named_in(paths, said) or [path for path in paths if posixpath.basename(path) in names]
    return [path for path in named or paths if _often(site, path, text) == 1]


def stands_nowhere(site: Site, chunk: Chunk) -> bool:
    """Whether no text of the map has these lines."""
    paths = (path for path in site.tree.paths() if _takes_text(site, path))
    return bool(site.tree.paths()) and not any(_has(site, path, chunk.text) for path in paths)


def _has(site: Site, path: str, text: str) -> bool:
    try:
        there = decode(site.tree.read(path), ("utf-8", "cp1252")).string
    except CouldNotError:
        return True
    return "".join(text.split()) in "".join(there.split())


def _often(site: Site, path: str, rows: str) -> int:
    """How often some lines stand in a file, whatever they are indented by."""
    try:
        text = decode(site.tree.read(path), ("utf-8", "cp1252")).string
    except CouldNotError:
        return 0
    return times_in(text, rows)


def _way(said: str) -> tuple[str, str] | None:
    """`below` or `above`, and what stands behind that word."""
    found = [
        (match.end(), direction)
        for direction, source in words()["beside"].items()
        for match in re.finditer(source, said, re.IGNORECASE)
    ]
    if not found:
        return None
    end, direction = max(found)
    return direction, said[end:]


def _tokens(text: str) -> Iterator[str]:
    for match in _TOKEN.finditer(text):
        yield match["quoted"] or match["bare"]


def _texts(site: Site) -> Mapping[str, str]:
    """The map's texts by what notes call them: their path, their name, and that without its ending, where only one is
    called so. Those with seats are found by their seats."""
    seats = {one.path for one in site.seat_files}
    return _named(tuple(path for path in site.tree.paths() if path not in seats and _takes_text(site, path)))


def _is_text(site: Site, path: str) -> bool:
    return site.layout.text_rule(path) is not None and site.tree.size(path) <= _SMALL


def _takes_text(site: Site, path: str) -> bool:
    rule = site.layout.text_rule(path)
    return rule is not None and "text" in format_named(rule.format).bodies and site.tree.size(path) <= _SMALL


@lru_cache(maxsize=8)
def _named(paths: tuple[str, ...]) -> Mapping[str, str]:
    found: dict[str, set[str]] = {}
    for path in paths:
        name = posixpath.basename(path)
        for word in {path, name, posixpath.splitext(name)[0]}:
            found.setdefault(word, set()).add(path)
    return {word: next(iter(ones)) for word, ones in found.items() if len(ones) == 1 and len(word) > len("main")}
