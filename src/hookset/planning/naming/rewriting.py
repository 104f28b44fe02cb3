"""Rewrite names in files: for what is moved, renamed, claimed, or has another word in this map."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct, field

from hookset.config.layouts import Layout, map_words
from hookset.formats import Document, Edit, Unreadable, format_named, open_file, spliced
from hookset.formats.document import Writable
from hookset.model import CouldNotError, Where, sides_meet
from hookset.symbols import FileFacts
from hookset.symbols.index import fits
from hookset.symbols.reading import read_file
from hookset.symbols.spelling import rewritten
from hookset.trees import Content, EmptyTree, Inline, Overlay, Text, Tree

__all__ = [
    "Entangled",
    "NameMap",
    "Names",
    "RewrittenFile",
    "added_names",
    "by_path_names",
    "facts_of",
    "named_by_words",
    "rewrite_names",
    "swapped",
]


Names = dict[tuple[str, str, str], str]
"""(kind, name, side) → what it is to be called; the side is empty for names that every side has."""


class NameMap(Struct, frozen=True):
    """Names with their new spelling. They are compared as the layout's kinds compare them."""

    layout: Layout
    names: Mapping[tuple[str, str], tuple[tuple[str, str], ...]] = field(default_factory=dict)
    """By kind and name: (side, new name) of each."""

    def new(self, kind: str, name: str, side: str) -> str | None:
        """Return the new name; None if the name does not change."""
        found = self.names.get((kind, self.layout.kinds[kind].key(name)), ())
        return next((new for of, new in found if sides_meet(of, side)), None)

    def __bool__(self) -> bool:
        return bool(self.names)

    @classmethod
    def of(cls, layout: Layout, names: Names) -> NameMap:
        """Build the map; names are compared as their kind compares them."""
        keyed: dict[tuple[str, str], tuple[tuple[str, str], ...]] = {}
        everywhere = {(one, old, side): new for (kind, old, side), new in names.items() for one in layout.kin[kind]}
        for (kind, old, side), new in everywhere.items():
            if new != old:
                key = (kind, layout.kinds[kind].key(old))
                keyed[key] = (*keyed.get(key, ()), (side, new))
        return cls(layout, keyed)


class Entangled(Struct, frozen=True):
    """A name of another kind that is written as one and the same value as a name that changes, and changes with it."""

    kind: str
    name: str
    new: str


class RewrittenFile(Struct, frozen=True):
    """A file with its names as they are to be."""

    content: Content | None
    """None where nothing changes."""
    left: tuple[tuple[Where, str], ...] = ()
    """Names that could not be rewritten, or are built at run time and may mean one of those: where, and as written."""
    edits: tuple[Edit, ...] = ()
    text: Text | None = None
    """The file as it was, which the edits are of."""
    entangled: tuple[Entangled, ...] = ()


_Known = dict[tuple[str, str, bool, bool], str]
"""What was found right: (kind, as written, whether it defines, whether that is the whole value) → as it is to be."""


class _Open(Struct, frozen=True):
    """A file that names are rewritten in."""

    tree: Tree
    layout: Layout
    facts: FileFacts
    """What it says as it is."""
    text: Text
    document: Document

    def edited(self, edits: Sequence[Edit]) -> FileFacts | None:
        """What it says with these edits; None where they break it."""
        changed = Inline(self.text.encode(spliced(self.text.string, edits)))
        after = facts_of(Overlay(self.tree, {self.facts.path: changed}), self.layout, self.facts.path)
        return after if len(after.problems) <= len(self.facts.problems) else None


class _Named(Struct, frozen=True):
    """One name in a file that is to change."""

    kind: str
    old: str
    new: str
    written: str
    where: Where
    defines: bool


def facts_of(tree: Tree, layout: Layout, path: str) -> FileFacts:
    """Return what one file of a tree says."""
    return read_file(tree, path, layout, map_words(tree, layout))


def by_path_names(tree: Tree, layout: Layout, path: str, new: str) -> Names:
    """The names that a file has by lying where it does, and what they become when it lies elsewhere."""
    words = map_words(tree, layout)
    found: Names = {}
    for rule in layout.reads:
        here, there = rule.match(path), rule.match(new)
        if rule.format != "any" or here is None or there is None:
            continue
        bare = Overlay(tree, {path: Inline(b""), new: Inline(b"")})
        one, other = (_by_path(read_file(bare, at, layout, words)) for at in (path, new))
        found |= {(k, name, side): other[k][0] for k, (name, side) in one.items() if other.get(k, (name,))[0] != name}
    return found


def named_by_words(layout: Layout, path: str, old: Mapping[str, str], new: Mapping[str, str]) -> Names:
    """The names that a file has by lying where it does in a map of one name, and those in a map of another."""
    rules = [rule for rule in layout.reads if rule.format == "any" and rule.match(path) is not None]
    if not any({"map", "version"} & define.name.fields for rule in rules for define in rule.defines):
        return {}
    bare = Overlay(EmptyTree(), {path: Inline(b"")})
    one, other = (_by_path(read_file(bare, path, layout, words)) for words in (old, new))
    return {(k, name, side): other[k][0] for k, (name, side) in one.items() if other.get(k, (name,))[0] != name}


def _by_path(facts: FileFacts) -> dict[str, tuple[str, str]]:
    return {block.kind: (block.names[0], block.side) for block in facts.defined if len(block.names) == 1}


def added_names(
    before: FileFacts | None, after: FileFacts
) -> tuple[Counter[tuple[str, ...]], Counter[tuple[str, ...]]]:
    """(definitions, references) that are in the later facts of a file and not in the earlier ones."""

    def counted(facts: FileFacts | None) -> tuple[Counter[tuple[str, ...]], Counter[tuple[str, ...]]]:
        if facts is None:
            return Counter(), Counter()
        return (
            Counter((d.kind, d.name, d.side, d.variant) for d in facts.definitions),
            Counter((r.kind, r.name, r.side, r.written) for r in facts.references),
        )

    (old_defined, old_referred), (defined, referred) = counted(before), counted(after)
    return defined - old_defined, referred - old_referred


def rewrite_names(tree: Tree, layout: Layout, path: str, names: NameMap, came_from: str = "") -> RewrittenFile:
    """A file of the tree with every name in it as the map of names says. Other characters stay as they are.

    `came_from`: where it lay when its paths were written, if that was elsewhere."""
    rule = layout.text_rule(path)
    if rule is None or not names:
        return RewrittenFile(None)
    facts = facts_of(tree, layout, path)
    wanted = list(_wanted(facts, names))
    if came_from and came_from != path:
        wanted += _from_elsewhere(tree, layout, facts, came_from, names)
    left = [(where, written) for where, written in _patterns(facts, names)]
    if not wanted:
        return RewrittenFile(None, tuple(left))
    try:
        form = format_named(rule.format)
        text, document = open_file(form, tree.read(path), rule.encodings, rule.options)
    except (Unreadable, CouldNotError):
        return RewrittenFile(None, tuple((one.where, one.written) for one in wanted))
    file = _Open(tree, layout, facts, text, document)
    spans = _spans(document, text, wanted)
    edits: list[Edit] = []
    held: list[_Named] = []
    known: _Known = {}
    for one in wanted:
        span = spans.get(one.where)
        edit = _edit(file, one, span, known) if span is not None else None
        if edit is None:
            if not one.defines or one.where != 0:
                # A name that comes of where a file lies stands nowhere in it.
                left.append((one.where, one.written))
        elif any(edit.start < other.end and other.start < edit.end and edit != other for other in edits):
            # One value that is two names, which would become two.
            left.append((one.where, one.written))
        else:
            held.append(one)
            edits += [edit] if edit not in edits else []
    if edits and not _all_named(file, edits, held):
        # What fits in one place may not in another: each is looked at by itself.
        edits, left = _one_by_one(file, wanted, spans, left)
    if not edits:
        return RewrittenFile(None, tuple(left))
    content = Inline(text.encode(spliced(text.string, edits)))
    return RewrittenFile(content, tuple(left), tuple(edits), text, tuple(_entangled(facts, names, wanted)))


def _spans(document: Document, text: Text, wanted: Sequence[_Named]) -> dict[Where, tuple[int, int]]:
    """The characters of each name where it stands as it is, and of the value that it is part of where not."""
    found: dict[Where, tuple[int, int]] = {}
    for one in wanted:
        if not isinstance(one.where, int) or not one.written or (one.defines and one.where == 0):
            # A name that comes of where a file lies stands nowhere in it.
            continue
        if text.string.startswith(one.written, one.where):
            found[one.where] = (one.where, one.where + len(one.written))
    return {**document.spans({one.where for one in wanted} - found.keys()), **found}


def _entangled(facts: FileFacts, names: NameMap, wanted: Sequence[_Named]) -> Iterator[Entangled]:
    """Path kinds are left out: their names follow from where the file lies."""
    changed = {one.where: one for one in wanted}
    said = [(r.kind, r.name, r.side, r.where, r.written) for r in facts.references if not r.pattern]
    said += [(d.kind, d.name, d.side, d.where, d.name) for d in facts.definitions]
    for kind, name, side, where, written in said:
        one = changed.get(where)
        if one is None or kind == one.kind or names.layout.kinds[kind].entry.path or written != one.written:
            continue
        if names.new(kind, name, side) is None:
            yield Entangled(kind, name, one.new)


def _all_named(file: _Open, edits: Sequence[Edit], wanted: Sequence[_Named]) -> bool:
    """Whether the edited file says as much as before, and every name that was to be another one."""
    after = file.edited(edits)
    return after is not None and _said(file.facts) == _said(after) and all(_names(after, one) for one in wanted)


def _said(facts: FileFacts) -> tuple[int, int]:
    """How many names a file defines and refers to."""
    return sum(len(one.names) for one in facts.defined), sum(len(one.names) for one in facts.referred)


def _one_by_one(
    file: _Open,
    wanted: Sequence[_Named],
    spans: Mapping[Where, tuple[int, int]],
    left: list[tuple[Where, str]],
) -> tuple[list[Edit], list[tuple[Where, str]]]:
    """The edits that hold beside those before them."""
    edits: list[Edit] = []
    for one in wanted:
        span = spans.get(one.where)
        edit = _edit(file, one, span, {}) if span is not None else None
        apart = edit is not None and not any(edit.start < other.end and other.start < edit.end for other in edits)
        if edit is not None and apart and _all_named(file, [*edits, edit], [one]):
            edits.append(edit)
        elif edit not in edits and (one.where, one.written) not in left and (not one.defines or one.where != 0):
            left.append((one.where, one.written))
    return edits, left


def _wanted(facts: FileFacts, names: NameMap) -> Iterator[_Named]:
    for reference in facts.references:
        if not reference.pattern and (new := names.new(reference.kind, reference.name, reference.side)) is not None:
            yield _Named(reference.kind, reference.name, new, reference.written, reference.where, defines=False)
    for block in facts.defined:
        for row, name in enumerate(block.names):
            new = names.new(block.kind, name, block.side)
            if new is not None:
                yield _Named(block.kind, name, new, name, block.where(row), defines=True)


def _from_elsewhere(tree: Tree, layout: Layout, facts: FileFacts, came_from: str, names: NameMap) -> Iterator[_Named]:
    """Paths that count from the file's own folder, which is another one now."""
    there = facts_of(Overlay(tree, {came_from: Inline(tree.read(facts.path))}), layout, came_from)
    for was, now in zip(there.references, facts.references, strict=False):
        meant = names.new(was.kind, was.name, was.side) or was.name
        if was.written == now.written and now.name not in (was.name, meant):
            yield _Named(now.kind, now.name, meant, now.written, now.where, defines=False)


def _patterns(facts: FileFacts, names: NameMap) -> Iterator[tuple[Where, str]]:
    for reference in facts.references:
        fixed = reference.pattern and reference.name.strip("*")
        if fixed and any(k == reference.kind and fits(reference.name, old) for k, old in names.names):
            yield reference.where, reference.written


def _edit(file: _Open, one: _Named, span: tuple[int, int], known: _Known) -> Edit | None:
    """The edit that makes the file name what it is to name; the first of its sort is read again to see that it does."""
    start, end = span
    inside = file.text.string[start:end]
    ways = tuple(rewritten(file.layout, file.facts.path, one.written, one.old, one.new))
    if inside == one.written and isinstance(document := file.document, Writable):
        # What is written as a plain word may have to stand in quotes.
        if (right := known.get((one.kind, inside, one.defines, True))) is not None:
            return Edit(start, end, right)
        for edit in (edit for way in ways for edit in document.writings(span, way)):
            if _all_named(file, [edit], [one]):
                known[one.kind, inside, one.defines, True] = edit.text
                return edit
    doubled = one.written.replace("\\", "\\\\")
    for old in dict.fromkeys((doubled, one.written)):
        if not old or inside.count(old) != 1:
            continue
        at = start + inside.index(old)
        if (right := known.get((one.kind, old, one.defines, False))) is not None:
            return Edit(at, at + len(old), right)
        for way in ways:
            new = way.replace("\\", "\\\\") if old == doubled and "\\" in one.written else way
            edit = Edit(at, at + len(old), new)
            if _all_named(file, [edit], [one]):
                known[one.kind, old, one.defines, False] = new
                return edit
    return None


def _names(facts: FileFacts, one: _Named) -> bool:
    if one.defines:
        return any(d.kind == one.kind and d.name == one.new for d in facts.definitions)
    return any(r.kind == one.kind and one.new in (r.name, *r.others) for r in facts.references)


def swapped(value: Any, old: str, new: str) -> Any:
    """An entry's text or record with one name for another."""
    if isinstance(value, str):
        return re.sub(rf"(?<![\w-]){re.escape(old)}(?![\w-])", lambda _: new, value)
    if isinstance(value, Mapping):
        return {key: swapped(below, old, new) for key, below in value.items()}
    return [swapped(below, old, new) for below in value] if isinstance(value, list | tuple) else value
