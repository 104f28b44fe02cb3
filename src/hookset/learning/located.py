"""Where misfits stand: lines, for what is shown."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import msgspec

from hookset.formats import format_named, text_of
from hookset.learning.guess import Guess, Misfit
from hookset.learning.material import ENCODINGS
from hookset.model import CouldNotError, Where
from hookset.trees import Tree, line_and_column

__all__ = ["lines_of"]


def lines_of(tree: Tree, guess: Guess, misfits: Iterable[Misfit]) -> Mapping[Misfit, int]:
    """The line of each misfit, from one; 0 in files that have no lines."""
    form = format_named(guess.place.sort.format)
    by_path: dict[str, list[Misfit]] = {}
    for one in misfits:
        by_path.setdefault(one.path, []).append(one)
    found: dict[Misfit, int] = {}
    for path, ones in by_path.items():
        found |= dict.fromkeys(ones, 0)
        if form.binary:
            continue
        try:
            text = text_of(form, tree.read(path), ENCODINGS)
        except CouldNotError:
            continue
        addresses: set[Where] = {one.where for one in ones if isinstance(one.where, str)}
        options = msgspec.convert(dict(guess.place.sort.options), form.options)
        spans = form.locate(text, options, addresses) if addresses else {}
        for one in ones:
            offset = one.where if isinstance(one.where, int) else spans.get(one.where, (-1, -1))[0]
            if offset >= 0:
                found[one] = line_and_column(text.string, offset)[0]
    return found
