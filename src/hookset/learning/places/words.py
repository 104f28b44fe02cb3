"""Places in scripts of unknown languages: the regular parts of lines. What stands in quotes is found by the call that
it is given to, by the word before it or by what is set to it; words by the word at the beginning of their line."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec.structs import replace

from hookset.learning.dialects import KEYED
from hookset.learning.material import Sort
from hookset.learning.place import Form, Place
from hookset.learning.places.code import code_of
from hookset.learning.said import Said, joined

__all__ = ["word_places"]

_QUOTED = r"\"(?P<value>[^\"\r\n]*)\""
_SIMPLE = r"(?:[^(),\"\r\n]|\"[^\"\r\n]*\")*"
"""An argument without calls in it."""
_CALL = re.compile(rf"(?P<name>\b[A-Za-z_][\w.:]{{0,80}})[ \t]*\((?=(?P<args>{_SIMPLE}(?:,{_SIMPLE}){{0,7}}))")
"""What a call is given is looked ahead at: there may be calls among it."""
_ARGUMENT = re.compile(rf"{_SIMPLE}")
_TEXT = re.compile(r"[ \t]*(?P<sign>[&@$#]?)\"(?P<text>[^\"\r\n]*)\"[ \t]*")
"""An argument that is a text; in some languages a sign before it says what sort of text."""
_SET = re.compile(rf"\b(?P<name>[A-Za-z_][\w.]{{0,80}})[ \t]*(?P<mark>:?=|:)[ \t]*{_QUOTED}")
_WORDED = re.compile(rf"\b(?P<word>[A-Za-z_]\w*)(?=(?P<gap>\s+)(?P<name>[A-Za-z_]\w*)[ \t]*=[ \t]*{_QUOTED})")
"""A word, and behind it or at the beginning of the next line a key that is set: `Crane name = "north"`."""
_BEHIND, _BELOW = r"[ \t]+", r"[ \t]*\r?\n\s*"
_LIST = re.compile(r"\b(?P<name>[A-Za-z_]\w*)[ \t]*=[ \t]*(?P<opens>[\[{])\s*\"(?P<value>[^\]\[{}]*?)\"[\s,;]*[\]}]")
_BETWEEN = r"\"[\s,;]+\""
"""What stands between the texts of a list."""
_LONE = r"^(?P<value>[A-Za-z_]\w*)[ \t]*\r?\n(?=[ \t]*[\"'])"
"""A name that has a line to itself, above the text that it stands for, such as that of a macro."""
_INSERTED = (
    r"\[\[(?P<value>[A-Za-z_]\w*)(?=[\](])",
    r"\{\{(?P<value>[A-Za-z_]\w*)\}\}",
    r"\$[({](?P<value>[A-Za-z_]\w*)[)}]",
)
"""A name in whose place something else is put."""
_SAID = re.compile(rf"\b(?P<name>[A-Za-z_]\w*)[ \t]+{_QUOTED}")
_BEGUN = re.compile(r"^[ \t]*(?P<name>[A-Za-z_]\w*)[ \t]+(?P<value>[\w.:/\\\-]+)[ \t]*(?P<end>[;({]?)", re.M)
_PLAIN = r"[\w.:/\\\-]+(?:[ \t]*,\s*[\w.:/\\\-]+)*"
"""A value without quotes, or several with commas between."""
_PLAINLY = re.compile(rf"^[ \t]*(?P<name>[A-Za-z_]\w*)[ \t]*=[ \t]*(?P<value>{_PLAIN})[ \t]*(?=[;\r\n])", re.M)
_CALLED, _CALLS = re.compile(r"\b[A-Za-z_]\w*\("), 0.1
"""Calls, and in how many lines of programs there is one at least."""
_ONCE = 0.5
"""Of the keys of texts: how many are there once in their file."""
_LEAST = 2
"""Times that a place must be there."""

_Found = dict[tuple[str, str, str, Form], Said]
"""By (regular expression, word, what it stands in, what it is)"""


def word_places(sort: Sort) -> Iterator[Place]:
    """Each is asked for by a regular expression."""
    codes = {path: code_of(document) for path, document in sort.documents.items()}
    keys = Said()
    for path, code in codes.items():
        for one in KEYED.finditer(code):
            keys.add(one["value"], path, one.start("value"))
    lines = sum(1 for code in codes.values() for line in code.splitlines() if line.strip())
    once = len({*zip(keys.paths, keys.texts, strict=True)}) >= _ONCE * len(keys.texts)
    if 2 * len(keys.texts) > lines and once:
        # Texts for people, by their keys. Those of records are there again and again.
        yield Place(sort, {"match": KEYED.pattern}, "key", "", "", keys)
        return
    # In a program what a word is set to is another word of the program.
    plain = sum(len(_CALLED.findall(code)) for code in codes.values()) < _CALLS * lines
    found: _Found = {}
    for path, code in codes.items():
        for match, word, around, form, value, where in _texts(code, plain):
            found.setdefault((match, word, around, form), Said()).add(value, path, where)
    by_key: dict[str, Place] = {}
    for (match, word, around, form), said in found.items():
        if len(said.texts) >= _LEAST:
            place = Place(sort, {"match": match}, form, word, around, said)
            by_key[match] = place
            yield place
    yield from _worded(sort, codes, by_key)
    yield from _listed(sort, codes)
    yield from _inserted(sort, codes)


def _worded(sort: Sort, codes: Mapping[str, str], by_key: Mapping[str, Place]) -> Iterator[Place]:
    """Keys behind a word that says what they are about, where the same key is behind others as well."""
    found: dict[tuple[str, str, str], Said] = {}
    for path, code in codes.items():
        for one in _WORDED.finditer(code):
            gap = _BELOW if "\n" in one["gap"] else _BEHIND
            found.setdefault((one["word"], gap, one["name"]), Said()).add(one["value"], path, one.start("value"))
    below: dict[str, list[Said]] = {}
    for (_, gap, key), said in found.items():
        if gap == _BELOW:
            below.setdefault(key, []).append(said)
    alike = {key: joined(parts) for key, parts in below.items()}
    for (word, gap, key), said in found.items():
        whole = by_key.get(_set_to(key, "="))
        if whole is not None and _LEAST <= len(said.texts) < len(whole.said.texts):
            # What stands below a word is compared with what stands below others, and not with what is behind them.
            general = replace(whole, said=alike[key]) if gap == _BELOW else whole
            match = rf"\b{word}{gap}{key}[ \t]*=[ \t]*{_QUOTED}"
            yield Place(sort, {"match": match}, "value", key, word, said, general=general)


def _listed(sort: Sort, codes: Mapping[str, str]) -> Iterator[Place]:
    """Each of the texts that a key lists in brackets."""
    found: dict[tuple[str, str], Said] = {}
    for path, code in codes.items():
        for one in _LIST.finditer(code):
            said, at = found.setdefault((one["name"], one["opens"]), Said()), one.start("value")
            for part in re.split(_BETWEEN, one["value"]):
                at = code.index(part, at)
                said.add(part, path, at)
                at += len(part)
    for (key, opens), said in found.items():
        if len(said.texts) >= _LEAST:
            closes = {"[": r"\]", "{": r"\}"}[opens]
            match = rf"\b{key}[ \t]*=[ \t]*\{opens}\s*\"(?P<value>[^\]\[{{}}]*?)\"[\s,;]*{closes}"
            yield Place(sort, {"match": match, "split": _BETWEEN}, "value", key, "", said)


def _inserted(sort: Sort, codes: Mapping[str, str]) -> Iterator[Place]:
    """Names in brackets that stand for something else, and those that may be given to that."""
    uses = [place for match in _INSERTED for place in _matched(sort, codes, match, "value")]
    yield from uses
    if uses:
        yield from _matched(sort, codes, _LONE, "name")


def _matched(sort: Sort, codes: Mapping[str, str], match: str, form: Form) -> Iterator[Place]:
    said, pattern = Said(), re.compile(match, re.M)
    for path, code in codes.items():
        for one in pattern.finditer(code):
            said.add(one["value"], path, one.start("value"))
    if len(said.texts) >= _LEAST:
        yield Place(sort, {"match": match}, form, "", "", said, used=form == "value")


def _texts(code: str, plain: bool) -> Iterator[tuple[str, str, str, Form, str, int]]:
    """What stands in quotes, and what stands behind words; where keys are `plain`, what they are set to as well."""
    for call in _CALL.finditer(code):
        name = re.escape(call["name"])
        for number, (sign, value, where) in enumerate(_arguments(call["args"], call.start("args"))):
            if value is not None:
                before = rf"(?:{_SIMPLE},){{{number}}}" if number else ""
                yield (
                    # Only a whole argument: what is put together at run time is no name.
                    rf"\b{name}[ \t]*\({before}[ \t]*{sign}{_QUOTED}[ \t]*(?=[,)])",
                    call["name"].replace("::", ".").rpartition(".")[2],
                    str(number + 1),
                    "call",
                    value,
                    where,
                )
    for pair in _SET.finditer(code):
        match = _set_to(pair["name"], pair["mark"])
        yield match, pair["name"], "", "value", pair["value"], pair.start("value")
    for pair in _PLAINLY.finditer(code) if plain else ():
        match = rf"^[ \t]*{pair['name']}[ \t]*=[ \t]*(?P<value>{_PLAIN})[ \t]*(?=[;\r\n])"
        yield match, pair["name"], "", "value", pair["value"], pair.start("value")
    for said in _SAID.finditer(code):
        match = rf"\b{re.escape(said['name'])}[ \t]+{_QUOTED}"
        yield match, said["name"], "", "value", said["value"], said.start("value")
    for line in _BEGUN.finditer(code):
        end = re.escape(line["end"])
        match = rf"^[ \t]*{re.escape(line['name'])}[ \t]+(?P<value>[\w.:/\\\-]+)[ \t]*{end}"
        form: Form = "function" if line["end"] == "(" else "value"
        yield match, line["name"], "", form, line["value"], line.start("value")


def _set_to(key: str, mark: str) -> str:
    """What asks for the texts that a key is set to."""
    return rf"\b{re.escape(key)}[ \t]*{re.escape(mark)}[ \t]*{_QUOTED}"


def _arguments(args: str, start: int) -> Sequence[tuple[str, str | None, int]]:
    """Each argument: the sign before the text, the text, and where it stands; None for what is not one text."""
    found: list[tuple[str, str | None, int]] = []
    at = 0
    while at <= len(args):
        match = _ARGUMENT.match(args, at)
        assert match is not None
        text = _TEXT.fullmatch(match.group())
        if text is not None:
            found.append((re.escape(text["sign"]), text["text"], start + at + text.start("text")))
        else:
            found.append(("", None, start + at))
        at = match.end() + 1
    return found
