"""A learned layout: the evidence for each rule, and what a check by it would say."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.learning import lines_of
from hookset.learning.layout_text import place_text
from hookset.model import Severity
from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from rich.console import RenderableType

    from hookset.learning import Beside, Guess, Learned
    from hookset.model import Finding
    from hookset.reports.learned import LearnedOutcome

_MISFITS = 3
_FINDINGS = 10
_BANDS = {"sure": "good", "confirmed": "good", "likely": "warning"}

__all__ = ["card_text", "learned_text"]


def learned_text(outcome: LearnedOutcome, most: int | None, following: str) -> RenderableType:
    """The rules by band, each with what speaks for it and what does not fit: `most` of them, all if it is None.
    `following` is what to do with the layout."""
    learned, file, stock = outcome.learned, outcome.layout, outcome.stock
    if not learned.guesses:
        return stacked(
            heading("No rule learned", f"of {plural(learned.places, 'place')} that the layout does not see"),
            section("unread", columns(list(_unread(learned)), indent=0)) if learned.material.unread else None,
            section("written", Text("nothing")),
        )
    sure = sum(guess.band in ("sure", "confirmed") for guess in learned.guesses)
    counts = f"{sure} sure, {len(learned.guesses) - sure} likely, {len(learned.weak)} too weak"
    numbered = list(enumerate(learned.guesses, 1))
    shown = numbered[:most]
    cards = [card_text(learned, number, guess) for number, guess in shown]
    more = len(numbered) - len(shown)
    return stacked(
        heading(
            f"{plural(len(learned.guesses), 'rule')} learned",
            f"{counts}, of {learned.places:,} places{_beside(learned)}",
        ),
        blank(),
        *(line for card in cards for line in card),
        Text(f"and {plural(more, 'more rule')}: --all shows them", style="dim") if more and shown else None,
        section("kinds", Text(_kinds(learned))) if learned.kinds else None,
        *_arranged(learned),
        section("unread", columns(list(_unread(learned)), indent=0)) if learned.material.unread else None,
        *(section("beside", _other(learned, one)) for one in outcome.others),
        section("misfits", _findings(outcome.findings)),
        section("written", Text(f"{file}, {stock}" if stock else file, style="name")),
        section("next", Text(f"look through it, then: {following}")) if following else None,
    )


def card_text(learned: Learned, number: int, guess: Guess) -> Iterator[RenderableType]:
    """A rule, with what speaks for it and what does not fit."""
    kind, style = learned.kind_of[guess], _BANDS.get(guess.band, "dim")
    yield section(
        Text.assemble((f"{number:>3} ", "dim"), (guess.band, style)),
        Text.assemble((kind, "name"), f"  {place_text(guess.place)}"),
    )
    yield from (section("", line) for line in _evidence(learned, guess))


def _evidence(learned: Learned, guess: Guess) -> Iterator[Text]:
    """What speaks for a rule, and what does not fit."""
    evidence = guess.evidence
    more = " …" if evidence.names > len(evidence.examples) else ""
    share = f"{evidence.hits:,} of {evidence.texts:,} places, {plural(evidence.names, 'name')}"
    chance = f"by chance 1 in 10^{round(-evidence.chance)}"
    yield Text(f"{share}: {', '.join(evidence.examples)}{more}; {chance}", style="dim")
    for key, word in guess.unless.items():
        yield Text(f"but for those beside which {key} is {word}", style="dim")
    if evidence.misfits:
        few = evidence.misfits[:_MISFITS]
        lines = lines_of(learned.material.tree, guess, few)
        told = ", ".join(f"{one.text} ({one.path}:{lines[one]})" for one in few)
        left = evidence.texts - evidence.hits - len(few)
        more = f" and {left:,} more" if left > 0 else ""
        yield Text(f"not {told}{more}", style="warning")
    if evidence.runner_up:
        yield Text(f"or else {evidence.runner_up}", style="dim")


def _kinds(learned: Learned) -> str:
    return ", ".join(
        f"{kind.name} {len({name for one in kind.vocabularies for name in one.names}):,}" for kind in learned.kinds
    )


def _arranged(learned: Learned) -> Iterator[RenderableType | None]:
    """Where the map says what it is called, what is listed, what is loaded, what runs where, where entries go."""
    manifest, loading = learned.arrangement.manifest, learned.arrangement.loading
    descriptor = learned.arrangement.descriptor
    if descriptor is not None:
        yield section("described", Text(f"in {descriptor.file}: {' '.join(filter(None, descriptor.says))}"))
    if manifest is not None:
        listed = ", ".join(f"{one.listed:,} of {one.there:,} {one.files}" for one in manifest.rows)
        yield section("listed", Text(f"in {manifest.sort.globs[0]}: {listed}"))
    if loading is not None:
        groups = ", ".join(f"{named:,} of {there:,} {files}" for files, named, there in loading.groups)
        yield section("loaded", Text(f"only where others name them: {groups}"))
    sides = learned.arrangement.sides
    if sides is not None:
        kinds = ", ".join(sorted(sides.kinds))
        yield section("sides", Text(f"{', '.join(sides.names)} in {', '.join(sides.fronts)}: {kinds}"))
    if learned.arrangement.seats:
        rows = [(Text(one.name, style="name"), Text(one.title)) for one in learned.arrangement.seats]
        yield section("seats", columns(rows, indent=0))


def _other(learned: Learned, beside: Beside) -> RenderableType:
    """What holds in another map as well, and what in one only."""
    held = sum(one.holds for one in beside.held.values())
    rows: list[tuple[Text, Text]] = []
    for number, guess in enumerate(learned.guesses, 1):
        one = beside.held[guess]
        if not one.holds:
            why = f"{one.met:,} of {one.texts:,} places there" if one.texts else "nothing of it there"
            rows.append((Text(f"{number:>3} here only"), Text(f"{place_text(guess.place)}: {why}", style="dim")))
    for guess in beside.further.guesses:
        told = f"{place_text(guess.place)}: {beside.further.kind_of[guess]}, {guess.evidence.hits:,} places"
        rows.append((Text("    there only"), Text(told, style="dim")))
    head = Text(f"{held:,} of {plural(len(learned.guesses), 'rule')} hold in {beside.name}")
    return stacked(head, columns(rows, indent=0)) if rows else head


def _unread(learned: Learned) -> Iterator[tuple[Text, Text]]:
    for one in learned.material.unread:
        yield Text(f"{plural(one.files, 'file')} {one.ending or 'without an ending'}"), Text(one.why, style="dim")


def _beside(learned: Learned) -> str:
    return " that the layout does not see" if learned.known is not None else ""


def _findings(checked: Sequence[Finding]) -> RenderableType:
    """What would be broken, if the rules are right: of sure rules first."""
    broken = (one for one in checked if one.severity is not Severity.NOTE)
    told = sorted(broken, key=lambda one: one.severity is not Severity.ERROR)
    if not told:
        return Text("none: every reference by these rules is met")
    sure = sum(one.severity is Severity.ERROR for one in told)
    # One texture that is not there may be named in hundreds of places: they say no more than the first of them.
    alike: dict[tuple[Severity, str], list[Finding]] = {}
    for one in told:
        alike.setdefault((one.severity, one.message), []).append(one)
    shown = list(alike.values())[:_FINDINGS]
    rows = [
        (
            Text("sure" if one.severity is Severity.ERROR else "likely", style="dim"),
            Text(str(one.spot), style="name"),
            Text(one.message + (f"; also in {plural(len(others), 'more place')}" if others else "")),
        )
        for one, *others in shown
    ]
    head = f"{plural(sure, 'broken reference')} by rules that are sure, {len(told) - sure:,} by those that are likely"
    left = len(told) - sum(map(len, shown))
    more = f"and {left:,} more: `hookset check` shows them" if left else ""
    return stacked(Text(head), columns(rows, indent=0), Text(more, style="dim") if more else None)
