"""Things that have a folder of their own: `units/worker/worker.xml`, in which a file is called so, or one of
`bodies/worker/config.xml`, in which a file is called as in all of them: pictures and sounds as well."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Mapping, Sequence

from hookset.formats import Document, format_named
from hookset.learning.material import Sort
from hookset.learning.place import Form, Place
from hookset.learning.said import Said
from hookset.learning.vocabulary import Vocabulary

__all__ = ["thing_vocabularies"]

_LEAST, _FOLDERS = 2, 4
"""Things at least, where files are called so, and where they are called alike."""
_BEGUN = ("index", "init", "main")
_Files = dict[str, Document]


def thing_vocabularies(sorts: Sequence[Sort], media: Mapping[str, Sequence[str]]) -> Iterator[Vocabulary]:
    """For each folder whose folders hold files of their name, or of one name: what those are called. Folders of the
    same name are one, wherever they lie. `media` are paths of pictures and sounds, by the format that reads them."""
    called: dict[tuple[str, str], _Files] = {}
    alike: dict[tuple[str, str], _Files] = {}
    for sort in sorts:
        for path, document in sort.documents.items():
            folder, name = posixpath.split(path)
            stem, ending = posixpath.splitext(name)
            above, own = posixpath.split(folder)
            if stem == own and above:
                called.setdefault((posixpath.basename(above), ending), {})[path] = document
            elif own and stem != own:
                alike.setdefault((posixpath.basename(above), name), {})[path] = document
    for (around, ending), mine in called.items():
        yield from _named(around, f"{{thing}}/{{thing}}{ending}", mine, "thing", _LEAST)
    # Where folders have several files alike, the one that everybody begins with stands for the thing.
    for (around, name), mine in sorted(alike.items(), key=lambda one: posixpath.splitext(one[0][1])[0] not in _BEGUN):
        yield from _named(around, f"{{thing}}/{name}", mine, "folder", _FOLDERS)
    known: dict[str, int] = {}
    for (around, _), mine in (*called.items(), *alike.items()):
        known[around] = max(len(mine), known.get(around, 0))
    for (around, name), mine in _of_media(media).items():
        # What is read says as much, but for meshes, of which some are.
        if len(mine) > known.get(around, 0):
            yield from _named(around, f"{{thing}}/{name}", mine, "folder", _FOLDERS)


def _of_media(media: Mapping[str, Sequence[str]]) -> dict[tuple[str, str], _Files]:
    """Of each folder: the pictures or sounds of the name that most of its folders have."""
    nothing = format_named("any").open(b"", None)
    alike: dict[str, dict[str, _Files]] = {}
    for path in (path for paths in media.values() for path in paths):
        folder, name = posixpath.split(path)
        above = posixpath.dirname(folder)
        if above:
            alike.setdefault(posixpath.basename(above), {}).setdefault(name, {})[path] = nothing
    most = {around: max(named, key=lambda name: len(named[name])) for around, named in alike.items()}
    return {(around, name): alike[around][name] for around, name in most.items()}


def _named(around: str, inner: str, mine: _Files, form: Form, least: int) -> Iterator[Vocabulary]:
    said = Said()
    for path in mine:
        said.add(posixpath.basename(posixpath.dirname(path)), path, 0)
    glob = f"**/{around}/{inner}" if around else inner
    place = Place(Sort("any", {}, mine, (glob,)), {"name": "{thing}"}, form, around, "", said)
    if len(place.counts) >= least:
        yield Vocabulary(place, place.counts)
