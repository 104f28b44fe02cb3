"""Scripts as others ask for them: by the way to their file from some folder, with dots between."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Sequence

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.said import Said
from hookset.learning.vocabulary import Vocabulary

__all__ = ["module_vocabularies"]

_SCRIPTS = ("lua", "ecmascript", "gdscript", "text")


def module_vocabularies(sorts: Sequence[Sort]) -> Iterator[Vocabulary]:
    """For each folder with scripts below it: what these are called from there."""
    for sort in sorts:
        if sort.format not in _SCRIPTS:
            continue
        by_ending: dict[str, list[str]] = {}
        for path in sort.paths:
            by_ending.setdefault(posixpath.splitext(path)[1], []).append(path)
        for ending, paths in by_ending.items():
            for folder in sorted({above for path in paths for above in _above(path)}):
                inside = [path for path in paths if path.startswith(f"{folder}/") or not folder]
                said = Said()
                for path in inside:
                    inner = path[len(folder) + 1 if folder else 0 :].removesuffix(ending)
                    said.add(inner.replace("/", "."), path, 0)
                glob = f"{folder}/**/*{ending}" if folder else f"**/*{ending}"
                files = Sort("any", {}, {path: sort.documents[path] for path in inside}, (glob,))
                place = Place(files, {"name": "{module}"}, "module", "script", posixpath.basename(folder), said)
                yield Vocabulary(place, place.counts)


def _above(path: str) -> Iterator[str]:
    """The folders around a file, the map's top as well."""
    folder = posixpath.dirname(path)
    while folder:
        yield folder
        folder = posixpath.dirname(folder)
    yield ""
