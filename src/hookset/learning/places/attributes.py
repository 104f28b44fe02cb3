"""Places in lines that begin with a word and go on with keys and their values: `crab at=3;4 kind=shore walk="a.txt"`.
What stands at a key is looked at in all lines, and in those of each word."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.code import code_of
from hookset.learning.said import Said, joined

__all__ = ["attribute_places", "attributed"]

_LINE = re.compile(r"^[ \t]*(?P<word>#?[A-Za-z][\w.]*)[ \t]+(?=[A-Za-z_]\w*[ \t]*=)(?P<rest>[^\r\n]*)", re.M)
_PAIR = re.compile(r"(?<![\w.])(?P<key>[A-Za-z_]\w*)=[ \t]*(?:\"(?P<quoted>[^\"\r\n]*)\"|(?P<bare>[^\s\"=]+)(?![\"=]))")
_QUOTED = r'"(?P<value>[^"\r\n]*)"'
_BARE = r'"?(?P<value>[^\s"=]+)(?!["=]?[=\w])"?'
_NUMBER = re.compile(r"[-+.\d;,:]+")
_LEAST = 2
"""Times that a place must be there."""

_Found = dict[tuple[str, str], tuple[Said, Said]]
"""By (word, key): texts in quotes, and without."""


def attributed(sort: Sort) -> bool:
    """Whether most lines of a sort begin with a word and go on with keys."""
    codes = [code_of(document) for document in sort.documents.values()]
    lines = sum(1 for code in codes for line in code.splitlines() if line.strip())
    return 2 * sum(1 for code in codes for _ in _LINE.finditer(code)) > lines


def attribute_places(sort: Sort) -> Iterator[Place]:
    """The values of each key in any line, and in lines of one word; each is asked for by a regular expression."""
    found: _Found = {}
    for path, document in sort.documents.items():
        for line in _LINE.finditer(code_of(document)):
            for pair in _PAIR.finditer(line["rest"]):
                part = "bare" if pair["quoted"] is None else "quoted"
                both = found.setdefault((line["word"], pair["key"]), (Said(), Said()))
                both[part == "bare"].add(pair[part], path, line.start("rest") + pair.start(part))
    by_key: dict[str, list[str]] = {}
    for word, key in found:
        by_key.setdefault(key, []).append(word)
    for key, words in by_key.items():
        whole = _place(sort, rf"(?<![\w.]){key}=[ \t]*", key, "", [part for word in words for part in found[word, key]])
        if whole is None:
            continue
        yield whole
        for word in words if len(words) > 1 else ():
            before = rf"^[ \t]*{re.escape(word)}[ \t](?:[^\r\n]*[^\w.\r\n])?{key}=[ \t]*"
            one = _place(sort, before, key, word.lstrip("#"), found[word, key], whole)
            if one is not None:
                yield one


def _place(
    sort: Sort, before: str, key: str, word: str, parts: Sequence[Said], general: Place | None = None
) -> Place | None:
    """The place of values behind what stands before them, those in quotes and those without by turns; None for numbers
    and what is too rare."""
    said = joined([part for part in parts if part.texts] or [Said()])
    if len(said.texts) < _LEAST or all(map(_NUMBER.fullmatch, said.texts)):
        return None
    bare = any(part.texts for part in parts[1::2])
    return Place(sort, {"match": before + (_BARE if bare else _QUOTED)}, "value", key, word, said, general=general)
