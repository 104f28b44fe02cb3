"""Folders that the notes give to files of a sort: "wav in sounds, models and pictures into assets"."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence

from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.words import sorts_said
from hookset.authoring.draft.site import Site
from hookset.packs.sorts import Sort

__all__ = ["sorted_by_notes"]

_INTO = re.compile(
    r"(?:->|=>|→|(?<![\w-])(?:in|into|to|under|with|w/|nach|zu|unter|bei|dans|vers|sous)(?![\w-]))\s+"
    r"(?:(?:the|your|my|its|own|den|dem|die|das|der|eure[nrms]?|deine[nrms]?|le|la|les|votre|vos)\s+)*"
    r"[`\"'“„]?(?P<folder>[\w.-]+(?:[/\\][\w.-]+)*)[/\\]?",
    re.IGNORECASE,
)
_SENTENCE = re.compile(r"(?<=[;!?])\s+|(?<=\.)\s+|\n")
_ENDING = re.compile(r"(?<![\w.-])(?:\*?\.)?(?P<ending>[a-z0-9]{2,5}?)s?(?![\w-])(?!\.\w)", re.IGNORECASE)


def sorted_by_notes(site: Site, sorts: Mapping[str, Sort], notes: Sequence[Notes]) -> Iterator[tuple[str, str, str]]:
    """(path, folder of the map, `README.md:12`) for each file whose sort or ending the notes give a folder to."""
    given: set[str] = set()
    for one in notes:
        for line in (line for line in one.lines if not line.code):
            for sentence in _SENTENCE.split(line.text):
                for paths, folder in _in_sentence(site, sorts, sentence, given):
                    given |= set(paths)
                    yield from ((path, folder, f"{one.path}:{line.number}") for path in paths)


def _in_sentence(
    site: Site, sorts: Mapping[str, Sort], sentence: str, given: set[str]
) -> Iterator[tuple[list[str], str]]:
    """What stands before a folder goes into it, back to the folder before."""
    start = 0
    for match in _INTO.finditer(sentence):
        folder = _folder(site, match["folder"].replace("\\", "/").rstrip(".,"))
        if folder is None:
            continue
        said = sentence[start : match.start()]
        start = match.end()
        paths = [path for path in _meant(sorts, said, given) if path not in given]
        if paths:
            yield paths, folder


def _folder(site: Site, said: str) -> str | None:
    """A folder of the map, by its path or, where only one is called so, by its name."""
    known = site.folders.get(said.casefold())
    if known is not None:
        return known
    named = [path for low, path in site.folders.items() if low.rpartition("/")[2] == said.casefold()]
    return named[0] if len(named) == 1 else None


def _meant(sorts: Mapping[str, Sort], said: str, given: set[str]) -> Iterator[str]:
    """The files of the pack that some words mean."""
    endings = {posixpath.splitext(path)[1].casefold().lstrip(".") for path in sorts} - {""}
    named = {match["ending"].casefold() for match in _ENDING.finditer(said)} & endings
    words = {name for _, name in sorts_said(said)}
    low = said.casefold()
    for path, sort in sorts.items():
        name = posixpath.basename(path)
        ending = posixpath.splitext(name.casefold())[1]
        of_model = "model" in words and ending == ".bin"
        if (
            re.search(rf"(?<![\w.-]){re.escape(name.casefold())}(?![\w-])", low)
            or ending.lstrip(".") in named
            or sort.word in words
            or of_model
            or ("rest" in words and path not in given)
        ):
            yield path
