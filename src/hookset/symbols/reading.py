"""Reading one file by the rules that mean it."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial
from typing import Any
from urllib.parse import unquote

import msgspec
from msgspec.structs import replace

from hookset.config.layouts import DefineRule, Layout, ReadRule, ReferRule, path_parts
from hookset.config.layouts.rules import Condition, RecordRule, of_rows
from hookset.config.sheets import mistake_in_words
from hookset.formats import Document, Unreadable, format_named, open_file, text_of
from hookset.formats.base import ARGUMENT, PLACED, Columns
from hookset.formats.document import columns_with_rows, field_at, guards_of, may_match, prepared, records_of, string_of
from hookset.model import CouldNotError, Problem, Where
from hookset.project import LedgerSpot
from hookset.symbols.facts import Defined, FileFacts, Referred, packed
from hookset.symbols.many_names import names_of
from hookset.trees import GlobMatch, Tree, joined

_SIZE = re.compile(r"[0-9]{1,15}")

__all__ = ["Opener", "open_document", "read_at", "read_file", "way_of"]


Opener = Callable[[Tree, str, ReadRule, bool], Document]
"""How a file is opened for a rule, as `open_document` does."""


def open_document(tree: Tree, path: str, rule: ReadRule, again: bool = False) -> Document:
    """The parsed file; `again` as in `open_file`. Raises Unreadable or CouldNotError."""
    form = format_named(rule.format)
    if rule.format == "any":
        return form.open(b"", rule.options)
    data = tree.read(path)
    return (
        form.open(data, rule.options) if form.binary else open_file(form, data, rule.encodings, rule.options, again)[1]
    )


def read_file(
    tree: Tree, path: str, layout: Layout, words: Mapping[str, str], opener: Opener = open_document
) -> FileFacts:
    """What the file at `path` of a map of that name and version defines and refers to. A file that cannot be read is
    a problem, never an exception."""
    defined: list[Defined] = []
    made: list[Defined] = []
    referred: list[Referred] = []
    problems: list[Problem] = []
    saved: list[Problem] = []
    by_rule: list[tuple[int, tuple[int, ...], tuple[int, ...]]] = []
    documents: dict[tuple[Any, ...], Document | None] = {}
    opened = False
    side = None
    matching = [(number, rule, match) for number, rule in enumerate(layout.reads, 1) if (match := rule.match(path))]
    selectors = _selectors(rule for _, rule, _ in matching)
    for number, rule, match in matching:
        reader = _Reader(layout, rule, path, match, words)
        if side is None and (rule.side or "side" in match.words):
            side = reader.side
        key = way_of(rule)
        if key not in documents:
            # Where its things stand is asked for once all files have been read.
            again = any(placed.asked.files.matches(path) for placed in layout.positions.placed)
            read = _opened(partial(opener, tree, path, rule, again), path, problems)
            documents[key] = prepared(read, selectors[key]) if read is not None else None
        document = documents[key]
        opened = opened or rule.format != "any"
        if document is None:
            by_rule.append((number, (), ()))
            continue
        saved += _saved_otherwise(tree, path, rule)
        reader.take(document)
        parts = [(guard.kind, *part) for guard in rule.guards for part in guards_of(document, guard.selector)]
        counts = [0] * len(rule.defines), [0] * len(rule.refers)
        # Of hundreds of rules, most have nothing in one file.
        there = may_match(document, rule.selectors)
        for at, define in enumerate(rule.defines):
            if at in there and (columns := _asked(document, define)).texts:
                both = reader.defined(define, columns)
                defined.append(both[0])
                made.append(both[1])
                counts[0][at] = sum(len(one.names) for one in both)
        for at, refer in enumerate(rule.refers):
            if at + len(rule.defines) in there and (columns := _asked(document, refer)).texts:
                block = _guarded(reader.referred(refer, columns), parts)
                referred.append(block)
                counts[1][at] = len(block.names)
        by_rule.append((number, tuple(counts[0]), tuple(counts[1])))
        if rule.record is not None:
            problems += _bad_records(document, rule.record, path)
    return FileFacts(
        path=path,
        side=side or "",
        defined=tuple(one for one in defined if one.names),
        made=tuple(one for one in made if one.names),
        referred=tuple(one for one in referred if one.names),
        problems=tuple(problems),
        saved=tuple(saved),
        opened=opened,
        by_rule=tuple(by_rule),
    )


def _guarded(block: Referred, parts: Sequence[tuple[str, str, int, int]]) -> Referred:
    """The references, those in guarded parts with what must be there for them to count."""
    if not parts:
        return block
    guards: dict[int, tuple[tuple[str, str], ...]] = {}
    for row in range(len(block.names)):
        at = block.where(row)
        here = [(kind, name) for kind, name, start, end in parts if isinstance(at, int) and start <= at < end]
        if here:
            guards[row] = tuple(dict.fromkeys(here))
    return msgspec.structs.replace(block, guards=guards) if guards else block


def way_of(rule: ReadRule) -> tuple[Any, ...]:
    """Rules that say the same here share one parsed file."""
    return (rule.format, rule.encodings, rule.options)


def _selectors(rules: Iterable[ReadRule]) -> dict[tuple[Any, ...], list[Any]]:
    """What all rules that share a parsed file ask it for."""
    found: dict[tuple[Any, ...], list[Any]] = {}
    for rule in rules:
        found.setdefault(way_of(rule), []).extend(rule.selectors)
    return found


def _asked(document: Document, part: DefineRule | ReferRule) -> Columns:
    """The values that a part of a rule names; with what stands beside them only where that counts."""
    if not part.row_words:
        return document.columns(part.selector)
    tests = [(one.key, one.holds) for one in part.when]
    tests += [(one.key, partial(_fails, one)) for one in part.unless]
    return columns_with_rows(document, part.selector, tests)


def _fails(condition: Condition, text: str) -> bool:
    return not condition.holds(text)


def read_at(tree: Tree, layout: Layout, spot: LedgerSpot) -> tuple[str, int | str] | None:
    """The one value at a place and where it is in the file; None where there is none, or more than one."""
    rule = layout.text_rule(spot.file)
    if rule is None or not tree.has(spot.file):
        return None
    try:
        selector = msgspec.convert(spot.ask, format_named(rule.format).selector)
        values = list(open_document(tree, spot.file, rule).select(selector))
    except (Unreadable, CouldNotError, msgspec.ValidationError):
        return None
    return (values[0].text, values[0].where) if len(values) == 1 else None


def _opened(opened: Callable[[], Document], path: str, problems: list[Problem]) -> Document | None:
    try:
        document = opened()
    except Unreadable as error:
        problems.append(Problem(path=path, where=error.where, what=error.what))
        return None
    except CouldNotError as error:
        problems.append(Problem(path=path, what=error.what, closed=True))
        return None
    problems += (Problem(path=path, where=where, what=what) for what, where in document.problems)
    problems += (Problem(path=path, where=where, what=what, unseen=True) for what, where in document.unseen)
    return document


_INDENTS = {"tabs": re.compile(r"^\t* +\t*(?=\S)", re.M), "spaces": re.compile(r"^ *\t[ \t]*(?=\S)", re.M)}
"""What is found in a file whose lines begin otherwise."""
_NEWLINES = {"lf": re.compile(r"\r\n?"), "crlf": re.compile(r"(?<!\r)\n|\r(?!\n)")}
_ENDS = {"lf": "a line feed alone", "crlf": "a carriage return and a line feed"}


_PLACED = re.compile(f"{PLACED}([^{PLACED}]*){PLACED}")


def _saved_otherwise(tree: Tree, path: str, rule: ReadRule) -> Iterator[Problem]:
    """How a file is saved in another way than the layout asks for: told once, at the first such line."""
    form = format_named(rule.format)
    if not (rule.newline or rule.indent) or form.binary:
        return
    string = text_of(form, tree.read(path), rule.encodings).string
    if rule.newline and (found := [one.start() for one in _NEWLINES[rule.newline].finditer(string)]):
        lines = f"{len(found):,} lines end" if len(found) > 1 else "one line ends"
        yield Problem(path=path, where=found[0], what=f"{lines} otherwise than with {_ENDS[rule.newline]}")
    if rule.indent and (found := [one.start() for one in _INDENTS[rule.indent].finditer(string)]):
        lines = f"{len(found):,} lines begin" if len(found) > 1 else "one line begins"
        yield Problem(path=path, where=found[0], what=f"{lines} otherwise than with {rule.indent}")


def _bad_records(document: Document, rule: RecordRule, path: str) -> Iterator[Problem]:
    import jsonschema_rs

    validator = jsonschema_rs.Draft202012Validator(dict(rule.schema))
    for where, record in records_of(document, rule.selector):
        if validator.is_valid(record):
            continue
        for error in validator.iter_errors(record):
            field = "".join(f"`{step}`: " for step in error.instance_path)
            keys = [*error.instance_path]
            if "propertyNames" in error.schema_path and isinstance(error.instance, dict):
                keys.append(str(getattr(error.kind, "error", error).instance))
            at = field_at(document, where, keys)
            yield Problem(path=path, where=at, what=f"{field}{mistake_in_words(error)}", record=True)


class _Reader:
    """Makes names of values, for one rule and one file."""

    def __init__(self, layout: Layout, rule: ReadRule, path: str, match: GlobMatch, words: Mapping[str, str]) -> None:
        self.layout = layout
        self.rule = rule
        self.path = path
        self.words = match.words
        self.side = layout.side_of(match.words["side"]) if "side" in match.words else rule.side
        self.parts = {**path_parts(path, match), **words}
        self.string = ""

    def take(self, document: Document) -> None:
        """What the file says once for all names in it, and its text where it has one."""
        self.string = string_of(document)
        for word, taken in self.rule.take.items():
            value = next(document.select(taken.selector), None)
            self.parts[word] = value.text if value is not None else taken.otherwise.of(self.parts)

    def defined(self, rule: DefineRule, columns: Columns) -> tuple[Defined, Defined]:
        """The definitions whose names are known, and those whose names are made at run time."""
        columns = self._placed(columns)
        if rule.plain and not columns.patterns:
            return self._block(rule, columns.texts, columns.wheres, columns.at), self._block(rule, (), ())
        patterns = frozenset(columns.patterns)
        rows = [
            (self._name(rule, text, groups), self._where(columns.where(row), offset, text), row in patterns)
            for row, whole in enumerate(columns.texts)
            if (groups := _parts(rule, columns, row)) is not None
            for text, offset in _texts(rule, whole)
        ]
        exact, made = ([one for one in rows if one[2] is pattern] for pattern in (False, True))
        return (
            self._block(rule, [name for name, _, _ in exact], [where for _, where, _ in exact]),
            self._block(rule, [name for name, _, _ in made], [where for _, where, _ in made]),
        )

    def _placed(self, columns: Columns) -> Columns:
        """The same with what the file's place says in the texts."""
        if not self.rule.placed or not any(PLACED in text for text in columns.texts):
            return columns

        def said(found: re.Match[str]) -> str:
            source, _, argument = found[1].partition(ARGUMENT)
            return self.rule.placed[source].of({**self.parts, "1": argument})

        texts = [_PLACED.sub(said, text) for text in columns.texts]
        return replace(columns, texts=texts)

    def _block(self, rule: DefineRule, names: Sequence[str], wheres: Sequence[Where], at: str = "") -> Defined:
        return Defined(
            kind=rule.kind,
            side=self.side if rule.side is None else rule.side,
            variant=self.words.get("variant", "") or rule.variant,
            names=names_of(names),
            places=packed(wheres, at),
        )

    def referred(self, rule: ReferRule, columns: Columns) -> Referred:
        """The references in some values: each is none, one, or as many as it lists. An empty one names nothing."""
        columns = _said(self._placed(columns))
        side = self.side if rule.side is None else rule.side
        uses = self.rule.uses if rule.uses is None else rule.uses
        if self._plain(rule):
            names, places = names_of(columns.texts), packed(columns.wheres, columns.at)
            patterns = frozenset(columns.patterns)
            return Referred(
                rule.kind,
                side,
                uses,
                names,
                places,
                patterns=patterns,
                severity=rule.severity,
                optional=rule.optional,
                says=rule.says,
            )
        found = list(self._each(rule, columns))
        return Referred(
            kind=rule.kind,
            side=side,
            use=uses,
            names=names_of([name for name, _, _, _, _ in found]),
            places=packed([where for _, _, _, where, _ in found]),
            written=names_of([text for _, text, _, _, _ in found]),
            others={row: tuple(others) for row, (_, _, others, _, _) in enumerate(found) if others},
            patterns=frozenset(row for row, (_, _, _, _, pattern) in enumerate(found) if pattern),
            least=self._least(rule, columns, [where for _, _, _, where, _ in found]) if rule.bytes else {},
            severity=rule.severity,
            optional=rule.optional,
            says=rule.says,
        )

    def _least(self, rule: ReferRule, columns: Columns, wheres: list[Where]) -> dict[int, int]:
        said = {columns.where(row): beside.get(rule.bytes, "") for row, beside in enumerate(columns.rows)}
        return {row: int(said[where]) for row, where in enumerate(wheres) if _SIZE.fullmatch(said.get(where, ""))}

    def _plain(self, rule: ReferRule) -> bool:
        """Values are names as they stand."""
        made = rule.address or rule.split or rule.only or rule.skip or rule.uri or rule.name.source != "{value}"
        return not made and not rule.row_words and rule.kind not in self.layout.path_kinds

    def _each(self, rule: ReferRule, columns: Columns) -> Iterator[tuple[str, str, list[str], Where, bool]]:
        patterns = frozenset(columns.patterns)
        for row, value in enumerate(columns.texts):
            groups = _parts(rule, columns, row)
            if groups is None:
                continue
            for text, offset in _texts(rule, value):
                where = self._where(columns.where(row), 0 if rule.bytes else offset, text)
                name, *others = self._looked_up(rule, self._name(rule, unquote(text) if rule.uri else text, groups))
                yield name, text, others, where, row in patterns

    def _where(self, where: Where, offset: int, text: str) -> Where:
        """Where a part of a value stands: at its own characters, if the file has them there."""
        if offset and isinstance(where, int) and self.string.startswith(text, where + offset):
            return where + offset
        return where

    def _name(self, rule: DefineRule | ReferRule, text: str, groups: Mapping[str, str]) -> str:
        if rule.name.source == "{value}":
            return text
        return rule.name.of({"value": text, **self.parts, **groups})

    def _looked_up(self, rule: ReferRule, name: str) -> list[str]:
        """What the name can mean. For paths: below each root, with each ending that it may be written without."""
        if rule.kind not in self.layout.path_kinds:
            return [name]
        kind = self.layout.kinds[rule.kind].entry
        if kind.separators != "/":
            name = name.replace("\\", "/")
        from_top = kind.top != "" and name.startswith(kind.top)
        name = name.removeprefix(kind.top) if from_top else name
        ending = posixpath.splitext(name)[1]
        # What looks like an ending may belong to the name: `fog.night` for `fog.night.png`.
        as_written = ("",) if ending or not rule.suffix else ()
        endings = (*as_written, *(rule.suffix if ending not in rule.suffix else ()))
        # Beside the file first; below shared folders only where the rule says so.
        own = (self.parts["parent"], *(rule.under if any(rule.under) else ())) if rule.beside else rule.under
        bases = ("",) if from_top else own
        # A path that leads out of the map keeps its own spelling, for the check to tell.
        return [joined(base, name + ending) or name for base in bases for ending in endings]


def _said(columns: Columns) -> Columns:
    """Those values that say something."""
    rows = [row for row, text in enumerate(columns.texts) if text and not text.isspace()]
    if len(rows) == len(columns.texts):
        return columns
    patterns = frozenset(columns.patterns)
    return replace(
        columns,
        texts=[columns.texts[row] for row in rows],
        wheres=[columns.wheres[row] for row in rows],
        patterns=[number for number, row in enumerate(rows) if row in patterns],
        rows=[columns.rows[row] for row in rows] if columns.rows else (),
    )


def _texts(rule: DefineRule | ReferRule, value: str) -> Iterator[tuple[str, int]]:
    """The names that a value lists, without those that are none, each with where it begins in the value."""
    at = 0
    for text in [value] if rule.split is None else filter(None, rule.split.split(value)):
        at = value.find(text, at)
        if rule.skip is None or not rule.skip.search(text):
            if rule.only is None or ((found := rule.only.search(text)) is not None and "value" not in rule.only.groups):
                yield text, at
            elif found is not None and found["value"]:
                yield found["value"], at + found.start("value")
        at += len(text)


def _parts(rule: DefineRule | ReferRule, columns: Columns, row: int) -> Mapping[str, str] | None:
    """Named parts of where a value stands, and of what stands beside it; None where the rule does not mean it."""
    groups = _address(rule, columns.where(row))
    if groups is None or not (rule.row_words and of_rows(rule.name)):
        return groups
    return {**groups, **{f"row.{key}": text for key, text in columns.rows[row].items()}}


def _address(rule: DefineRule | ReferRule, where: Where) -> Mapping[str, str] | None:
    """Named parts of where a value stands; None when the rule does not mean values that stand there."""
    if rule.address is None:
        return {}
    found = rule.address.search(str(where))
    return None if found is None else {name: part or "" for name, part in found.groupdict().items()}
