"""What speaks for a seat: the form of an entry, the names in it, and what is said around it. All in points that can be
added up; what they are worth was found by trying them on packs as people publish them."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct, field

from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.site import EntryFacts, SeatFile, Site, opening_of
from hookset.authoring.draft.words import concepts, language_of, languages_said, words
from hookset.formats import Body
from hookset.model import sides_meet

__all__ = ["Known", "by_at", "by_bound", "by_form", "by_names", "by_other_file", "by_sibling", "by_words"]

_CLOSE = 2
"""Lines between the line that introduces a text and the text."""
_BINDS = re.compile(
    r"\s*(?:(?:local|const|let|var)\s+[\w{}, ]+=\s*(?:require|include|import)\b|import\b|require\b|include\b)"
)
_QUOTED = re.compile(r"[\[`\"'“„](?P<name>[\w-]{2,40})(?:\(\))?[\]`\"'”“]|\b(?P<call>\w+)\(\)")
_ITEM = re.compile(r"\s*(?:[-*•+>]|[(\[]?\d{1,2}[.):\]])\s")
_NO_NAME = re.compile(r"[\"{}<>|;]")
"""What is in entries and sentences, and in no name or path that somebody gives."""
_NAMES = re.compile(r"(?<![\w./-])[A-Za-z]\w*[_\d]\w*(?![\w./-])")
_PATH = re.compile(r"(?:[\w.-]+/)+[\w-]+\.\w{1,5}")
_BARE = re.compile(r"(?<![\w./-])[\w-]+\.[a-z]\w{0,4}(?![\w/(:-])(?!\.\w)")
"""A file without a folder."""
_PARAMETER = re.compile(r"\{(\w[\w-]*)\}")


class Known(Struct, frozen=True):
    """Names that are a pack's own."""

    defined: frozenset[tuple[str, str]]
    """By kind: what its files define, and what lies where."""
    asked: frozenset[tuple[str, str]]
    """What its files ask for."""
    stems: frozenset[str]
    """Names of its files without folders and endings."""
    sides: Mapping[tuple[str, str], frozenset[str]] = field(default_factory=dict)
    """Of names that are there on some sides only: on which."""
    bound: Mapping[str, frozenset[str]] = field(default_factory=dict)
    """By file of the map: names that entries bring in there."""


def by_at(chunk: Chunk, at: Mapping[str, str], put: Any) -> float:
    """More where the thing that a seat goes by is quoted, and not just a word of the sentence, and where the text is to
    stand beside it: "right after boiler.start()". Less where a seat is beside that, and nobody says so."""
    quoted = all(re.search(rf"[`\"'“„]{re.escape(word)}[`\"'”“]", chunk.said) for word in at.values())
    beside = "|".join(words()["beside"].values())
    next_to = all(re.search(rf"(?:{beside})\W{{1,3}}{re.escape(word)}\b", chunk.said, re.I) for word in at.values())
    if not next_to and _PARAMETER.search(f"{getattr(put, 'after', '')}{getattr(put, 'before', '')}"):
        return -3.0
    inside = all(
        re.search(rf"(?<!\w)(?:{words()['in']['side']})\W+(?:\w+\W+){{0,2}}{_spoken(word)}(?!\w)", chunk.said, re.I)
        for word in at.values()
    )
    return (5.0 if quoted else 3.0) + (4.0 if next_to else 2.0 if inside else 0.0)


def _spoken(word: str) -> str:
    """A pattern for a name as code has it, or as prose does: tide_gate, "tide gate"."""
    return re.sub(r"_|\\-", "[_ -]", re.escape(word))


def by_sibling(chunk: Chunk, seat_file: SeatFile) -> float:
    """More where the words just before a text name what stands in a list: "after blue_2"."""
    if getattr(seat_file.seat.put, "inside", None) is not None:
        # Of statements, what goes right behind another one has a seat of its own, or is no matter of the order.
        return 0.0
    beside = "|".join(words()["beside"].values())
    near = chunk.near[-1].text if chunk.near and not chunk.inline else ""
    said = set(re.findall(rf"(?:{beside})\W{{1,3}}(?:the \w+ )?({_NAMES.pattern})", near, re.IGNORECASE))
    texts = (one.body.text if one.body.text is not None else str(one.body.record) for one in seat_file.siblings)
    return 2.5 if said and any(said & set(_NAMES.findall(text)) for text in texts) else 0.0


def by_form(seat_file: SeatFile, body: Body) -> float:
    """How much an entry is like those that stand there."""
    if _PARAMETER.search(str(seat_file.seat.put)):
        return 0.0
    listed = getattr(seat_file.seat.put, "inside", None) is None
    if listed and body.text and len(body.text.split()) > 1 and seat_file.of_single_words:
        # A list of single words, or of paths.
        return -5.0
    blanks = any(" " in key for one in seat_file.siblings for key in one.body.record or ())
    if body.record is not None and any(_NO_NAME.search(key) or (" " in key and not blanks) for key in body.record):
        # What stands before the first = of another format is no key.
        return -5.0
    if not seat_file.siblings:
        return 0.5
    if body.record is not None and len(body.record) < min(len(one.body.record or ()) for one in seat_file.siblings) - 1:
        # Of a row with cells, a text that has none of its separators.
        return -5.0
    best = max(_likeness(body, one) for one in seat_file.sorts)
    comma = _ends_with_comma(body) and not any(_ends_with_comma(one.body) for one in seat_file.siblings)
    return (3.0 * best if best > 0 else -2.0) - (1.0 if comma else 0.0) + _by_opening(seat_file, body)


def _ends_with_comma(body: Body) -> bool:
    """Whether a value has a comma at its end, which stood between entries where it was copied."""
    return any(isinstance(value, str) and value.rstrip().endswith((",", ";")) for value in (body.record or {}).values())


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
    mine_word, their_word = opening_of(body.text), opening_of(other.text)
    if mine_word.startswith("<"):
        return 1.0 if mine_word == their_word else 0.0
    return 0.6 if mine_word == their_word else 0.3


def _by_opening(seat_file: SeatFile, body: Body) -> float:
    """More for a statement that begins as all do that stand there: `use machines/winch` below `use machines/sluice`."""
    own = opening_of(body.text or "")
    if own in ("", "[") or own.startswith("<") or len((body.text or "").split()) == 1 or len(seat_file.siblings) == 1:
        return 0.0
    return 2.0 if all(opening_of(one.body.text or "") == own for one in seat_file.siblings) else 0.0


def _keys(record: Mapping[str, Any], front: str = "") -> Iterator[str]:
    for key, value in record.items():
        yield front + key
        if isinstance(value, Mapping):
            yield from _keys(value, f"{front}{key}.")


def by_names(told: EntryFacts, known: Known) -> float:
    """How much the names in an entry have to do with the pack."""
    points = 0.0
    for definition in told.defines:
        points += 3.0 if (definition.kind, definition.name) in known.asked else 0.5
    for reference in told.refers:
        names = (reference.name, *reference.others)
        keys = [(reference.kind, name) for name in names if (reference.kind, name) in known.defined]
        sides = frozenset(side for key in keys for side in known.sides.get(key, ()))
        if sides and not any(sides_meet(side, reference.side) for side in sides):
            # The pack has it, and not on this side.
            points -= 2.0
        elif keys:
            points += 3.0
        elif _NO_NAME.search(reference.written):
            points -= 4.0
        elif any(stem in name for name in names for stem in known.stems if len(stem) > 3):
            points += 1.5
        else:
            points += 0.3
    return min(points, 6.0)


def by_bound(seat_file: SeatFile, body: Body, known: Known) -> float:
    """Whether a statement works with what another entry brings into the same file."""
    if body.text is None or getattr(seat_file.seat.put, "inside", None) is None:
        return 0.0
    if _BINDS.match(body.text):
        # What brings a name in belongs above what works with it.
        return -3.0
    used = set(re.findall(r"\w+", body.text))
    return 3.0 if used & known.bound.get(seat_file.path, frozenset()) else 0.0


def by_words(site: Site, chunk: Chunk, seat_file: SeatFile) -> float:
    """How much is said around an entry that means this seat."""
    points = 0.0
    near, far = _about(site, chunk), chunk.around
    points += _by_file(site, seat_file, near, 4.0) or _by_file(site, seat_file, far, 2.0)
    # A sentence with a text in it may have two, for two places.
    if row := _other_cells(chunk):
        points += _by_name(site, seat_file, row)
    elif not chunk.inline:
        points += _by_name(site, seat_file, _paragraph(chunk))
    wanted = _weights(site, seat_file)
    points += min(sum(weight for word, weight in wanted.items() if word in concepts(near)), 3.0)
    points += min(sum(0.4 * weight for word, weight in wanted.items() if word in concepts(far)), 1.0)
    if seat_file.side:
        told = ((_paragraph(chunk), 2.0), (near, 2.0), (far, 1.0))
        points += next((by for text, most in told if (by := _by_side(site, seat_file.side, text, most))), 0.0)
    if seat_file.variant:
        said = languages_said(near) or languages_said("\n".join(line.text for line in chunk.far[-2:]))
        own = language_of(f"{near}\n{far}")
        points += 2.5 if said and said[-1] == seat_file.language else -1.0 if said else float(own == seat_file.language)
    return points


def by_other_file(site: Site, chunk: Chunk, seat_file: SeatFile, known: Known) -> float:
    """Less where the sentence that a text stands in, or the line above it, names a file of that sort that is neither
    the pack's nor one with seats: it goes there, and nowhere else."""
    close = bool(chunk.near) and (chunk.inline or chunk.first - chunk.near[-1].number <= _CLOSE)
    own = chunk.near[-1].text.replace("\\", "/") if close else ""
    ending = seat_file.path.rpartition(".")[2]
    seats = {posixpath.basename(one.path).casefold() for one in (*site.seat_files, seat_file)}
    said = own.replace(chunk.text, " ")
    paths = [
        *_PATH.findall(said),
        *(name for name in _BARE.findall(said) if kebab(name.rpartition(".")[0]) in site.stems),
    ]
    if not chunk.inline and any(posixpath.basename(path).casefold() in seats for path in paths):
        return 0.0
    for path in paths:
        name = posixpath.basename(path)
        stem = posixpath.splitext(name)[0]
        if path.endswith(f".{ending}") and name.casefold() not in seats and stem not in known.stems:
            return -8.0
    return 0.0


def _about(site: Site, chunk: Chunk) -> str:
    """The words just before a text, and those that go on behind it; where its own line names a file of the map, only
    that line."""
    behind = chunk.after.strip()
    on = re.match(rf"(?:{words()['parts']['goes-on']})\b", behind)
    if not chunk.inline and behind[:1].islower() and behind.endswith((".", "!")) and on is None:
        return f"{chunk.said}\n{behind}"
    own = chunk.near[-1].text if chunk.inline and chunk.near else ""
    flat = own.replace("\\", "/").casefold()
    return own if own and any(one.path.casefold() in flat for one in site.seat_files) else chunk.said


def _by_file(site: Site, seat_file: SeatFile, said: str, most: float) -> float:
    flat = said.replace("\\", "/").casefold()
    if seat_file.path.casefold() in flat:
        return most
    name = seat_file.path.rpartition("/")[2].casefold()
    if re.search(rf"(?<![\w.-]){re.escape(name)}(?![\w-])", flat):
        others = {
            one.path
            for one in site.seat_files
            if one.path.casefold().endswith(f"/{name}") or one.path.casefold() == name
        }
        return most * (0.9 if len(others) == 1 else 0.5)
    # Another file is named: this one is not meant.
    paths = {one.path.casefold() for one in site.seat_files}
    return -2.0 if any(path in flat for path in paths) else 0.0


def _by_name(site: Site, seat_file: SeatFile, said: str) -> float:
    """Whether what a seat is in is named as in code: `[course]`, "SOUNDS", `start()`."""
    quoted = [match["name"] or match["call"] for match in _QUOTED.finditer(said)]
    if _called(seat_file) in quoted:
        return 3.0
    others = {_called(one) for one in site.seat_files if one.path == seat_file.path}
    return -2.0 if (others - {""}) & set(quoted) else 0.0


def _other_cells(chunk: Chunk) -> str:
    """Of a row of a table in which a text stands, the other cells."""
    row = chunk.near[-1].text.strip() if chunk.inline and chunk.near else ""
    return "|".join(cell for cell in row.split("|") if chunk.text not in cell) if row.startswith("|") else ""


def _paragraph(chunk: Chunk) -> str:
    """The lines just before a text that belong together: an item of a list, or what stands without a gap."""
    rows: list[str] = []
    before = 0
    for line in reversed(chunk.near):
        if before and line.number < before - 1:
            break
        rows.append(line.text)
        before = line.number
        if _ITEM.match(line.text):
            break
    return "\n".join(reversed(rows))


def _called(seat_file: SeatFile) -> str:
    """The section, the list, or the function that a seat is in; empty for the file itself."""
    put = seat_file.seat.put
    named = getattr(put, "section", None) or getattr(put, "into", None) or getattr(put, "inside", None) or ""
    found = re.search(r"([\w-]+)\W*$", str(named))
    return found[1] if found is not None else ""


def _weights(site: Site, seat_file: SeatFile) -> dict[str, float]:
    """The words of a seat's name and title: those that few seats have weigh more."""
    often = Counter(word for seat in site.layout.seats.values() for word in concepts(_title(seat.name, seat.title)))
    mine = concepts(_title(seat_file.seat.name, seat_file.seat.title))
    return {word: 2.0 / often[word] if word not in ("the", "end", "last", "main") else 0.3 for word in mine}


def _title(name: str, title: str) -> str:
    return f"{name.replace('-', ' ')} {title}"


def _by_side(site: Site, side: str, said: str, most: float) -> float:
    words = concepts(said)
    named = [one for one in site.layout.sides if one in words]
    if "both" in words or len(named) != 1:
        return 0.0
    return most if named[0] == side else -1.5 * most
