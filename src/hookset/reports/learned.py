"""A learned layout as data."""

from __future__ import annotations

from typing import Any

from hookset.checks import Summary
from hookset.learning import Guess, Learned, lines_of
from hookset.learning.layout_text import files_writing

__all__ = ["learned_data"]

_MISFITS = 100
"""Texts that do not fit a rule which are listed."""


def learned_data(learned: Learned, files: tuple[str, str], checked: Summary) -> dict[str, Any]:
    """All rules with what speaks for them, those that were left out as well, and what a check by the layout says."""
    kind_of = {vocabulary: kind.name for kind in learned.kinds for vocabulary in kind.vocabularies}
    return {
        "file": files[0],
        "stock": files[1],
        "files": len(learned.material.tree.paths()),
        "places": learned.places,
        "kinds": [
            {"name": kind.name, "names": len({name for one in kind.vocabularies for name in one.names})}
            for kind in learned.kinds
        ],
        "rules": [
            _rule(learned, number, guess, kind_of[guess.targets[0]] if guess.targets else "file")
            for number, guess in enumerate(learned.guesses, 1)
        ],
        "manifest": _manifest(learned),
        "loading": [
            {"files": files, "named": named, "there": there}
            for files, named, there in (learned.arrangement.loading.groups if learned.arrangement.loading else ())
        ],
        "seats": [
            {"name": one.name, "title": one.title, "file": one.file, "put": dict(one.put)}
            for one in learned.arrangement.seats
        ],
        "left_out": [_rule(learned, number, guess, "") for number, guess in enumerate(learned.weak, 1)],
        "unread": [{"ending": one.ending, "files": one.files, "why": one.why} for one in learned.material.unread],
        "findings": [
            {
                "code": one.code,
                "severity": one.severity.word,
                "name": one.name,
                "path": one.spot.path,
                "line": one.spot.line,
            }
            for one in checked.findings
        ],
    }


def _manifest(learned: Learned) -> dict[str, Any] | None:
    found = learned.arrangement.manifest
    if found is None:
        return None
    rows = [{"files": one.files, "row": one.row, "listed": one.listed, "there": one.there} for one in found.rows]
    return {"file": found.file, "rows": rows}


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
        "band": evidence.band,
        "hits": evidence.hits,
        "texts": evidence.texts,
        "names": evidence.names,
        "chance": round(evidence.chance, 1),
        "examples": list(evidence.examples),
        "misfits": [{"path": one.path, "line": lines[one], "text": one.text} for one in shown],
        "runner_up": evidence.runner_up,
    }
