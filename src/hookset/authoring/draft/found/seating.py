"""Texts that are to be copied, matched to the seats they are meant for: by their form, by the names they hold, and by
what is said around them."""

from __future__ import annotations

import math
import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from hookset.authoring.draft.cites import Why, as_said
from hookset.authoring.draft.found.columns import in_columns
from hookset.authoring.draft.found.evidence import (
    Known,
    by_at,
    by_bound,
    by_form,
    by_names,
    by_other_file,
    by_sibling,
    by_words,
)
from hookset.authoring.draft.said import Chunk, Hole, holed
from hookset.authoring.draft.said.chunks import looks_like_code
from hookset.authoring.draft.site import EntryFacts, SeatFile, Site
from hookset.authoring.draft.words import mends
from hookset.edits.place import seat_at
from hookset.formats import AlreadyThere, Body, Clash, Edits, ExistingEntry, Snippet, format_named
from hookset.formats.document import placement_at

__all__ = ["Ground", "Known", "Seated", "is_listed_beside", "likely_seats", "lines_of", "seated"]

_ENOUGH, _SURE, _AHEAD = 3.0, 5.0, 1.5
"""Points from which a seat is proposed; from which it is sure; and how far in front of the next one."""
_THERE = 4.0
"""Points for what stands in the map word for word: that is where it belongs."""
_PASTED = 200
"""Entries in one text; more are a listing of something, and nothing to be copied."""
_FEW = 3
"""Words that are no sentence."""
_SECTION = re.compile(r"\[{1,2}[\w .:-]+\]{1,2}")
_HALF = 0.5
_PARTS = 60
"""Paragraphs or lines of one text that are tried one by one."""
_BARE_MARK = re.compile(r"(?<![\w\"'.])hole\d+hole(?![\w\"'.])")
_PARAMETER = re.compile(r"\{(\w[\w-]*)\}")
_TOKEN = re.compile(r"[`\"'“„](?P<quoted>[\w.-]{2,60})[`\"'”“]|(?P<bare>[A-Za-z_][\w-]*[_\d][\w-]*|[a-z]\w{3,})")


class Seated(Struct, frozen=True, kw_only=True):
    """One entry at its seat."""

    chunk: Chunk
    seat_file: SeatFile
    body: Body
    at: Mapping[str, str]
    told: EntryFacts
    holes: tuple[Hole, ...]
    points: float
    ahead: float
    """Of the next likely seat."""
    mended: Why
    there: bool
    """It stands in the map already."""
    line: int
    lines: int
    """How many there are that say something."""
    also: str = ""
    """The next likely seat."""

    @property
    def sure(self) -> bool:
        """Whether one seat fits clearly better than the others."""
        return self.points >= _SURE and self.ahead >= _AHEAD


def lines_of(one: Seated) -> frozenset[int]:
    """The numbers of the lines that an entry was read from."""
    said = [line.number for line in one.chunk.lines if line.text.strip()]
    first = said.index(one.line) if one.line in said else 0
    return frozenset(said[first : first + one.lines])


class Ground(Struct, frozen=True):
    """Where the entries of a text are looked for."""

    site: Site
    known: Known
    everywhere: tuple[tuple[str, str, int], ...]
    """Words that the notes say to replace wherever they are: (word, by what, line)."""
    seat: str = ""
    """The only seat, where one was chosen: an entry needs no more points there."""
    at: Mapping[str, str] = field(default_factory=dict)
    """What that seat goes by."""

    @property
    def enough(self) -> float:
        """Points from which something is an entry."""
        return -math.inf if self.seat else _ENOUGH

    def seat_files(self, chunk: Chunk) -> Iterator[SeatFile]:
        """Where entries are tried. Where a seat is in any of several files, those count that the notes name around the
        text."""
        for one in self.site.seat_files:
            if self.seat not in ("", one.seat.name):
                continue
            many = self.site.one_of_many.get(one.seat.name, {})
            named = [seat_file for path, seat_file in many.items() if _is_named(path, chunk)]
            yield from named or (one,)


def _is_named(path: str, chunk: Chunk) -> bool:
    said = f"{chunk.said}\n{chunk.around}".replace("\\", "/").casefold()
    words = (path.casefold(), posixpath.basename(path).casefold())
    return any(re.search(rf"(?<![\w./-]){re.escape(word)}(?![\w-])(?!\.\w)", said) for word in words)


def _in_file(ground: Ground, chunk: Chunk, seat_file: SeatFile) -> dict[str, str]:
    """Which of several files a seat is in, by the words of its pattern, where the notes say it."""
    if seat_file.path not in ground.site.one_of_many.get(seat_file.seat.name, {}) or not _is_named(
        seat_file.path, chunk
    ):
        return {}
    match = seat_file.seat.file.match(seat_file.path)
    return (
        {} if match is None else {word: said for word, said in match.words.items() if word not in ("variant", "side")}
    )


def likely_seats(ground: Ground, chunk: Chunk) -> tuple[str, ...]:
    """The seats that a text as a whole can go to, the likeliest first."""
    best: dict[str, float] = {}
    marked, _ = holed(chunk, chunk.text, ground.everywhere)
    for text, _ in _readings(marked):
        for seat_file in ground.seat_files(chunk):
            points = sum(fit.points for fit in _fits(ground, chunk, seat_file, text))
            if points or (_PARAMETER.search(str(seat_file.seat.put)) and _pasted(seat_file, text)):
                best[seat_file.seat.name] = max(points, best.get(seat_file.seat.name, -math.inf))
    return tuple(sorted(best, key=lambda name: (-best[name], name)))


def seated(ground: Ground, chunk: Chunk) -> tuple[Seated, ...]:
    """The entries of one text; none where it is none. Where it as a whole is of no form, its paragraphs are tried
    one by one, then its lines."""
    whole = _of_text(ground, chunk)
    if chunk.inline or chunk.tabled or _covered(whole, chunk) > 0.8:
        return whole
    core = _without_prose(chunk)
    if core is not chunk:
        inner = _of_text(ground, core)
        if _covered(inner, core) > 0.8:
            return inner
    found: list[Seated] = []
    parts = list(_parts(chunk))
    if len(parts) > _PARTS:
        return whole
    for part in parts:
        here = _of_text(ground, part)
        if _covered(here, part) < 0.5 and 1 < len(part.lines) <= _PARTS:
            lines = [one for line in _parts(part, by_line=True) for one in _of_text(ground, line)]
            here = tuple(lines) if len(lines) > len(here) else here
        found += max(here, _below_section(ground, part), key=lambda ones: sum(one.points for one in ones))
    return tuple(found) if sum(one.points for one in found) > sum(one.points for one in whole) else whole


def _below_section(ground: Ground, part: Chunk) -> tuple[Seated, ...]:
    """The entries below the name of a section that is in the file already: that says where they go, and is none."""
    head, *rest = part.lines
    if not rest or _SECTION.fullmatch(head.text.strip()) is None:
        return ()
    inner = replace(part, lines=tuple(rest), near=(*part.near, head))
    whole = _of_text(ground, inner)
    if _covered(whole, inner) >= _HALF or len(rest) == 1:
        return whole
    return tuple(one for line in _parts(inner, by_line=True) for one in _of_text(ground, line))


def _without_prose(chunk: Chunk) -> Chunk:
    """A text without the lines at its ends that were meant to be read: marks of code are often closed too late."""
    rows = list(chunk.lines)
    while rows and _is_read(rows[-1].text):
        rows.pop()
    while rows and _is_read(rows[0].text):
        rows.pop(0)
    return replace(chunk, lines=tuple(rows)) if rows and len(rows) < len(chunk.lines) else chunk


def _is_read(text: str) -> bool:
    """Whether a line is more likely to be read than to be copied."""
    return not text.strip() or (len(text.split()) > _FEW and not looks_like_code(text))


def _covered(found: Sequence[Seated], chunk: Chunk) -> float:
    """How much of a text is entries."""
    return sum(one.lines for one in found) / max(sum(bool(line.text.strip()) for line in chunk.lines), 1)


def _parts(chunk: Chunk, by_line: bool = False) -> Iterator[Chunk]:
    """A text cut at its empty lines, or into its lines."""
    existing: list[Any] = []
    for line in (*chunk.lines, None):
        ahead = line is not None and _SECTION.fullmatch(line.text.strip()) is not None
        if line is not None and line.text.strip() and not ahead:
            existing.append(line)
        if existing and (line is None or not line.text.strip() or by_line or ahead):
            yield Chunk(notes=chunk.notes, lines=tuple(existing), near=chunk.near, far=chunk.far, after=chunk.after)
            existing = []
        if ahead:
            existing = [line]


def _of_text(ground: Ground, chunk: Chunk) -> tuple[Seated, ...]:
    marked, holes = holed(chunk, chunk.text, ground.everywhere)
    best: tuple[Seated, ...] = ()
    for text, mended in _readings(marked):
        found = _fitted(ground, chunk, text, mended, holes)
        if sum(one.points for one in found) > sum(one.points for one in best) + 0.5:
            best = found
    return best


def _readings(text: str) -> Iterator[tuple[str, str]]:
    """What a text may have been meant to be. A word to be replaced may stand where only a number or a text may."""
    for reading, mended in mends(text):
        yield reading, mended
        if (quoted := _BARE_MARK.sub(r'"\g<0>"', reading)) != reading:
            yield quoted, mended


class _Fit(Struct, frozen=True):
    existing: ExistingEntry
    seat_file: SeatFile
    at: Mapping[str, str]
    told: EntryFacts
    points: float
    there: bool


def _fitted(ground: Ground, chunk: Chunk, text: str, mended: str, holes: tuple[Hole, ...]) -> tuple[Seated, ...]:
    fits = [fit for seat_file in ground.seat_files(chunk) for fit in _fits(ground, chunk, seat_file, text)]
    found: list[Seated] = []
    while fits:
        best = max(fits, key=lambda fit: (fit.points, -fit.existing.start))
        if best.points < ground.enough:
            break
        start, end = best.existing.start, best.existing.end
        rivals = [
            fit
            for fit in fits
            if fit.existing.start < end
            and start < fit.existing.end
            and (fit.seat_file.seat.name, fit.seat_file.path) != (best.seat_file.seat.name, best.seat_file.path)
        ]
        next_best = max(rivals, key=lambda fit: fit.points, default=None)
        line = min(len(chunk.lines) - 1, text.count("\n", 0, min(start, len(text))))
        found.append(
            Seated(
                chunk=chunk,
                seat_file=best.seat_file,
                body=best.existing.body,
                at=best.at,
                told=best.told,
                holes=tuple(hole for hole in holes if hole.mark in str(best.existing.body)),
                points=best.points,
                ahead=best.points - (next_best.points if next_best is not None else 0.0),
                mended=as_said(mended) if mended else Why(),
                there=best.there,
                line=chunk.lines[line].number,
                lines=max(1, sum(bool(row.strip()) for row in text[start:end].split("\n"))),
                also=next_best.seat_file.seat.name if next_best is not None and next_best.points >= _ENOUGH else "",
            )
        )
        # One of no length at all stands beside itself.
        fits = [fit for fit in fits if fit is not best and (fit.existing.start >= end or start >= fit.existing.end)]
    return tuple(sorted(found, key=lambda one: one.line))


def _fits(ground: Ground, chunk: Chunk, seat_file: SeatFile, text: str) -> Iterator[_Fit]:
    """Every entry of the text as it would be at one seat."""
    seat, site, known = seat_file.seat, ground.site, ground.known
    parameters = _PARAMETER.findall(str(seat.put))
    in_file = ground.at or _in_file(ground, chunk, seat_file)
    pasted = in_columns(seat_file, text) if chunk.tabled else _pasted(seat_file, text)
    for existing in pasted if len(pasted) <= _PASTED else ():
        ats = _ats(ground, chunk, seat_file, parameters, existing.body) if parameters else [({}, seat.put)]
        for at, put in ats:
            placement = placement_at(seat_file.document, put, existing.body)
            if not isinstance(placement, Edits | AlreadyThere | Clash):
                continue
            if _is_bare(seat.put, existing.body) or (chunk.inline and _is_scope(seat.put, existing.body)):
                # "last in `start()`" names the place, and is nothing to be copied.
                continue
            there = isinstance(placement, AlreadyThere)
            told = EntryFacts((), ()) if there else site.told(seat_file, existing.body, put)
            points = (
                by_form(seat_file, existing.body)
                + by_names(told, known)
                + by_words(site, chunk, seat_file)
                + by_sibling(chunk, seat_file)
                + by_other_file(site, chunk, seat_file, known)
                + by_bound(seat_file, existing.body, known)
                + (by_at(chunk, at, seat.put) if at else 0.0)
                + (_THERE if there or is_listed_beside(chunk, seat_file) else 0.0)
            )
            yield _Fit(existing, seat_file, {**in_file, **at}, told, points, there)


def is_listed_beside(chunk: Chunk, seat_file: SeatFile) -> bool:
    """Whether a listing of changes shows a text beside an entry of the seat."""
    rows = {chunk.gap.above.strip(), chunk.gap.below.strip()} - {""} if chunk.gap is not None else set()
    return bool(rows) and any((one.body.text or "").strip() in rows for one in seat_file.siblings)


def _pasted(seat_file: SeatFile, text: str) -> Sequence[ExistingEntry]:
    """The entries that a text would be there."""
    seat = seat_file.seat
    return format_named(seat.format).pasted(seat.put, Snippet(text, seat.options, seat_file.document)) or in_columns(
        seat_file, text
    )


def _two_words(said: str) -> Iterator[str]:
    """Names as prose may write them: "the tide gate's" for tide_gate."""
    plain = re.findall(r"[a-z]\w*", re.sub(r"['’]s?\b", "", said.casefold()))
    for count in (3, 2):
        yield from ("_".join(plain[at : at + count]) for at in range(len(plain) - count + 1))


def _is_bare(put: Any, body: Body) -> bool:
    """Whether a statement is no more than a word, or the path of a file."""
    return hasattr(put, "inside") and re.fullmatch(r"\s*[\w./\\-]+\s*;?\s*", body.text or "") is not None


def _is_scope(put: Any, body: Body) -> bool:
    """Whether a text is no more than the name of the function that a seat is in."""
    inside = (getattr(put, "inside", None) or "").lstrip("^")
    said = "".join((body.text or "").split()).rstrip(";")
    return bool(said) and said in (f"{inside.removeprefix('function ').strip()}()", "".join(inside.split()))


def _ats(
    ground: Ground, chunk: Chunk, seat_file: SeatFile, parameters: Sequence[str], body: Body
) -> Iterator[tuple[dict[str, str], Any]]:
    """What the words around a text may give for a seat's `{…}`: a name for which the seat is found."""
    if ground.at:
        yield dict(ground.at), seat_at(seat_file.seat, ground.at)
        return
    if len(set(parameters)) != 1:
        return
    words = [m["quoted"] or m["bare"] for line in reversed(chunk.near) for m in _TOKEN.finditer(line.text)]
    said = _two_words(chunk.near[-1].text if chunk.near else "")
    for word in dict.fromkeys((*words, *(word for word in said if word in ground.site.names))):
        put = seat_at(seat_file.seat, {parameters[0]: word})
        if isinstance(placement_at(seat_file.document, put, body), Edits | AlreadyThere | Clash):
            yield {parameters[0]: word}, put
            return
