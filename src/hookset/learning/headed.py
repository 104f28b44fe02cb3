"""Texts for people that stand below their keys, each of which has a line to itself."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Sequence

__all__ = ["headed", "headed_by"]

_ALONE = r"^(?P<value>{key})[ \t\r]*$"
_BELOW = r"\n(?=[ \t]*[^\s\"'#/])"
"""What stands below a key is no text in quotes: names have those below them that stand for something else."""
_KEYS = {
    match: re.compile(match + _BELOW, re.M)
    for key in (
        r"[A-Z][A-Z0-9_]+",
        r"[a-z][a-z0-9]*(?:[._-][a-zA-Z0-9]+)+",
        r"[A-Za-z][A-Za-z0-9]*(?:[._-][A-Za-z0-9]+)+",
    )
    for match in (_ALONE.format(key=key),)
}
"""What finds keys, and those with a text below them, by words that nobody writes in a text; the narrowest first."""
_BRACKETED = r"^\[(?P<value>[^\[\]\r\n]{1,200})\][ \t\r]*$"
"""The same for keys in square brackets, which may be texts themselves."""
_KEYS[_BRACKETED] = re.compile(rf"{_BRACKETED}\n(?=[ \t]*[^\s\[#;/])", re.M)
_SET = re.compile(r"[\w.\- ]{1,80}=")
"""What a key is given in a section: below the keys of texts hardly any line looks so."""
_BEGINNING = 1 << 16
"""Characters in which a long file has keys already."""
_LEAST = 20
_ALL = 0.9
_OWN = 0.95
"""Of the keys of a file: how many are there once."""
_SEVERAL = 12
"""Lines that the text below a key has at most, on the average."""
_SELDOM, _TOLD = 0.1, 0.3
"""Of the lines below keys in brackets: how many give a key its value at most, and how many have several words at
least."""
_LISTED = 0.6
"""Of the lines of a file: where so many are keys, they are a list, and have no texts."""


def headed_by(text: str) -> str:
    """The regular expression of the keys of a file that says its texts below them; empty where it is no such file."""
    if len(text) > _BEGINNING and not headed_by(text[:_BEGINNING]):
        # What a long file is shows where it begins.
        return ""
    found = {match: pattern.findall(text) for match, pattern in _KEYS.items()}
    most = max(map(len, found.values()))
    match, keys = next((one, keys) for one, keys in found.items() if len(keys) >= _ALL * most)
    if len(keys) < _LEAST or len({*keys}) < _OWN * len(keys):
        return ""
    lines = [line for line in text.splitlines() if line.strip()]
    if match == _BRACKETED and _are_sections([line for line in lines if not line.startswith("[")]):
        return ""
    return match if len(lines) / _SEVERAL < len(keys) < _LISTED * len(lines) else ""


def _are_sections(lines: Sequence[str]) -> bool:
    """Whether lines below words in square brackets are keys with their values, or lists of words, and no texts."""
    given = sum(_SET.match(line) is not None for line in lines)
    told = sum(len(line.split()) > 1 for line in lines)
    return given > _SELDOM * len(lines) or told < _TOLD * len(lines)


def headed(paths: Sequence[str], read: Callable[[str], str]) -> dict[str, str]:
    """The files that say texts below their keys, each with what finds those. One beside them that has few of the same
    keys is one of them as well, of a language into which little has been translated. No text is held meanwhile."""
    found = {path: match for path in paths if (match := headed_by(read(path)))}
    known: dict[tuple[str, str], set[str]] = {}
    for path, match in found.items():
        known.setdefault((posixpath.dirname(path), match), set()).update(_keys(read(path), match))
    for (folder, match), keys in known.items():
        beside = (path for path in paths if path not in found and posixpath.dirname(path) == folder)
        found |= {path: match for path in beside if (mine := _keys(read(path), match)) and mine <= keys}
    return found


def _keys(text: str, match: str) -> frozenset[str]:
    return frozenset(re.findall(match, text, re.M))
