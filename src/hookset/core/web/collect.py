"""Reading a tree by a layout's rules: what each file defines and refers to. What one file says depends on nothing
but its path, its bytes and the layout."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

from msgspec import Struct

from hookset.core.formats import Document, Unreadable, format_named, text_of
from hookset.core.formats.base import Value
from hookset.core.layouts import DefineRule, Layout, ReadRule, ReferRule
from hookset.core.layouts.layout import RecordRule
from hookset.core.model import CouldNotError, Definition, Problem, Reference
from hookset.core.project import Stock
from hookset.core.trees import GlobMatch, Tree, joined

__all__ = ["FileFacts", "Web", "collect", "open_document", "read_file"]


class FileFacts(Struct, frozen=True, kw_only=True):
    """All that one file says."""

    path: str
    definitions: tuple[Definition, ...] = ()
    references: tuple[Reference, ...] = ()
    problems: tuple[Problem, ...] = ()
    opened: bool = False
    """Whether any rule looked into it, rather than at its path only."""


@dataclass(frozen=True)
class Web:
    """The whole map's names, not yet resolved."""

    tree: Tree
    layout: Layout
    stock: Stock
    files: tuple[FileFacts, ...]


def collect(tree: Tree, layout: Layout, stock: Stock) -> Web:
    """Read every file of the tree."""
    return Web(tree, layout, stock, tuple(read_file(tree, path, layout) for path in tree.paths()))


def read_file(tree: Tree, path: str, layout: Layout) -> FileFacts:
    """What the file at `path` defines and refers to. A file that cannot be read is a problem, never an exception."""
    definitions: list[Definition] = []
    references: list[Reference] = []
    problems: list[Problem] = []
    documents: dict[tuple[Any, ...], Document | None] = {}
    opened = False
    for rule in layout.reads:
        match = rule.match(path)
        if match is None:
            continue
        key = (rule.format, rule.encodings, rule.options)
        if key not in documents:
            documents[key] = _opened(tree, path, rule, problems)
        document = documents[key]
        opened = opened or rule.format != "any"
        if document is None:
            continue
        reader = _Reader(layout, rule, path, match)
        for define in rule.defines:
            definitions += (reader.definition(define, value) for value in document.select(define.selector))
        for refer in rule.refers:
            for value in document.select(refer.selector):
                references += reader.references(refer, value)
        if rule.record is not None:
            problems += _bad_records(document, rule.record, path)
    return FileFacts(
        path=path,
        definitions=tuple(definitions),
        references=tuple(references),
        problems=tuple(problems),
        opened=opened,
    )


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
            deeper = "".join(f"/{step}" for step in error.instance_path)
            # A record that is known by its offset is one line or a block: its fields have no addresses of their own.
            at = where if isinstance(where, int) else f"{where}{deeper}"
            yield Problem(path=path, where=at, what=f"{field}{error.message}", record=True)


class _Reader:
    """Makes names of values, for one rule and one file."""

    def __init__(self, layout: Layout, rule: ReadRule, path: str, match: GlobMatch) -> None:
        self.layout = layout
        self.rule = rule
        self.path = path
        self.words = match.words
        self.side = layout.side_of(match.words["side"]) if "side" in match.words else rule.side
        stem, ext = posixpath.splitext(posixpath.basename(path))
        self.parts = {
            "path": path,
            "stem": stem,
            "name": stem + ext,
            "ext": ext,
            "parent": posixpath.dirname(path),
            "inner": posixpath.splitext(match.inner)[0],
            "module": posixpath.splitext(match.inner)[0].replace("/", "."),
        }

    def _name(self, template: str, value: str) -> str:
        return value if template == "{value}" else template.format(value=value, **self.parts)

    def definition(self, rule: DefineRule, value: Value) -> Definition:
        return Definition(
            kind=rule.kind,
            name=self._name(rule.name, value.text),
            side=self.side if rule.side is None else rule.side,
            path=self.path,
            where=value.where,
            variant=self.words.get("variant", "") or rule.variant,
        )

    def references(self, rule: ReferRule, value: Value) -> Iterator[Reference]:
        """The references in a value: none, one, or as many as it lists."""
        texts = [value.text] if rule.split is None else [text for text in rule.split.split(value.text) if text]
        for text in texts:
            if (rule.skip is None or not rule.skip.search(text)) and (rule.only is None or rule.only.search(text)):
                name, *others = self._looked_up(rule, self._name(rule.name, unquote(text) if rule.uri else text))
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
        bare = bool(rule.suffix) and not posixpath.splitext(name)[1]
        endings = rule.suffix if bare else ("",)
        bases = (self.parts["parent"],) if rule.beside else rule.under
        # A path that leads out of the map keeps its own spelling, for the check to tell.
        return [joined(base, name + ending) or name for base in bases for ending in endings]
