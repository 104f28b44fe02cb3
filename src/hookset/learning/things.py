"""Things that have a folder of their own, and in it a file that is called so: `units/worker/worker.xml`."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Sequence

from hookset.learning.material import Sort
from hookset.learning.place import Place, Said
from hookset.learning.vocabulary import Vocabulary

__all__ = ["thing_vocabularies"]

_LEAST = 2


def thing_vocabularies(sorts: Sequence[Sort]) -> Iterator[Vocabulary]:
    """For each folder whose folders hold files of their name: what those are called. Folders of the same name are one,
    wherever they lie."""
    found: dict[tuple[str, str], dict[str, Sort]] = {}
    for sort in sorts:
        for path in sort.paths:
            folder, name = posixpath.split(path)
            stem, ending = posixpath.splitext(name)
            above, own = posixpath.split(folder)
            if stem == own and above:
                found.setdefault((posixpath.basename(above), ending), {})[path] = sort
    for (around, ending), mine in found.items():
        said = Said()
        for path in mine:
            said.add(posixpath.splitext(posixpath.basename(path))[0], path, 0)
        glob = f"**/{around}/{{thing}}/{{thing}}{ending}"
        documents = {path: sort.documents[path] for path, sort in mine.items()}
        place = Place(Sort("any", {}, documents, (glob,)), {"name": "{thing}"}, "thing", around, "", said)
        if len(place.counts) >= _LEAST:
            yield Vocabulary(place, place.counts)
