"""Places in JSON-like data: values by the way to them, keys of objects that are tables by names."""

from __future__ import annotations

import re
import sys
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from hookset.formats.datapath import Walked
from hookset.formats.pointers import escaped
from hookset.learning.heads import whole_of
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.beside import variants
from hookset.learning.said import Said, joined

__all__ = ["data_places"]

_DEEP = 24
_PLAIN = re.compile(r"[^\W\d]\w*")
_MOST_KEYS = 600
"""Keys of a record that are looked at one by one, the most frequent ones."""
_ROWS = 3
_COLUMNS = 6
"""Elements of a list that may be the columns of a row."""
_SELDOM = 0.34
"""Of the objects at a place: how many have one key of a table by names, on the average."""
_RARELY = 0.1
"""The same of tables whose values are anything."""
_SIGNS = 8
"""Keys of one character that say that an object is the legend of a drawing, whatever its values are."""
_COMMON, _COMMON_KEYS = 0.8, 2
"""Of the records of a table: how many have each of so many keys, at least."""
_FEW_NAMES = 4
"""Keys that a table by names has at least."""

_RECORD_KEYS = 5
"""Keys that all of a few things have: they are records of a table by names, and no parts of one thing."""
_PATH = re.compile(r"[^/\\]+(?:[/\\][^/\\]+)+\.\w{1,6}")
"""A key that is the way to a file, and no word of a record."""
_WAYS = 3
"""Ways to the same key that there are at least before it is looked at as one place."""
_LAST_KEY = re.compile(r"\.(?P<key>[^\W\d]\w*)(?P<rest>(?:\[\*\]|\[\d+\]|\.\*)*)$")
_STEP = re.compile(r"\.[^\W\d]\w*|\['[^']*'\]")
_NUMBER = re.compile(r"\[\d+\]")

_Node = tuple[str, str, Any]
"""(path, pointer, value)"""


def data_places(sort: Sort) -> Iterator[Place]:
    """Values and keys, each by the JSONPath that leads to all of its like."""
    nodes = [
        (path, "", whole) for path, document in sort.documents.items() if (whole := whole_of(document)) is not None
    ]
    both: dict[str, set[str]] = {}
    explored = list(_explored(sort, "$", "", "", nodes, both))
    ways = {place: _mixed(place, both) for place in explored}
    again = _again(nodes, ways)
    found = [_exact(place, again[place]) if place in again else place for place in explored]
    yield from found
    yield from _at_any_depth(sort, found)


def _mixed(place: Place, both: Mapping[str, Collection[str]]) -> frozenset[str]:
    """The files in which the way to a place leads to more than that: below lists and objects that stand at the same
    place, `[*]` and `.*` mean the elements of the ones and the values of the others."""
    way = str(place.asked.get("at", ""))
    beside = frozenset(path for one, paths in both.items() if way.startswith(one) for path in paths)
    return frozenset() if place.when else beside


def _again(nodes: Sequence[_Node], mixed: Mapping[Place, Collection[str]]) -> Mapping[Place, Mapping[str, Said]]:
    """All that the ways to places lead to in those files: file by file, since what they share is walked once."""
    found: dict[Place, dict[str, Said]] = {place: {} for place, paths in mixed.items() if paths}
    for path, _, whole in nodes:
        walked = Walked(whole)
        for place, by_path in found.items():
            if path in mixed[place]:
                said = by_path[path] = Said()
                for where, value in walked.find(str(place.asked["at"])):
                    if (text := _text(value)) is not None:
                        said.add(text, path, where)
    return found


def _exact(place: Place, again: Mapping[str, Said]) -> Place:
    """The place with all that its way leads to."""
    plain: dict[str, Said] = {}
    for path, start, end in place.said.runs:
        if path not in again:
            plain.setdefault(path, Said()).extend(path, place.said.texts[start:end], place.said.wheres[start:end])
    files = (plain.get(path) or again.get(path) for path in place.sort.documents)
    return replace(place, said=joined([said for said in files if said is not None]))


def _at_any_depth(sort: Sort, found: Sequence[Place]) -> Iterator[Place]:
    """The same key in different objects, with what the way goes on with: `$..item`, `$..parts[*]`."""
    by_key: dict[tuple[str, str], list[Place]] = {}
    ways = {str(place.asked.get("at", "")) for place in found}
    for place in found:
        if _by_one_name(str(place.asked.get("at", "")), ways):
            continue
        last = _LAST_KEY.search(str(place.asked.get("at", ""))) if not place.when else None
        if last is not None:
            by_key.setdefault((last["key"], last["rest"]), []).append(place)
    rests: dict[str, set[str]] = {}
    for key, rest in by_key:
        rests.setdefault(key, set()).add(rest)
    for (key, rest), parts in by_key.items():
        # Where one list has columns and another has elements of one sort, its way would see both.
        mixed = any(other != rest and _NUMBER.sub("[*]", other) == _NUMBER.sub("[*]", rest) for other in rests[key])
        if len(parts) >= _WAYS and not mixed:
            said = joined([place.said for place in parts])
            around = parts[0].around if len({place.around for place in parts}) == 1 else ""
            yield Place(sort, {"at": f"$..{key}{rest}"}, "value", parts[0].word, around, said, parts=tuple(parts))


def _by_one_name(way: str, ways: Collection[str]) -> bool:
    """Whether a way goes by one name of a table by names, and another one by all of them."""
    steps = list(_STEP.finditer(way))
    return any(f"{way[: step.start()]}.*{way[step.end() :]}" in ways for step in steps)


def _explored(
    sort: Sort, way: str, word: str, around: str, nodes: Sequence[_Node], both: dict[str, set[str]]
) -> Iterator[Place]:
    """All places from one on; ways to lists and objects alike are added to `both`, but for whole files, of which those
    that are objects and those that are lists say different things."""
    if way.count(".") + way.count("[") > _DEEP:
        return
    said = Said()
    for path, pointer, value in nodes:
        if (text := _text(value)) is not None:
            said.add(text, path, pointer)
    if said.texts and way != "$":
        yield Place(sort, {"at": way}, "value", word, around, said)
    lists = [value for _, _, value in nodes if isinstance(value, list)]
    if _tuples(lists):
        for index in range(max(map(len, lists))):
            at = [
                (path, f"{pointer}/{index}", value[index])
                for path, pointer, value in nodes
                if isinstance(value, list) and index < len(value)
            ]
            yield from _explored(sort, f"{way}[{index}]", word, around, at, both)
        return
    elements = [
        (path, f"{pointer}/{number}", element)
        for path, pointer, value in nodes
        if isinstance(value, list)
        for number, element in enumerate(value)
    ]
    if elements:
        yield from _explored(sort, f"{way}[*]", word, around, elements, both)
    objects = [(path, pointer, value) for path, pointer, value in nodes if isinstance(value, Mapping) and value]
    if objects:
        if elements and way != "$":
            both.setdefault(f"{way}[*]", set()).update(path for path, _, _ in objects)
            both.setdefault(f"{way}.*", set()).update(path for path, _, value in nodes if isinstance(value, list))
        yield from _of_objects(sort, way, word, objects, both)


def _of_objects(
    sort: Sort, way: str, word: str, objects: Sequence[_Node], both: dict[str, set[str]]
) -> Iterator[Place]:
    keys = Counter(str(key) for _, _, value in objects for key in value)
    by_names = _by_names(keys, objects)
    steps = {key: f"/{escaped(key)}" for key in keys}
    if by_names:
        said = Said()
        inner: list[_Node] = []
        for path, pointer, value in objects:
            for key, one in value.items():
                where = pointer + steps[str(key)]
                said.add(str(key), path, where)
                inner.append((path, where, one))
        # What is called by name and given nothing is defined elsewhere.
        bare = sum(one is None for *_, one in inner) * 2 > len(inner)
        yield Place(sort, {"keys": way}, "key", "", word, said, used=bare)
        yield from _explored(sort, f"{way}.*", "", word, inner, both)
    if by_names == "surely":
        return
    known: list[Place] = []
    meant = {key: list[_Node]() for key, _ in keys.most_common(_MOST_KEYS) if "'" not in key and "\\" not in key}
    for path, pointer, value in objects:
        for key, one in value.items():
            if key in meant:
                meant[key].append((path, pointer + steps[key], one))
    for key, inner in meant.items():
        step = f".{key}" if _PLAIN.fullmatch(key) else f"['{key}']"
        found = list(_explored(sort, way + step, key, word, inner, both))
        known += (place for place in found if place.asked == {"at": way + step})
        yield from found
    yield from variants(known, lambda _, where: str(where).rpartition("/")[0])


def _tuples(lists: Sequence[list[Any]]) -> bool:
    """Whether lists are rows of which each column means something else: a name, then a number."""
    if len(lists) < _ROWS or max(map(len, lists)) > _COLUMNS or max(map(len, lists)) < 2:
        return False
    columns = [
        {type(row[index]) for row in lists if index < len(row)} - {type(None)} for index in range(max(map(len, lists)))
    ]
    return all(len(column) == 1 for column in columns) and len(set(map(frozenset, columns))) > 1


def _by_names(keys: Counter[str], objects: Sequence[_Node]) -> str:
    """Whether objects are tables by names rather than records: `surely`, `maybe`, or not."""
    if all(_PATH.fullmatch(key) for key in keys):
        return "surely"
    if len(keys) < _FEW_NAMES:
        return "maybe" if len(keys) > 1 and _records(objects) else ""
    often = sum(keys.values()) / len(keys) / len(objects)
    if len(objects) > 2 and often < _SELDOM and len(keys) > _SIGNS and _signs(keys) * 5 > len(keys) * 3:
        return "surely"
    sorts = {type(one) for _, _, value in objects for one in value.values()}
    alike = len(sorts - {type(None)}) <= 1
    if len(objects) > 2 and often < _RARELY and len(keys) > _SIGNS and keys.total() < 3 * len(keys):
        return "surely"
    if len(objects) > 2 and often < _SELDOM and alike:
        return "surely"
    inner = [frozenset(one) for _, _, value in objects for one in value.values() if isinstance(one, Mapping)]
    if sorts == {dict} and inner:
        common = Counter(key for one in inner for key in one)
        shared = max(common.values(), default=0)
        alike = sum(often > _COMMON * len(inner) for often in common.values()) >= _COMMON_KEYS
        if shared * 2 > len(inner):
            return "surely" if len(keys) > 12 or alike else "maybe"
        return ""
    return "maybe" if alike and (sorts == {str} or len(objects) == 1 or often < 0.8 or len(keys) > 30) else ""


def _records(objects: Sequence[_Node]) -> bool:
    """Whether all that objects hold are records that say so much of the same that it is no accident."""
    inner = [one for _, _, value in objects for one in value.values()]
    if not all(isinstance(one, Mapping) for one in inner):
        return False
    return len(frozenset[Any].intersection(*map(frozenset[Any], inner))) >= _RECORD_KEYS


def _signs(keys: Counter[str]) -> int:
    return sum(len(key) == 1 for key in keys)


def _text(value: Any) -> str | None:
    if isinstance(value, str):
        return value if value and "\n" not in value else None
    if isinstance(value, int) and not isinstance(value, bool):
        # The same few numbers stand everywhere.
        return sys.intern(str(value))
    return None
