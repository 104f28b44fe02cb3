"""Files that a pack brings for maps without them ("skip it if you have one"), and those that are for no map."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Sequence

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.sentences import sentences_of
from hookset.authoring.draft.words import says

__all__ = ["keeping_said", "left_said"]

_NAME = re.compile(
    r"(?<![\w./\\-])(?<!your )(?<!your `)(?P<name>[\w./\\-]*\w\.\w{2,5}(?!\w)|[\w.-]+/(?=\W|$))", re.IGNORECASE
)
"""A file or a folder; those of the builder are not meant."""
_FOLDER = re.compile(
    r"folder (?:called |named )?[\"'“`]?(?P<one>[\w-]+)"
    r"|(?!(?:the|your|this|that|my|own|its|one|a|an)\b)(?<![\w-])(?P<other>[\w-]{1,60})[\"'”`]? folder\b",
    re.IGNORECASE,
)


def keeping_said(notes: Sequence[Notes], paths: Sequence[str]) -> Iterator[tuple[str, Why]]:
    """(path, the line) for each file of which the notes say that the map's own stays, if there is one."""
    before: list[str] = []
    for sentence in sentences_of(notes):
        named = [match["name"].replace("\\", "/").casefold() for match in _NAME.finditer(sentence.text)]
        files = [path for path in paths if any(_is_meant(path, word) for word in named)]
        if says("keeps", sentence.text):
            # "It is painted with planks.png. If there is none yet, take ours."
            yield from ((path, sentence.why) for path in (files if named else before))
        before = files


def left_said(notes: Sequence[Notes], paths: Sequence[str]) -> Iterator[tuple[str, Why]]:
    """(path, the line) for each file of which the notes say that it stays out."""
    named: list[str] = []
    last = 0
    for sentence in sentences_of(notes):
        words = [match["name"].replace("\\", "/").casefold() for match in _NAME.finditer(sentence.text)]
        words += [f"{match['one'] or match['other']}/".casefold() for match in _FOLDER.finditer(sentence.text)]
        # "The folder old is a mess. Leave it where it is."
        named = words or (named if sentence.lines[0] <= last + 1 else [])
        last = sentence.lines[-1]
        meant = named if says("excludes", sentence.text) else [word for word in named if word.endswith("/")]
        if says("leaves", sentence.text) and not says("keeps", sentence.text):
            yield from ((path, sentence.why) for path in paths if any(_is_meant(path, word) for word in meant))


def _is_meant(path: str, word: str) -> bool:
    low = path.casefold()
    if word.endswith("/"):
        return f"/{low}".find(f"/{word}") >= 0
    return low == word or low.endswith(f"/{word}") or posixpath.basename(low) == word
