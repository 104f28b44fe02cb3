"""A learned layout as data."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from hookset.learning import Beside, Guess, Learned, lines_of
from hookset.learning.layout_text import files_writing
from hookset.model import Finding

__all__ = ["LearnedOutcome", "learned_data"]

_MISFITS = 100
"""Texts that do not fit a rule which are listed."""


class LearnedOutcome(Struct, frozen=True):
    """What was learned, what a check says by it, and where it was written."""

    learned: Learned
    findings: tuple[Finding, ...]
    """What would be broken, if the rules are right."""
    layout: str
    """The layout file; empty where there was nothing to write."""
    stock: str
    others: tuple[Beside, ...] = ()
    """Other maps of the same game."""


def learned_data(outcome: LearnedOutcome) -> dict[str, Any]:
    """All rules with what speaks for them, those that were left out as well, and what a check by the layout says."""
    learned = outcome.learned
    return {
        "file": outcome.layout,
        "stock": outcome.stock,
        "files": len(learned.material.tree.paths()),
        "places": learned.places,
        "kinds": [
            {
                "name": kind.name,
                "names": len({name for one in kind.vocabularies for name in one.names}),
                "known": kind.known,
            }
            for kind in learned.kinds
        ],
        "rules": [
            _rule(learned, number, guess, learned.kind_of[guess]) for number, guess in enumerate(learned.guesses, 1)
        ],
        "manifest": _manifest(learned),
        "loading": [
            {"files": files, "named": named, "there": there}
            for files, named, there in (learned.arrangement.loading.groups if learned.arrangement.loading else ())
        ],
        "descriptor": _descriptor(learned),
        "sides": _sides(learned),
        "seats": [
            {"name": one.name, "title": one.title, "file": one.file, "put": dict(one.put)}
            for one in learned.arrangement.seats
        ],
        "left_out": [_rule(learned, number, guess, "") for number, guess in enumerate(learned.weak, 1)],
        "unread": [{"ending": one.ending, "files": one.files, "why": one.why} for one in learned.material.unread],
        "beside": [_beside(learned, one) for one in outcome.others],
        "findings": [
            {
                "code": one.code,
                "severity": one.severity.word,
                "name": one.name,
                "path": one.spot.path,
                "line": one.spot.line,
            }
            for one in outcome.findings
        ],
    }


def _manifest(learned: Learned) -> dict[str, Any] | None:
    found = learned.arrangement.manifest
    if found is None:
        return None
    rows = [{"files": one.files, "row": one.row, "listed": one.listed, "there": one.there} for one in found.rows]
    return {"file": found.file, "rows": rows}


def _descriptor(learned: Learned) -> dict[str, Any] | None:
    found = learned.arrangement.descriptor
    if found is None:
        return None
    asked = {"name": dict(found.name), "version": dict(found.version)}
    return {"file": found.file, **asked, "says": {"name": found.says[0], "version": found.says[1]}}


def _sides(learned: Learned) -> dict[str, Any] | None:
    found = learned.arrangement.sides
    if found is None:
        return None
    return {
        "names": list(found.names),
        "both": found.both,
        "files": [f"{front}/**" for front in found.fronts],
        "kinds": sorted(found.kinds),
        "fits": found.fits,
        "uses": found.uses,
    }


def _beside(learned: Learned, beside: Beside) -> dict[str, Any]:
    further = beside.further
    return {
        "name": beside.name,
        "rules": [
            {"number": number, "texts": held.texts, "met": held.met, "holds": held.holds}
            for number, held in enumerate((beside.held[guess] for guess in learned.guesses), 1)
        ],
        "there_only": [_rule(further, n, guess, further.kind_of[guess]) for n, guess in enumerate(further.guesses, 1)],
    }


def _rule(learned: Learned, number: int, guess: Guess, kind: str) -> dict[str, Any]:
    evidence, place = guess.evidence, guess.place
    shown = evidence.misfits[:_MISFITS]
    lines = lines_of(learned.material.tree, guess, shown)
    return {
        "number": number,
        "files": list(place.sort.globs),
        "format": place.sort.format,
        "asked": dict(place.asked),
        "when": dict(place.when),
        "kind": kind,
        **({"written": files_writing(guess.files)} if guess.files is not None else {}),
        "split": guess.split,
        "band": guess.band,
        "hits": evidence.hits,
        "texts": evidence.texts,
        "names": evidence.names,
        "chance": round(evidence.chance, 1),
        "examples": list(evidence.examples),
        "misfits": [{"path": one.path, "line": lines[one], "text": one.text} for one in shown],
        "runner_up": evidence.runner_up,
        "unless": dict(guess.unless),
    }
