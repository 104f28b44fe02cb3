"""What comes into the holes of entries: ids that are looked up, free numbers, claims, the map's name, blanks."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from msgspec import Struct
from msgspec.structs import replace
from rapidfuzz import fuzz, process

from hookset.authoring.draft.cites import Why, because_of
from hookset.authoring.draft.found.later import Correction, corrections_in, name_by_now, said_later
from hookset.authoring.draft.found.seating import Known, Seated
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said import Hole
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.said.sentences import Sentence
from hookset.authoring.draft.site import Site
from hookset.formats import Body
from hookset.model import Reference
from hookset.packs.hooksheet import BlankEntry, ClaimEntry, NamedValue

__all__ = ["Filled", "filled_in", "ids_in", "mapped"]

_NEAR = 84
"""Likeness, of 100, from which a name that is nowhere may have been meant to be another."""


class Filled(Struct, frozen=True):
    """One entry with its fill-ins."""

    seated: Seated
    body: Body
    doubts: tuple[str, ...] = ()
    """What makes it unsure."""
    told: tuple[Why, ...] = ()
    """What was done to it."""


@dataclass
class _Fills:
    """What the words of all entries turn out to be."""

    words: dict[str, str] = field(default_factory=dict)
    claims: dict[str, ClaimEntry] = field(default_factory=dict)
    blanks: dict[str, BlankEntry] = field(default_factory=dict)
    values: dict[str, NamedValue] = field(default_factory=dict)
    doubts: dict[str, str] = field(default_factory=dict)
    listed: set[int] = field(default_factory=set)
    """Entries that a look-up makes by itself, by their place."""
    map_word: str = ""
    """The word that stands for the map's own name."""


def filled_in(
    site: Site, seated: Sequence[Seated], known: Known, notes: Sequence[Notes]
) -> tuple[list[Filled], tuple[ClaimEntry, ...], tuple[BlankEntry, ...], tuple[NamedValue, ...], str]:
    """The entries with their holes filled, and what they turn out to need; last, how the pack calls the map it was made
    in, if its notes say that this is to be replaced."""
    fills = _Fills()
    ids = dict(_ids(site, seated, known, fills))
    for word, places in _by_word(seated).items():
        if word not in ids:
            fills.words[word] = _fill(site, word, places, known, fills)
    fills.words |= ids
    fixes, later = tuple(corrections_in(notes)), said_later(notes)
    filled = [
        replace(_filled(site, _put_right(one, fixes), known, ids, fills, later), seated=one)
        for place, one in enumerate(seated)
        if place not in fills.listed
    ]
    return (
        filled,
        tuple(fills.claims.values()),
        tuple(fills.blanks.values()),
        tuple(fills.values.values()),
        fills.map_word,
    )


def _put_right(one: Seated, fixes: Sequence[Correction]) -> Seated:
    """The entry with what the notes take back later."""
    text = one.body.text
    told: list[Why] = []
    for fix in fixes if text is not None else ():
        lines = (text or "").split("\n")
        meant = [n for n, line in enumerate(lines) if fix.wrong in line]
        named = [n for n in meant if any(word in lines[n] for word in fix.beside)] or (meant if len(meant) == 1 else [])
        if len(named) == 1 and fix.line > one.line:
            lines[named[0]] = lines[named[0]].replace(fix.wrong, fix.right)
            text = "\n".join(lines)
            told.append(fix.why)
    if not told:
        return one
    return replace(one, body=Body(text=text), mended=because_of((one.mended, *told)))


def mapped(body: Body, change: Mapping[str, str]) -> Body:
    """An entry with texts in it replaced."""
    if body.text is not None:
        return Body(text=_replaced(body.text, change))
    return Body(record={key: _mapped(value, change) for key, value in _renamed_keys(body.record or {}, change)})


def _renamed_keys(record: Mapping[str, Any], change: Mapping[str, str]) -> Iterator[tuple[str, Any]]:
    return ((_replaced(key, change), value) for key, value in record.items())


def _mapped(value: Any, change: Mapping[str, str]) -> Any:
    if isinstance(value, str):
        return _replaced(value, change)
    if isinstance(value, Mapping):
        return {key: _mapped(inner, change) for key, inner in value.items()}
    if isinstance(value, list):
        return [_mapped(inner, change) for inner in value]
    return value


def _replaced(text: str, change: Mapping[str, str]) -> str:
    for old, new in sorted(change.items(), key=lambda one: -len(one[0])):
        text = text.replace(old, new)
    return text


def ids_in(site: Site, seated: Sequence[Seated], known: Known) -> Mapping[str, str]:
    """The author's numbers that entries in tables of ids have, each with what is looked up in its place."""
    return dict(_ids(site, seated, known, _Fills()))


def _ids(site: Site, seated: Sequence[Seated], known: Known, fills: _Fills) -> Iterator[tuple[str, str]]:
    """Entries in a table of ids: what they list is looked up instead, with an entry made where there is none. Gives
    each id, or the word in its place, with its fill-in."""
    for place, one in enumerate(seated):
        lookup = next((e for e in site.layout.lookups.values() if e.seat == one.seat_file.seat.name), None)
        numbered = [d for d in one.told.defines if site.layout.kinds[d.kind].entry.numbers is not None]
        files = [r.name for r in one.told.refers if r.kind in site.layout.path_kinds]
        if lookup is None or len(numbered) != 1:
            continue
        path = files[0] if files else _path_in(one)
        if not path:
            continue
        path = _meant_path(site, known, path) or path
        word = next((hole.word for hole in one.holes if hole.mark == numbered[0].name), numbered[0].name)
        fills.listed.add(place)
        yield word, f"{{listed:{lookup.name}:{path}}}"


def _path_in(one: Seated) -> str:
    found = re.search(r"[\w.-]+(?:/[\w.-]+)+", str(one.body.text or one.body.record))
    return found.group() if found else ""


def _by_word(seated: Sequence[Seated]) -> dict[str, list[tuple[Seated, Hole]]]:
    found: dict[str, list[tuple[Seated, Hole]]] = {}
    for one in seated:
        for hole in one.holes:
            found.setdefault(hole.word, []).append((one, hole))
    return found


def _fill(site: Site, word: str, places: Sequence[tuple[Seated, Hole]], known: Known, fills: _Fills) -> str:
    """What stands in the place of a word. Every kind of fill-in is tried in turn, a blank last."""
    holes = [hole for _, hole in places]
    wants = next((hole.wants for hole in holes if hole.wants), "")
    roles = [role for one, hole in places for role in _roles(one, hole)]
    of_map = next((hole.by for hole in holes if hole.by.startswith("{map:")), "")
    if of_map:
        fills.map_word = word
        return of_map
    if wants in ("map-name", "map-folder"):
        fills.map_word = word
        return "{map:folder}" if wants == "map-folder" and "folder" in site.layout.words else "{map:name}"
    pools = [kind for kind, _, _ in roles if site.layout.kinds[kind].entry.pool]
    if pools:
        fills.claims[pools[0]] = ClaimEntry(kind=pools[0], says=_says(holes))
        return f"{{claim:{pools[0]}}}"
    path = next((hole.path for hole in holes if hole.path), "")
    lookup = next(iter(site.layout.lookups.values()), None)
    if path and lookup is not None and (found := _meant_path(site, known, path)) is not None:
        verb = "listed" if any(name == found for _, name in known.defined) else "lookup"
        return f"{{{verb}:{lookup.name}:{found}}}"
    if (number := _numbered(site, word, wants, roles, places, fills)) is not None:
        return number
    return _blank(word, holes, fills)


def _roles(one: Seated, hole: Hole) -> Iterator[tuple[str, str, bool]]:
    """(kind, what stands in front of the word in the name, whether it is defined) wherever the word is in a name."""
    for definition in one.told.defines:
        if hole.mark in definition.name:
            yield definition.kind, definition.name.partition(hole.mark)[0], True
    for reference in one.told.refers:
        if hole.mark in reference.name:
            yield reference.kind, reference.name.partition(hole.mark)[0], False


def _numbered(
    site: Site,
    word: str,
    wants: str,
    roles: Sequence[tuple[str, str, bool]],
    places: Sequence[tuple[Seated, Hole]],
    fills: _Fills,
) -> str | None:
    """The next free number, where the word stands for one."""
    made = next(((kind, front) for kind, front, defined in roles if defined), None)
    if made is None:
        return None
    kind, front = made
    counted = site.layout.kinds[kind].entry.numbers is not None
    if wants != "next" and not (counted and not front):
        return None
    fill = f"{{next:{kind}:{front}}}" if front else f"{{next:{kind}}}"
    if not front and not counted:
        return None
    if len(places) > 1:
        name = kebab(word) or "number"
        fills.values[name] = NamedValue(name=name, is_=fill)
        return f"{{value:{name}}}"
    return fill


def _blank(word: str, holes: Sequence[Hole], fills: _Fills) -> str:
    name = kebab(word) or f"blank-{len(fills.blanks) + 1}"
    says = _says(holes)
    fills.blanks[name] = BlankEntry(name=name, kind="text", says=says or f"what the notes have {word} for")
    if not says:
        fills.doubts[word] = f"the notes do not say what {word} stands for"
    return f"{{blank:{name}}}"


def _says(holes: Sequence[Hole]) -> str:
    return next((hole.by for hole in holes if hole.by), "")[:100]


def _meant_path(site: Site, known: Known, path: str) -> str | None:
    """A path as the pack or the map has it: exactly, or the only one that ends so."""
    own = [name for kind, name in known.defined if kind in site.layout.path_kinds]
    for names in (own, list(site.tree.paths())):
        ending = [name for name in names if name == path or name.endswith(f"/{posixpath.basename(path)}")]
        if path in ending:
            return path
        if len(ending) == 1:
            return ending[0]
    return None


def _filled(
    site: Site, one: Seated, known: Known, ids: Mapping[str, str], fills: _Fills, later: Sequence[Sentence]
) -> Filled:
    change = {hole.mark: fills.words[hole.word] for hole in one.holes}
    doubts = [fills.doubts[hole.word] for hole in one.holes if hole.word in fills.doubts]
    told = [one.mended] if one.mended else []
    for reference in one.told.refers:
        if reference.name in ids:
            change |= {f'"{reference.written}"': f'"{ids[reference.name]}"'}
    body = mapped(one.body, change)
    if one.body.record is not None:
        plain = {name: fill for name, fill in ids.items() if any(r.name == name for r in one.told.refers)}
        body = Body(record={key: plain.get(str(value), value) for key, value in (body.record or {}).items()})
    for reference, meant, name, why in _corrected(site, one, known, ids, later):
        body = _with_meant(site, one, body, reference, meant, name)
        if why:
            told.append(why)
        else:
            doubts.append(f"the notes say {reference.written}; the pack has {meant}")
    for definition in one.told.defines:
        entry = site.layout.kinds[definition.kind].entry
        if entry.numbers is None or body.text is None or f'"{definition.name}"' not in body.text:
            continue
        if not definition.name.isdigit():
            doubts.append(f"{definition.name} is taken to stand for the next free {entry.label}")
        elif site.index.get(definition.kind, definition.name):
            doubts.append(f"{entry.label} {definition.name} is taken in this map; the next free one is used")
        elif (definition.kind, definition.name) in known.asked:
            # The pack's own files go by this very number.
            continue
        body = mapped(body, {f'"{definition.name}"': f'"{{next:{definition.kind}}}"'})
    return Filled(one, body, tuple(doubts), tuple(told))


def _with_meant(site: Site, one: Seated, body: Body, reference: Reference, meant: str, name: str) -> Body:
    """The entry with a name put right where it is a reference: other things may be called the same."""
    spots = list(_spots(body, reference.written, meant))
    for changed in spots:
        told = site.told(one.seat_file, changed)
        if any((other.kind, other.name) == (reference.kind, name) for other in told.refers):
            return changed
    return mapped(body, {reference.written: meant}) if len(spots) != 1 else spots[0]


def _spots(body: Body, old: str, new: str) -> Iterator[Body]:
    """The entry with one text in it replaced, at each of its places."""
    if body.record is not None:
        yield from (Body(record=record) for record in _one_replaced(body.record, old, new))
        return
    for match in re.finditer(rf"(?<![\w./-]){re.escape(old)}(?![\w-])", body.text or ""):
        text = body.text or ""
        yield Body(text=text[: match.start()] + new + text[match.end() :])


def _one_replaced(value: Any, old: str, new: str) -> Iterator[Any]:
    """The value with one of the texts in it replaced."""
    if isinstance(value, Mapping):
        for key, inner in value.items():
            yield from ({**value, key: changed} for changed in _one_replaced(inner, old, new))
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            yield from ([*value[:index], changed, *value[index + 1 :]] for changed in _one_replaced(inner, old, new))
    elif value == old:
        yield new


def _corrected(
    site: Site, one: Seated, known: Known, ids: Mapping[str, str], later: Sequence[Sentence]
) -> Iterator[tuple[Reference, str, str, Why]]:
    """Names that are nowhere, with the one that is meant, as it is written there and as it is called: one that the
    notes name later, and where; or else one of the pack's that they are so much like that they must be meant for it."""
    for reference in one.told.refers:
        names = (reference.name, *reference.others)
        if reference.name in ids or any(hole.mark in reference.name for hole in one.holes):
            continue
        if any(_is_known(site, reference.kind, name, known) for name in names):
            continue
        own = [name for kind, name in known.defined if kind == reference.kind]
        best = process.extractOne(reference.name, own, scorer=fuzz.ratio, score_cutoff=_NEAR)
        now = name_by_now(site, reference, one.line, known, later)
        name, why = now if now is not None else (best[0] if best is not None else "", Why())
        front, _, back = reference.name.partition(reference.written)
        if name and name.startswith(front) and name.endswith(back):
            yield reference, name[len(front) : len(name) - len(back)], name, why


def _is_known(site: Site, kind: str, name: str, known: Known) -> bool:
    return (kind, name) in known.defined or bool(site.index.get(kind, name)) or bool(site.stock.sides(kind, name))
