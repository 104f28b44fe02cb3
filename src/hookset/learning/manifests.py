"""A list of what the map has: files that are each named once in it, nearly all there are, though what uses them names
them elsewhere."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct

from hookset.learning.filed import Files
from hookset.learning.guess import Guess
from hookset.learning.material import Sort
from hookset.trees import Tree

__all__ = ["LearnedManifest", "ManifestRows", "files_named_by", "manifest_of"]

_LEAST = 3
"""Files of one ending that are listed before that is no accident."""
_ONCE = 0.95
_COVERED = 0.85
"""Of the files of an ending in a folder: how many are listed."""
_USED = 0.5
"""Of what is listed: how much is named elsewhere as well. Where nothing else names files, that is their use."""


class ManifestRows(Struct, frozen=True):
    """Files that need a row."""

    files: str
    """A pattern."""
    row: str
    """What their row is called, made of the parts of the path."""
    listed: int
    there: int
    """How many of them are listed, and how many there are."""


class LearnedManifest(Struct, frozen=True):
    """The list, how its rows are found in it, and what needs one."""

    sort: Sort
    asked: tuple[Mapping[str, Any], ...]
    """What each sort of rows is asked with."""
    rows: tuple[ManifestRows, ...]
    guesses: tuple[Guess, ...]
    """The rules by which its rows name files."""
    file: str
    """The list with most rows."""
    put: Mapping[str, Any]
    """Where further rows go in it, in the words of its format; empty where that is not known."""


def manifest_of(tree: Tree, guesses: Sequence[Guess]) -> LearnedManifest | None:
    """The list that most files are in, if there is one."""
    files = Files(frozenset(tree.paths()))
    named = {guess: frozenset(files_named_by(files, guess)) for guess in guesses if guess.files is not None}
    found: list[LearnedManifest] = []
    for sort in dict.fromkeys(guess.place.sort for guess in named):
        mine = [guess for guess in named if guess.place.sort is sort]
        used = {path for guess, paths in named.items() if guess.place.sort is not sort for path in paths}
        listing = [(guess, rows) for guess in mine if (rows := tuple(_rows(tree, guess, named[guess], used)))]
        if listing and len(sort.globs) == 1:
            found.append(_manifest(sort, listing))
    return max(found, key=lambda one: sum(rows.listed for rows in one.rows), default=None)


def files_named_by(files: Files, guess: Guess) -> Iterator[str]:
    """The files of the map that a place names."""
    if guess.files is None or guess.split:
        return
    for text, owner in zip(guess.place.said.texts, guess.place.said.paths, strict=True):
        path = files.path_of(text, owner, guess.files)
        if path is not None:
            yield path


def _rows(tree: Tree, guess: Guess, listed: Iterable[str], used: Iterable[str]) -> Iterator[ManifestRows]:
    writing, said = guess.files, guess.place.said
    if writing is None or writing.beside or writing.joint or len(writing.under) > 1:
        return
    if len(guess.place.counts) < _ONCE * len(said.texts):
        return
    top = writing.under[0] if writing.under else ""
    known, elsewhere = {*listed}, {*used}
    for ending in sorted({posixpath.splitext(path)[1] for path in known}):
        mine = {path for path in known if path.endswith(ending)}
        folder = top or posixpath.commonpath([posixpath.dirname(path) for path in mine])
        there = [
            path for path in tree.paths() if path.endswith(ending) and path.startswith(f"{folder}/" if folder else "")
        ]
        enough = len(mine) >= _LEAST and len(mine) >= _COVERED * len(there)
        if enough and len(mine & elsewhere) >= _USED * len(mine):
            pattern = f"{folder}/**/*{ending}" if folder else f"**/*{ending}"
            yield ManifestRows(pattern, _row(guess, top, bool(writing.suffix)), len(mine), len(there))


def _row(guess: Guess, top: str, bare: bool) -> str:
    """What a file's row is called."""
    way = "{inner}" if bare else "{inner}{ext}"
    inner = f"{way}" if top else "{path}"
    word = _word(guess)
    return f"{word.lower()} {inner}" if word else inner


def _word(guess: Guess) -> str:
    """What rows of a sort begin with."""
    return str({**guess.place.asked.get("when", {}), **guess.place.when}.get("1", ""))


def _manifest(sort: Sort, listing: Sequence[tuple[Guess, Sequence[ManifestRows]]]) -> LearnedManifest:
    asked: list[Mapping[str, Any]] = []
    for guess, _ in listing:
        made = {"name": "{row.1|lower} {value}"} if _word(guess) else {}
        one = {key: value for key, value in guess.place.asked.items() if key != "when"} | made
        asked += [one] if one not in asked else []
    often = Counter(path for guess, _ in listing for path in guess.place.said.paths)
    rows = tuple(one for _, rows in listing for one in rows)
    naming = tuple(guess for guess, _ in listing)
    return LearnedManifest(sort, tuple(asked), rows, naming, often.most_common(1)[0][0], _put(sort, naming[0]))


def _put(sort: Sort, guess: Guess) -> Mapping[str, Any]:
    if sort.format == "lines":
        return {"at": "grouped"} if _word(guess) else {"at": "end"}
    at = str(guess.place.asked.get("at", ""))
    if sort.format in ("json", "toml", "yaml") and at.endswith("[*]") and "*" not in at[:-3] and "." in at:
        return {"into": at[1:-3].replace(".", "/"), "form": "row"}
    return {}
