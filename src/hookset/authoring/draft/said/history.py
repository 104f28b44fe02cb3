"""What notes tell of earlier versions: `1.3: the lamp stood beside the gate`."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from packaging.version import InvalidVersion, Version

from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.words import words

__all__ = ["superseded"]

_LABEL = re.compile(r"\W*(?:v(?:ersion)?\.? ?)?(?P<version>\d+\.\d+(?:\.\d+)*)(?![\w.]*\d)(?=[\s:,–—-])", re.IGNORECASE)


def superseded(notes: Iterable[Notes]) -> frozenset[tuple[str, int]]:
    """The lines, by the file of notes, that tell of versions before the last one, under a heading such as "Changes"."""
    return frozenset((one.path, line.number) for one in notes for line in _superseded(one.lines))


def _superseded(lines: Iterable[Line]) -> Iterator[Line]:
    history: list[tuple[Version, list[Line]]] = []
    within = False
    for line in lines:
        label = _version(line)
        if _is_title(line):
            within = True
        elif within and label is not None:
            history.append((label, [line]))
        elif within and (line.heading or (line.text[:1].isupper() and line.text.rstrip().endswith(":"))):
            within = False
        elif within and history:
            history[-1][1].append(line)
    last = max((version for version, _ in history), default=None)
    for version, said in history:
        yield from said if version != last else ()


def _version(line: Line) -> Version | None:
    label = _LABEL.match(line.text)
    try:
        return Version(label["version"]) if label is not None else None
    except InvalidVersion:
        return None


def _is_title(line: Line) -> bool:
    """Whether a line is no more than what a list of changes is called."""
    return re.fullmatch(rf"\W*(?:{words()['history']['title']})\W*", line.text, re.IGNORECASE) is not None
