"""What a plan's outlook shows that the builder can decide: words that this map does not know, names that are taken."""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Sequence

from hookset.config.sheets import nearest
from hookset.model import Finding
from hookset.planning.choices import Question
from hookset.planning.plan import Plan, Stop
from hookset.planning.queries.outlook import Outlook
from hookset.symbols.numbers import ids_among

__all__ = ["conflicts"]

_MANY = 30


def conflicts(plan: Plan, view: Outlook) -> tuple[Stop, ...]:
    """Among the findings that the plan would bring, those that an answer can prevent, each once."""
    found: dict[tuple[str, ...], Stop] = {}
    for finding in view.fresh:
        given = [stop.question.default for stop in found.values() if stop.question is not None]
        for stop in (*_word(view, finding), *_taken(plan, view, finding, given)):
            if stop.question is not None:
                found.setdefault(stop.question.key, stop)
    return tuple(found.values())


def _word(view: Outlook, finding: Finding) -> Iterator[Stop]:
    """A word from a short list that this map does not contain."""
    index = view.after.case.index
    kind = index.layout.kinds.get(finding.kind)
    if kind is None or finding.code != "missing-name" or not (kind.entry.vocabulary or kind.entry.mapped):
        return
    known = view.before.case.index.names(finding.kind)
    near = next(iter(difflib.get_close_matches(finding.name, known, 1)), "")
    first = near or next(iter(known), "…")
    yield Stop(
        "word-not-said",
        f"{kind.label} `{finding.name}` is not defined in this map{nearest(finding.name, known)}",
        where=str(finding.spot),
        why=finding.why,
        remedy=f"say which of the map's own it is to be: --word {finding.kind}:{finding.name}={first}",
        details=(f"the map's own: {', '.join(known[:_MANY])}",),
        question=Question(
            key=("word", finding.kind, finding.name),
            text=f"Which {kind.label} is `{finding.name}` to be here?",
            options=tuple((name, "the map's own") for name in known[:_MANY]),
            default=near,
        ),
    )


def _taken(plan: Plan, view: Outlook, finding: Finding, given: Sequence[str]) -> Iterator[Stop]:
    """A name that must be single, and that the map has already; of numbers the next free one is offered, but for those
    that are `given` already."""
    if finding.code not in ("defined-twice", "defined-in-stock"):
        return
    index = view.after.case.index
    kind = index.layout.kinds[finding.kind]
    pack = _pack_of(plan, view, finding)
    if not pack:
        return
    key = f"{finding.kind}:{finding.name}"
    by = "another thing in the map" if finding.code == "defined-twice" else "the base game"
    ids = ids_among(kind, [*index.names(kind.name), *given])
    free = ids.next if ids is not None and ids.next is not None else ""
    yield Stop(
        "name-taken",
        f"{pack} brings the {kind.label} `{finding.name}`, and {by} has that name",
        where=str(finding.spot),
        why=finding.why,
        remedy=f"rename the pack's, with all that refers to it: --call {key}={free or 'NEWNAME'}",
        question=Question(key=("name", pack, key), text=f"What is the pack's {kind.label} to be called?", default=free),
    )


def _pack_of(plan: Plan, view: Outlook, finding: Finding) -> str:
    """The pack of the plan that defines a name: in one of its files, or by one of its entries."""
    index = view.after.case.index
    paths = {path for path, _ in index.places(finding.kind, finding.name)}
    for one in plan.packs:
        entry = plan.ledger.pack(one.name)
        if entry is None:
            continue
        if any(file.path in paths for file in entry.files):
            return one.name
        if any(hook.path in paths and finding.name in hook.shown and not hook.was_there for hook in entry.hooks):
            return one.name
    return ""
