"""Folders that the notes give to files of a sort: "wav in sounds, models and pictures into assets"."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import sorts_said
from hookset.packs.sorts import Sort

__all__ = ["sorted_by_notes"]

_INTO = re.compile(
    r"(?:->|=>|→|(?<![\w-])(?:in|into|to|under|with|w/|nach|zu|unter|bei|dans|vers|sous)(?![\w-]))\s+"
    r"(?:(?:the|your|my|its|own|others?|rest of|existing"
    r"|den|dem|die|das|der|eure[nrms]?|deine[nrms]?|andere[nrms]?"
    r"|le|la|les|votre|vos|autres)\s+)*"
    r"[`\"'“„]?(?P<folder>[\w.-]+(?:[/\\][\w.-]+)*)[/\\]?"
    # Or no more than its path: `horn.lua is for the client, so scripts/client`.
    r"|(?<![\w./\\-])(?P<path>[\w-]+(?:[/\\][\w-]+)+)[/\\]?(?![\w/\\-]|\.\w)",
    re.IGNORECASE,
)
_NAME = re.compile(r"[\w./-]+\.\w{2,5}(?!\w)")
_SENTENCE = re.compile(r"(?<=[;!?])\s+|(?<=\.)\s+|\n")
_ENDING = re.compile(r"(?<![\w.-])(?:\*?\.)?(?P<ending>[a-z0-9]{2,5}?)s?(?![\w-])(?!\.\w)", re.IGNORECASE)


def sorted_by_notes(site: Site, sorts: Mapping[str, Sort], notes: Sequence[Notes]) -> Iterator[tuple[str, str, Why]]:
    """(path, folder of the map, the line) for each file whose sort or ending the notes give a folder to."""
    called = _called(sorts)
    given: set[str] = set()
    for one in notes:
        for line in (line for line in one.lines if not line.code):
            for sentence in _SENTENCE.split(line.text):
                for paths, folder in _in_sentence(site, called, sentence, given):
                    given |= set(paths)
                    yield from ((path, folder, at_line(one.path, line.number)) for path in paths)


def _called(sorts: Mapping[str, Sort]) -> dict[str, list[str]]:
    """The files by what notes call them: their names, `.endings`, and sorts; all of them by `rest`."""
    found: dict[str, list[str]] = {"rest": list(sorts)}
    for path, sort in sorts.items():
        name = posixpath.basename(path).casefold()
        ending = posixpath.splitext(name)[1]
        # What a model is made of goes with it.
        words = {name, ending, sort.word, "model" if ending == ".bin" else ""} - {"", "rest"}
        for word in words:
            found.setdefault(word, []).append(path)
    return found


def _in_sentence(
    site: Site, called: Mapping[str, list[str]], sentence: str, given: set[str]
) -> Iterator[tuple[list[str], str]]:
    """What stands before a folder goes into it, back to the folder before."""
    start = 0
    for match in _INTO.finditer(sentence):
        folder = _folder(site, (match["folder"] or match["path"]).replace("\\", "/").rstrip(".,"))
        if folder is None:
            continue
        said = sentence[start : match.start()]
        start = match.end()
        paths = [path for path in dict.fromkeys(_meant(called, said)) if path not in given]
        if paths:
            yield paths, folder


def _folder(site: Site, said: str) -> str | None:
    """A folder of the map, by its path or, where only one is called so, by its name."""
    known = site.folders.get(said.casefold())
    if known is not None:
        return known
    named = [path for low, path in site.folders.items() if low.rpartition("/")[2] == said.casefold()]
    return named[0] if len(named) == 1 else None


def _meant(called: Mapping[str, list[str]], said: str) -> Iterator[str]:
    """The files of the pack that some words mean."""
    low = said.casefold()
    names = [name.rpartition("/")[2] for name in _NAME.findall(low)]
    endings = (f".{match['ending']}" for match in _ENDING.finditer(low))
    # "horn.lua is a script": where files are named, no more than those are meant.
    named = any(name in called for name in names)
    for word in (*names, *endings, *(() if named else (name for _, name in sorts_said(said)))):
        yield from called.get(word, ())
