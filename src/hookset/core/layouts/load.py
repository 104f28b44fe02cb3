"""From the layout file to a Layout, with every mistake in it told at once."""

from __future__ import annotations

import re
from importlib import resources
from pathlib import Path
from typing import Any, Literal

import msgspec

from hookset.core.formats import Format, format_named, format_names
from hookset.core.layouts.layout import (
    AgreeRule,
    DefineRule,
    Descriptor,
    Kind,
    Layout,
    ReadRule,
    RecordRule,
    ReferRule,
    Seat,
)
from hookset.core.layouts.schema import AgreeEntry, DescriptorEntry, LayoutFile, ReadEntry, SeatEntry
from hookset.core.model import CouldNotError, WrongUseError
from hookset.core.sheets import Complaint, Sheet, nearest, read_sheet, typed
from hookset.core.trees import Glob

__all__ = ["layout_source", "load_layout", "named_layout", "shipped_layout", "shipped_names"]

_REMEDY = "correct the layout; `hookset start` uses the shipped ones, which serve as examples"
_NAME_FIELDS = {"value", "path", "stem", "name", "ext", "parent", "inner", "module"}


class _Common(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    kind: str
    name: str = "{value}"
    side: str | None = None


class _Define(_Common, frozen=True, kw_only=True, forbid_unknown_fields=True):
    variant: str = ""


class _Refer(_Common, frozen=True, kw_only=True, forbid_unknown_fields=True):
    under: str | tuple[str, ...] = ""
    beside: bool = False
    suffix: str | tuple[str, ...] = ()
    split: str | None = None
    only: str | None = None
    skip: str | None = None
    decode: Literal["uri"] | None = None


def shipped_names() -> tuple[str, ...]:
    """The layouts that come with the tool."""
    folder = resources.files("hookset.core.layouts") / "shipped"
    return tuple(sorted(f.name.removesuffix(".toml") for f in folder.iterdir() if f.name.endswith(".toml")))


def layout_source(name: str) -> str:
    """A shipped layout as it is written; `template` is the one to begin with."""
    folder = resources.files("hookset.core.layouts")
    file = folder / "template.toml" if name == "template" else folder / "shipped" / f"{name}.toml"
    return file.read_text(encoding="utf-8")


def shipped_layout(name: str) -> Layout:
    """Raises WrongUseError for a name that none has."""
    if name not in shipped_names():
        raise WrongUseError(
            f"there is no layout called {name!r}{nearest(name, shipped_names())}",
            why="the layout says what in a map's files is a name and what is a reference",
            remedy="name a shipped layout, or the path of a layout file of your own (ending in .toml)",
        )
    file = resources.files("hookset.core.layouts") / "shipped" / f"{name}.toml"
    return load_layout(file.read_bytes(), f"{name}.toml")


def named_layout(name: str, base: Path) -> Layout:
    """A shipped layout by its name, or a layout file by its path, which counts from `base`."""
    if not name.endswith(".toml"):
        return shipped_layout(name)
    file = base / name
    try:
        data = file.read_bytes()
    except OSError as error:
        raise CouldNotError(f"the layout file cannot be read: {error.strerror}", where=str(file)) from error
    return load_layout(data, str(file))


def load_layout(data: bytes, where: str) -> Layout:
    """Raises CouldNotError with every mistake and its line."""
    sheet = read_sheet(data, where)
    entry = typed(sheet.data, LayoutFile)
    if isinstance(entry, list):
        raise sheet.error(entry, _REMEDY)
    return _Loader(sheet, entry).load()


class _Loader:
    """One pass over the entries that gathers complaints as it goes."""

    def __init__(self, sheet: Sheet, entry: LayoutFile) -> None:
        self.sheet = sheet
        self.entry = entry
        self.complaints: list[Complaint] = []

    def load(self) -> Layout:
        entry = self.entry
        kinds = {name: Kind(name, kind) for name, kind in entry.kinds.items()}
        reads = tuple(self._read(read, f"/read/{index}") for index, read in enumerate(entry.read))
        good = tuple(read for read in reads if read is not None)
        seats = {}
        for index, seat in enumerate(entry.seat):
            at = f"/seat/{index}"
            if seat.name in seats:
                self._complain(f"{at}/name", f"there are two seats called `{seat.name}`")
            if (made := self._seat(seat, good, at)) is not None:
                seats[seat.name] = made
        if entry.manifest is not None:
            self._known_kind(entry.manifest.row, "/manifest/row")
            if entry.manifest.seat and entry.manifest.seat not in {seat.name for seat in entry.seat}:
                self._complain("/manifest/seat", f"there is no seat called `{entry.manifest.seat}`")
        made_agree = [self._agree(one, good, f"/agree/{index}") for index, one in enumerate(entry.agree)]
        agree = tuple(one for one in made_agree if one is not None)
        for index, count in enumerate(entry.count):
            self._known_kind(count.kind, f"/count/{index}/kind")
        descriptor = self._descriptor(entry.descriptor, good) if entry.descriptor else None
        if not entry.read:
            self._complain("", "no [[read]] rule: nothing in a map would be looked at")
        if self.complaints:
            raise self.sheet.error(self.complaints, _REMEDY)
        return Layout(
            name=entry.layout.name,
            title=entry.layout.title,
            sides=entry.layout.sides,
            both=entry.layout.both,
            ignore=tuple(Glob(pattern) for pattern in entry.layout.ignore),
            recognise=entry.recognise,
            descriptor=descriptor,
            kinds=kinds,
            reads=good,
            roots=tuple(Glob(pattern) for pattern in entry.reached.files) if entry.reached else (),
            manifest=entry.manifest,
            build=entry.build,
            seats=seats,
            agree=agree,
            counts=entry.count,
        )

    def _complain(self, pointer: str, message: str) -> None:
        self.complaints.append(Complaint(pointer, message))

    def _known_kind(self, kind: str, at: str) -> None:
        if kind not in self.entry.kinds:
            self._complain(at, f"no kind is called `{kind}`{nearest(kind, sorted(self.entry.kinds))}")

    def _format(self, name: str, at: str) -> Format | None:
        try:
            return format_named(name)
        except KeyError:
            self._complain(at, f"no format is called `{name}`{nearest(name, format_names())}")
            return None

    def _side(self, side: str | None, at: str) -> None:
        if side and side not in self.entry.layout.sides:
            self._complain(at, f"no side is called `{side}`{nearest(side, self.entry.layout.sides)}")

    def _converted(self, data: Any, kind: type, at: str) -> Any:
        value = typed(data, kind, at)
        if isinstance(value, list):
            self.complaints += value
            return None
        return value

    def _read(self, entry: ReadEntry, at: str) -> ReadRule | None:
        form = self._format(entry.format, f"{at}/format")
        if form is None:
            return None
        self._side(entry.side, f"{at}/side")
        options = self._converted(entry.options, form.options, f"{at}/options")
        defines = [self._rule(d, _Define, form, f"{at}/defines/{i}") for i, d in enumerate(entry.defines)]
        refers = [self._rule(r, _Refer, form, f"{at}/refers/{i}") for i, r in enumerate(entry.refers)]
        record = None
        if entry.record is not None:
            asked = {key: value for key, value in entry.record.items() if key != "schema"}
            record = RecordRule(
                self._converted(asked, form.selector, f"{at}/record"),
                self._schema(entry.record.get("schema"), at),
            )
        return ReadRule(
            files=tuple(Glob(p) for p in ((entry.files,) if isinstance(entry.files, str) else entry.files)),
            format=entry.format,
            side=entry.side,
            encodings=entry.encodings,
            options=options,
            defines=tuple(self._define(common, selector) for common, selector in filter(None, defines)),
            refers=tuple(self._refer(common, selector, at) for common, selector in filter(None, refers)),
            record=record,
            uses=entry.uses,
            side_words=frozenset((*self.entry.layout.sides, self.entry.layout.both)),
        )

    def _schema(self, schema: Any, at: str) -> Any:
        import jsonschema_rs

        try:
            jsonschema_rs.Draft202012Validator(schema)
        except (jsonschema_rs.ValidationError, ValueError) as error:
            self._complain(f"{at}/record", f"`schema` is no JSON Schema: {error}")
        return schema

    def _rule(self, data: dict[str, Any], common: type[_Common], form: Format, at: str) -> tuple[Any, Any] | None:
        """The part that every rule has, and the part that is the format's own."""
        ours = set(common.__struct_fields__)
        theirs = form.selector.__struct_fields__
        for key in data:
            if key not in ours and key not in theirs:
                self._complain(f"{at}/{key}", f"unknown key `{key}`{nearest(key, sorted({*ours, *theirs}))}")
                return None
        rule = self._converted({k: v for k, v in data.items() if k in ours}, common, at)
        selector = self._converted({k: v for k, v in data.items() if k not in ours}, form.selector, at)
        if rule is None or selector is None:
            return None
        self._known_kind(rule.kind, f"{at}/kind")
        self._side(rule.side, f"{at}/side")
        for field in re.findall(r"\{(\w+)\}", rule.name):
            if field not in _NAME_FIELDS:
                self._complain(f"{at}/name", f"unknown part {{{field}}}{nearest(field, sorted(_NAME_FIELDS))}")
        return rule, selector

    def _define(self, rule: _Define, selector: Any) -> DefineRule:
        return DefineRule(kind=rule.kind, selector=selector, name=rule.name, side=rule.side, variant=rule.variant)

    def _refer(self, rule: _Refer, selector: Any, at: str) -> ReferRule:
        return ReferRule(
            kind=rule.kind,
            selector=selector,
            name=rule.name,
            side=rule.side,
            under=(rule.under,) if isinstance(rule.under, str) else rule.under,
            beside=rule.beside,
            suffix=(rule.suffix,) if isinstance(rule.suffix, str) else rule.suffix,
            split=self._regex(rule.split, "split", at),
            only=self._regex(rule.only, "only", at),
            skip=self._regex(rule.skip, "skip", at),
            uri=rule.decode == "uri",
        )

    def _descriptor(self, entry: DescriptorEntry, reads: tuple[ReadRule, ...]) -> Descriptor | None:
        rule = self._rule_for(entry.file, reads)
        if rule is None:
            self._complain("/descriptor/file", f"no [[read]] rule says of which format `{entry.file}` is")
            return None
        form = format_named(rule.format)
        name, version = (
            self._converted({"at": asked} if isinstance(asked, str) else asked, form.selector, f"/descriptor/{key}")
            for key, asked in (("name", entry.name), ("version", entry.version))
        )
        return Descriptor(entry.file, rule, name, version)

    def _agree(self, entry: AgreeEntry, reads: tuple[ReadRule, ...], at: str) -> AgreeRule | None:
        values = []
        for index, value in enumerate(entry.values):
            rule = self._rule_for(value.file, reads)
            if rule is None:
                message = f"no [[read]] rule says of which format `{value.file}` is"
                self._complain(f"{at}/values/{index}/file", message)
                return None
            selector = self._converted(value.ask, format_named(rule.format).selector, f"{at}/values/{index}/ask")
            values.append((Glob(value.file), rule, selector))
        if len(values) < 2:
            self._complain(f"{at}/values", "one value agrees with itself: name two or more")
        return AgreeRule(entry.title, entry.why, tuple(values))

    def _rule_for(self, file: str, reads: tuple[ReadRule, ...]) -> ReadRule | None:
        """The rule that says of which format a file is: by a sample path that the pattern matches."""
        side = next(iter(self.entry.layout.sides), "")
        sample = re.sub(r"\{(\w+)\}", lambda m: side if m[1] == "side" else m[1], file)
        sample = sample.replace("**/", "").replace("*", "x")
        return next((read for read in reads if read.format != "any" and read.match(sample)), None)

    def _regex(self, source: str | None, key: str, at: str) -> re.Pattern[str] | None:
        if source is None:
            return None
        try:
            return re.compile(source)
        except re.error as error:
            self._complain(f"{at}/refers", f"`{key}` is no regular expression: {error}")
            return None

    def _seat(self, entry: SeatEntry, reads: tuple[ReadRule, ...], at: str) -> Seat | None:
        rule = self._rule_for(entry.file, reads)
        if rule is None:
            self._complain(f"{at}/file", f"no [[read]] rule says of which format `{entry.file}` is")
            return None
        if entry.kind:
            self._known_kind(entry.kind, f"{at}/kind")
        put = self._converted(entry.put, format_named(rule.format).seat, f"{at}/put")
        return Seat(
            name=entry.name,
            title=entry.title,
            file=Glob(entry.file),
            format=rule.format,
            encodings=rule.encodings,
            options=rule.options,
            put=put,
            kind=entry.kind,
        )
