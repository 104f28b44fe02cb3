"""How a map is put together, in a layout: what is loaded, what must be listed, where entries go."""

from __future__ import annotations

from collections.abc import Iterator

from hookset.learning.arrangement import Arrangement
from hookset.learning.kinds import ROW
from hookset.learning.loading import LearnedLoading
from hookset.learning.manifests import LearnedManifest
from hookset.learning.seats import LearnedSeat
from hookset.learning.toml_values import one_line, value_text
from hookset.learning.vocabulary import Vocabulary

__all__ = ["arrangement_text", "loaded_by_name"]


def arrangement_text(arrangement: Arrangement) -> Iterator[str]:
    """The lines of it."""
    manifest = arrangement.manifest
    if arrangement.loading is not None:
        yield from _loading(arrangement.loading)
    if manifest is not None:
        yield from _manifest(manifest)
    for seat in arrangement.seats:
        if manifest is None or (seat.file, dict(seat.put)) != (manifest.file, dict(manifest.put)):
            yield from _seat(seat)


def loaded_by_name(vocabulary: Vocabulary, loading: LearnedLoading) -> bool:
    """Whether names count only where something loads their file."""
    paths = {*vocabulary.place.said.paths.different}
    return (
        not vocabulary.outside
        and vocabulary.place.form not in ("module", "thing", "folder")
        and len(paths & loading.by_name) * 2 > len(paths)
    )


def _loading(loading: LearnedLoading) -> Iterator[str]:
    yield ""
    for pattern, named, there in loading.groups:
        yield f"# Others name {named:,} of {there:,} files {pattern}: what nobody names there is not loaded."
    yield "[reached]"
    yield f"files = {value_text(list(loading.roots))}"


def _manifest(manifest: LearnedManifest) -> Iterator[str]:
    seat = "list" if manifest.put else ""
    yield ""
    for rows in manifest.rows:
        yield f"# {rows.listed:,} of {rows.there:,} files {rows.files} are in it, and most of them are used elsewhere."
    yield "[manifest]"
    yield f"file = {value_text(manifest.sort.globs[0])}"
    yield f"row = {value_text(ROW)}"
    if seat:
        yield f"seat = {value_text(seat)}"
    yield "rows = ["
    for rows in manifest.rows:
        yield f"  {value_text({'files': rows.files, 'row': rows.row})},"
    yield "]"
    if seat:
        yield ""
        yield "[[seat]]"
        yield f"name = {value_text(seat)}"
        yield 'title = "in the list of what is in the map"'
        yield f"file = {value_text(manifest.file)}"
        yield f"put = {value_text(dict(manifest.put))}"


def _seat(seat: LearnedSeat) -> Iterator[str]:
    yield ""
    yield "[[seat]]"
    yield f"name = {value_text(seat.name)}"
    yield f"title = {value_text(one_line(seat.title))}"
    yield f"file = {value_text(seat.file)}"
    if seat.kind:
        yield f"kind = {value_text(seat.kind)}"
    if seat.put:
        yield f"put = {value_text(dict(seat.put))}"
