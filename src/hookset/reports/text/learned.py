"""A learned layout: the evidence for each rule, and what a check by it would say."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.learning import lines_of
from hookset.learning.layout_text import place_text
from hookset.model import Severity
from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterator

    from rich.console import RenderableType

    from hookset.checks import Summary
    from hookset.learning import Guess, Learned

_MISFITS = 3
_FINDINGS = 10
_CARDS = 40
_BANDS = {"sure": "ok", "likely": "warning"}

__all__ = ["learned_text"]


def learned_text(learned: Learned, files: tuple[str, str], checked: Summary, whole: bool, start: str) -> RenderableType:
    """The rules by band, each with what speaks for it and what does not fit; `whole` shows all of them. `files` are the
    layout and the stock that were written, `start` is the command that begins with them."""
    file, stock = files
    kind_of = {vocabulary: kind.name for kind in learned.kinds for vocabulary in kind.vocabularies}
    sure = sum(guess.evidence.band == "sure" for guess in learned.guesses)
    counts = f"{sure} sure, {len(learned.guesses) - sure} likely, {len(learned.weak)} too weak"
    numbered = list(enumerate(learned.guesses, 1))
    shown = numbered if whole else numbered[:_CARDS]
    cards = [
        _card(learned, number, guess, kind_of[guess.targets[0]] if guess.targets else "file") for number, guess in shown
    ]
    more = len(numbered) - len(shown)
    return stacked(
        heading(f"{plural(len(learned.guesses), 'rule')} learned", f"{counts}, of {learned.places:,} places"),
        blank(),
        *(line for card in cards for line in card),
        Text(f"and {plural(more, 'more rule')}: --all shows them", style="dim") if more else None,
        section("kinds", Text(_kinds(learned))),
        *_arranged(learned),
        section("unread", columns(list(_unread(learned)), indent=0)) if learned.material.unread else None,
        section("misfits", _findings(checked)),
        section("written", Text(f"{file}, {stock}" if stock else file, style="name")),
        section("next", Text(f"look through it, then: {start}")),
    )


def _card(learned: Learned, number: int, guess: Guess, kind: str) -> Iterator[RenderableType]:
    evidence = guess.evidence
    style = _BANDS.get(evidence.band, "dim")
    yield Text.assemble(
        (f"{number:>3} ", "dim"),
        (f"{evidence.band:<7}", style),
        (kind, "name"),
        f"  {place_text(guess.place)}",
    )
    more = " …" if evidence.names > len(evidence.examples) else ""
    share = f"{evidence.hits:,} of {evidence.texts:,} places, {plural(evidence.names, 'name')}"
    yield Text(
        f"            {share}: {', '.join(evidence.examples)}{more}; by chance 1 in 10^{round(-evidence.chance)}",
        style="dim",
    )
    if evidence.misfits:
        few = evidence.misfits[:_MISFITS]
        lines = lines_of(learned.material.tree, guess, few)
        told = ", ".join(f"{one.text} ({one.path}:{lines[one]})" for one in few)
        more = f" and {len(evidence.misfits) - len(few):,} more" if len(evidence.misfits) > len(few) else ""
        yield Text(f"            not {told}{more}", style="warning")
    if evidence.runner_up:
        yield Text(f"            or else {evidence.runner_up}", style="dim")


def _kinds(learned: Learned) -> str:
    return ", ".join(
        f"{kind.name} {len({name for one in kind.vocabularies for name in one.names}):,}" for kind in learned.kinds
    )


def _arranged(learned: Learned) -> Iterator[RenderableType | None]:
    """What is listed, what is loaded, where entries go."""
    manifest, loading = learned.arrangement.manifest, learned.arrangement.loading
    if manifest is not None:
        listed = ", ".join(f"{one.listed:,} of {one.there:,} {one.files}" for one in manifest.rows)
        yield section("listed", Text(f"in {manifest.sort.globs[0]}: {listed}"))
    if loading is not None:
        groups = ", ".join(f"{named:,} of {there:,} {files}" for files, named, there in loading.groups)
        yield section("loaded", Text(f"only where others name them: {groups}"))
    if learned.arrangement.seats:
        rows = [(Text(one.name, style="name"), Text(one.title)) for one in learned.arrangement.seats]
        yield section("seats", columns(rows, indent=0))


def _unread(learned: Learned) -> Iterator[tuple[Text, Text]]:
    for one in learned.material.unread:
        yield Text(f"{plural(one.files, 'file')} {one.ending or 'without an ending'}"), Text(one.why, style="dim")


def _findings(checked: Summary) -> RenderableType:
    """What would be broken, if the rules are right: of sure rules first."""
    told = [one for one in checked.findings if one.severity is not Severity.NOTE]
    if not told:
        return Text("none: every reference by these rules is met")
    sure = sum(one.severity is Severity.ERROR for one in told)
    rows = [
        (
            Text("sure" if one.severity is Severity.ERROR else "likely", style="dim"),
            Text(str(one.spot), style="name"),
            Text(one.message),
        )
        for one in told[:_FINDINGS]
    ]
    head = f"{plural(sure, 'broken reference')} by rules that are sure, {len(told) - sure:,} by those that are likely"
    more = f"and {len(told) - len(rows):,} more: `hookset check` shows them" if len(told) > len(rows) else ""
    return stacked(Text(head), columns(rows, indent=0), Text(more, style="dim") if more else None)
