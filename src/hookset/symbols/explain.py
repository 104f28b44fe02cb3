"""What a layout sees in one file: every name, by which rule, and the lines that no rule looked at."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby, islice
from operator import itemgetter
from typing import Any

from msgspec import Struct, structs
from msgspec.structs import replace

from hookset.config.layouts import DefineRule, Layout, ReadRule, ReferRule, map_words
from hookset.formats import format_named, text_of
from hookset.formats.document import field_at, records_of
from hookset.model import CouldNotError, Problem, Where
from hookset.symbols.locate import spots_in_file
from hookset.symbols.reading import open_document, read_file
from hookset.trees import Tree

__all__ = ["Explained", "LeftOut", "SeenName", "explain"]

_SHORT = 60
_NOWHERE = (0, 0)
_NONE: dict[str, Any] = {"address": None, "only": None, "skip": None, "when": (), "unless": ()}
"""The keys of a rule that keep values from being names, each with what it is where it is not there."""
_KEEPING = tuple(_NONE)


class SeenName(Struct, frozen=True, order=True):
    """One name that a rule saw."""

    line: int
    column: int
    rule: int
    """Which `[[read]]` of the layout, from one."""
    verb: str
    """defines or refers; takes, says, compares, places and judges for what is read to other ends"""
    kind: str
    """Or the part of names that is taken, `name` or `version` of the map, the title of what is compared."""
    name: str
    side: str = ""
    variant: str = ""
    pattern: bool = False


class LeftOut(Struct, frozen=True):
    """What a rule would see as well if one of its keys were not there."""

    rule: int
    verb: str
    kind: str
    key: str
    """skip, only, when, unless or address"""
    names: tuple[str, ...]


class Explained(Struct, frozen=True):
    """All that there is to say about how a file is read."""

    path: str
    rules: tuple[tuple[int, ReadRule], ...]
    """The rules that match its path, by their number."""
    seen: tuple[SeenName, ...]
    unseen: tuple[tuple[int, str], ...]
    """Lines, with their text, that hold something and in which no rule saw a name."""
    problems: tuple[tuple[int, str], ...]
    left_out: tuple[LeftOut, ...]
    ignored: bool
    """The layout says that it is no part of the map."""


def explain(tree: Tree, path: str, layout: Layout) -> Explained:
    """Read a file rule by rule. Raises KeyError when the tree has no such file."""
    tree.size(path)
    rules = tuple((number, rule) for number, rule in enumerate(layout.reads, 1) if rule.match(path) is not None)
    found: list[tuple[Where, SeenName]] = []
    problems: list[Problem] = []
    words = map_words(tree, layout)
    for number, rule in rules:
        facts = read_file(tree, path, replace(layout, reads=(rule,)), words)
        problems += (problem for problem in facts.problems if problem not in problems)
        for d in facts.definitions:
            found.append((d.where, SeenName(0, 0, number, "defines", d.kind, d.name, d.side, d.variant)))
        for block in facts.made:
            for row, name in enumerate(block.names):
                one = SeenName(0, 0, number, "defines", block.kind, name, block.side, block.variant, True)
                found.append((block.where(row), one))
        for r in facts.references:
            found.append((r.where, SeenName(0, 0, number, "refers", r.kind, r.name, r.side, "", r.pattern)))
        found += _further(tree, path, layout, number, rule, problems)
    by_path = {number for number, rule in rules if rule.format == "any"}
    wheres = {where for where, one in found if one.rule not in by_path} | {problem.where for problem in problems}
    places = spots_in_file(tree, layout, path, wheres)
    placed = [(_NOWHERE if one.rule in by_path else places.get(where, _NOWHERE), one) for where, one in found]
    placed.sort(key=itemgetter(0))
    seen = tuple(
        replace(one, line=line, column=column)
        for (line, column), same in groupby(placed, itemgetter(0))
        for one in sorted(one for _, one in same)
    )
    kept = (one for number, rule in rules if not problems for one in _left_out(tree, path, layout, number, rule))
    told = tuple(sorted((places.get(problem.where, _NOWHERE)[0], problem.what) for problem in problems))
    lines = {one.line for one in seen if one.verb not in ("judges", "places")}
    return Explained(path, rules, seen, _unseen(tree, path, rules, lines), told, tuple(kept), layout.ignores(path))


def _further(
    tree: Tree, path: str, layout: Layout, number: int, rule: ReadRule, problems: list[Problem]
) -> Iterator[tuple[Where, SeenName]]:
    """What is read of a file, and is no name of anything."""
    asked: list[tuple[str, str, Any]] = [("takes", word, taken.selector) for word, taken in rule.take.items()]
    if layout.descriptor is not None and layout.descriptor.file == path and layout.descriptor.rule is rule:
        said = (("says", "name", layout.descriptor.name), ("says", "version", layout.descriptor.version))
        asked += (one for one in said if one[2] is not None)
    compared = [one for one in layout.compared if one.asked.rule is rule and one.asked.files.matches(path)]
    asked += (("compares", one.title, one.asked.selector) for one in compared if not one.key)
    records = [one for one in compared if one.key]
    placed = [(title, one) for title, one in layout.positions.asked if one.rule is rule and one.files.matches(path)]
    if not (asked or records or placed or rule.record) or problems:
        return
    document = open_document(tree, path, rule)
    if rule.record is not None:
        for where, record in records_of(document, rule.record.selector):
            yield where, SeenName(0, 0, number, "judges", "record", _in_short(record))
    for one in records:
        for where, record in records_of(document, one.asked.selector):
            if isinstance(record, dict) and one.key in record:
                height = SeenName(0, 0, number, "compares", one.title, str(record[one.key]))
                yield field_at(document, where, [one.key]), height
    for title, place in placed:
        for where, record in records_of(document, place.selector):
            yield where, SeenName(0, 0, number, "places", title, _in_short(record))
    for verb, what, selector in asked:
        values_here = document.select(selector)
        for value in islice(values_here, 1) if verb == "takes" else values_here:
            yield value.where, SeenName(0, 0, number, verb, what, value.text)


def _in_short(record: Any) -> str:
    """A record by its first two values."""
    if not isinstance(record, dict):
        return str(record)[:_SHORT]
    said = [f"{key} {value}" for key, value in record.items() if isinstance(value, str | int | float)]
    return ", ".join(said[:2])[:_SHORT]


def _left_out(tree: Tree, path: str, layout: Layout, number: int, rule: ReadRule) -> Iterator[LeftOut]:
    """For each key that keeps values of a rule from being names: which."""
    words = map_words(tree, layout)

    def names(defines: tuple[DefineRule, ...], refers: tuple[ReferRule, ...]) -> dict[str, None]:
        alone = replace(layout, reads=(structs.replace(rule, defines=defines, refers=refers, record=None),))
        facts = read_file(tree, path, alone, words)
        said = (*(one.name for one in facts.definitions), *(one.name for one in facts.references))
        return dict.fromkeys((*said, *(name for block in facts.made for name in block.names)))

    for define in rule.defines:
        for key in (key for key in _KEEPING if getattr(define, key)):
            more = names((structs.replace(define, **{key: _NONE[key]}),), ()).keys() - names((define,), ()).keys()
            if more:
                yield LeftOut(number, "defines", define.kind, key, tuple(sorted(more)))
    for refer in rule.refers:
        for key in (key for key in _KEEPING if getattr(refer, key)):
            more = names((), (structs.replace(refer, **{key: _NONE[key]}),)).keys() - names((), (refer,)).keys()
            if more:
                yield LeftOut(number, "refers", refer.kind, key, tuple(sorted(more)))


def _unseen(
    tree: Tree, path: str, rules: tuple[tuple[int, ReadRule], ...], lines: set[int]
) -> tuple[tuple[int, str], ...]:
    """For a file that some rule reads as text, or that none reads: what is in none of the lines with a name."""
    read = [rule for _, rule in rules if rule.format != "any"]
    if any(format_named(rule.format).binary for rule in read):
        return ()
    form = format_named(read[0].format if read else "lines")
    try:
        text = text_of(form, tree.read(path), read[0].encodings if read else ("utf-8", "cp1252"))
    except CouldNotError:
        return ()
    return tuple(
        (number, line.strip())
        for number, line in enumerate(text.string.split("\n"), 1)
        if number not in lines and any(character.isalnum() for character in line)
    )
