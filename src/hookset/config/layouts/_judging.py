"""From a layout file's entries to the rules about values: equal, numbered, standing on the ground."""

from __future__ import annotations

from hookset.config.layouts._compiler import MAP_WORDS, LayoutCompiler
from hookset.config.layouts.comparisons import (
    AgreeRule,
    Bound,
    BoundsRule,
    CalledRule,
    CountRule,
    GroundRule,
    KeyedQuery,
    OrderRule,
    PairedRule,
    PositionQuery,
    SeriesRule,
)
from hookset.config.layouts.rules import ValueQuery
from hookset.config.layouts.schema import (
    AgreeEntry,
    GroundEntry,
    KeyedEntry,
    LookupEntry,
    SeriesEntry,
    StandingEntry,
    ValueEntry,
)
from hookset.config.layouts.template import Template, template
from hookset.config.sheets import nearest
from hookset.trees import Glob, unsafe_reason

__all__ = [
    "agree_rules",
    "archive_template",
    "bounds_rules",
    "called_rules",
    "check_archive",
    "count_rules",
    "ground_rules",
    "lookup_tables",
    "map_templates",
    "order_rules",
    "paired_rules",
    "series_rules",
]


def agree_rules(compiler: LayoutCompiler) -> tuple[AgreeRule, ...]:
    made = [_agree(compiler, entry, f"/agree/{index}") for index, entry in enumerate(compiler.entry.agree)]
    return tuple(rule for rule in made if rule is not None)


def _agree(compiler: LayoutCompiler, entry: AgreeEntry, at: str) -> AgreeRule | None:
    values = [compiler.asked(value, f"{at}/values/{index}") for index, value in enumerate(entry.values)]
    take = {name: compiler.asked(value, f"{at}/take/{name}") for name, value in entry.take.items()}
    equal = compiler.words(entry.equal, MAP_WORDS | entry.take.keys(), f"{at}/equal") if entry.equal else None
    if len(values) + (equal is not None) < 2:
        compiler.complain(f"{at}/values", "one value agrees with itself: name two or more, or say what it must `equal`")
    found = tuple(value for value in values if value is not None)
    return AgreeRule(
        entry.may_be_empty,
        entry.title,
        entry.why,
        found,
        equal,
        {n: asked for n, asked in take.items() if asked is not None},
    )


def count_rules(compiler: LayoutCompiler) -> tuple[CountRule, ...]:
    """How many there must be of something."""
    made = []
    for index, entry in enumerate(compiler.entry.count):
        at = f"/count/{index}"
        compiler.known_kind(entry.kind, f"{at}/kind")
        group = compiler.regex(entry.group or None, "group", f"{at}/group")
        if group is not None and not group.groups & {"group", "number"}:
            compiler.complain(f"{at}/group", "it needs the group (?P<group>…), or (?P<number>…), or both")
        least, most = (
            _bound(compiler, one, f"{at}/{key}") for key, one in (("least", entry.least), ("most", entry.most))
        )
        made.append(CountRule(entry, group, least, most))
    return tuple(made)


def bounds_rules(compiler: LayoutCompiler) -> tuple[BoundsRule, ...]:
    """Numbers that must lie between others."""
    made = []
    for index, entry in enumerate(compiler.entry.bounds):
        at = f"/bounds/{index}"
        if entry.least is None and entry.most is None:
            compiler.complain(at, "it says neither `least` nor `most`: nothing would be compared")
        values = [compiler.asked(value, f"{at}/values/{number}") for number, value in enumerate(entry.values)]
        least, most = (
            _bound(compiler, one, f"{at}/{key}") for key, one in (("least", entry.least), ("most", entry.most))
        )
        made.append(BoundsRule(entry, tuple(one for one in values if one is not None), least, most))
    return tuple(made)


def _bound(compiler: LayoutCompiler, bound: int | float | str | ValueEntry | None, at: str) -> Bound:
    return compiler.asked(bound, at) if isinstance(bound, ValueEntry) else bound


def order_rules(compiler: LayoutCompiler) -> tuple[OrderRule, ...]:
    """What stands before what."""
    made = []
    for index, entry in enumerate(compiler.entry.order):
        at = f"/order/{index}"
        if not (entry.first or entry.last or entry.before or entry.needed_first):
            compiler.complain(at, "it says none of `first`, `last`, `before` and `needed_first`: any order would do")
        if entry.needed_first and compiler.entry.units is None:
            compiler.complain(f"{at}/needed_first", "what needs what is known of units, and there is no [units]")
        values = [compiler.asked(value, f"{at}/values/{number}") for number, value in enumerate(entry.values)]
        made.append(OrderRule(entry, tuple(one for one in values if one is not None)))
    return tuple(made)


def called_rules(compiler: LayoutCompiler) -> tuple[CalledRule, ...]:
    """Files that are called after the map."""
    return tuple(
        CalledRule(
            entry,
            compiler.glob(entry.files, f"/called/{index}/files"),
            compiler.words(entry.name, MAP_WORDS, f"/called/{index}/name"),
        )
        for index, entry in enumerate(compiler.entry.called)
    )


def paired_rules(compiler: LayoutCompiler) -> tuple[PairedRule, ...]:
    """Values by the same key that must be the same."""
    made = []
    for index, entry in enumerate(compiler.entry.paired):
        one, other = (
            _keyed(compiler, side, f"/paired/{index}/{key}")
            for key, side in (("one", entry.one), ("other", entry.other))
        )
        if one is not None and other is not None:
            made.append(PairedRule(entry, one, other))
    return tuple(made)


def _keyed(compiler: LayoutCompiler, entry: KeyedEntry, at: str) -> KeyedQuery | None:
    asked = compiler.asked(ValueEntry(file=entry.file, ask=entry.ask), at)
    return None if asked is None else KeyedQuery(entry, asked)


def series_rules(compiler: LayoutCompiler) -> tuple[SeriesRule, ...]:
    made = [_series(compiler, entry, f"/series/{index}") for index, entry in enumerate(compiler.entry.series)]
    return tuple(rule for rule in made if rule is not None)


def _series(compiler: LayoutCompiler, entry: SeriesEntry, at: str) -> SeriesRule | None:
    compiler.known_kind(entry.kind, f"{at}/kind")
    name = compiler.regex(entry.name, "name", f"{at}/name")
    if name is None:
        return None
    if not {"series", "number"} <= name.groups:
        compiler.complain(f"{at}/name", "it needs the groups (?P<series>…) and (?P<number>…)")
        return None
    return SeriesRule(entry, name, tuple(Glob(pattern) for pattern in entry.owners))


def ground_rules(compiler: LayoutCompiler) -> tuple[GroundRule, ...]:
    made = [_ground(compiler, entry, f"/ground/{index}") for index, entry in enumerate(compiler.entry.ground)]
    return tuple(rule for rule in made if rule is not None)


def _ground(compiler: LayoutCompiler, entry: GroundEntry, at: str) -> GroundRule | None:
    if (entry.table is None) == (entry.picture is None):
        compiler.complain(at, "one of `table` and `picture` says how high the ground is")
    if entry.picture is not None:
        for one, other in (("left", "right"), ("top", "bottom"), ("black", "white")):
            if getattr(entry.picture, one) == getattr(entry.picture, other):
                compiler.complain(f"{at}/picture/{one}", f"`{one}` and `{other}` are the same")
    table = _standing(compiler, entry.table, f"{at}/table") if entry.table is not None else None
    things = [_standing(compiler, thing, f"{at}/things/{index}") for index, thing in enumerate(entry.things)]
    if entry.things and entry.lowest is None and entry.highest is None:
        compiler.complain(at, "it says neither `lowest` nor `highest`: nothing would be compared")
    if table is None and entry.picture is None:
        return None
    return GroundRule(entry, table, tuple(thing for thing in things if thing is not None))


def _standing(compiler: LayoutCompiler, entry: StandingEntry, at: str) -> PositionQuery | None:
    asked: ValueQuery | None = compiler.asked(ValueEntry(file=entry.file, ask=entry.ask), at)
    return PositionQuery(entry, asked) if asked is not None else None


def lookup_tables(compiler: LayoutCompiler) -> dict[str, LookupEntry]:
    """The tables that hooks can look values up in."""
    seats = {seat.name for seat in compiler.entry.seat}
    for index, entry in enumerate(compiler.entry.lookup):
        at = f"/lookup/{index}"
        compiler.asked(ValueEntry(file=entry.file, ask=entry.ask), at)
        if bool(entry.key) != bool(entry.value):
            compiler.complain(at, "`key` and `value` go together: what is looked up, and what is found by it")
        if entry.seat and entry.seat not in seats:
            compiler.complain(f"{at}/seat", f"there is no seat called `{entry.seat}`")
        if entry.seat and (entry.text is None) == (entry.record is None):
            compiler.complain(at, "with `seat`, one of `text` and `record` says what is set there")
    return {entry.name: entry for entry in compiler.entry.lookup}


def archive_template(compiler: LayoutCompiler) -> Template:
    """What a built map's archive is called: made of the name and the version that hookset.toml says."""
    known, at = ("name", "version"), "/build/archive"
    try:
        made = template(compiler.entry.build.archive)
    except ValueError as error:
        compiler.complain(at, str(error))
        return Template(compiler.entry.build.archive, ())
    for name in sorted(made.fields - {*known}):
        compiler.complain(at, f"unknown part {{{name}}}{nearest(name, known)}")
    return made


def check_archive(compiler: LayoutCompiler) -> None:
    """Tell what of the forms of a built map means nothing."""
    build = compiler.entry.build
    for index, pattern in enumerate(build.stored):
        compiler.glob(pattern, f"/build/stored/{index}")
    for index, one in enumerate(build.inner):
        at = f"/build/inner/{index}"
        if unsafe_reason(one.name) is not None:
            compiler.complain(f"{at}/name", f"`{one.name}` is no path in an archive")
        if not one.files:
            compiler.complain(f"{at}/files", "it holds nothing: say which files")
        for number, pattern in enumerate(one.files):
            compiler.glob(pattern, f"{at}/files/{number}")


def map_templates(compiler: LayoutCompiler) -> tuple[dict[str, Template], Template | None]:
    """(further forms of the map's name, the folder that is called after it)"""
    words = {name: compiler.words(text, MAP_WORDS, f"/words/{name}") for name, text in compiler.entry.words.items()}
    folder = compiler.entry.rename.folder
    return words, compiler.words(folder, MAP_WORDS, "/rename/folder") if folder else None
