"""Values that are looked up in the map: an id by the path it stands for, a value at a place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import msgspec

from hookset.core.formats import Unreadable, format_named
from hookset.core.layouts import Layout
from hookset.core.layouts.schema import LookupEntry
from hookset.core.model import CouldNotError
from hookset.core.sheets import nearest
from hookset.core.trees import Glob, Tree
from hookset.core.web.reading import open_document

__all__ = ["LookedUp", "look_up"]


@dataclass(frozen=True, slots=True)
class LookedUp:
    """What a table of the map has for a key."""

    value: str = ""
    by: str = ""
    """Where it stands, in words."""
    lacking: str = ""
    """Why there is no value; empty where there is one."""
    details: tuple[str, ...] = ()
    absent: bool = False
    """There is no such key: an entry could be made."""


def look_up(entry: LookupEntry, key: str, layout: Layout, tree: Tree) -> LookedUp:
    """One value, or why there is none."""
    glob = Glob(entry.file)
    found: list[tuple[str, str]] = []
    keys: list[str] = []
    for path in tree.paths():
        rule = layout.text_rule(path) if glob.matches(path) else None
        if rule is None:
            continue
        try:
            selector = msgspec.convert(entry.ask, format_named(rule.format).selector)
            document = open_document(tree, path, rule)
        except msgspec.ValidationError as error:
            own = f": {error.__cause__}" if isinstance(error.__cause__, ValueError) else ""
            return LookedUp(lacking=f"`ask` is not what {rule.format} files are asked with{own}")
        except (Unreadable, CouldNotError) as error:
            return LookedUp(lacking=f"{path} {error.what}")
        if not entry.key:
            found += ((value.text, path) for value in document.select(selector))
            continue
        for _, record in document.records(selector):
            have = _text(record, entry.key)
            if have is not None:
                keys.append(have)
                if have == key and (value := _text(record, entry.value)) is not None:
                    found.append((value, path))
    values = sorted({value for value, _ in found})
    where = ", ".join(dict.fromkeys(path for _, path in found))
    if len(values) == 1:
        return LookedUp(values[0], f"in {where}")
    if values:
        return LookedUp(
            lacking=f"there are {len(values)} of them in {where}",
            details=tuple(f"{value}, in {path}" for value, path in dict.fromkeys(found))[:12],
        )
    if not entry.key:
        return LookedUp(lacking=f"there is none in {entry.file}", absent=True)
    return LookedUp(lacking=f"`{key}` is not in {entry.file}{nearest(key, sorted(set(keys))[:400])}", absent=True)


def _text(record: Any, field: str) -> str | None:
    value = record.get(field) if isinstance(record, dict) else None
    if isinstance(value, bool) or value is None:
        return None
    return str(value) if isinstance(value, str | int | float) else None
