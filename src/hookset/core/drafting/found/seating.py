"""Texts that are to be copied, matched to the seats they are meant for: by their form, by the names they hold, and by
what is said around them."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from hookset.core.drafting.said import Chunk, Hole, concepts, holed, languages_said, mends
from hookset.core.drafting.site import Site, Spot, Told
from hookset.core.entries.putting import seat_at
from hookset.core.formats import AlreadyThere, Body, Clash, Edits, Held, format_named

__all__ = ["Known", "Seated", "seated"]

_ENOUGH, _SURE, _AHEAD = 3.0, 5.0, 1.5
"""Points from which a seat is proposed; from which it is sure; and how far in front of the next one."""
_PASTED = 200
"""Entries in one text; more are a listing of something, and nothing to be copied."""
_PARTS = 60
"""Paragraphs or lines of one text that are tried one by one."""
_BINDS = re.compile(
    r"\s*(?:(?:local|const|let|var)\s+[\w{}, ]+=\s*(?:require|include|import)\b|import\b|require\b|include\b)"
)
_BARE_MARK = re.compile(r"(?<![\w\"'.])hole\d+hole(?![\w\"'.])")
_PARAMETER = re.compile(r"\{(\w[\w-]*)\}")
_TOKEN = re.compile(r"[`\"'“„](?P<quoted>[\w.-]{2,60})[`\"'”“]|(?P<bare>[A-Za-z_][\w-]*[_\d][\w-]*|[a-z]\w{3,})")


@dataclass(frozen=True)
class Known:
    """Names that are a pack's own."""

    defined: frozenset[tuple[str, str]]
    """By kind: what its files define, and what lies where."""
    asked: frozenset[tuple[str, str]]
    """What its files ask for."""
    stems: frozenset[str]
    """Names of its files without folders and endings."""
    bound: Mapping[str, frozenset[str]] = field(default_factory=dict)
    """By file of the map: names that entries bring in there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Seated:
    """One entry at its seat."""

    chunk: Chunk
    spot: Spot
    body: Body
    at: Mapping[str, str]
    told: Told
    holes: tuple[Hole, ...]
    points: float
    ahead: float
    """Of the next likely seat."""
    mended: str
    there: bool
    """It stands in the map already."""
    line: int
    lines: int
    """How many there are that say something."""
    also: str = ""
    """The next likely seat."""

    @property
    def sure(self) -> bool:
        return self.points >= _SURE and self.ahead >= _AHEAD


def seated(site: Site, chunk: Chunk, known: Known, everywhere: tuple[tuple[str, str, int], ...]) -> tuple[Seated, ...]:
    """The entries of one text; none where it is none. Where it as a whole is of no form, its paragraphs are tried
    one by one, then its lines."""
    whole = _of_text(site, chunk, known, everywhere)
    if chunk.inline or _covered(whole, chunk) > 0.8:
        return whole
    found: list[Seated] = []
    parts = list(_parts(chunk))
    if len(parts) > _PARTS:
        return whole
    for part in parts:
        here = _of_text(site, part, known, everywhere)
        if _covered(here, part) < 0.5 and 1 < len(part.lines) <= _PARTS:
            lines = [one for line in _parts(part, by_line=True) for one in _of_text(site, line, known, everywhere)]
            here = tuple(lines) if len(lines) > len(here) else here
        found += here
    return tuple(found) if sum(one.points for one in found) > sum(one.points for one in whole) else whole


def _covered(found: Sequence[Seated], chunk: Chunk) -> float:
    """How much of a text is entries."""
    return sum(one.lines for one in found) / max(sum(bool(line.text.strip()) for line in chunk.lines), 1)


def _parts(chunk: Chunk, by_line: bool = False) -> Iterator[Chunk]:
    """A text cut at its empty lines, or into its lines."""
    held: list[Any] = []
    for line in (*chunk.lines, None):
        if line is not None and line.text.strip():
            held.append(line)
        if held and (line is None or not line.text.strip() or by_line):
            yield Chunk(notes=chunk.notes, lines=tuple(held), near=chunk.near, far=chunk.far, after=chunk.after)
            held = []


def _of_text(
    site: Site, chunk: Chunk, known: Known, everywhere: tuple[tuple[str, str, int], ...]
) -> tuple[Seated, ...]:
    marked, holes = holed(chunk, chunk.text, everywhere)
    best: tuple[Seated, ...] = ()
    for text, mended in _readings(marked):
        found = _fitted(site, chunk, text, mended, holes, known)
        if sum(one.points for one in found) > sum(one.points for one in best) + 0.5:
            best = found
    return best


def _readings(text: str) -> Iterator[tuple[str, str]]:
    """What a text may have been meant to be. A word to be replaced may stand where only a number or a text may."""
    for reading, mended in mends(text):
        yield reading, mended
        if (quoted := _BARE_MARK.sub(r'"\g<0>"', reading)) != reading:
            yield quoted, mended


@dataclass(frozen=True, slots=True)
class _Fit:
    held: Held
    spot: Spot
    at: Mapping[str, str]
    told: Told
    points: float
    there: bool


def _fitted(
    site: Site, chunk: Chunk, text: str, mended: str, holes: tuple[Hole, ...], known: Known
) -> tuple[Seated, ...]:
    fits = [fit for spot in site.spots for fit in _fits(site, chunk, spot, text, known)]
    found: list[Seated] = []
    while fits:
        best = max(fits, key=lambda fit: (fit.points, -fit.held.start))
        if best.points < _ENOUGH:
            break
        start, end = best.held.start, best.held.end
        rivals = [
            fit
            for fit in fits
            if fit.held.start < end
            and start < fit.held.end
            and (fit.spot.seat.name, fit.spot.path) != (best.spot.seat.name, best.spot.path)
        ]
        next_best = max(rivals, key=lambda fit: fit.points, default=None)
        line = min(len(chunk.lines) - 1, text.count("\n", 0, min(start, len(text))))
        found.append(
            Seated(
                chunk=chunk,
                spot=best.spot,
                body=best.held.body,
                at=best.at,
                told=best.told,
                holes=tuple(hole for hole in holes if hole.mark in str(best.held.body)),
                points=best.points,
                ahead=best.points - (next_best.points if next_best is not None else 0.0),
                mended=mended,
                there=best.there,
                line=chunk.lines[line].number,
                lines=max(1, sum(bool(row.strip()) for row in text[start:end].split("\n"))),
                also=next_best.spot.seat.name if next_best is not None and next_best.points >= _ENOUGH else "",
            )
        )
        fits = [fit for fit in fits if fit.held.start >= end or start >= fit.held.end]
    return tuple(sorted(found, key=lambda one: one.line))


def _fits(site: Site, chunk: Chunk, spot: Spot, text: str, known: Known) -> Iterator[_Fit]:
    """Every entry of the text as it would be at one seat."""
    seat = spot.seat
    form = format_named(seat.format)
    parameters = _PARAMETER.findall(str(seat.put))
    pasted = form.pasted(seat.put, text, seat.options, spot.document)
    for held in pasted if len(pasted) <= _PASTED else ():
        ats = list(_ats(chunk, spot, parameters, held.body)) if parameters else [({}, seat.put)]
        for at, put in ats:
            placement = spot.document.put(put, held.body)
            if not isinstance(placement, Edits | AlreadyThere | Clash):
                continue
            if _is_bare(seat.put, held.body) or (chunk.inline and _is_scope(seat.put, held.body)):
                # "last in `start()`" names the place, and is nothing to be copied.
                continue
            there = isinstance(placement, AlreadyThere)
            told = Told((), ()) if there else site.told(spot, held.body, put)
            points = (
                _by_form(spot, held.body)
                + _by_names(told, known)
                + _by_words(site, chunk, spot)
                + _by_bound(spot, held.body, known)
                + (_by_at(chunk, at) if at else 0.0)
                + (1.0 if there else 0.0)
            )
            yield _Fit(held, spot, at, told, points, there)


def _by_at(chunk: Chunk, at: Mapping[str, str]) -> float:
    """More where the thing that a seat goes by is quoted, and not just a word of the sentence."""
    quoted = all(re.search(rf"[`\"'“„]{re.escape(word)}[`\"'”“]", chunk.said) for word in at.values())
    return 5.0 if quoted else 3.0


def _is_bare(put: Any, body: Body) -> bool:
    """Whether a statement is no more than a word, or the path of a file."""
    return hasattr(put, "inside") and re.fullmatch(r"\s*[\w./\\-]+\s*;?\s*", body.text or "") is not None


def _is_scope(put: Any, body: Body) -> bool:
    """Whether a text is no more than the name of the function that a seat is in."""
    inside = getattr(put, "inside", None) or ""
    return "".join((body.text or "").split()).rstrip(";") == f"{inside.removeprefix('function ').strip()}()"


def _ats(chunk: Chunk, spot: Spot, parameters: Sequence[str], body: Body) -> Iterator[tuple[dict[str, str], Any]]:
    """What the words around a text may give for a seat's `{…}`: a name for which the seat is found."""
    if len(set(parameters)) != 1:
        return
    words = [m["quoted"] or m["bare"] for line in reversed(chunk.near) for m in _TOKEN.finditer(line.text)]
    for word in dict.fromkeys(words):
        put = seat_at(spot.seat, {parameters[0]: word})
        if isinstance(spot.document.put(put, body), Edits | AlreadyThere | Clash):
            yield {parameters[0]: word}, put
            return


# ---- what speaks for a seat ------------------------------------------------------------------------------------------


def _by_form(spot: Spot, body: Body) -> float:
    """How much an entry is like those that stand there."""
    if _PARAMETER.search(str(spot.seat.put)):
        return 0.0
    alike = [_likeness(body, one.body) for one in spot.siblings]
    if not alike:
        return 0.5
    best = max(alike)
    return 3.0 * best if best > 0 else -2.0


def _likeness(body: Body, other: Body) -> float:
    """From 0 to 1."""
    if body.record is not None and other.record is not None:
        if len(body.record) == 1 and len(other.record) == 1:
            (mine,), (theirs,) = body.record.values(), other.record.values()
            return 0.6 if type(mine) is type(theirs) else 0.0
        mine_keys, their_keys = set(_keys(body.record)), set(_keys(other.record))
        return len(mine_keys & their_keys) / max(len(mine_keys | their_keys), 1)
    if body.text is None or other.text is None:
        return 0.0
    mine_word, their_word = _opening(body.text), _opening(other.text)
    if mine_word.startswith("<"):
        return 1.0 if mine_word == their_word else 0.0
    return 0.6 if mine_word == their_word else 0.3


def _keys(record: Mapping[str, Any], front: str = "") -> Iterator[str]:
    for key, value in record.items():
        yield front + key
        if isinstance(value, Mapping):
            yield from _keys(value, f"{front}{key}.")


def _opening(text: str) -> str:
    """The word that an entry begins with; for elements with its bracket."""
    found = re.match(r"\s*(<[\w:.-]+|\[|\w+)", text)
    return found[1] if found else ""


def _by_names(told: Told, known: Known) -> float:
    """How much the names in an entry have to do with the pack."""
    points = 0.0
    for definition in told.defines:
        points += 3.0 if (definition.kind, definition.name) in known.asked else 0.5
    for reference in told.refers:
        names = (reference.name, *reference.others)
        if any((reference.kind, name) in known.defined for name in names):
            points += 3.0
        elif any(stem in name for name in names for stem in known.stems if len(stem) > 3):
            points += 1.5
        else:
            points += 0.3
    return min(points, 6.0)


def _by_bound(spot: Spot, body: Body, known: Known) -> float:
    """Whether a statement works with what another entry brings into the same file."""
    if body.text is None or getattr(spot.seat.put, "inside", None) is None:
        return 0.0
    if _BINDS.match(body.text):
        # What brings a name in belongs above what works with it.
        return -3.0
    used = set(re.findall(r"\w+", body.text))
    return 3.0 if used & known.bound.get(spot.path, frozenset()) else 0.0


def _by_words(site: Site, chunk: Chunk, spot: Spot) -> float:
    """How much is said around an entry that means this seat."""
    points = 0.0
    near, far = chunk.said, chunk.around
    points += _by_file(site, spot, near, 4.0) or _by_file(site, spot, far, 2.0)
    wanted = _weights(site, spot)
    points += min(sum(weight for word, weight in wanted.items() if word in concepts(near)), 3.0)
    points += min(sum(0.4 * weight for word, weight in wanted.items() if word in concepts(far)), 1.0)
    if spot.side:
        points += _by_side(site, spot.side, near, 2.0) or _by_side(site, spot.side, far, 1.0)
    if spot.variant:
        said = languages_said(near) or languages_said("\n".join(line.text for line in chunk.far[-2:]))
        points += 2.5 if said and said[-1] == spot.variant else -1.0 if said else 0.0
    return points


def _by_file(site: Site, spot: Spot, said: str, most: float) -> float:
    flat = said.replace("\\", "/").casefold()
    if spot.path.casefold() in flat:
        return most
    name = spot.path.rpartition("/")[2].casefold()
    if re.search(rf"(?<![\w.-]){re.escape(name)}(?![\w-])", flat):
        others = {
            one.path for one in site.spots if one.path.casefold().endswith(f"/{name}") or one.path.casefold() == name
        }
        return most * (0.9 if len(others) == 1 else 0.5)
    # Another file is named: this one is not meant.
    paths = {one.path.casefold() for one in site.spots}
    return -2.0 if any(path in flat for path in paths) else 0.0


def _weights(site: Site, spot: Spot) -> dict[str, float]:
    """The words of a seat's name and title: those that few seats have weigh more."""
    often = Counter(word for seat in site.layout.seats.values() for word in concepts(_title(seat.name, seat.title)))
    mine = concepts(_title(spot.seat.name, spot.seat.title))
    return {word: 2.0 / often[word] if word not in ("the", "end", "last", "main") else 0.3 for word in mine}


def _title(name: str, title: str) -> str:
    return f"{name.replace('-', ' ')} {title}"


def _by_side(site: Site, side: str, said: str, most: float) -> float:
    words = concepts(said)
    named = [one for one in site.layout.sides if one in words]
    if "both" in words or len(named) != 1:
        return 0.0
    return most if named[0] == side else -1.5 * most
