"""Texts that go beside a line of another file of the map: "in captions, right under the line with harbour.rung"."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping
from functools import lru_cache

from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.words import words
from hookset.authoring.draft.site import Site
from hookset.formats import format_named
from hookset.model import CouldNotError
from hookset.packs.hooksheet import HookEntry
from hookset.trees import decode

__all__ = ["anchored"]

_TOKEN = re.compile(
    r"[`\"'“„](?P<quoted>[^`\"'“”„\n]{3,80})[`\"'”“]|(?<![\w.:-])(?P<bare>[\w-]+(?:(?:::|[.:])[\w-]+)+(?:\(\))?)"
)
_SMALL = 200_000


def anchored(site: Site, chunk: Chunk) -> HookEntry | None:
    """The text as an entry above or below a line that the words around it name; None where they name none, or where it
    is not sure which."""
    said = chunk.near[-1].text if chunk.near else ""
    if chunk.inline:
        said = said.partition(chunk.text)[0]
    way = _way(said)
    if way is None:
        return None
    direction, rest = way
    files = _texts(site)
    named = [
        path for stem, path in files.items() if re.search(rf"(?<![\w./-]){re.escape(stem)}(?![\w-])(?!\.\w)", said)
    ]
    if len(named) != 1:
        return None
    try:
        text = decode(site.tree.read(named[0]), ("utf-8", "cp1252")).string
    except CouldNotError:
        return None
    for token in _tokens(rest):
        rows = [row.strip() for row in text.splitlines() if token in row]
        if len(rows) == 1 and text.count(rows[0]) == 1:
            anchor = {"after": rows[0]} if direction == "below" else {"before": rows[0]}
            return HookEntry(file=named[0], text=chunk.text.strip("\n"), **anchor)  # type: ignore[arg-type]
    return None


def _way(said: str) -> tuple[str, str] | None:
    """`below` or `above`, and what stands behind that word."""
    found = [
        (match.end(), direction)
        for direction, source in words()["beside"].items()
        for match in re.finditer(source, said, re.IGNORECASE)
    ]
    if not found:
        return None
    end, direction = max(found)
    return direction, said[end:]


def _tokens(text: str) -> Iterator[str]:
    for match in _TOKEN.finditer(text):
        yield match["quoted"] or match["bare"]


def _texts(site: Site) -> Mapping[str, str]:
    """The map's texts by what notes call them: their path, their name, and that without its ending, where only one is
    called so. Those with seats are found by their seats."""
    seats = {one.path for one in site.seat_files}
    return _named(tuple(path for path in site.tree.paths() if path not in seats and _takes_text(site, path)))


def _takes_text(site: Site, path: str) -> bool:
    rule = site.layout.text_rule(path)
    return rule is not None and "text" in format_named(rule.format).bodies and site.tree.size(path) <= _SMALL


@lru_cache(maxsize=8)
def _named(paths: tuple[str, ...]) -> Mapping[str, str]:
    found: dict[str, set[str]] = {}
    for path in paths:
        name = posixpath.basename(path)
        for word in {path, name, posixpath.splitext(name)[0]}:
            found.setdefault(word, set()).add(path)
    return {word: next(iter(ones)) for word, ones in found.items() if len(ones) == 1 and len(word) > len("main")}
