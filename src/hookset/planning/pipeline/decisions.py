"""What a pack is given in this map: the values of its settings, its claims, what fills its blanks."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.config.sheets import nearest
from hookset.edits.literals import read_literal
from hookset.formats import Unreadable, format_named
from hookset.formats._media import in_words
from hookset.formats.document import facts_of
from hookset.model import WrongUseError, with_article
from hookset.packs import SheetedPack
from hookset.packs.hooksheet import BlankEntry, SettingEntry
from hookset.planning.choices import Answers, Question
from hookset.planning.filling import MapValues
from hookset.planning.plan import Stop
from hookset.planning.state import PlanState
from hookset.project import LedgerBlank, LedgerPack
from hookset.project.ledger import LedgerSetting
from hookset.trees import Content, FolderTree, Member

__all__ = ["Decided", "blank_content", "decided_for", "settings_of", "typed_setting"]

_SORTS = {"picture": ("picture",), "sound": ("audio",), "model": ("json", "glb"), "file": ()}
"""Formats that files of each kind of blank are in."""


class Decided(Struct, frozen=True):
    """What a pack is given: by the builder, as it was before, or by what is free in the map."""

    answers: Answers
    earlier: LedgerPack | None
    """The pack as it is installed."""
    settings: Mapping[str, Any]
    claims: Mapping[str, str]
    blanks: tuple[LedgerBlank, ...]
    stops: tuple[Stop, ...]
    """Claims that cannot be had."""
    questions: tuple[Question, ...]
    """Blanks that nothing fills, and settings that decide which entries there are."""


def decided_for(state: PlanState, pack: SheetedPack) -> Decided:
    """Raises WrongUseError for an answer that means nothing."""
    answers, earlier = state.choices.of(pack.name), state.ledger.pack(pack.name)
    claims, stops = claims_of(state, pack, answers, earlier)
    blanks = blanks_of(pack, answers, earlier)
    return Decided(
        answers=answers,
        earlier=earlier,
        settings=settings_of(pack, answers, earlier),
        claims=claims,
        blanks=blanks,
        stops=stops,
        questions=(
            *(
                Question(key=("blank", pack.name, blank.name), text=f"{blank.says or blank.name} ({blank.kind})")
                for blank in blanks
                if not blank.filled and not blank.brought
            ),
            *_choosing(pack, answers, earlier),
        ),
    )


def _choosing(pack: SheetedPack, answers: Answers, earlier: LedgerPack | None) -> Iterator[Question]:
    """Settings that decide which files or entries there are, and that nobody has decided yet."""
    whens = (*(one.when for one in pack.sheet.files), *(one.when for one in pack.sheet.hook))
    deciding = {when.setting for when in whens if when is not None}
    was = {one.name for one in earlier.settings} if earlier else set()
    for entry in pack.sheet.setting:
        if entry.choices and entry.name in deciding - was and entry.name not in answers.settings:
            yield Question(
                key=("setting", pack.name, entry.name),
                text=f"{pack.name}: {entry.name}" + (f" ({entry.says})" if entry.says else ""),
                options=tuple((str(choice), "as it comes" * (choice == entry.default)) for choice in entry.choices),
                default=str(entry.default),
            )


def settings_of(pack: SheetedPack, answers: Answers, earlier: LedgerPack | None) -> dict[str, Any]:
    """By name: what was decided, else what it was, else what the pack comes with. Raises WrongUseError."""
    entries = {entry.name: entry for entry in pack.sheet.setting}
    for name in answers.settings:
        if name not in entries:
            raise WrongUseError(
                "unknown-name",
                f"{pack.name} has no setting `{name}`{nearest(name, sorted(entries))}",
                remedy="`hookset inspect` lists the settings of a pack",
            )
    was = {one.name: one.value for one in earlier.settings} if earlier else {}
    return {
        name: typed_setting(entry, answers.settings[name]) if name in answers.settings else _still(entry, was)
        for name, entry in entries.items()
    }


def _still(entry: SettingEntry, was: Mapping[str, Any]) -> Any:
    """The value from before, where it is still one."""
    try:
        return typed_setting(entry, was[entry.name]) if entry.name in was else entry.default
    except WrongUseError:
        return entry.default


def typed_setting(entry: SettingEntry | LedgerSetting, value: Any) -> Any:
    """A value as the setting wants it. Raises WrongUseError, which says what it wants."""
    try:
        typed = read_literal(value, entry.type) if isinstance(value, str) else _checked(value, entry.type)
    except ValueError as error:
        raise WrongUseError("wrong-value", f"{entry.name}: {error}", remedy=_wanted(entry)) from error
    if entry.range is not None and not entry.range[0] <= typed <= entry.range[1]:
        raise WrongUseError("wrong-value", f"{entry.name}: {value} is out of range", remedy=_wanted(entry))
    if entry.choices and typed not in entry.choices:
        raise WrongUseError("wrong-value", f"{entry.name}: {value} is not an allowed value", remedy=_wanted(entry))
    return typed


def _checked(value: Any, kind: str) -> Any:
    fits = {
        "bool": isinstance(value, bool),
        "int": isinstance(value, int) and not isinstance(value, bool),
        "float": isinstance(value, int | float) and not isinstance(value, bool),
        "text": isinstance(value, str),
    }[kind]
    if not fits:
        raise ValueError(f"{value!r} is not of type {kind}")
    return float(value) if kind == "float" else value


def _wanted(entry: SettingEntry | LedgerSetting) -> str:
    words = {"int": "a whole number", "float": "a number", "bool": "true or false", "text": "a text"}[entry.type]
    if entry.choices:
        words = "one of " + ", ".join(str(choice) for choice in entry.choices)
    if entry.range is not None:
        words += f" from {entry.range[0]:g} to {entry.range[1]:g}"
    return f"give {words}{' ' + entry.unit if entry.unit else ''}: {entry.name}=…"


def claims_of(
    state: PlanState, pack: SheetedPack, answers: Answers, earlier: LedgerPack | None
) -> tuple[dict[str, str], tuple[Stop, ...]]:
    """By kind: a value of the pool that nothing else uses; and a stop for each of which none is free."""
    claims: dict[str, str] = {}
    stops: list[Stop] = []
    for index, entry in enumerate(pack.sheet.claim):
        where = pack.line(f"/claim/{index}")
        kind = state.layout.kinds.get(entry.kind)
        if kind is None or not kind.entry.pool:
            stops.append(
                Stop(
                    "no-pool",
                    f"{pack.name} claims {with_article(entry.kind)}; the layout {state.layout.name} has no pool",
                    where=where,
                    why="nobody can say which values there are",
                    remedy="correct the hook sheet, or give the kind a `pool` in the layout",
                )
            )
            continue
        held = earlier.claims.get(entry.kind) if earlier else None
        taken = MapValues(state.layout, state.tree, state.stock).names(entry.kind) - ({held} if held else set())
        taken |= {
            value for other in state.ledger.packs if other.name != pack.name for value in _held(other, entry.kind)
        }
        free = [value for value in kind.entry.pool if value not in taken]
        wanted = answers.claims.get(entry.kind)
        if wanted is None:
            wanted = held if held in free else entry.published if entry.published in free else next(iter(free), None)
        if wanted is not None and wanted in free:
            claims[entry.kind] = wanted
            continue
        said = (
            f"`{wanted}` is " + ("taken" if wanted in kind.entry.pool else "none of them") if wanted else "none is free"
        )
        options = tuple((value, "free") for value in free)
        asked = Question(
            key=("claim", pack.name, entry.kind),
            text=f"Which {kind.label} is it to have?",
            options=options,
            default=next(iter(free), ""),
        )
        stops.append(
            Stop(
                "none-free",
                f"{pack.name} needs {with_article(kind.label)} for itself, and {said}",
                where=where,
                why="two things on one of them get in each other's way",
                remedy=f"take one of the free ones: --claim {entry.kind}={free[0]}"
                if free
                else f"take something out that has {with_article(kind.label)}",
                details=(f"free: {', '.join(free) or 'none'}", f"taken: {', '.join(sorted(taken)) or 'none'}"),
                question=asked if free else None,
            )
        )
    return claims, tuple(stops)


def _held(pack: LedgerPack, kind: str) -> list[str]:
    return [pack.claims[kind]] if kind in pack.claims else []


def blanks_of(pack: SheetedPack, answers: Answers, earlier: LedgerPack | None) -> tuple[LedgerBlank, ...]:
    """Every blank, with what it was filled with."""
    entries = pack.sheet.blank
    for name in answers.blanks:
        if name not in {entry.name for entry in entries}:
            raise WrongUseError(
                "unknown-name",
                f"{pack.name} has no blank `{name}`{nearest(name, sorted(entry.name for entry in entries))}",
                remedy="`hookset inspect` lists what a pack leaves open",
            )
    was = {one.name: one.filled for one in earlier.blanks} if earlier else {}
    made = []
    for entry in entries:
        given = answers.blanks.get(entry.name, "")
        filled = (given if entry.kind == "text" else Path(given).name) if given else was.get(entry.name, "")
        brought = bool(entry.into) and entry.into in pack.targets
        made.append(
            LedgerBlank(
                name=entry.name,
                kind=entry.kind,
                into=entry.into,
                says=entry.says,
                filled=filled,
                brought=brought,
            )
        )
    return tuple(made)


def blank_content(entry: BlankEntry | LedgerBlank, given: str, layout: Layout, largest: int | None = None) -> Content:
    """The file that fills a blank. Raises WrongUseError for one that is not what is wanted."""
    file = Path(given).expanduser()
    if not file.is_file():
        raise WrongUseError(
            "not-found", f"{entry.name}: there is no file {given}", remedy="name the file that is to fill the blank"
        )
    tree = FolderTree(file.parent.resolve())
    content = Member(tree, file.name)
    largest = entry.largest if isinstance(entry, BlankEntry) and entry.largest else largest
    if largest is not None and content.size > largest:
        raise WrongUseError(
            "too-large",
            f"{entry.name}: {file.name} has {content.size:,} bytes",
            remedy=f"make it smaller: at most {largest:,} bytes",
        )
    _fits(entry, content, layout)
    return content


def _fits(entry: BlankEntry | LedgerBlank, content: Member, layout: Layout) -> None:
    """Whether the file is of the format that the layout reads at its place."""
    sorts = _SORTS.get(entry.kind, ())
    rules = [rule for rule in layout.reads if rule.format != "any" and rule.match(entry.into) is not None]
    wanted = [rule for rule in rules if rule.format in sorts] or ([] if not sorts else rules[:1])
    if isinstance(entry, BlankEntry) and entry.size is not None and entry.kind == "picture":
        _has_size(entry, entry.size, content)
    for rule in wanted[:1]:
        form = format_named(rule.format)
        try:
            data = content.read()
            if not form.binary:
                from hookset.formats import text_of

                form.open(text_of(form, data, rule.encodings), rule.options)
            else:
                form.open(data, rule.options)
        except Unreadable as error:
            raise WrongUseError(
                "wrong-value",
                f"{entry.name}: {content.path} {error.what}",
                why=f"the game reads {entry.into} as {form.title}",
                remedy=f"export it as the {entry.kind} that the game takes there",
            ) from error


def _has_size(entry: BlankEntry, size: tuple[int, int], content: Member) -> None:
    """Whether a picture is as large as the pack needs it, whatever the layout reads at its place."""
    form = format_named("picture")
    try:
        facts = facts_of(form.open(content.read(), form.options()))
    except Unreadable as error:
        raise WrongUseError(
            "wrong-value",
            f"{entry.name}: {content.path} {error.what}",
            remedy="export it as a PNG of the size that is asked for",
        ) from error
    if facts is None or (facts.width, facts.height) != size:
        raise WrongUseError(
            "wrong-value",
            f"{entry.name}: {content.path} is {', '.join(in_words(facts)) or 'no picture whose size is told'}",
            remedy=f"make it {size[0]} x {size[1]} pixels",
        )
