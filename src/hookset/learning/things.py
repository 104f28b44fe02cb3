"""Things that have a folder of their own: `units/worker/worker.xml`, in which a file is called so, or one of
`bodies/worker/config.xml`, in which a file is called as in all of them."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Mapping, Sequence

from hookset.learning.material import Sort
from hookset.learning.place import Form, Place, Said
from hookset.learning.vocabulary import Vocabulary

__all__ = ["thing_vocabularies"]

_LEAST, _FOLDERS = 2, 4
"""Things at least, where files are called so, and where they are called alike."""


def thing_vocabularies(sorts: Sequence[Sort]) -> Iterator[Vocabulary]:
    """For each folder whose folders hold files of their name, or of one name: what those are called. Folders of the
    same name are one, wherever they lie."""
    called: dict[tuple[str, str], dict[str, Sort]] = {}
    alike: dict[tuple[str, str], dict[str, Sort]] = {}
    for sort in sorts:
        for path in sort.paths:
            folder, name = posixpath.split(path)
            stem, ending = posixpath.splitext(name)
            above, own = posixpath.split(folder)
            if stem == own and above:
                called.setdefault((posixpath.basename(above), ending), {})[path] = sort
            elif own and stem != own:
                alike.setdefault((posixpath.basename(above), name), {})[path] = sort
    for (around, ending), mine in called.items():
        yield from _named(around, f"{{thing}}/{{thing}}{ending}", mine, "thing", _LEAST)
    for (around, name), mine in alike.items():
        yield from _named(around, f"{{thing}}/{name}", mine, "folder", _FOLDERS)


def _named(around: str, inner: str, mine: Mapping[str, Sort], form: Form, least: int) -> Iterator[Vocabulary]:
    said = Said()
    for path in mine:
        said.add(posixpath.basename(posixpath.dirname(path)), path, 0)
    glob = f"**/{around}/{inner}" if around else inner
    documents = {path: sort.documents[path] for path, sort in mine.items()}
    place = Place(Sort("any", {}, documents, (glob,)), {"name": "{thing}"}, form, around, "", said)
    if len(place.counts) >= least:
        yield Vocabulary(place, place.counts)
