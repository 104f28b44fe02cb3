"""Tables in scripts by the ways to them: records, whose keys are words of the language that scripts use, or tables by
names, whose keys are what somebody has called things."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Literal

from hookset.learning.said import Said

__all__ = ["Tables", "Way"]

TableForm = Literal["names", "maybe", "record", "list"]
"""What tables are: surely by names, perhaps, records, or lists."""
Way = tuple[tuple[str, Any], ...]
"""What a script is asked with: `call`, `arg`, `assign`, `field`, `keys`."""

_FEW_NAMES = 4
"""Keys that a table by names has at least."""
_MANY_NAMES = 20
"""Keys of a table of which each has a table of its own: no record has so many."""
_SELDOM = 0.34
"""In how many of the tables a name is at most, on the average."""
_OFTEN = 0.6
"""In how many the most frequent one is at most."""
_FEW_TABLES = 2
"""Tables that are too few for what is there often to say anything."""
_ALIKE = 0.9
"""Of the values in tables by names: how many are of one sort."""
_TABLES = ("table_constructor", "object", "dictionary")
"""What tables are called by the grammars."""
_KEYS = ("keys", True)


class Tables:
    """How many tables stand at each way, and which keys they have. Filled while scripts are read."""

    def __init__(self) -> None:
        self.counts: Counter[Way] = Counter()
        self.listed: set[Way] = set()
        self.values: dict[Way, Counter[str]] = {}
        self.keys: dict[Way, Counter[str]] = {}
        self.forms: dict[Way, TableForm] = {}

    def add(self, way: Way, values: Sequence[str], listed: bool) -> None:
        """One more table: the sorts of the values that have keys in it, and whether it has others."""
        self.counts[way] += 1
        self.values.setdefault(way, Counter()).update(values)
        if listed:
            self.listed.add(way)

    def join(self, way: Way, ways: Sequence[Way]) -> None:
        """The tables of several ways are those of one as well."""
        plain, others = _table(way), [_table(one) for one in ways]
        self.values[plain] = sum((self.values.get(one, Counter[str]()) for one in others), Counter[str]())
        self.counts[plain] = sum(self.counts[one] for one in others)
        if any(one in self.listed for one in others):
            self.listed.add(plain)
        if others and others[0] in self.keys:
            self.keys[plain] = sum((self.keys.get(one, Counter[str]()) for one in others), Counter[str]())

    def look_at(self, found: Mapping[Way, Said]) -> None:
        """The keys that tables have are among what was found."""
        for way, said in found.items():
            if way[-1] == _KEYS:
                self.keys[way[:-1]] = Counter(said.texts)

    def form_of(self, way: Way) -> TableForm:
        """What the tables at a way are."""
        if way not in self.forms:
            self.forms[way] = self._form(way)
        return self.forms[way]

    def _form(self, way: Way) -> TableForm:
        keys, tables = self.keys.get(way), self.counts[way]
        if not keys:
            return "list"
        if len(keys) < _FEW_NAMES:
            return "maybe" if way in self.listed else "record"
        seldom = keys.total() < _SELDOM * tables * len(keys)
        if tables > _FEW_TABLES and seldom and max(keys.values()) <= _OFTEN * tables:
            return "names"
        values = self.values.get(way, Counter[str]())
        alike = max(values.values(), default=0) >= _ALIKE * values.total()
        most = values.most_common(1)
        if most and alike and tables <= _FEW_TABLES and len(keys) >= _MANY_NAMES and most[0][0] in _TABLES:
            return "names"
        return "maybe" if alike and (seldom or tables <= _FEW_TABLES or way in self.listed) else "record"

    def may_be_by_names(self, way: Way) -> bool:
        """Whether the keys of the tables at a way may be names: not those of a list that says some things by words."""
        form = self.form_of(way)
        return form == "names" or (form == "maybe" and way not in self.listed)

    def by_one_key(self, way: Way) -> bool:
        """Whether a way goes by a single name of a table by names: the others mean the same."""
        return any(step != "*" and not step.isdecimal() and form == "names" for step, form in self._steps(way))

    def records_in(self, way: Way) -> int:
        """In how many records a way means whatever they say."""
        return sum(step == "*" and form == "record" for step, form in self._steps(way))

    def each(self, way: Way) -> Iterator[Way]:
        """The ways that go by one key each of the first such record."""
        asked = dict(way)
        steps = str(asked.get("field", "")).split(".")
        at = next(at for at, (step, form) in enumerate(self._steps(way)) if step == "*" and form == "record")
        for key in self.keys.get(self._above(way, steps[:at]), ()):
            field = ".".join([*steps[:at], key, *steps[at + 1 :]])
            yield tuple((word, field) if word == "field" else (word, value) for word, value in way)

    def _steps(self, way: Way) -> Iterator[tuple[str, str]]:
        """Each step in tables, and what the tables are that it is made in."""
        field = next((str(value) for word, value in way if word == "field"), "")
        steps = field.split(".") if field else []
        yield from ((step, self.form_of(self._above(way, steps[:at]))) for at, step in enumerate(steps))

    @staticmethod
    def _above(way: Way, steps: Sequence[str]) -> Way:
        """The way to the table in which the next step is made."""
        base = tuple((word, value) for word, value in way if word not in ("field", "keys"))
        return (*base, ("field", ".".join(steps))) if steps else base


def _table(way: Way) -> Way:
    return way[:-1] if way[-1] == _KEYS else way
