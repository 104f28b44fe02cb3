"""From a layout file's entries to the rules by which files are read and entries are set."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any, Literal

import msgspec
from msgspec import Struct

from hookset.config.layouts._compiler import MAP_WORDS, PATH_PARTS, LayoutCompiler
from hookset.config.layouts.rules import (
    Change,
    Condition,
    DefineRule,
    Descriptor,
    GuardRule,
    ReadRule,
    RecordRule,
    ReferRule,
    Seat,
    Taken,
)
from hookset.config.layouts.schema import LayoutFile, ReadEntry, SeatEntry, ValueEntry
from hookset.config.sheets import nearest
from hookset.formats import Format, format_named
from hookset.trees import Glob, known_encoding

__all__ = ["descriptor_rule", "read_rules", "seat_rules"]

_PART = re.compile(r"\{\w+\}")
_ROW_WORD = re.compile(r"\{(row\.[^{}|]+)")
_NAME_FIELDS = frozenset({"value"}) | PATH_PARTS | MAP_WORDS


class _Match(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    match: str


_Condition = str | bool | tuple[str, ...] | _Match


class _Common(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    kind: str
    name: str = "{value}"
    address: str | None = None
    side: str | None = None
    when: dict[str, _Condition] = {}
    unless: dict[str, _Condition] = {}


class _Define(_Common, frozen=True, kw_only=True, forbid_unknown_fields=True):
    variant: str = ""
    split: str | None = None
    only: str | None = None
    skip: str | None = None


class _Refer(_Common, frozen=True, kw_only=True, forbid_unknown_fields=True):
    under: str | tuple[str, ...] = ""
    beside: bool = False
    suffix: str | tuple[str, ...] = ()
    split: str | None = None
    only: str | None = None
    skip: str | None = None
    decode: Literal["uri"] | None = None
    uses: bool | None = None
    bytes: str = ""
    severity: Literal["", "error", "warning", "note"] = ""
    says: str = ""
    optional: bool = False


class _Files(Struct, frozen=True):
    """The files of a rule: of which format, and how they are written."""

    form: Format
    options: Any


def read_rules(entry: LayoutFile) -> tuple[tuple[ReadRule, ...], LayoutCompiler]:
    """The rules, and what further parts of the layout are made with."""
    compiler = LayoutCompiler(entry)
    made = [_read(compiler, read, f"/read/{index}") for index, read in enumerate(entry.read)]
    compiler.reads = tuple(rule for rule in made if rule is not None)
    return compiler.reads, compiler


def _read(compiler: LayoutCompiler, entry: ReadEntry, at: str) -> ReadRule | None:
    form = compiler.format(entry.format, f"{at}/format")
    if form is None:
        return None
    compiler.known_side(entry.side, f"{at}/side")
    for index, encoding in enumerate(entry.encodings):
        if not known_encoding(encoding):
            compiler.complain(
                f"{at}/encodings/{index}", f"`{encoding}` is no encoding of text; `utf-8` and `cp1252` are"
            )
    options = compiler.converted(entry.options, form.options, f"{at}/options")
    files = _Files(form, options)
    take = dict(_taken(compiler, entry, files, f"{at}/take"))
    kept = {word for pattern in _several(entry.files) for word in Glob(pattern).words} - {"side", "variant"}
    known = _NAME_FIELDS | take.keys() | kept
    placed = {
        words: compiler.words(words, (known - {"value"}) | {"1"}, f"{at}/options/known")
        for words in getattr(options, "known", {}).values()
    }
    defines = [_define(compiler, d, files, known, f"{at}/defines/{i}") for i, d in enumerate(entry.defines)]
    refers = [_refer(compiler, r, files, known, f"{at}/refers/{i}") for i, r in enumerate(entry.refers)]
    record = None
    if entry.record is not None:
        asked = {key: value for key, value in entry.record.items() if key != "schema"}
        record = RecordRule(
            compiler.selector(asked, form, options, f"{at}/record"),
            dict(entry.record.get("schema", {})),
        )
    layout = compiler.entry.layout
    return ReadRule(
        may_be_empty=entry.may_be_empty,
        files=tuple(compiler.glob(pattern, f"{at}/files") for pattern in _several(entry.files)),
        but=tuple(compiler.glob(pattern, f"{at}/but") for pattern in _several(entry.but)),
        format=entry.format,
        side=entry.side,
        encodings=entry.encodings,
        options=options,
        defines=tuple(_with_kin(compiler, [rule for rule in defines if rule is not None])),
        refers=tuple(rule for rule in refers if rule is not None),
        record=record,
        uses=entry.uses,
        take=take,
        placed=placed,
        guards=tuple(_guards(compiler, entry, files, f"{at}/guards")),
        newline=entry.newline,
        indent=entry.indent,
        side_words=frozenset((*layout.sides, layout.both)),
    )


def _guards(compiler: LayoutCompiler, entry: ReadEntry, files: _Files, at: str) -> Iterator[GuardRule]:
    for index, asked in enumerate(entry.guards):
        kind = compiler.converted(asked.get("kind", ""), str, f"{at}/{index}/kind") or ""
        compiler.known_kind(kind, f"{at}/{index}/kind")
        tested = compiler.converted(asked.get("tested", False), bool, f"{at}/{index}/tested")
        rest = {key: value for key, value in asked.items() if key not in ("kind", "tested")}
        if not files.form.has_guards:
            compiler.complain(f"{at}/{index}", f"{files.form.title} asks for nothing")
            continue
        if tested:
            if rest:
                compiler.complain(
                    f"{at}/{index}", "`tested` means names that stand as conditions; nothing goes with it"
                )
            yield GuardRule(kind, None)
            continue
        selector = compiler.selector(rest, files.form, files.options, f"{at}/{index}")
        if selector is not None and getattr(selector, "call", None) is None:
            compiler.complain(f"{at}/{index}", "`call` says which call asks for it")
        if selector is not None:
            yield GuardRule(kind, selector)


def _several(patterns: str | tuple[str, ...]) -> tuple[str, ...]:
    return (patterns,) if isinstance(patterns, str) else patterns


def _with_kin(compiler: LayoutCompiler, rules: list[DefineRule]) -> Iterator[DefineRule]:
    """The rules, and for kinds that are of another kind the same of that one."""
    yield from rules
    for rule in rules:
        for kind in compiler.kinds_above(rule.kind):
            yield msgspec.structs.replace(rule, kind=kind)


def _taken(compiler: LayoutCompiler, entry: ReadEntry, files: _Files, at: str) -> Iterator[tuple[str, Taken]]:
    """What files say once for all names in them."""
    for word, asked in entry.take.items():
        if word in _NAME_FIELDS:
            compiler.complain(f"{at}/{word}", f"{{{word}}} is a part of names already")
        otherwise = compiler.converted(asked.get("otherwise", ""), str, f"{at}/{word}/otherwise") or ""
        rest = {key: value for key, value in asked.items() if key != "otherwise"}
        selector = compiler.selector(rest, files.form, files.options, f"{at}/{word}")
        yield word, Taken(selector, compiler.words(otherwise, _NAME_FIELDS - {"value"}, f"{at}/{word}/otherwise"))


def _rule(
    compiler: LayoutCompiler, data: dict[str, Any], common: type[_Common], files: _Files, known: frozenset[str], at: str
) -> tuple[Any, ...] | None:
    """What every rule has, what is the format's own, and the two that both sorts of rule are made of alike."""
    form = files.form
    theirs = form.selector.__struct_fields__
    # Formats whose selectors have conditions of their own look at them while they read.
    ours = set(common.__struct_fields__) - set(theirs)
    for key in data:
        if key not in ours and key not in theirs:
            compiler.complain(f"{at}/{key}", f"unknown key `{key}`{nearest(key, sorted({*ours, *theirs}))}")
            return None
    common_part, own_part = _parted(data, ours)
    rule = compiler.converted(common_part, common, at)
    selector = compiler.selector(own_part, form, files.options, at)
    if rule is None or selector is None:
        return None
    compiler.known_kind(rule.kind, f"{at}/kind")
    compiler.known_side(rule.side, f"{at}/side")
    address = compiler.regex(rule.address, "address", f"{at}/address")
    groups = address.groups if address is not None else frozenset()
    given = form.row_words(selector)
    known |= groups | _row_words(rule.name, given)
    conditions = [
        tuple(_conditions(compiler, form, asked, given, f"{at}/{word}"))
        for word, asked in (("when", rule.when), ("unless", rule.unless))
    ]
    return rule, selector, address, compiler.words(rule.name, known, f"{at}/name"), *conditions


def _parted(data: Mapping[str, Any], ours: set[str]) -> tuple[dict[str, Any], dict[str, Any]]:
    """What is asked of every rule alike, and what of the format. Formats that have conditions of their own know single
    words in them; several words, patterns and whether there is anything are asked of the row, as in any format."""
    common = {key: value for key, value in data.items() if key in ours}
    own = {key: value for key, value in data.items() if key not in ours}
    for word in ("when", "unless"):
        if isinstance(conditions := own.get(word), dict):
            own[word] = {key: said for key, said in conditions.items() if isinstance(said, str)}
            common[word] = {key: said for key, said in conditions.items() if not isinstance(said, str)}
    return common, own


def _conditions(
    compiler: LayoutCompiler, form: Format, asked: Mapping[str, _Condition], given: frozenset[str] | None, at: str
) -> Iterator[Condition]:
    """What must stand beside a value."""
    if asked and not form.has_rows:
        compiler.complain(at, f"nothing stands beside a value of {form.title}")
    for key, said in asked.items():
        if given is not None and key not in given:
            compiler.complain(f"{at}/{key}", f"nothing called `{key}` stands beside it{nearest(key, sorted(given))}")
        if isinstance(said, bool):
            yield Condition(key, there=said)
        elif isinstance(said, _Match):
            yield Condition(key, match=compiler.regex(said.match, "match", f"{at}/{key}"))
        else:
            yield Condition(key, frozenset((said,) if isinstance(said, str) else said))


def _row_words(name: str, given: frozenset[str] | None) -> frozenset[str]:
    """The parts of a name that stand beside the value; of any key where only the files know the keys."""
    words = frozenset(_ROW_WORD.findall(name))
    return words if given is None else frozenset(f"row.{word}" for word in given)


def _define(
    compiler: LayoutCompiler, data: dict[str, Any], files: _Files, known: frozenset[str], at: str
) -> DefineRule | None:
    if (made := _rule(compiler, data, _Define, files, known, at)) is None:
        return None
    rule, selector, address, name, when, unless = made
    return DefineRule(
        kind=rule.kind,
        selector=selector,
        name=name,
        address=address,
        side=rule.side,
        variant=rule.variant,
        split=compiler.regex(rule.split, "split", at),
        only=compiler.regex(rule.only, "only", at),
        skip=compiler.regex(rule.skip, "skip", at),
        when=when,
        unless=unless,
    )


def _refer(
    compiler: LayoutCompiler, data: dict[str, Any], files: _Files, known: frozenset[str], at: str
) -> ReferRule | None:
    if (made := _rule(compiler, data, _Refer, files, known, at)) is None:
        return None
    rule, selector, address, name, when, unless = made
    return ReferRule(
        kind=rule.kind,
        selector=selector,
        name=name,
        address=address,
        side=rule.side,
        under=_under(compiler, rule, at),
        beside=rule.beside,
        suffix=(rule.suffix,) if isinstance(rule.suffix, str) else rule.suffix,
        split=compiler.regex(rule.split, "split", at),
        only=compiler.regex(rule.only, "only", at),
        skip=compiler.regex(rule.skip, "skip", at),
        uri=rule.decode == "uri",
        uses=rule.uses,
        bytes=rule.bytes,
        severity=rule.severity,
        optional=rule.optional,
        says=rule.says,
        when=when,
        unless=unless,
    )


def _under(compiler: LayoutCompiler, rule: _Refer, at: str) -> tuple[str, ...]:
    """The folders that are tried. Parts of a name do not stand for anything in them."""
    folders = (rule.under,) if isinstance(rule.under, str) else rule.under
    for folder in folders:
        if (part := _PART.search(folder)) is not None:
            name = f"{folder.rstrip('/')}/{{value}}"
            compiler.complain(f"{at}/under", f'`under` says {part[0]} as it is; say `name = "{name}"` instead of it')
    return folders


def descriptor_rule(compiler: LayoutCompiler) -> Descriptor | None:
    entry = compiler.entry.descriptor
    rule = compiler.rule_for(entry.file, "/descriptor/file") if entry is not None else None
    if entry is None or rule is None:
        return None
    form = format_named(rule.format)
    name, version = (
        compiler.selector({"at": asked} if isinstance(asked, str) else asked, form, rule.options, f"/descriptor/{key}")
        if asked
        else None
        for key, asked in (("name", entry.name), ("version", entry.version))
    )
    return Descriptor(entry.file, rule, name, version)


def seat_rules(compiler: LayoutCompiler) -> dict[str, Seat]:
    seats: dict[str, Seat] = {}
    for index, entry in enumerate(compiler.entry.seat):
        at = f"/seat/{index}"
        if entry.name in seats:
            compiler.complain(f"{at}/name", f"there are two seats called `{entry.name}`")
        if (made := _seat(compiler, entry, at)) is not None:
            seats[entry.name] = made
    return seats


def change_rules(compiler: LayoutCompiler) -> dict[str, Change]:
    """The values of what is there that hooks may change."""
    changes: dict[str, Change] = {}
    for index, entry in enumerate(compiler.entry.change):
        at = f"/change/{index}"
        if entry.name in changes:
            compiler.complain(f"{at}/name", f"there are two changes called `{entry.name}`")
        compiler.asked(ValueEntry(file=entry.file, ask=entry.ask), at)
        glob = compiler.glob(entry.file, f"{at}/file")
        changes[entry.name] = Change(name=entry.name, title=entry.title, file=glob, ask=entry.ask)
    return changes


def _seat(compiler: LayoutCompiler, entry: SeatEntry, at: str) -> Seat | None:
    rule = compiler.rule_for(entry.file, f"{at}/file")
    if rule is None:
        return None
    if entry.kind:
        compiler.known_kind(entry.kind, f"{at}/kind")
    put = compiler.seat(entry.put, format_named(rule.format), rule.options, f"{at}/put")
    return Seat(
        may_be_empty=entry.may_be_empty,
        name=entry.name,
        title=entry.title,
        file=compiler.glob(entry.file, f"{at}/file"),
        format=rule.format,
        encodings=rule.encodings,
        options=rule.options,
        put=put,
        kind=entry.kind,
    )
