"""Reading a tree by a layout's rules: what each file defines and refers to. What one file says depends on nothing
but its path, its bytes and the layout."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

from msgspec import Struct

from hookset.core.formats import Document, Unreadable, format_named, text_of
from hookset.core.formats.base import Value, field_at
from hookset.core.layouts import DefineRule, Layout, ReadRule, ReferRule, map_words
from hookset.core.layouts.layout import RecordRule
from hookset.core.model import CouldNotError, Definition, Problem, Reference
from hookset.core.project import Stock
from hookset.core.trees import GlobMatch, Tree, joined

__all__ = ["FileFacts", "Web", "collect", "open_document", "read_file", "seen_by"]


class FileFacts(Struct, frozen=True, kw_only=True):
    """All that one file says."""

    path: str
    definitions: tuple[Definition, ...] = ()
    references: tuple[Reference, ...] = ()
    problems: tuple[Problem, ...] = ()
    opened: bool = False
    """Whether any rule looked into it, rather than at its path only."""
    by_rule: tuple[tuple[int, int, int], ...] = ()
    """For each rule that means this file: its number from one, and how many names it saw defined and referred to."""


@dataclass(frozen=True)
class Web:
    """The whole map's names, not yet resolved."""

    tree: Tree
    layout: Layout
    stock: Stock
    files: tuple[FileFacts, ...]
    words: Mapping[str, str]
    """What the map says of itself."""


def collect(tree: Tree, layout: Layout, stock: Stock) -> Web:
    """Read every file of the tree."""
    words = map_words(tree, layout)
    return Web(tree, layout, stock, tuple(read_file(tree, path, layout, words) for path in tree.paths()), words)


def read_file(tree: Tree, path: str, layout: Layout, words: Mapping[str, str]) -> FileFacts:
    """What the file at `path` of a map of that name and version defines and refers to. A file that cannot be read is
    a problem, never an exception."""
    definitions: list[Definition] = []
    references: list[Reference] = []
    problems: list[Problem] = []
    documents: dict[tuple[Any, ...], Document | None] = {}
    by_rule: list[tuple[int, int, int]] = []
    opened = False
    for number, rule in enumerate(layout.reads, 1):
        match = rule.match(path)
        if match is None:
            continue
        key = (rule.format, rule.encodings, rule.options)
        if key not in documents:
            documents[key] = _opened(tree, path, rule, problems)
        document = documents[key]
        opened = opened or rule.format != "any"
        before = len(definitions), len(references)
        if document is None:
            by_rule.append((number, 0, 0))
            continue
        reader = _Reader(layout, rule, path, match, words)
        for define in rule.defines:
            definitions += reader.definitions(define, document.select(define.selector))
        for refer in rule.refers:
            for value in document.select(refer.selector):
                references += reader.references(refer, value)
        by_rule.append((number, len(definitions) - before[0], len(references) - before[1]))
        if rule.record is not None:
            problems += _bad_records(document, rule.record, path)
    return FileFacts(
        path=path,
        definitions=tuple(definitions),
        references=tuple(references),
        problems=tuple(problems),
        opened=opened,
        by_rule=tuple(by_rule),
    )


def seen_by(layout: Layout, rule: ReadRule, path: str, match: GlobMatch, document: Document) -> dict[int, int]:
    """How many names each part of a rule sees in a file: what it defines, then what it refers to, by their order."""
    reader = _Reader(layout, rule, path, match, {})
    defined = [sum(1 for _ in reader.definitions(part, document.select(part.selector))) for part in rule.defines]
    referred = [
        sum(1 for value in document.select(part.selector) for _ in reader.references(part, value))
        for part in rule.refers
    ]
    return dict(enumerate((*defined, *referred)))


def open_document(tree: Tree, path: str, rule: ReadRule) -> Document:
    """The parsed file. Raises Unreadable or CouldNotError."""
    form = format_named(rule.format)
    if rule.format == "any":
        return form.open(b"", rule.options)
    data = tree.read(path)
    return form.open(data if form.binary else text_of(form, data, rule.encodings), rule.options)


def _opened(tree: Tree, path: str, rule: ReadRule, problems: list[Problem]) -> Document | None:
    try:
        document = open_document(tree, path, rule)
    except Unreadable as error:
        problems.append(Problem(path=path, where=error.where, what=error.what))
        return None
    except CouldNotError as error:
        problems.append(Problem(path=path, what=error.what))
        return None
    problems += (Problem(path=path, where=where, what=what) for what, where in document.problems)
    return document


def _bad_records(document: Document, rule: RecordRule, path: str) -> Iterator[Problem]:
    import jsonschema_rs

    validator = jsonschema_rs.Draft202012Validator(dict(rule.schema))
    for where, record in document.records(rule.selector):
        for error in validator.iter_errors(record):
            field = "".join(f"`{step}`: " for step in error.instance_path)
            keys = [*error.instance_path]
            if "propertyNames" in error.schema_path and isinstance(error.instance, dict):
                keys.append(next((key for key in error.instance if f'"{key}"' in error.message), ""))
            at = field_at(document, where, keys)
            yield Problem(path=path, where=at, what=f"{field}{error.message}", record=True)


class _Reader:
    """Makes names of values, for one rule and one file."""

    def __init__(self, layout: Layout, rule: ReadRule, path: str, match: GlobMatch, words: Mapping[str, str]) -> None:
        self.layout = layout
        self.rule = rule
        self.path = path
        self.words = match.words
        self.side = layout.side_of(match.words["side"]) if "side" in match.words else rule.side
        stem, ext = posixpath.splitext(posixpath.basename(path))
        self.parts = {
            **words,
            "path": path,
            "stem": stem,
            "name": stem + ext,
            "ext": ext,
            "parent": posixpath.dirname(path),
            "inner": posixpath.splitext(match.inner)[0],
            "module": posixpath.splitext(match.inner)[0].replace("/", "."),
        }

    def _name(self, rule: DefineRule | ReferRule, text: str, groups: Mapping[str, str]) -> str:
        if rule.name.source == "{value}":
            return text
        return rule.name.of({"value": text, **self.parts, **groups})

    def definitions(self, rule: DefineRule, values: Iterator[Value]) -> Iterator[Definition]:
        for value in values:
            if (groups := _address(rule, value)) is not None:
                yield Definition(
                    kind=rule.kind,
                    name=self._name(rule, value.text, groups),
                    side=self.side if rule.side is None else rule.side,
                    path=self.path,
                    where=value.where,
                    variant=self.words.get("variant", "") or rule.variant,
                )

    def references(self, rule: ReferRule, value: Value) -> Iterator[Reference]:
        """The references in a value: none, one, or as many as it lists."""
        groups = _address(rule, value)
        if groups is None:
            return
        texts = [value.text] if rule.split is None else [text for text in rule.split.split(value.text) if text]
        for text in texts:
            if (rule.skip is None or not rule.skip.search(text)) and (rule.only is None or rule.only.search(text)):
                name, *others = self._looked_up(rule, self._name(rule, unquote(text) if rule.uri else text, groups))
                yield Reference(
                    kind=rule.kind,
                    name=name,
                    written=text,
                    others=tuple(others),
                    side=self.side if rule.side is None else rule.side,
                    path=self.path,
                    where=value.where,
                    pattern=value.pattern,
                    use=self.rule.uses,
                )

    def _looked_up(self, rule: ReferRule, name: str) -> list[str]:
        """What the name can mean. For paths: below each root, with each ending that it may be written without."""
        if rule.kind not in self.layout.path_kinds:
            return [name]
        if self.layout.kinds[rule.kind].entry.separators != "/":
            name = name.replace("\\", "/")
        bare = bool(rule.suffix) and not posixpath.splitext(name)[1]
        endings = rule.suffix if bare else ("",)
        bases = (self.parts["parent"],) if rule.beside else rule.under
        # A path that leads out of the map keeps its own spelling, for the check to tell.
        return [joined(base, name + ending) or name for base in bases for ending in endings]


def _address(rule: DefineRule | ReferRule, value: Value) -> Mapping[str, str] | None:
    """Named parts of where a value stands; None when the rule does not mean values that stand there."""
    if rule.address is None:
        return {}
    found = rule.address.search(str(value.where))
    return None if found is None else {name: part or "" for name, part in found.groupdict().items()}
