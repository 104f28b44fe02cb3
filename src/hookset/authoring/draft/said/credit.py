"""How the authors ask to be named: "Credit me like this:", "please put this into your credits: …"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

from hookset.authoring.draft.notes import Line
from hookset.authoring.draft.words import words

__all__ = ["credit_said"]

_LONGEST = 200
_AROUND = " \t\"'`“”„«»‚‘’*_>-–—"


def credit_said(lines: Sequence[tuple[str, Line]]) -> tuple[str, tuple[str, Line]] | None:
    """(word for word, (file of notes, line that asks for it)), behind the colon or in the line below; None where nobody
    asks for it. `lines` are of all notes, blank ones left out."""
    asks = re.compile(rf"(?<!\w)(?:{words()['credit']['asks']})\W*?(?:[:：]|\s[-–—]\s)\s*(?P<text>.*)$", re.IGNORECASE)
    empty = ("", Line(0, ""))
    for (path, line), (below_path, below) in pairwise((*lines, empty)):
        match = asks.search(line.text)
        if match is None:
            continue
        said = match["text"].strip(_AROUND)
        if not said and below_path == path:
            said = below.text.strip(_AROUND)
        if 0 < len(said) <= _LONGEST:
            return said, (path, line)
    return None
