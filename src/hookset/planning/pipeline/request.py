"""One entry of a pack for one file of this map, as its hook sheet has it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from fnmatch import fnmatchcase
from functools import cached_property
from typing import Any

from msgspec import Struct, field

from hookset.config.layouts import Layout
from hookset.project import LedgerAnchor, Stock
from hookset.symbols import analyse
from hookset.trees import Tree

__all__ = ["HookRequest", "Situation", "copy_key", "shown"]


class Situation(Struct, frozen=True, kw_only=True, dict=True):
    """What conditions go by."""

    layout: Layout
    tree: Tree
    packs: Mapping[str, str]
    """Installed or to be: name → version."""
    settings: Mapping[str, Any]
    open_places: frozenset[str] = frozenset()
    """Places of the pack of which only the builder knows where they are, and has not said so."""

    def names(self, kind: str, pattern: str) -> tuple[str, ...]:
        """What of a kind the map has, of those names that a pattern means, in their order there."""
        return tuple(dict.fromkeys(name for name in self._defined.get(kind, ()) if fnmatchcase(name, pattern)))

    @cached_property
    def _defined(self) -> dict[str, list[str]]:
        found: dict[str, list[str]] = {}
        for file in analyse(self.tree, self.layout, Stock()).web.files:
            for one in file.definitions:
                found.setdefault(one.kind, []).append(one.name)
        return found


class HookRequest(Struct, frozen=True, kw_only=True):
    """One entry for one file, as the hook sheet has it."""

    seat: str
    """Empty for what goes by the file itself."""
    title: str
    """Where that is, in words."""
    path: str
    text: str | None
    record: dict[str, Any] | None
    at: Mapping[str, str] = field(default_factory=dict)
    each: bool = False
    """Whether the seat is one file per variant."""
    ask: Mapping[str, Any] | None = None
    """For a value: which."""
    anchor: LedgerAnchor | None = None
    """For text that goes by other text."""
    beside: str = ""
    """The key of the hook that the anchor's text is from."""
    line: int = 0
    """Of the hook in its sheet; 0 for manifest rows, which no sheet has to name."""
    note: str = ""
    part: str = ""
    place: str = ""
    was: tuple[str, ...] = ()
    """Places of earlier versions whose things become this one."""
    fill: bool = True

    @property
    def key(self) -> str:
        """The same for the same entry of the same sheet."""
        raw: list[Any] = [self.seat, dict(self.at), self.path if self.each else "", self.text, self.record]
        if not self.seat:
            anchor = (self.anchor.text, self.anchor.way, self.beside) if self.anchor is not None else ()
            raw += [self.path, self.ask, anchor]
        return hashlib.sha256(json.dumps(raw, sort_keys=True, ensure_ascii=False).encode()).hexdigest()[:16]


def copy_key(order: int) -> str:
    """The key of an entry that no hook asks for by itself: a further one of what a hook sets."""
    return f"place {order}"


def shown(text: str | None, record: Mapping[str, Any] | None) -> str:
    """An entry on one line, for people."""
    if text is not None:
        return " ⏎ ".join(line.strip() for line in text.strip().splitlines())
    return json.dumps(record or {}, ensure_ascii=False)[1:-1]
