"""What speaks for it that the texts at a place are names from elsewhere, and what against it."""

from __future__ import annotations

import itertools
import posixpath
from collections.abc import Collection, Iterator

from hookset.learning.candidate import Candidate, is_apart
from hookset.learning.evidence import NUMBER, band_of
from hookset.learning.guess import Evidence, Misfit
from hookset.learning.likeness import called_alike
from hookset.learning.lists import SPLITS
from hookset.learning.lookup import Lookup
from hookset.learning.place import Place
from hookset.learning.vocabulary import Vocabulary

__all__ = ["evidence_of"]

_FEW_KEYS = 24
"""Keys that a record may have: a table by names has more, or other ones than the next."""
_SHOWN = 5
"""Texts that are no names, of those of a rule for which too little speaks."""


def evidence_of(lookup: Lookup, place: Place, found: Candidate) -> Evidence:
    """What speaks for it that the texts at a place are what they seem to be."""
    first = lookup.known[found.targets[0]] if found.targets else None
    met, whole, names = _counted(lookup, place, found)
    share = min(len(found.hits) / len(found.texts), met / whole) if whole else 0.0
    told = band_of(found.chance, share, names, whole - met, whole, found.spelled)
    counted = sum(map(str.isdecimal, found.hits)) * 2 > len(found.hits)
    called_so = any(called_alike(place, lookup.known[one].place) for one in found.targets)
    # What a section is called behind the sort of thing that it is, that thing is called.
    own_name = place.form == "name" and "only" in place.asked
    # Numbers are everywhere: only what is called alike makes ids of them.
    shape = place.form == "key" and not place.used and first is not None and _same_shape(first, found.hits)
    weak = place.form == "function" or own_name or shape or (counted and not called_so)
    band = "weak" if weak else told
    # Of what is weak some are shown, and no more is asked.
    misfits = itertools.islice(_misfits(lookup, place, found), _SHOWN if band == "weak" else None)
    return Evidence(
        met,
        whole,
        names,
        found.chance,
        band,
        tuple(text for text in found.texts if text in found.hits)[:3],
        tuple(misfits),
        found.runner_up,
    )


def _counted(lookup: Lookup, place: Place, found: Candidate) -> tuple[int, int, int]:
    """(how many of the texts at a place are names, how many there are, how many different names)"""
    met = whole = 0
    names: set[tuple[str, str]] = set()
    if not _by_file(lookup, found):
        for text, often in place.counts.items():
            for part in _parts_meant(text, found):
                whole += often
                if part in found.hits:
                    met += often
                    names.add((part, ""))
        return met, whole, len(names)
    beside = found.files is not None and found.files.beside
    said = place.said
    for text, path in zip(said.texts, said.paths, strict=True):
        for part in _parts_meant(text, found):
            whole += 1
            if _is_met(lookup, part, path, found):
                met += 1
                names.add((part, posixpath.dirname(path) if beside else ""))
    return met, whole, len(names)


def _misfits(lookup: Lookup, place: Place, found: Candidate) -> Iterator[Misfit]:
    """What at a place is no name, in file order."""
    by_file, said = _by_file(lookup, found), place.said
    parts = {text: _parts_meant(text, found) for text in place.counts}
    if not by_file:
        parts = {text: [one for one in each if one not in found.hits] for text, each in parts.items()}
    for text, path, where in zip(said.texts, said.paths, said.wheres, strict=True):
        for part in parts[text]:
            if not (by_file and _is_met(lookup, part, path, found)):
                yield Misfit(path, where, part)


def _by_file(lookup: Lookup, found: Candidate) -> bool:
    """Whether the same text may be a name in one file and none in another."""
    own = bool(found.targets) and lookup.known[found.targets[0]].own
    return own or (found.files is not None and found.files.beside)


def _is_met(lookup: Lookup, part: str, path: str, found: Candidate) -> bool:
    """Whether a text is a name in a file."""
    if found.files is not None and found.files.beside and not lookup.files.found(part, path, found.files):
        return False
    first = lookup.known[found.targets[0]] if found.targets else None
    return part in found.hits and (first is None or not first.own or (path, part) in first.by_file)


def _same_shape(target: Vocabulary, hits: Collection[str]) -> bool:
    """Whether a few keys are just those of another table: two records say the same of things, and refer to nothing."""
    return target.place.form == "key" and len(hits) <= _FEW_KEYS and len(hits) == len(target.names)


def _parts_meant(text: str, found: Candidate) -> list[str]:
    """What is meant of a text: all of it, or some of the parts that it lists."""
    parts = [one.strip() for one in SPLITS[found.split].split(text)] if found.split else [text]
    return [
        part
        for part in parts
        if part
        and part not in found.nothing
        and (not found.endings or posixpath.splitext(part)[1] in found.endings)
        and not is_apart(part, found.apart)
        and not (found.no_numbers and NUMBER.fullmatch(part))
    ]
