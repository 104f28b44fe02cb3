"""Files of a pack whose contents notes would have in one of the map's own: "append places.csv to your places.csv"."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Sequence

from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.sentences import sentences_of
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import says

__all__ = ["merged_said"]

_FILE = re.compile(r"(?<![\w./\\-])[\w./\\-]*[\w-]\.[A-Za-z]\w{1,4}\b")
_INTO = re.compile(r"(?<!\w)(?:to|into|in|an|zu|nach|dans|à)(?!\w)", re.IGNORECASE)


def merged_said(site: Site, notes: Sequence[Notes], paths: Sequence[str]) -> Iterator[str]:
    """The files that a sentence tells to add to the map's file of the same ending, which it names behind them. A path
    in quotes is one that goes into a list, and not what is in the file."""
    shared = {posixpath.basename(one.path).casefold() for one in site.seat_files}
    for sentence in sentences_of(notes):
        if not says("tells", sentence.text):
            continue
        named = [(_called(match.group()), match) for match in _FILE.finditer(sentence.text)]
        for path in paths:
            name = _called(path)
            for at, (called, match) in enumerate(named):
                if called != name or name in shared or sentence.text[match.start() - 1 : match.start()] in ("'", '"'):
                    continue
                behind = [(other, m) for other, m in named[at + 1 :] if other in shared]
                into = next(
                    (m for other, m in behind if posixpath.splitext(other)[1] == posixpath.splitext(name)[1]), None
                )
                if into is not None and _INTO.search(sentence.text[match.end() : into.start()]):
                    yield path


def _called(path: str) -> str:
    return posixpath.basename(path.replace("\\", "/")).casefold()
