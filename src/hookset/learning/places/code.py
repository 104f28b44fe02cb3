"""Places in scripts of unknown languages whose texts are names of the file or of a module: functions, what imports call
their module, constants. What a name means there depends on its file, so names are made of both."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

from hookset.learning.material import Sort
from hookset.learning.place import Form, Place
from hookset.learning.said import Said

__all__ = ["FUNCTION", "QUALIFIED", "code_of", "code_places"]

_OWN = "{path}#{value}"
FUNCTION = re.compile(r"^[ \t]*(?:\w+[ \t]+)?(?P<word>[A-Za-z_]\w*)[ \t]+(?P<value>[A-Za-z_]\w*)[ \t]*\(", re.M)
_IMPORTED = re.compile(r"^[ \t]*(?P<word>[A-Za-z_]\w*)[ \t]+(?:\w+::)+(?P<value>\w+)[ \t]*;", re.M)
QUALIFIED = re.compile(r"(?<![\w.:])(?P<mod>\w+)::(?P<value>\w+)[ \t]*\(")
_QUALIFIER = r"(?<![\w.:])(?P<value>\w+)::\w+[ \t]*\("
_POINTED = r"[&@](?P<value>[A-Za-z_]\w*)\b(?![\"(:.])"
_CONSTANT = r"(?<![\w.:\"&@])(?P<value>[A-Z][A-Z0-9_]{2,})\b(?![\"(:])"
_SET = re.compile(r"^[ \t]*(?P<word>[A-Za-z_]\w*)[ \t]+(?P<value>[A-Z][A-Z0-9_]{2,})\b", re.M)
_DEFINED = r"^[ \t]*#[ \t]*define[ \t]+(?P<value>[A-Za-z_]\w*)(?=[ \t]+\S)"
"""A constant of a header: a word that stands for what is behind it."""
_FLOW = frozenset(("if", "else", "for", "while", "switch", "return", "case", "and", "or", "not", "new", "in", "do"))
_LEAST = 3
"""Times that a word must begin a line before it is one of the language."""

_Name = Callable[[re.Match[str], str], str]


def code_places(sort: Sort) -> Iterator[Place]:
    """Definitions by the words that lines begin with, and what may refer to them."""
    codes = {path: code_of(document) for path, document in sort.documents.items()}
    for word in _words(codes.values(), FUNCTION):
        match = rf"^[ \t]*(?:\w+[ \t]+)?{word}[ \t]+(?P<value>[A-Za-z_]\w*)[ \t]*\("
        yield from _place(sort, codes, match, _OWN, "name", "own-function", _own)
        yield from _place(sort, codes, match, "{stem}::{value}", "name", "function", _in_module)
    for word in _words(codes.values(), _IMPORTED):
        match = rf"^[ \t]*{word}[ \t]+(?:\w+::)+(?P<value>\w+)[ \t]*;"
        yield from _place(sort, codes, match, _OWN, "name", "import", _own)
    yield from _place(sort, codes, _POINTED, _OWN, "value", "own-function", _own)
    yield from _place(sort, codes, _QUALIFIER, _OWN, "value", "import", _own)
    yield from _place(
        sort,
        codes,
        QUALIFIED.pattern,
        "{row.mod}::{value}",
        "value",
        "function",
        lambda one, _: f"{one['mod']}::{one['value']}",
    )
    setting = list(_words(codes.values(), _SET))
    for word in setting:
        match = rf"^[ \t]*{word}[ \t]+(?P<value>[A-Z][A-Z0-9_]{{2,}})\b"
        yield from _place(sort, codes, match, "", "name", "constant", lambda one, _: one["value"])
    yield from _place(sort, codes, _DEFINED, "", "name", "constant", lambda one, _: one["value"])
    used = "".join(rf"(?<!\b{word} )" for word in setting) + _CONSTANT
    yield from _place(sort, codes, used, "", "value", "constant", lambda one, _: one["value"])


def code_of(document: Any) -> str:
    """A script without its comments."""
    return str(getattr(document, "_scanned")[0])  # noqa: B009 - the text without its comments


def _words(codes: Any, form: re.Pattern[str]) -> Iterator[str]:
    """The words that lines of a form begin with, the most frequent first."""
    found = Counter(one["word"] for code in codes for one in form.finditer(code))
    yield from (re.escape(word) for word, often in found.most_common() if often >= _LEAST and word not in _FLOW)


def _own(one: re.Match[str], path: str) -> str:
    return f"{path}#{one['value']}"


def _in_module(one: re.Match[str], path: str) -> str:
    return f"{path.rpartition('/')[2].rpartition('.')[0]}::{one['value']}"


def _place(
    sort: Sort, codes: dict[str, str], match: str, name: str, form: Form, word: str, named: _Name
) -> Iterator[Place]:
    said = Said()
    pattern = re.compile(match, re.M)
    for path, code in codes.items():
        for one in pattern.finditer(code):
            said.add(named(one, path), path, one.start("value"))
    if said.texts:
        asked = {"match": match, "name": name} if name else {"match": match}
        yield Place(sort, asked, form, word, "", said, used=form == "value")
