"""What the formats that read as JSON-like data share: selectors, seats, and reading by address."""

from __future__ import annotations

import difflib
import re
from abc import abstractmethod
from collections.abc import Collection, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from functools import cached_property
from typing import Any, ClassVar, Literal, TypeGuard

import msgspec
from msgspec import Struct

from hookset.formats._media import MediaFacts
from hookset.formats._values import is_number
from hookset.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    Edits,
    ExistingEntry,
    NoSeat,
    Placement,
    Value,
    WrongBody,
)
from hookset.formats.datapath import Walked, checked, find, has_words, leaves
from hookset.formats.document import HasIndex, HasParts, HasRows, HasWording, Restorable
from hookset.formats.parts import Part, PartTable
from hookset.formats.pointers import escaped, steps_of
from hookset.model import Where
from hookset.model.digits import natural_number
from hookset.trees import Text

_COMPARED = re.compile(r"\[\?\s*@(?P<field>(?:\.\w+)+)\s*==\s*'(?P<value>[^']*)'\s*\]")
_MANY = 12
_FEW = 8
"""Selectors that are asked one by one as quickly."""

__all__ = ["DataDocument", "DataSeat", "DataSelector", "as_text", "get", "model_facts", "select", "split_keys"]


class DataSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """One of the three."""

    at: str | None = None
    """JSONPath: the values it names."""
    keys: str | None = None
    """JSONPath: the keys of the objects it names."""
    leaves: str | None = None
    """JSONPath: the dotted names of all values below what it names, so that `"a.b"` and `[a] b` are one name."""

    def __post_init__(self) -> None:
        ways = [way for way in (self.at, self.keys, self.leaves) if way is not None]
        if len(ways) != 1:
            raise ValueError("one of at, keys and leaves says which values are meant")
        checked(ways[0])


class DataSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A spot in JSON-like data."""

    into: str
    """JSON Pointer of the array or object that takes the entry, empty for the top; or a JSONPath that names one."""
    form: Literal["row", "keys"] = "row"
    """`row`: one more element of an array. `keys`: keys of an object."""
    at: Literal["start", "end"] = "end"
    listed_in: str = ""
    """JSON Pointer of an array that must hold the new row's index as well."""
    indexes: tuple[str, ...] = ()
    """JSONPaths of further values that are indexes of rows: when one is removed, the later ones are renumbered."""

    def __post_init__(self) -> None:
        if self.listed_in and (self.at != "end" or self.form != "row"):
            raise ValueError("listed_in goes with rows at the end: any other row would have the index of one before it")
        for path in (self.into, *self.indexes):
            if path.startswith("$") and not has_words(path):
                checked(path)


def _is_rows(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and isinstance(value[0], dict)


def as_text(value: Any) -> str | None:
    """A value as a name: text as it is, whole numbers as their digits, nothing else."""
    if isinstance(value, str):
        return value
    if isinstance(value, int) and not isinstance(value, bool):
        return str(value)
    return None


def select(data: Any, selector: DataSelector) -> Iterator[Value]:
    """The values that the selector names."""
    return _selected(Walked(data), selector)


def _selected(data: Walked, selector: DataSelector) -> Iterator[Value]:
    if selector.at is not None:
        for where, value in data.find(selector.at):
            if (text := as_text(value)) is not None:
                yield Value(text, where)
    elif selector.keys is not None:
        for where, value in data.find(selector.keys):
            if isinstance(value, dict):
                for key in value:
                    yield Value(key, f"{where}/{key.replace('~', '~0').replace('/', '~1')}")
    elif selector.leaves is not None:
        for where, value in data.find(selector.leaves):
            for name, at, _ in leaves(where, value):
                yield Value(name, at)


def get(data: Any, address: str) -> Any:
    """The value at a JSON Pointer; None where there is none."""
    for step in steps_of(address):
        if isinstance(data, dict) and step in data:
            data = data[step]
        elif isinstance(data, list) and (index := natural_number(step)) is not None and index < len(data):
            data = data[index]
        else:
            return None
    return data


def _part(where: str, record: dict[str, Any], way: tuple[str, ...]) -> Part | None:
    """What a way leads to in a record; `0#` is the record's own key (as in Relative JSON Pointers), or its index."""
    if way == ("0#",):
        return Part(where, steps_of(where)[-1]) if where else None
    value: Any = record
    for step in way:
        if isinstance(value, dict):
            value = value.get(step)
        else:
            index = natural_number(step)
            value = value[index] if isinstance(value, list) and index is not None and index < len(value) else None
        if value is None:
            return None
        where = f"{where}/{escaped(step)}"
    if isinstance(value, list):
        return Part(where, tuple(Part(f"{where}/{index}", one) for index, one in enumerate(value)))
    return Part(where, value)


def _ways(record: Any, before: str = "") -> Iterator[str]:
    """The ways to the values in an object: lists are one value each."""
    for key, value in record.items() if isinstance(record, dict) else ():
        if isinstance(value, dict):
            yield from _ways(value, f"{before}{key}/")
        else:
            yield f"{before}{key}"


def _around(where: str, known: AbstractSet[str]) -> str | None:
    """The closest record around one."""
    above = where.rpartition("/")[0]
    while above and above not in known:
        above = above.rpartition("/")[0]
    return above if above in known else None


def split_keys(
    there: Any, wanted: Mapping[str, Any], at: str
) -> tuple[dict[str, Any], list[str], list[tuple[str, str]]]:
    """(keys still to be set, pointers of those that are there, (pointer, what stands there) of those that differ)."""
    have = {name: (where, value) for name, where, value in leaves(at, there or {})}
    have |= {key: (f"{at}/{key}", value) for key, value in (there or {}).items()}
    missing: dict[str, Any] = {}
    same: list[str] = []
    other: list[tuple[str, str]] = []
    for key, value in wanted.items():
        if key not in have:
            missing[key] = value
        elif have[key][1] == value:
            same.append(have[key][0])
        else:
            other.append((have[key][0], f"{key} = {have[key][1]!r}, not {value!r}"))
    return missing, same, other


class DataDocument(HasIndex, HasRows, HasParts, HasWording, Restorable):
    """A document that reads as JSON-like data. A format says how rows and keys are written in it."""

    text: Text
    data: Any
    MAKES: ClassVar[bool]
    """Whether a list or an object that is not there yet can be made for the entry."""

    @cached_property
    def walked(self) -> Walked:
        """The data, which many rules ask for much the same."""
        return Walked(self.data)

    def may_match(self, selectors: Sequence[DataSelector]) -> Collection[int]:
        if len(selectors) < _FEW:
            return range(len(selectors))
        return self.walked.leading(tuple([one.at or one.keys or one.leaves or "$" for one in selectors]))

    def select(self, selector: DataSelector) -> Iterator[Value]:
        """A key that an object has twice is there twice, though reading keeps the last one only."""
        if selector.at is not None:
            yield from _selected(self.walked, selector)
            return
        values = list(_selected(self.walked, selector))
        yield from values
        for again in self.repeated if values else ():
            yield from (v for v in values if v.where == again or str(v.where).startswith(f"{again}/"))

    def places(self, selector: DataSelector) -> Iterator[tuple[Where, Any]]:
        if selector.at is None:
            yield from super().places(selector)
            return
        for where, value in self.walked.find(selector.at):
            if value is None or isinstance(value, str | int | float):
                yield where, value

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        old = self.text.string[slice(*span)]
        return (Edit(*span, new) for new in self.literals(old, value))

    def literals(self, old: str, value: Any) -> Iterator[str]:
        """The ways to write a value where `old` stands, which has its quotes."""
        raise NotImplementedError

    @cached_property
    def repeated(self) -> list[str]:
        """JSON Pointers of keys that an object has once more, each as often as it has; none in formats in which that
        is a mistake that the parser tells."""
        return []

    def rows(self, selector: DataSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the plain values of the objects around it, the closest before those further out; a key with those of
        its own object, too."""
        if selector not in self._known_rows:
            rows = ((value, str(value.where)) for value in self.select(selector))
            self._known_rows[selector] = [
                (value, self._beside(at if selector.at is None else at.rpartition("/")[0])) for value, at in rows
            ]
        yield from self._known_rows[selector]

    @cached_property
    def _known_rows(self) -> dict[DataSelector, list[tuple[Value, Mapping[str, str]]]]:
        """Many rules ask for the same values, each of those beside which something else stands."""
        return {}

    @cached_property
    def _known_beside(self) -> dict[str, Mapping[str, str]]:
        return {}

    def _beside(self, at: str) -> Mapping[str, str]:
        """The plain values of what stands at an address and of all that is around it."""
        known = self._known_beside
        if at not in known:
            outer = self._beside(at.rpartition("/")[0]) if at else {}
            inside = get(self.data, at)
            pairs = inside.items() if isinstance(inside, dict) else ()
            own = {key: text for key, one in pairs if (text := _beside(one)) is not None}
            known[at] = {**outer, **own} if own else outer
        return known[at]

    def wording(self, where: Where) -> str:
        value = get(self.data, str(where))
        return value if isinstance(value, str) else ""

    def records(self, selector: DataSelector) -> Iterator[tuple[Where, Any]]:
        if selector.at is not None:
            yield from self.walked.find(selector.at)

    def parts(self, selector: DataSelector, ways: Sequence[str]) -> PartTable:
        found = list(self._objects(selector))
        columns = tuple([_part(where, record, tuple(way.split("/"))) for where, record in found] for way in ways)
        return PartTable([where for where, _ in found], columns)

    def around(self, selector: DataSelector) -> Sequence[Where | None]:
        wheres = [where for where, _ in self._objects(selector)]
        known = set(wheres)
        return [_around(where, known) for where in wheres]

    def _objects(self, selector: DataSelector) -> Iterator[tuple[str, Any]]:
        found = self.walked.find(selector.at) if selector.at is not None else ()
        return ((where, record) for where, record in found if isinstance(record, dict))

    def ways(self, record: Where) -> tuple[str, ...]:
        return tuple(_ways(get(self.data, str(record))))

    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        missing: dict[str, dict[str, Any]] = {}
        if record and not str(record).startswith("/"):
            return None
        for way, value in values.items():
            *outer, last = way.split("/")
            into, there = str(record), get(self.data, str(record))
            while outer and isinstance(there, dict) and outer[0] in there:
                into, there = f"{into}/{escaped(outer[0])}", there[outer.pop(0)]
            if not isinstance(there, dict):
                return None
            keys = missing.setdefault(into, {})
            for step in outer:
                keys = keys.setdefault(step, {})
            keys[last] = value
        placed = [
            self.put_keys(DataSeat(into=into, form="keys"), get(self.data, into), keys)
            for into, keys in missing.items()
        ]
        edits = [edit for one in placed if isinstance(one, Edits) for edit in one.edits]
        return Edits(tuple(edits)) if all(isinstance(one, Edits) for one in placed) else None

    def put(self, seat: DataSeat, body: Body) -> Placement:
        if body.record is None and (seat.form == "keys" or body.text is None):
            return WrongBody("a record of keys and values")
        if seat.into.startswith("$"):
            places = [where for where, _ in find(seat.into, self.data)]
            if len(places) != 1:
                often = f" (it is there {len(places)} times)" if places else ""
                return NoSeat(f"one place at {seat.into}{often}", tuple(places[:_MANY]) or self._near(seat))
            seat = msgspec.structs.replace(seat, into=places[0])
        target = get(self.data, seat.into)
        can_make = target is None and self.MAKES
        if seat.form == "row":
            if not isinstance(target, list) and not can_make:
                return NoSeat(f"a list at {seat.into or 'the top'}", self._places(list))
            record: dict[str, Any] | str = dict(body.record) if body.record is not None else body.text or ""
            if target and record in target:
                return AlreadyThere(f"{seat.into}/{target.index(record)}")
            return self.put_row(seat, target, record)
        if not isinstance(target, dict) and not can_make:
            return NoSeat(f"keys at {seat.into or 'the top'}", self._places(dict))
        missing, same, other = split_keys(target, body.record or {}, seat.into)
        if other:
            return Clash(other[0][0], other[0][1])
        if not missing:
            return AlreadyThere(same[0] if same else seat.into)
        return self.put_keys(seat, target, missing)

    def existing(self, seat: DataSeat) -> Iterator[ExistingEntry]:
        into = next((where for where, _ in find(seat.into, self.data)), "") if seat.into.startswith("$") else seat.into
        target = get(self.data, into)
        if seat.form == "row" and isinstance(target, list):
            yield from self._rows(into, target)
        elif seat.form == "keys" and isinstance(target, dict):
            wheres = {f"{into}/{escaped(key)}": key for key in target}
            for where, (start, end) in self.spans(wheres).items():
                key = wheres[str(where)]
                yield ExistingEntry(start, end, Body(record={key: target[key]}))

    def _rows(self, into: str, rows: list[Any]) -> Iterator[ExistingEntry]:
        wheres = {f"{into}/{index}": row for index, row in enumerate(rows)}
        for where, (start, end) in self.spans(wheres).items():
            row = wheres[str(where)]
            if isinstance(row, dict):
                yield ExistingEntry(start, end, Body(record=row))
            elif (text := as_text(row)) is not None:
                yield ExistingEntry(start, end, Body(text=text))

    def pasted(self, seat: DataSeat) -> tuple[ExistingEntry, ...]:
        """The entries of a document that is a pasted text: where the seat is, or at the top of it."""
        if there := tuple(self.existing(seat)):
            return there
        if seat.form == "row":
            if isinstance(self.data, list):
                return tuple(self._rows("", self.data))
            plain = isinstance(self.data, dict) and not any(_is_rows(value) for value in self.data.values())
            return (ExistingEntry(0, len(self.text.string), Body(record=self.data)),) if plain and self.data else ()
        rows = isinstance(self.data, dict) and any(_is_rows(value) for value in self.data.values())
        return () if rows or not isinstance(self.data, dict) else tuple(self.existing(DataSeat(into="", form="keys")))

    def standing(self, seat: DataSeat, body: Body, near: Sequence[tuple[int, int]]) -> Any:
        into = next((where for where, _ in find(seat.into, self.data)), "") if seat.into.startswith("$") else seat.into
        target = get(self.data, into)
        if isinstance(target, dict):
            return {key: target[key] for key in body.record or {} if key in target}
        if not isinstance(target, list):
            return None
        wheres = [f"{into}/{index}" for index in range(len(target))]
        spans = self.spans(wheres)
        here = [
            index
            for index, where in enumerate(wheres)
            if where in spans and any(a < spans[where][1] and spans[where][0] < b for a, b in near)
        ]
        return target[here[0]] if len(here) == 1 else None

    def _near(self, seat: DataSeat) -> tuple[str, ...]:
        """What may have been meant by a JSONPath that names nothing: other values of what it compares."""
        compared = _COMPARED.search(seat.into)
        if compared is None:
            return self._places(list if seat.form == "row" else dict)
        path = f"{seat.into[: compared.start()]}[*]{compared['field']}"
        values = list(dict.fromkeys(text for _, value in find(path, self.data) if (text := as_text(value)) is not None))
        return tuple(difflib.get_close_matches(compared["value"], values, _MANY, 0.5) or values[:_MANY])

    def _places(self, wanted: type) -> tuple[str, ...]:
        """Where such a thing is, at the top."""
        items = self.data.items() if isinstance(self.data, dict) else ()
        return tuple(f"/{key}" for key, value in items if isinstance(value, wanted))

    @abstractmethod
    def put_row(self, seat: DataSeat, target: list[Any] | None, record: dict[str, Any] | str) -> Placement:
        """One more element of a list: a record, or a text in lists of texts."""

    @abstractmethod
    def put_keys(self, seat: DataSeat, target: dict[str, Any] | None, missing: Mapping[str, Any]) -> Placement:
        """Keys that an object lacks."""


def model_facts(data: Any) -> MediaFacts | None:
    """For JSON that is glTF 2.0: nodes, materials, and the size of what its positions span."""
    if not isinstance(data, dict) or not isinstance(data.get("asset"), dict) or "version" not in data["asset"]:
        return None
    counts = [data.get(part, ()) for part in ("nodes", "materials")]
    nodes, materials = (len(part) if isinstance(part, list) else 0 for part in counts)
    return MediaFacts(nodes=nodes, materials=materials, extent=_extent(data.get("accessors", ())))


def _extent(accessors: Any) -> tuple[float, float, float] | None:
    """The size of the box around all positions (glTF 2.0, 3.6.2.5); None where they are not told."""
    told = [one for one in accessors if isinstance(one, dict)] if isinstance(accessors, list) else []
    boxes = [(one.get("min"), one.get("max")) for one in told if one.get("type") == "VEC3"]
    spans = [(low, high) for low, high in boxes if _is_point(low) and _is_point(high)]
    if not spans:
        return None
    x, y, z = (max(high[axis] for _, high in spans) - min(low[axis] for low, _ in spans) for axis in range(3))
    return float(x), float(y), float(z)


def _is_point(value: Any) -> TypeGuard[list[float]]:
    return isinstance(value, list) and len(value) == 3 and all(is_number(one) for one in value)


def _beside(value: Any) -> str | None:
    """What stands beside a value, as text; None for what is no plain value."""
    return str(value).lower() if isinstance(value, bool) else as_text(value)
