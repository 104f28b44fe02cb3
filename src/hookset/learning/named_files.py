"""Pictures and sounds that are meant by their names alone, in whichever of many folders they lie."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence

from hookset.formats import format_named
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.said import Said
from hookset.learning.vocabulary import Vocabulary

__all__ = ["named_file_vocabularies"]

_FOLDERS = 5
"""Folders that such files lie in at least: fewer can be named one by one."""
_MOSTLY, _ONCE = 0.8, 0.95
"""Of the folders: how many are called alike; of the names: how many are there once."""

_NAMES: Mapping[str, Callable[[str], str]] = {
    "name": str,
    "stem": lambda name: posixpath.splitext(name)[0],
    "base": lambda name: name.partition(".")[0],
}
"""What is meant of a file's name, by the word for it in layouts."""


def named_file_vocabularies(media: Mapping[str, Sequence[str]]) -> Iterator[Vocabulary]:
    """What the files of each format are called: with their ending, without, and up to the first dot. `media` are their
    paths."""
    nothing = format_named("any").open(b"", None)
    for form, paths in media.items():
        called = Counter(posixpath.basename(posixpath.dirname(path)) for path in paths)
        often = called.most_common(1)[0] if called else ("", 0)
        folder = often[0] if often[1] >= _MOSTLY * len(paths) else ""
        mine = [path for path in paths if not folder or posixpath.basename(posixpath.dirname(path)) == folder]
        if len(set(map(posixpath.dirname, mine))) < _FOLDERS:
            continue
        endings = sorted({posixpath.splitext(path)[1] for path in mine})
        globs = tuple(f"**/{folder}/*{ending}" if folder else f"**/*{ending}" for ending in endings)
        files = Sort("any", {}, dict.fromkeys(mine, nothing), globs)
        for word, called_so in _NAMES.items():
            said = Said()
            for path in mine:
                said.add(called_so(posixpath.basename(path)), path, 0)
            place = Place(files, {"name": f"{{{word}}}"}, "folder", folder or form, "", said)
            # `step.1.ogg` and `step.2.ogg` are one of which the game takes either.
            each = {(posixpath.dirname(path), text) for text, path in zip(said.texts, said.paths, strict=True)}
            if len(place.counts) >= _ONCE * len(each):
                yield Vocabulary(place, place.counts, anywhere=True)
