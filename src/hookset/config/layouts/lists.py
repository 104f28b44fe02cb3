"""Lists of values that a layout names once and uses in several places."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hookset.config.sheets import Complaint, nearest
from hookset.formats.pointers import escaped

__all__ = ["with_lists"]


def with_lists(data: dict[str, Any]) -> tuple[dict[str, Any], list[Complaint]]:
    """A layout file's data with the values of its `[lists]` where `{ list = "NAME" }` stands, alone or in a list; and
    what is wrong with them."""
    lists = data.get("lists")
    if not isinstance(lists, Mapping):
        return data, []
    used: set[str] = set()
    complaints: list[Complaint] = []
    made = {key: value if key == "lists" else _filled(value, lists, f"/{escaped(key)}", used, complaints)
            for key, value in data.items()}  # fmt: skip
    complaints += (Complaint(f"/lists/{escaped(name)}", "nothing uses this list") for name in lists if name not in used)
    return made, complaints


def _filled(value: Any, lists: Mapping[str, Any], at: str, used: set[str], complaints: list[Complaint]) -> Any:
    if (name := _named(value)) is not None:
        return _values(name, lists, at, used, complaints)
    if isinstance(value, dict):
        return {key: _filled(below, lists, f"{at}/{escaped(key)}", used, complaints) for key, below in value.items()}
    if not isinstance(value, list):
        return value
    found: list[Any] = []
    for index, below in enumerate(value):
        one = _filled(below, lists, f"{at}/{index}", used, complaints)
        found += one if _named(below) is not None else [one]
    return found


def _named(value: Any) -> str | None:
    name = value.get("list") if isinstance(value, dict) and value.keys() == {"list"} else None
    return name if isinstance(name, str) else None


def _values(name: str, lists: Mapping[str, Any], at: str, used: set[str], complaints: list[Complaint]) -> list[Any]:
    values = lists.get(name)
    if not isinstance(values, list):
        complaints.append(Complaint(at, f"no list is called `{name}`{nearest(name, sorted(lists))}"))
        return []
    used.add(name)
    return values
