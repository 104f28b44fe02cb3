"""Files of a sort: a thing whose table says `sort: post` goes where the map keeps its own that say so, with all that
belongs to it."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence

from hookset.authoring.draft.site import Site
from hookset.model import CouldNotError
from hookset.trees import decode

__all__ = ["beside_kin"]

_PAIR = re.compile(
    r"^[ \t{]*[\"']?(?P<key>[A-Za-z][\w-]*)[\"']?[ \t]*[:=][ \t]*[\"']?(?P<value>[\w-]+)[\"']?[ \t]*,?[ \t]*$",
    re.MULTILINE,
)
_TABLES = (".yaml", ".yml", ".json", ".toml", ".ini", ".xml")
_SMALL = 100_000
_MOST = 400
"""Files of the map that are looked into."""


def beside_kin(site: Site, texts: Mapping[str, str], paths: Sequence[str]) -> Iterator[tuple[str, str, str]]:
    """(path, folder of the map, the pair that says so) for each table of the pack whose like all lie in one folder, and
    for what lies beside it and is called as it is."""
    tables = {path: text for path, text in texts.items() if posixpath.splitext(path)[1].casefold() in _TABLES}
    for path, text in tables.items() if tables else ():
        ending = posixpath.splitext(path)[1].casefold()
        folders = _folders(site, ending)
        found = Counter[tuple[str, str]]()
        for pair in set(_pairs(text)):
            # A pair tells something only where others of its key say otherwise elsewhere.
            here = folders.get(pair, set())
            like = {one for other, ones in folders.items() if other[0] == pair[0] for one in ones}
            if len(here) == 1 and len(like) > 1:
                found[next(iter(here)), f"{pair[0]}: {pair[1]}"] += 1
        if len({folder for folder, _ in found}) == 1:
            (folder, told), _ = found.most_common(1)[0]
            yield from ((one, folder, told) for one in _companions(path, paths))


def _pairs(text: str) -> Iterator[tuple[str, str]]:
    return ((match["key"], match["value"]) for match in _PAIR.finditer(text))


def _folders(site: Site, ending: str) -> dict[tuple[str, str], set[str]]:
    """By what the map's files of an ending say: the folders that those which say it lie in."""
    found: dict[tuple[str, str], set[str]] = {}
    paths = [path for path in site.tree.paths() if path.casefold().endswith(ending) and site.tree.size(path) <= _SMALL]
    for path in paths[:_MOST]:
        try:
            text = decode(site.tree.read(path), ("utf-8", "cp1252")).string
        except CouldNotError:
            continue
        for pair in set(_pairs(text)):
            found.setdefault(pair, set()).add(posixpath.dirname(path))
    return found


def _companions(path: str, paths: Sequence[str]) -> Iterator[str]:
    """The file, and those of its name beside it; all of its folder where the folder is called like it."""
    folder, stem = posixpath.dirname(path), posixpath.splitext(posixpath.basename(path))[0]
    whole = posixpath.basename(folder) == stem
    for other in paths:
        if posixpath.dirname(other) == folder and (whole or posixpath.splitext(posixpath.basename(other))[0] == stem):
            yield other
