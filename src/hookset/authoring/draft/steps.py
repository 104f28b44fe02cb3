"""The notes as steps: a few lines that belong together, with what was understood of them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from hookset.authoring.draft.coverage import CoveredLine, Fate
from hookset.authoring.draft.decisions import PACK, Decision, Walk
from hookset.authoring.draft.draft import Draft
from hookset.authoring.draft.found.seating import Ground, likely_seats
from hookset.authoring.draft.gathering import gather_material
from hookset.authoring.draft.site import Site
from hookset.packs import Pack

__all__ = ["Step", "seats_of", "steps_of"]

_ITEM = re.compile(r"\s*(?:[-*•+|]|[(\[]?\d{1,2}[.):\]]|[a-z]\)|EDIT\b)", re.IGNORECASE)
"""How a row of a list or a table begins, or what was added later."""


class Step(Struct, frozen=True):
    """Some lines of the notes; the last of all is about the pack as a whole."""

    name: str
    """As a decision calls them: `NOTES.txt:13-18`, or `pack`."""
    lines: tuple[CoveredLine, ...]
    entries: tuple[tuple[str, int], ...]
    """What was drafted from them: the table of the sheet, and the number of the entry in it."""
    decision: Decision | None
    unsure: int
    """How many of the entries are unsure."""

    @property
    def text(self) -> str:
        """What is to be copied."""
        return "\n".join(line.text for line in self.lines if line.code)

    @property
    def not_understood(self) -> tuple[CoveredLine, ...]:
        """Lines that tell to do something, and of which nothing comes."""
        return tuple(line for line in self.lines if line.fate is Fate.NOT_UNDERSTOOD)

    @property
    def open(self) -> bool:
        """Whether somebody has to decide."""
        return bool(self.not_understood or self.unsure)

    @property
    def idle(self) -> bool:
        """Whether nothing comes of them, and nothing has to."""
        return not (self.open or self.entries or self.decision)


def steps_of(draft: Draft) -> tuple[Step, ...]:
    """The notes from top to bottom; last, what no line of them says."""
    groups = list(_groups(draft.lines))
    place_of = {(line.notes, line.number): number for number, lines in enumerate(groups) for line in lines}
    entries: dict[int, list[tuple[str, int]]] = {}
    for (table, index), reason in draft.reasons.items():
        places = (place_of[place] for place in reason.why.lines if place in place_of)
        entries.setdefault(next(places, len(groups)), []).append((table, index))
    named = [*((_name(lines), tuple(lines)) for lines in groups), (PACK, ())]
    decided = {place: one for one in draft.decided for place in _places(one)}
    steps = []
    for number, (name, lines) in enumerate(named):
        own = tuple(sorted(entries.get(number, ())))
        unsure = sum(not draft.reason(*entry).sure for entry in own)
        decisions = (decided[line.notes, line.number] for line in lines if (line.notes, line.number) in decided)
        if name == PACK:
            decisions = (one for one in draft.decided if one.lines == PACK)
            unsure += sum(not one.sure for one in draft.left)
        steps.append(Step(name, lines, own, next(decisions, None), unsure))
    return tuple(steps)


def _places(one: Decision) -> Iterator[tuple[str, int]]:
    if one.stretch is not None:
        notes, first, last = one.stretch
        yield from ((notes, number) for number in range(first, last + 1))


def _groups(lines: Sequence[CoveredLine]) -> Iterator[list[CoveredLine]]:
    """Lines that belong together: a paragraph or an item of a list, with the text to be copied below it."""
    group: list[CoveredLine] = []
    for line in lines:
        last = group[-1] if group else None
        if last is not None and _begins(line, last):
            yield group
            group = []
        group.append(line)
    if group:
        yield group


def _begins(line: CoveredLine, last: CoveredLine) -> bool:
    if line.notes != last.notes:
        return True
    if line.code:
        return False
    return last.code or line.number > last.number + 1 or _ITEM.match(line.text) is not None


def _name(lines: Sequence[CoveredLine]) -> str:
    first, last = lines[0], lines[-1]
    return f"{first.notes}:{first.number}" + (f"-{last.number}" if last.number != first.number else "")


def seats_of(site: Site, pack: Pack, walk: Walk, steps: Sequence[Step]) -> Mapping[str, tuple[str, ...]]:
    """By the name of each step that has a text to be copied: the seats that it can go to, the likeliest first."""
    have = gather_material(site, pack, walk)
    ground = Ground(site, have.known, have.everywhere)
    found: dict[str, tuple[str, ...]] = {}
    for step in steps:
        numbers = {(line.notes, line.number) for line in step.lines}
        chunks = [one for one in have.chunks if any((one.notes, line.number) in numbers for line in one.lines)]
        seats = [likely_seats(ground, chunk) for chunk in chunks]
        found[step.name] = tuple(dict.fromkeys(name for one in seats for name in one))
    return found
