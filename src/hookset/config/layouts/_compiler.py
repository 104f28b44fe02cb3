"""What every part of a layout is made with: the entries, what came of them so far, and the mistakes."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

from hookset.config.layouts.rules import ReadRule, ValueQuery
from hookset.config.layouts.schema import KindEntry, LayoutFile, ValueEntry
from hookset.config.layouts.template import Template, template
from hookset.config.sheets import Complaint, nearest, typed
from hookset.formats import Format, format_named, format_names
from hookset.trees import Glob, Pattern, pattern_of

__all__ = ["MAP_WORDS", "PATH_PARTS", "LayoutCompiler"]

MAP_WORDS = frozenset({"map", "version"})
"""What the map's descriptor says, for texts that a layout makes of it."""
PATH_PARTS = frozenset({"path", "stem", "base", "name", "ext", "parent", "folder", "above", "outer", "inner", "module"})
"""What a path has, for names that are made of it."""


@dataclass
class LayoutCompiler:
    """One pass over the entries that gathers complaints as it goes."""

    entry: LayoutFile
    reads: tuple[ReadRule, ...] = ()
    complaints: list[Complaint] = field(default_factory=list)

    def complain(self, pointer: str, message: str) -> None:
        self.complaints.append(Complaint(pointer, message))

    def known_kind(self, kind: str, at: str) -> None:
        if kind not in self.entry.kinds:
            self.complain(at, f"no kind is called `{kind}`{nearest(kind, sorted(self.entry.kinds))}")

    def kinds_above(self, kind: str) -> list[str]:
        """The kinds that a kind is one of, the nearest first. A circle is told where the kinds are looked through."""
        found: list[str] = []
        while (entry := self.entry.kinds.get(kind)) is not None and entry.is_ and entry.is_ not in (*found, kind):
            kind = entry.is_
            found.append(kind)
        return [one for one in found if one in self.entry.kinds]

    def check_kinds(self) -> None:
        """Tell kinds that are of a kind which there is not, and circles."""
        for name, entry in self.entry.kinds.items():
            self._check_owned(name, entry)
            if not entry.is_:
                continue
            self.known_kind(entry.is_, f"/kinds/{name}/is")
            if name in (entry.is_, *self.kinds_above(entry.is_)):
                self.complain(f"/kinds/{name}/is", f"`{name}` would be a kind of itself")

    def _check_owned(self, name: str, entry: KindEntry) -> None:
        for key, other in (("inherits", entry.inherits), ("within", entry.within)):
            if other:
                self.known_kind(other, f"/kinds/{name}/{key}")
                if not entry.owned:
                    self.complain(f"/kinds/{name}/{key}", f"`{key}` says something of names that are `owned`")
        apart = [key for key in ("path", "sided", "each", "reached") if getattr(entry, key)]
        if entry.owned and apart:
            self.complain(f"/kinds/{name}/{apart[0]}", f"names that are `owned` cannot have `{apart[0]}`")

    def known_side(self, side: str | None, at: str) -> None:
        if side and side not in self.entry.layout.sides:
            self.complain(at, f"no side is called `{side}`{nearest(side, self.entry.layout.sides)}")

    def known_seat(self, seat: str, at: str) -> None:
        seats = sorted(entry.name for entry in self.entry.seat)
        if seat and seat not in seats:
            self.complain(at, f"there is no seat called `{seat}`{nearest(seat, seats)}")

    def format(self, name: str, at: str) -> Format | None:
        try:
            return format_named(name)
        except KeyError:
            self.complain(at, f"no format is called `{name}`{nearest(name, format_names())}")
            return None

    def converted(self, data: Any, kind: type, at: str) -> Any:
        value = typed(data, kind, at)
        if isinstance(value, list):
            self.complaints += value
            return None
        return value

    def selector(self, data: Any, form: Format, options: Any, at: str) -> Any:
        """How a value is named in files of a format with these options; None with a complaint."""
        return self._right(self.converted(data, form.selector, at), form, options, at)

    def seat(self, data: Any, form: Format, options: Any, at: str) -> Any:
        """How a spot is named in such files; None with a complaint."""
        return self._right(self.converted(data, form.seat, at), form, options, at)

    def _right(self, asked: Any, form: Format, options: Any, at: str) -> Any:
        if asked is None or options is None or not (mistake := form.mistake(asked, options)):
            return asked
        self.complain(at, mistake)
        return None

    def regex(self, source: str | None, key: str, at: str) -> Pattern | None:
        if source is None:
            return None
        try:
            return pattern_of(source)
        except ValueError as error:
            self.complain(at, f"`{key}` is no regular expression: {error}")
            return None

    def glob(self, pattern: str, at: str) -> Glob:
        """A pattern over paths. What of it means nothing is told, never passed over."""
        glob = Glob(pattern)
        if mistake := glob.mistake:
            self.complain(at, f"`{pattern}` has {mistake}" if mistake.startswith("a ") else f"`{pattern}`: {mistake}")
        return glob

    def words(self, source: str, known: frozenset[str], at: str) -> Template:
        """A text with fields in it, of which only `known` ones have a value."""
        try:
            made = template(source)
        except ValueError as error:
            self.complain(at, str(error))
            return Template(source, ())
        for name in sorted(made.fields - known):
            self.complain(at, f"unknown part {{{name}}}{nearest(name, sorted(known))}")
        if made.fields & MAP_WORDS & known and self.entry.descriptor is None:
            self.complain(at, "{map} and {version} are what the descriptor says, and there is no [descriptor]")
        return made

    def rule_for(self, file: str, at: str, with_parts: bool = False) -> ReadRule | None:
        """The rule that says of which format a file is: by a sample path that the pattern matches. Of several, with
        `with_parts`, the first whose format has records with values in them."""
        side = next(iter(self.entry.layout.sides), "")
        sample = re.sub(r"\{(\w+)\}", lambda m: side if m[1] == "side" else m[1], file)
        sample = sample.replace("**/", "").replace("*", "x")
        rules = [read for read in self.reads if read.format != "any" and read.match(sample)]
        parted = [read for read in rules if format_named(read.format).has_parts] if with_parts else []
        found = next(iter(parted or rules), None)
        if found is None:
            self.complain(at, f"no [[read]] rule says of which format `{file}` is")
        return found

    def asked(self, entry: ValueEntry, at: str, with_parts: bool = False) -> ValueQuery | None:
        rule = self.rule_for(entry.file, f"{at}/file", with_parts)
        if rule is None:
            return None
        selector = self.selector(entry.ask, format_named(rule.format), rule.options, f"{at}/ask")
        return ValueQuery(Glob(entry.file), rule, selector)
