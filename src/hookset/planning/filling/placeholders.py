"""`{lookup:…}`, `{next:…}` and the like in an entry, and the values that this map has for them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any

from msgspec import Struct, field, structs
from msgspec.structs import replace

from hookset.config.layouts import Layout, map_words
from hookset.config.layouts.schema import LookupEntry
from hookset.config.layouts.template import template
from hookset.config.sheets import nearest
from hookset.formats._numbers import whole_number
from hookset.model import Code, Message
from hookset.planning.filling.map_values import LookedUp, MapValues
from hookset.planning.filling.numbers import next_id, next_suffix
from hookset.project import LedgerFill

__all__ = ["Filled", "Filling", "Unfillable", "Unlisted", "fill_names", "filled", "numbers_given"]

_LARGEST = 1 << 20
"""Characters of an entry with everything filled in."""
_FILL = re.compile(
    r"\{(lookup|listed|next|map|setting|claim|blank|value|path):([^{}|\n]*)((?:\|[a-z]+(?::[^{}|\n]*)?)*)\}"
)


class Unfillable(Exception):  # noqa: N818
    """There is no value, or more than one."""

    def __init__(self, code: Code, what: str, details: tuple[str, ...] = (), remedy: str = "") -> None:
        super().__init__(what)
        self.message = Message(code, what, details=details, remedy=remedy)


class Unlisted(Exception):  # noqa: N818
    """A table of the map has no entry yet: one is to be set first."""

    def __init__(self, entry: LookupEntry, key: str) -> None:
        super().__init__(key)
        self.entry = entry
        self.key = key


class Filling(Struct, frozen=True, kw_only=True):
    """All that there is to fill in with."""

    map: MapValues
    """As the map is planned so far."""
    more: tuple[MapValues, ...] = ()
    """Entries that will be set as well, in files of their own."""
    folder: str
    """The map's folder."""
    lookups: Mapping[str, LookupEntry]
    settings: Mapping[str, Any] = field(default_factory=dict)
    claims: Mapping[str, str] = field(default_factory=dict)
    blanks: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)
    """The hook sheet's own names for further fill-ins."""
    moved: Callable[[str], str] = str
    """Where a path of the pack is in this map."""
    earlier: Mapping[str, LedgerFill] = field(default_factory=dict)
    """What was filled in when the entry was set before …"""
    lasting: frozenset[str] = frozenset({"next", "listed", "lookup", "value"})
    """… and stays for these."""
    given: frozenset[tuple[str, str]] = frozenset()
    """Names by kind that were given out for this pack and that no file holds yet."""

    @property
    def layout(self) -> Layout:
        """The layout of the map."""
        return self.map.layout


class Filled(Struct, frozen=True):
    """An entry with everything filled in, and what was filled in."""

    text: str | None
    record: dict[str, Any] | None
    fills: tuple[LedgerFill, ...]


def fill_names(text: str | None, record: Any) -> Iterator[tuple[str, str]]:
    """(word, what it is asked for) of each fill-in."""
    for piece in _strings(record) if text is None else (text,):
        for match in _FILL.finditer(piece):
            yield match[1], match[2]


def filled(text: str | None, record: Mapping[str, Any] | None, filling: Filling) -> Filled:
    """An entry with everything filled in. Raises Unfillable, and Unlisted for an entry that is to be set first."""
    fills: dict[str, LedgerFill] = {}
    done = None if text is None else _text(text, filling, fills)
    made = (
        None if record is None else {_text(key, filling, fills): _any(v, filling, fills) for key, v in record.items()}
    )
    if (size := _size(done) + _size(made)) > _LARGEST:
        raise Unfillable(
            "too-large",
            f"it grows to {size:,} characters; {_LARGEST:,} are the most",
            remedy="correct the hook sheet: values that name each other grow with every step",
        )
    return Filled(done, made, tuple(fills.values()))


def _size(value: Any) -> int:
    return sum(len(piece) for piece in _strings(value))


def _strings(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, Mapping):
        for key, below in value.items():
            yield key
            yield from _strings(below)
    elif isinstance(value, list | tuple):
        for below in value:
            yield from _strings(below)


def _any(value: Any, filling: Filling, fills: dict[str, LedgerFill]) -> Any:
    if isinstance(value, Mapping):
        return {_text(key, filling, fills): _any(below, filling, fills) for key, below in value.items()}
    if isinstance(value, list | tuple):
        return [_any(below, filling, fills) for below in value]
    if not isinstance(value, str):
        return value
    whole = _FILL.fullmatch(value)
    if whole is not None and whole[1] == "setting" and not whole[3]:
        # A value by itself keeps its type.
        _text(value, filling, fills)
        return filling.settings[whole[2]]
    done = _text(value, filling, fills)
    number = whole_number(done) if whole is not None and whole[3].endswith("|number") else None
    return done if number is None else number


def _text(text: str, filling: Filling, fills: dict[str, LedgerFill]) -> str:
    grown = [0]

    def one(match: re.Match[str]) -> str:
        asked = match[0]
        if match[1] == "next":
            # Each is a number of its own: one that is used twice is a [[value]].
            asked = _once_more(asked, fills)
        if asked not in fills:
            kept = filling.earlier.get(asked) if match[1] in filling.lasting else None
            found = _found(match, replace(filling, given=filling.given | numbers_given(fills.values())))
            fills[asked] = kept or structs.replace(found, asked=asked)
        grown[0] += len(fills[asked].value)
        if grown[0] > _LARGEST:
            raise Unfillable(
                "too-large",
                f"it grows to more than {_LARGEST:,} characters",
                remedy="correct the hook sheet: values that name each other grow with every step",
            )
        return fills[asked].value

    return _FILL.sub(one, text)


def _once_more(asked: str, fills: Mapping[str, LedgerFill]) -> str:
    """The key of the next occurrence of a fill-in: `{next:id}`, `{next:id}#2` …"""
    count = sum(one == asked or one.startswith(f"{asked}#") for one in fills)
    return f"{asked}#{count + 1}" if count else asked


def numbers_given(fills: Iterable[LedgerFill]) -> frozenset[tuple[str, str]]:
    """What `{next:…}` gave: kind, and the name that the number makes."""
    found = ((_FILL.match(fill.asked), fill.value) for fill in fills)
    pairs = ((match[2].partition(":"), value) for match, value in found if match is not None and match[1] == "next")
    return frozenset((kind, f"{front}{value}") for (kind, _, front), value in pairs)


def _found(match: re.Match[str], filling: Filling) -> LedgerFill:
    word, name, turns = match[1], match[2], match[3].replace("|number", "")
    value, by = _VALUES[word](name, filling)
    try:
        return LedgerFill(asked=match[0], value=template(f"{{x{turns}}}").of({"x": value}), by=by)
    except ValueError as error:
        raise Unfillable(
            "wrong-value", f"{match[0]} cannot be filled in: {error}", remedy="correct the hook sheet"
        ) from error


def _looked_up(name: str, filling: Filling) -> tuple[str, str]:
    entry, key = _table(name, filling)
    result = _in_any(entry, key, filling)
    if result.lacking:
        raise Unfillable(
            "unknown-name",
            f"{entry.title}: {result.lacking}",
            result.details,
            "add what is looked for to the map, or correct what the hook sheet looks for",
        )
    return result.value, f"{entry.title}, {result.by}" + (f": {key}" if key else "")


def _in_any(entry: LookupEntry, key: str, filling: Filling) -> LookedUp:
    """In the map, else among what will be set as well."""
    found = filling.map.look_up(entry, key)
    later = (one.look_up(entry, key) for one in filling.more) if found.absent else ()
    return next((one for one in later if not one.lacking), found)


def _listed(name: str, filling: Filling) -> tuple[str, str]:
    entry, key = _table(name, filling)
    if entry.seat and _in_any(entry, key, filling).absent:
        raise Unlisted(entry, key)
    return _looked_up(name, filling)


def _table(name: str, filling: Filling) -> tuple[LookupEntry, str]:
    table, _, key = name.partition(":")
    entry = filling.lookups.get(table)
    if entry is None:
        raise Unfillable(
            "unknown-name",
            f"nothing is called `{table}` that could be looked up{nearest(table, sorted(filling.lookups))}",
            remedy="correct the hook sheet; the layout's [[lookup]] and the sheet's own say what there is",
        )
    return entry, filling.moved(key)


def _next(name: str, filling: Filling) -> tuple[str, str]:
    kind, _, front = name.partition(":")
    if kind not in filling.layout.kinds:
        known = nearest(kind, sorted(filling.layout.kinds))
        raise Unfillable("unknown-kind", f"the layout knows no kind `{kind}`{known}", remedy="correct the hook sheet")
    given = frozenset(name for of, name in filling.given if of == kind)
    taken = given.union(filling.map.names(kind), *(one.names(kind) for one in filling.more))
    if front:
        return next_suffix(kind, front, filling.layout, taken)
    number, by = next_id(kind, filling.layout, taken)
    if number is None:
        raise Unfillable(
            "none-free",
            f"there is no free {filling.layout.kinds[kind].label}: {by}",
            remedy="take out something that has one, or ask for something that is numbered",
        )
    return number, by


def _map(name: str, filling: Filling) -> tuple[str, str]:
    words = map_words(filling.map.tree, filling.layout)
    file = filling.layout.descriptor.file if filling.layout.descriptor else ""
    known = {"name": (words["map"], file), "version": (words["version"], file)}
    folder = filling.layout.folder
    known["folder"] = (
        (folder.of(words), "the folder called after the map") if folder else (filling.folder, "its folder")
    )
    known |= {key: (made.of(words), f"made of {file} by the layout") for key, made in filling.layout.words.items()}
    if name not in known:
        raise Unfillable(
            "unknown-name", f"a map has no `{name}`{nearest(name, sorted(known))}", remedy="correct the hook sheet"
        )
    value, by = known[name]
    if not value:
        raise Unfillable(
            "map-lacks-value", f"the map does not say its {name}", remedy=f"write it into {file or 'the descriptor'}"
        )
    return value, by


def _value(name: str, filling: Filling) -> tuple[str, str]:
    if name not in filling.values:
        known = nearest(name, sorted(filling.values))
        raise Unfillable(
            "unknown-name", f"the hook sheet has no [[value]] `{name}`{known}", remedy="correct the hook sheet"
        )
    return filling.values[name], "worked out once for the pack"


def _of(what: str, of: Callable[[Filling], Mapping[str, Any]], by: str) -> Callable[[str, Filling], tuple[str, str]]:
    def found(name: str, filling: Filling) -> tuple[str, str]:
        have = of(filling)
        if name not in have:
            known = nearest(name, sorted(have))
            raise Unfillable(
                "unknown-name", f"the hook sheet has no {what} `{name}`{known}", remedy="correct the hook sheet"
            )
        value = have[name]
        return ("true" if value else "false") if isinstance(value, bool) else str(value), by

    return found


_VALUES: dict[str, Callable[[str, Filling], tuple[str, str]]] = {
    "lookup": _looked_up,
    "listed": _listed,
    "next": _next,
    "map": _map,
    "value": _value,
    "setting": _of("setting", lambda f: f.settings, "a setting"),
    "claim": _of("claim of the kind", lambda f: f.claims, "claimed for the pack"),
    "blank": _of("blank", lambda f: f.blanks, "filled by you"),
    "path": lambda name, f: (f.moved(name), "where it lies in this map"),
}
