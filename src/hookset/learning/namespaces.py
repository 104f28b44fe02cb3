"""Files that are meant with the folder of their module in front: `shore:piece/lamp` is
`assets/shore/shapes/piece/lamp.json` where shapes are asked for."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator

from hookset.formats import format_named
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.said import Said
from hookset.learning.vocabulary import Vocabulary

__all__ = ["namespaced_vocabularies"]

_SPACED = re.compile(r"(?P<space>[\w.\-]+):[\w.\-]+(?:/[\w.\-]+)+")
_LEAST = 8
"""Texts that name files so, and files that may be meant."""


def namespaced_vocabularies(places: Iterable[Place], paths: Iterable[str]) -> Iterator[Vocabulary]:
    """For each sort of files that lie below a folder in the folders of modules: what these are called so. Which folders
    those of modules are, the texts at the `places` of a map say."""
    texts = {text for place in places for text in place.counts if ":" in text}
    spaces = Counter(found["space"] for text in texts if (found := _SPACED.fullmatch(text)) is not None)
    if spaces.total() < _LEAST:
        return
    nothing = format_named("any").open(b"", None)
    sorts: dict[tuple[str, str, str], dict[str, str]] = {}
    for path in paths:
        stem, ending = posixpath.splitext(path)
        steps = stem.split("/")
        for at, step in enumerate(steps[:-2]):
            if step in spaces:
                name = f"{step}:{'/'.join(steps[at + 2 :])}"
                sorts.setdefault(("/".join(steps[:at]), steps[at + 1], ending), {})[path] = name
    for (above, folder, ending), names in sorts.items():
        deep = sum("/" in name for name in names.values())
        if len(names) < _LEAST or 2 * deep < len(names):
            # What lies in one folder is called as much else is.
            continue
        said = Said()
        for path, name in names.items():
            said.add(name, path, 0)
        top = f"{above}/" if above else ""
        glob = f"{top}{{module}}/{folder}/**/*{ending}"
        files = Sort("any", {}, dict.fromkeys(names, nothing), (glob,))
        place = Place(files, {"name": "{module}:{inner}"}, "thing", folder, "", said)
        yield Vocabulary(place, place.counts)
