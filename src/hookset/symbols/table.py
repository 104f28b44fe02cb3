"""The definitions of one kind by name."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from functools import cached_property

from hookset.config.layouts import Kind
from hookset.symbols.many_names import ManyNames, Names, rows_of

__all__ = ["KindTable"]

_FEW_BLOCKS = 16
_FEW_NAMES = 32
"""Names that are looked for in the text of all names. For more of them it is quicker to take it apart."""


class KindTable:
    """Which block defines a name, and in which row. Made when it is first asked for more than a few names."""

    def __init__(self, kind: Kind, blocks: Sequence[Names]) -> None:
        self.kind = kind
        self.blocks = blocks
        self._rows: dict[int, dict[str, int]] = {}
        self._asked = 0
        short = len(blocks) <= _FEW_BLOCKS and any(isinstance(names, ManyNames) for names in blocks)
        self._by_text = short and kind.entry.case == "exact"

    @cached_property
    def _made(self) -> tuple[dict[str, int], dict[str, list[tuple[int, int]]]]:
        first: dict[str, int] = {}
        more: dict[str, list[tuple[int, int]]] = {}
        for number, names in enumerate(self.blocks):
            keys = self._keys(names)
            if len(keys) == 1 and keys[0] not in first:
                first[keys[0]] = number
                continue
            fresh = dict.fromkeys(keys, number)
            if len(fresh) == len(keys) and first.keys().isdisjoint(fresh):
                if first:
                    first.update(fresh)
                else:
                    first = fresh
                continue
            for row, key in enumerate(keys):
                if key in first:
                    more.setdefault(key, []).append((number, row))
                else:
                    first[key] = number
        return first, more

    @property
    def made(self) -> bool:
        """Whether all names were taken apart."""
        return "_made" in self.__dict__

    @property
    def first(self) -> Mapping[str, int]:
        """The number of the block that defines each name first."""
        return self._made[0]

    @property
    def more(self) -> Mapping[str, list[tuple[int, int]]]:
        """(block, row) of further definitions, by name."""
        return self._made[1]

    def places(self, key: str) -> Iterator[tuple[int, int]]:
        """(block, row) of each definition of a name."""
        if self._brief(1):
            for number, names in enumerate(self.blocks):
                yield from ((number, row) for row in rows_of(names, key))
        elif key in self.first:
            number = self.first[key]
            yield number, self._row(number, key)
            yield from self.more.get(key, ())

    def unknown(self, keys: Names | Sequence[str]) -> list[int]:
        """The rows of names that nothing defines."""
        known: Collection[str] = self.first if not self._brief(len(keys)) else self._known_of(keys)
        if all(map(known.__contains__, keys)):
            return []
        return [row for row, key in enumerate(keys) if key not in known]

    def _known_of(self, keys: Names | Sequence[str]) -> Collection[str]:
        return {key for key in set(keys) if any(key in names for names in self.blocks)}

    @property
    def lines(self) -> str | None:
        """All names, in a line each, some of them more than once; nothing where one is no line."""
        texts = [names.text if isinstance(names, ManyNames) else _in_lines(names) for names in self.blocks]
        sizes = map(len, self.blocks)
        lines = all(text[0] == "\n" and text.count("\n") == size + 1 for text, size in zip(texts, sizes, strict=True))
        return "".join(texts) if lines else None

    def __bool__(self) -> bool:
        return any(self.blocks)

    def _brief(self, count: int) -> bool:
        """Whether so many names are few enough to be looked for one by one."""
        if not self._by_text or self.made:
            return False
        self._asked += count
        return self._asked <= _FEW_NAMES

    def _keys(self, names: Names) -> Names | list[str]:
        if self.kind.entry.case == "exact":
            return names.parts if isinstance(names, ManyNames) else names
        return [self.kind.key(name) for name in names]

    def _row(self, number: int, key: str) -> int:
        """Where in its block a name stands first. Most blocks are never asked."""
        if number not in self._rows:
            keys = self._keys(self.blocks[number])
            self._rows[number] = dict(zip(reversed(keys), range(len(keys) - 1, -1, -1), strict=True))
        return self._rows[number][key]


def _in_lines(names: Sequence[str]) -> str:
    return "\n" + "".join(f"{name}\n" for name in names)
