"""Lines and columns, for what is shown only. Files are opened again for it, each once."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.core.formats import Document, Unreadable, format_named, text_of
from hookset.core.layouts import Layout, ReadRule
from hookset.core.model import CouldNotError, Spot, Where
from hookset.core.trees import Text, Tree, line_and_column

__all__ = ["spots"]


def spots(tree: Tree, layout: Layout, places: Iterable[tuple[str, Where]]) -> dict[tuple[str, Where], Spot]:
    """The spot of each (path, where). A place in a file that cannot be read any more is the file as a whole."""
    by_path: dict[str, set[Where]] = {}
    for path, where in places:
        by_path.setdefault(path, set()).add(where)
    found: dict[tuple[str, Where], Spot] = {}
    for path, wheres in by_path.items():
        for where, (line, column) in _in_file(tree, layout, path, wheres).items():
            found[path, where] = Spot(path, line, column)
        for where in wheres:
            found.setdefault((path, where), Spot(path))
    return found


def _in_file(tree: Tree, layout: Layout, path: str, wheres: set[Where]) -> dict[Where, tuple[int, int]]:
    found: dict[Where, tuple[int, int]] = {}
    for rule in layout.reads:
        form = format_named(rule.format)
        if form.binary or rule.match(path) is None or not tree.has(path):
            continue
        try:
            text = text_of(form, tree.read(path), rule.encodings)
        except CouldNotError:
            continue
        found |= {where: line_and_column(text.string, where) for where in wheres if isinstance(where, int)}
        addresses: set[Where] = {where for where in wheres if isinstance(where, str) and where not in found}
        if addresses and (document := _document(text, rule)) is not None:
            found |= {
                where: line_and_column(text.string, start) for where, (start, _) in _spans(document, addresses).items()
            }
    return found


def _document(text: Text, rule: ReadRule) -> Document | None:
    try:
        return format_named(rule.format).open(text, rule.options)
    except Unreadable:
        return None


def _spans(document: Document, addresses: set[Where]) -> dict[Where, tuple[int, int]]:
    """Spans of the addresses; one that is not itself there (a key that is lacking) stands where its owner does."""
    found = document.spans(addresses)
    owners = {where: str(where).rpartition("/")[0] for where in addresses - found.keys() if str(where).count("/") > 1}
    if owners:
        above = document.spans(set(owners.values()))
        found |= {where: above[owner] for where, owner in owners.items() if owner in above}
    return found
