"""Names that look alike: in another letter case, or spelt nearly so."""

from __future__ import annotations

import posixpath
import unicodedata
from collections.abc import Sequence

__all__ = ["lines_alike", "loosely", "nearest"]

_NEAR = 3
_ALIKE = 75.0
_SAME_FILE = 90.0


def loosely(name: str) -> str:
    """What names have in common that look alike: some systems write ö as one character, others as two."""
    return (name if name.isascii() else unicodedata.normalize("NFC", name)).casefold()


def lines_alike(whole: str, folded: str, loose: str) -> list[str]:
    """The lines of a text that are the same as `loose` once they are folded, in which no character changes place."""
    found: list[str] = []
    wanted = f"\n{loose}\n"
    at = folded.find(wanted)
    while at >= 0:
        found.append(whole[at + 1 : at + 1 + len(loose)])
        at = folded.find(wanted, at + 1)
    return found


def nearest(name: str, names: Sequence[str], path: bool) -> tuple[str, ...]:
    """What may have been meant, the likeliest first; for paths, the same file elsewhere, too."""
    from rapidfuzz import fuzz, process

    if path:
        ending = name.rpartition(".")[2]
        names = [other for other in names if other.endswith(ending)]
    ranked = {
        found[0]: found[1]
        for found in process.extract(name, names, scorer=fuzz.ratio, score_cutoff=_ALIKE, limit=_NEAR)
    }
    if path:
        # In a long path the folders alone make two files alike that have nothing to do with each other.
        stem = _stem(name)
        ranked = {other: score for other, score in ranked.items() if fuzz.ratio(stem, _stem(other)) >= _ALIKE}
        last = "/" + posixpath.basename(name).casefold()
        same = [other for other in names if f"/{other}".casefold().endswith(last)]
        ranked |= {other: max(_SAME_FILE, ranked.get(other, 0.0)) for other in same[:_NEAR]}
    best = sorted(ranked.items(), key=lambda one: (-one[1], one[0]))[:_NEAR]
    # What is much less alike than the best is no help beside it.
    return tuple(other for other, score in best if score >= best[0][1] - 2)


def _stem(path: str) -> str:
    return posixpath.splitext(posixpath.basename(path))[0].casefold()
