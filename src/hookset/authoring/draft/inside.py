"""What a pack is made of, before anything is asked about its names: sorts of files, notes, licence, programs."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from pathlib import PurePosixPath

from msgspec import Struct

from hookset.authoring.draft.notes import Notes, is_licence, is_notes, read_notes
from hookset.packs import Pack
from hookset.packs.sorts import Sort, sorts_in

__all__ = ["Inside", "inside"]

_ENDINGS = {
    "PNG": ("png",),
    "JPEG": ("jpg", "jpeg", "jpe"),
    "GIF": ("gif",),
    "BMP": ("bmp",),
    "DDS": ("dds",),
    "WebP": ("webp",),
    "WAVE": ("wav", "wave"),
    "Ogg": ("ogg", "oga", "opus", "ogv"),
    "FLAC": ("flac",),
    "MP3": ("mp3",),
    "PDF": ("pdf",),
    "RTF": ("rtf",),
    "binary glTF": ("glb",),
}


class Inside(Struct, frozen=True):
    """The contents of a pack by kind of file, with warnings."""

    files: int
    size: int
    sorts: tuple[tuple[str, int, tuple[str, ...]], ...]
    """(sort, how many, of which forms), the commonest first."""
    notes: tuple[Notes, ...]
    licences: tuple[tuple[str, str], ...]
    """(path, the first lines of it)."""
    warnings: tuple[str, ...]


def inside(pack: Pack) -> Inside:
    """Look at every file's first bytes, and read notes and licence."""
    sorts = sorts_in(pack.tree)
    notes = read_notes(pack.tree, tuple(path for path in sorts if is_notes(path)))
    return Inside(
        files=len(sorts),
        size=sum(pack.tree.size(path) for path in sorts),
        sorts=tuple(_counted(sorts)),
        notes=notes,
        licences=tuple((path, _head(pack, path)) for path in sorts if is_licence(path)),
        warnings=tuple(_warnings(sorts)),
    )


def _counted(sorts: Mapping[str, Sort]) -> Iterator[tuple[str, int, tuple[str, ...]]]:
    words = Counter("notes" if is_notes(path) else sort.word for path, sort in sorts.items())
    for word, count in words.most_common():
        forms = {sort.form for path, sort in sorts.items() if sort.word == word and sort.form and not is_notes(path)}
        yield word, count, tuple(sorted(forms))


def _head(pack: Pack, path: str) -> str:
    with pack.tree.open(path) as stream:
        text = stream.read(2000).decode("utf-8", "replace")
    return "\n".join(line.strip() for line in text.splitlines() if line.strip())[:300]


def _warnings(sorts: Mapping[str, Sort]) -> Iterator[str]:
    for path, sort in sorts.items():
        ending = PurePosixPath(path).suffix.lower().removeprefix(".")
        if sort.runs:
            yield f"{path} is a program ({sort.form}): nothing in a map needs one, and it is never installed"
        elif sort.form in _ENDINGS and ending not in _ENDINGS[sort.form] and ending in _all_endings():
            yield f"{path} is {sort.form} by its content, whatever its name says"
        elif re.match(r"a ZIP that is called", sort.form):
            yield f"{path} is {sort.form}"
        elif sort.word == "empty":
            yield f"{path} is empty"


def _all_endings() -> frozenset[str]:
    return frozenset(ending for endings in _ENDINGS.values() for ending in endings)
