"""Expressions in scripts that stand for a folder: that of the script itself, or one that a call is told the name of.
They are known by what stands behind them: the rest of a path, of which the files are there."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence

from hookset.formats import Document
from hookset.formats.base import ARGUMENT, PLACED
from hookset.formats.document import string_of
from hookset.trees import joined

__all__ = ["folder_expressions", "placed_text"]

_LEAST = 3
"""Different files that are named by an expression, at least."""
_THERE = 0.8
"""Of the paths behind an expression: how many must be there."""
_NAME = r"[A-Za-z_][\w.:]{0,80}"
_CALL = r"\([ \t]*(?:(?P<mark>[\"'])(?P<argument>[^\"'\r\n]+)(?P=mark)|(?P<word>__\w+|\.\.\.))?[ \t]*\)"
"""What a call is given: nothing, a text, or what a language calls the script itself by."""
_TEXT = r"(?P<quote>[\"'])(?P<rest>[^\"'\r\n]+)(?P=quote)"
_JOINED = re.compile(
    rf"(?<![\w.:])(?P<name>{_NAME})(?P<call>[ \t]?{_CALL})?"
    rf"[ \t]*(?:\.\.|\+)[ \t]*{_TEXT}(?![ \t]*(?:\.\.|\+))"
)
"""An expression with the rest of a path behind it, and nothing further."""
_BETWEEN = re.compile(
    r"(?P<open>[\"'])(?P<front>[^\"'\r\n]*/)(?P=open)[ \t]*(?:\.\.|\+)[ \t]*(?P<name>[A-Za-z_]\w*)"
    rf"[ \t]*(?:\.\.|\+)[ \t]*{_TEXT}(?![ \t]*(?:\.\.|\+))"
)
"""A name with the front of a path before it, and the rest behind it."""
_SET = re.compile(
    rf"^[ \t]*(?:local|const|let|var)?[ \t]*(?P<name>[A-Za-z_]\w*)[ \t]*=[ \t]*(?P<value>{_NAME})"
    rf"(?P<call>[ \t]?{_CALL})[ \t]*;?[ \t]*$",
    re.M,
)
_PLACED = re.compile(f"{PLACED}([^{PLACED}{ARGUMENT}]*)(?:{ARGUMENT}([^{PLACED}]*))?{PLACED}")

_CALLED = "{folder}"
"""What a name may be worth that stands in a path: what the script's own folder is called."""
_OWN_FOLDER = ("{parent}", "{parent}/")
"""What an expression may be worth that is told nothing: some leave the slash to what stands behind it."""

_Used = tuple[str, str, str]
"""(path of the script, what the call is told, the rest of the path)"""


def folder_expressions(documents: Mapping[str, Document], paths: Collection[str]) -> dict[str, str]:
    """The expressions, each with what it is worth, as layouts say it: `{parent}`, a folder with `{1}` in it, or
    `{folder}`."""
    there = paths if isinstance(paths, frozenset) else frozenset(paths)
    used: dict[str, set[_Used]] = {}
    between: dict[str, set[_Used]] = {}
    for path, document in documents.items():
        code = string_of(document)
        for expression, argument, rest in _joined(code):
            used.setdefault(expression, set()).add((path, argument, rest))
        for one in _BETWEEN.finditer(code):
            between.setdefault(one["name"], set()).add((path, one["front"], one["rest"]))
    by_name: dict[str, list[str]] = {}
    for path in sorted(there):
        by_name.setdefault(posixpath.basename(path), []).append(path)
    found: dict[str, str] = {}
    for expression, uses in used.items():
        if expression.endswith("($1)"):
            told = _folder_told(uses, by_name)
            ways: tuple[str, ...] = (told,) if told is not None else ()
        else:
            ways = _OWN_FOLDER
        worth = next((one for one in ways if _fits(one, uses, there)), None)
        if worth is not None:
            found[expression] = worth
    found |= {name: _CALLED for name, uses in between.items() if name not in found and _goes_between(uses, there)}
    return found


def _goes_between(uses: Collection[_Used], paths: Collection[str]) -> bool:
    """Whether most of the paths are those of files in which a name is what the script's folder is called, in several
    folders."""
    named = {
        (path, posixpath.normpath(f"{front}{posixpath.basename(posixpath.dirname(path))}{rest}"))
        for path, front, rest in uses
        if not rest.endswith("/")
    }
    there = [(path, one) for path, one in named if one.lstrip("/") in paths]
    folders = {posixpath.dirname(path) for path, _ in there}
    return len(folders) >= _LEAST and len(there) >= _THERE * len(named)


def _joined(code: str) -> Iterator[tuple[str, str, str]]:
    """(expression, what it is told, the rest of the path). A name means what it is set to by a call."""
    named = {one["name"]: one for one in _SET.finditer(code)}
    for one in _JOINED.finditer(code):
        rest = one["rest"]
        if one["call"]:
            yield _expression(one["name"], one), one["argument"] or "", rest
        elif (source := named.get(one["name"])) is not None:
            yield _expression(source["value"], source), source["argument"] or "", rest
        else:
            yield one["name"], "", rest


def _expression(name: str, call: re.Match[str]) -> str:
    return f"{name}($1)" if call["argument"] else f"{name}({call['word'] or ''})"


def _folder_told(uses: Collection[_Used], by_name: Mapping[str, Sequence[str]]) -> str | None:
    """The folder in which what a call is told is a folder: what most of the paths begin with, of the files that are
    called as the rest says."""
    tops: Counter[str] = Counter()
    for _, argument, rest in uses:
        end = joined(argument, rest.lstrip("/")) or ""
        called = by_name.get(posixpath.basename(end), ()) if end else ()
        tops.update({path.removesuffix(end) for path in called if path.endswith(end)})
    top = next((one for one, _ in tops.most_common() if not one or one.endswith("/")), None)
    return f"{top}{{1}}" if top is not None else None


def _fits(worth: str, uses: Collection[_Used], paths: Collection[str]) -> bool:
    """Whether most of the paths are those of files, and several are."""
    named = {posixpath.normpath(_worth(worth, path, argument) + rest) for path, argument, rest in uses}
    there = [one for one in named if one.lstrip("/") in paths]
    return len(there) >= _LEAST and len(there) >= _THERE * len(named)


def _worth(worth: str, path: str, argument: str) -> str:
    folder = posixpath.dirname(path)
    return worth.replace("{parent}", folder).replace("{folder}", posixpath.basename(folder)).replace("{1}", argument)


def placed_text(text: str, path: str) -> str:
    """A text with what the script's place says in it."""
    return _PLACED.sub(lambda found: _worth(found[1], path, found[2] or ""), text)
