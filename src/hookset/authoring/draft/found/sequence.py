"""Entries of which notes say further down that they go before another line, or after one: "`watchman.start` has to come
before `tide.begin`, not last"."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.found.seating import Seated, lines_of
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.sentences import sentences_of
from hookset.authoring.draft.words import words
from hookset.packs.hooksheet import HookEntry

__all__ = ["put_elsewhere"]

_CALL = re.compile(r"\s*(?:local\s+\w+\s*=\s*)?(?P<call>[\w.:]+)\s*\(")


def put_elsewhere(entries: Sequence[Seated], notes: Sequence[Notes]) -> Iterator[tuple[Seated, HookEntry, Why]]:
    """Each such entry, as one that goes by the line that is named, and where that is said. What is no
    statement, and what would go by a line that is not there once, stays where it is."""
    sentences = list(sentences_of(notes))
    for one in entries:
        match = _CALL.match(one.body.text or "")
        if match is None or getattr(one.seat_file.seat.put, "inside", None) is None:
            continue
        call, last = match["call"], max(lines_of(one))
        ahead = _ahead(one)
        if ahead is not None:
            way, row = ahead
            hook = {"file": one.seat_file.path, "text": (one.body.text or "").strip("\n"), way: row}
            yield one, HookEntry(**hook), at_line(one.chunk.notes, one.line)  # type: ignore[arg-type]
            continue
        for sentence in reversed(sentences):
            if sentence.notes != one.chunk.notes or sentence.lines[0] <= last:
                continue
            anchor = _anchor(sentence.text, call, one.seat_file.text.string)
            if anchor is not None:
                way, row = anchor
                hook = {"file": one.seat_file.path, "text": (one.body.text or "").strip("\n"), way: row}
                yield one, HookEntry(**hook), sentence.why  # type: ignore[arg-type]
                break


def _ahead(one: Seated) -> tuple[str, str] | None:
    """(`before` or `after`, the line) that is said right in front of a statement: "in start, before tide.begin:"."""
    said = one.chunk.near[-1].text.partition(one.chunk.text)[0] if one.chunk.near else ""
    if one.at or one.chunk.gap is not None:
        return None
    rows = one.seat_file.text.string.splitlines()
    for way, key in (("before", "above"), ("after", "below")):
        match = re.search(
            rf"(?:{words()['beside'][key]})\W+(?:the \W*)?(?P<row>[\w:]+[.:]\w[\w.:]*)(?:\(\S*\))?\W*$", said, re.I
        )
        named = [row.strip() for row in rows if match is not None and match["row"].rstrip(".:") in row]
        if len(named) == 1:
            return way, named[0]
    return None


def _anchor(said: str, call: str, text: str) -> tuple[str, str] | None:
    """(`before` or `after`, the line) that a sentence gives for a call."""
    beside = words()["beside"]
    _, named, behind = said.partition(call)
    if not named or re.match(r"[\w.]", behind) is not None:
        return None
    for way, key in (("before", "above"), ("after", "below")):
        match = re.search(
            rf"(?:{words()['sequence']['goes']})\W+(?:\w+\W+){{0,3}}?(?:{beside[key]})\W+(?:the \W*)?"
            r"(?P<row>[\w.:]+)",
            behind,
            re.IGNORECASE,
        )
        rows = [row.strip() for row in text.splitlines() if match is not None and match["row"].rstrip(".:") in row]
        if match is not None and len(rows) == 1 and len(match["row"]) > 1:
            return way, rows[0]
    return None
