"""Lines and columns, for what is shown only. Files are opened again for it, each once."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.config.layouts import Layout, ReadRule
from hookset.formats import Unreadable, format_named, text_of
from hookset.model import CouldNotError, Spot, Where
from hookset.symbols.cache import FactsCache
from hookset.symbols.collect import Web
from hookset.trees import Overlay, Text, Tree, lines_and_columns

__all__ = ["spots", "spots_in", "spots_in_file"]


def spots_in(web: Web, places: Iterable[tuple[str, Where]], cache: FactsCache | None) -> dict[tuple[str, Where], Spot]:
    """The same for a map that was read, most of whose findings are those of the last time."""
    wanted = set(places)
    if cache is None or not wanted or isinstance(web.tree, Overlay):
        return spots(web.tree, web.layout, wanted)
    kept = {place: spot for place, spot in cache.spots(web.tree, web.layout, web.words).items() if place in wanted}
    fresh = wanted - kept.keys()
    found = kept | spots(web.tree, web.layout, fresh)
    if fresh:
        cache.keep_spots(web.tree, found)
    return found


def spots(tree: Tree, layout: Layout, places: Iterable[tuple[str, Where]]) -> dict[tuple[str, Where], Spot]:
    """The spot of each (path, where). A place in a file that cannot be read any more is the file as a whole."""
    by_path: dict[str, set[Where]] = {}
    for path, where in places:
        by_path.setdefault(path, set()).add(where)
    found: dict[tuple[str, Where], Spot] = {}
    for path, wheres in by_path.items():
        for where, (line, column) in spots_in_file(tree, layout, path, wheres).items():
            found[path, where] = Spot(path, line, column)
        for where in wheres:
            found.setdefault((path, where), Spot(path))
    return found


def spots_in_file(tree: Tree, layout: Layout, path: str, wheres: set[Where]) -> dict[Where, tuple[int, int]]:
    """(line, column), from one, of places in one file, as far as they can still be found."""
    found: dict[Where, tuple[int, int]] = {}
    texts: dict[tuple[str, tuple[str, ...]], Text] = {}
    for rule in layout.reads:
        form = format_named(rule.format)
        if form.binary or rule.match(path) is None or not tree.has(path):
            continue
        way = rule.format, rule.encodings
        try:
            # Several rules look into one file, which may be large.
            text = texts[way] if way in texts else text_of(form, tree.read(path), rule.encodings)
        except CouldNotError:
            continue
        texts[way] = text
        lines = lines_and_columns(text.string, [where for where in wheres if isinstance(where, int)])
        found |= {offset: place for offset, place in lines.items()}  # noqa: C416 - keys of a wider type
        addresses: set[Where] = {where for where in wheres if isinstance(where, str) and where not in found}
        if addresses:
            spans = _spans(text, rule, addresses)
            lines = lines_and_columns(text.string, [start for start, _ in spans.values()])
            found |= {where: lines[start] for where, (start, _) in spans.items()}
    return found


def _spans(text: Text, rule: ReadRule, addresses: set[Where]) -> dict[Where, tuple[int, int]]:
    """Spans of the addresses; a missing key stands where its owner does."""
    form = format_named(rule.format)
    try:
        found = form.locate(text, rule.options, addresses)
    except Unreadable:
        return {}
    owners = {where: str(where).rpartition("/")[0] for where in addresses - found.keys() if str(where).count("/") > 1}
    if owners:
        above = form.locate(text, rule.options, set(owners.values()))
        found |= {where: above[owner] for where, owner in owners.items() if owner in above}
    return found
