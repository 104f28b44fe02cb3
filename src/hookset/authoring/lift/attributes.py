"""The attributes of a thing in its own map, in the pack, and in the map it is set into: what got lost or changed."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct

from hookset.formats import Body

__all__ = ["AttributeChange", "attributes_of", "compare_attributes"]

_TAG = re.compile(r"<([\w:.-]+)((?:[^<>\"']|\"[^\"]*\"|'[^']*')*)>")
_PAIR = re.compile(r"([\w:.-]+)\s*=\s*(?:\"([^\"]*)\"|'([^']*)')")


class AttributeChange(Struct, frozen=True):
    """One attribute that is not the same everywhere. None where it is not there."""

    thing: str
    name: str
    donor: str | None
    pack: str | None
    after: str | None


def compare_attributes(thing: str, donor: Body, pack: Body, after: Body | None) -> tuple[AttributeChange, ...]:
    """`after` is the entry in the map that it would be set into; None without one."""
    one, two = dict(attributes_of(donor)), dict(attributes_of(pack))
    three = dict(attributes_of(after)) if after is not None else two
    return tuple(
        AttributeChange(thing, name, one.get(name), two.get(name), three.get(name) if after is not None else None)
        for name in dict.fromkeys((*one, *two, *three))
        if not one.get(name) == two.get(name) == three.get(name)
    )


def attributes_of(body: Body) -> Iterator[tuple[str, str]]:
    """Each attribute by its way: `extras.key`; for elements `Node@shape`, and those further in by their own `name`."""
    if body.record is not None:
        yield from _of_record(body.record, "")
    elif body.text is not None:
        for number, tag in enumerate(_TAG.finditer(body.text)):
            pairs = {pair[1]: pair[2] if pair[2] is not None else pair[3] for pair in _PAIR.finditer(tag[2])}
            own = pairs.get("name", "") if number else ""
            for name, value in pairs.items():
                yield f"{tag[1]}{f'[{own}]' if own else ''}@{name}", value


def _of_record(record: Mapping[str, Any], front: str) -> Iterator[tuple[str, str]]:
    for key, value in record.items():
        if isinstance(value, Mapping):
            yield from _of_record(value, f"{front}{key}.")
        else:
            yield f"{front}{key}", str(value)
