"""Languages, by what folders and files are called: those are the same once more in each of them."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Sequence

__all__ = ["are_translations", "in_english", "languages_of"]

_CODES = frozenset(
    f"{first}{second}"
    for first, seconds in {
        "a": "r", "b": "gns", "c": "asy", "d": "ae", "e": "lnostu", "f": "air", "g": "al", "h": "eiruy", "i": "dst",
        "j": "a", "k": "ako", "l": "tv", "m": "ksn", "n": "blno", "p": "lt", "r": "ou", "s": "klqrvw", "t": "aehr",
        "u": "k", "v": "i", "z": "h",
    }.items()
    for second in seconds
)  # fmt: skip
"""Languages that games have been translated into, by ISO 639-1."""
_COUNTRIES = frozenset(("br", "cn", "cz", "dk", "gb", "gr", "jp", "kr", "se", "tw", "ua", "us"))
"""Countries by ISO 3166-1 whose languages are as often called by them."""
_WORDS = frozenset(
    ("english", "german", "french", "spanish", "italian", "russian", "polish", "dutch", "czech", "japanese", "chinese")
)

_ENGLISH = frozenset(("en", "eng", "english", "e"))
"""What folders in English are called, where others of the same contents are called by other languages."""
_SEVERAL = 3
_IN_NAME = re.compile(r"(?:(?P<before>.*)[_.-])?(?P<code>[a-z]{2})(?:[_-][A-Z][A-Za-z]{1,3})?")
"""A language, perhaps with a country, at the end of what a file is called: `words_de`, `words.pt-BR`."""


def languages_of(paths: Sequence[str]) -> dict[str, list[tuple[str, str]]]:
    """The files by language, each with the pattern in which `{variant}` stands for it; empty where they are not told
    apart by that."""
    found: dict[str, list[tuple[str, str]]] = {}
    for path in paths:
        told = _by_step(path) or _by_name(path)
        if told is None:
            return {}
        found.setdefault(told[0], []).append((path, told[1]))
    patterns = {pattern for files in found.values() for _, pattern in files}
    # Two letters at the end of a name are a language where there are others of the same name.
    return found if 2 * len(patterns) <= len(paths) or not any(map(_by_name, paths)) else {}


def are_translations(texts: Sequence[str], paths: Sequence[str]) -> bool:
    """Whether something is said once in each of several languages, and in other words in most: a text for people."""
    if not _SEVERAL <= len(texts) == len({*paths}) or 2 * len({*texts}) <= len(texts):
        return False
    return len(languages_of(paths)) >= _SEVERAL


def in_english(folder: str) -> bool:
    """Whether a folder, of several that hold the same, is the one in English: what a game falls back on."""
    return any(step.lower().replace("-", "_").partition("_")[0] in _ENGLISH for step in folder.split("/"))


def _by_step(path: str) -> tuple[str, str] | None:
    """The language that a folder, or the file, is called, and the pattern; None where none is."""
    *folders, name = path.split("/")
    stem, ending = posixpath.splitext(name)
    steps = [*folders, stem]
    for at, step in enumerate(steps):
        code = step.lower().replace("-", "_").partition("_")[0]
        if code in _CODES | _COUNTRIES or step.lower() in _WORDS:
            return step, "/".join([*steps[:at], "{variant}", *steps[at + 1 :]]) + ending
    return None


def _by_name(path: str) -> tuple[str, str] | None:
    """The same for what a file is called behind its name."""
    folder, name = posixpath.split(path)
    stem, ending = posixpath.splitext(name)
    told = _IN_NAME.fullmatch(stem)
    if told is None or not told["before"] or told["code"] not in _CODES | _COUNTRIES:
        return None
    language = stem[len(told["before"]) + 1 :]
    return language, posixpath.join(folder, f"{stem.removesuffix(language)}{{variant}}{ending}")
