"""The texts of notes, as the builder's decisions have them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import structs
from msgspec.structs import replace

from hookset.authoring.draft.decisions import Decision, Mark
from hookset.authoring.draft.found.filling import mapped
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.notes import Line
from hookset.authoring.draft.said import Chunk
from hookset.formats import Body
from hookset.packs.hooksheet import SettingEntry

__all__ = ["chunks_as_decided", "with_mark"]


def chunks_as_decided(have: PackMaterial) -> Iterator[tuple[Chunk, Decision | None]]:
    """Every text that may be meant to be copied, with the decision that chose a seat for it; those that a decision has
    another text for are that text."""
    written: set[str] = set()
    for chunk in (*have.chunks[: have.dry_run], *(chunk for _, chunk in have.fragments)):
        decision = next((d for line in chunk.lines if (d := have.decided.lines.get((chunk.notes, line.number)))), None)
        if decision is None or decision.text is None:
            yield chunk, decision if decision is not None and decision.seat else None
        elif decision.lines not in written:
            written.add(decision.lines)
            yield _with_text(chunk, decision.text), decision
    for decision in have.decided.steps:
        if decision.text is not None and decision.lines not in written and decision.stretch is not None:
            yield _of_prose(have, decision, decision.text), decision


def with_mark(decision: Decision, mark: Mark, settings: Sequence[SettingEntry] = ()) -> Decision:
    """A decision with one more piece marked, and the settings that it is; in entries of its own at once."""
    known = (*decision.setting, *settings)
    if decision.do != "instead":
        return structs.replace(decision, do="accept", mark=(*decision.mark, mark), setting=known)
    hooks = []
    for hook in decision.hook:
        body = mapped(Body(text=hook.text, record=hook.record), {mark.text: mark.becomes})
        record = dict(body.record) if hook.record is not None and body.record is not None else None
        hooks.append(structs.replace(hook, text=body.text if hook.text is not None else None, record=record))
    return structs.replace(decision, hook=tuple(hooks), setting=known)


def _with_text(chunk: Chunk, text: str) -> Chunk:
    return replace(chunk, lines=_numbered(text, chunk.first, chunk.lines[-1].number), inline=False)


def _of_prose(have: PackMaterial, decision: Decision, text: str) -> Chunk:
    """A text for lines that have none to copy: what they say is about it."""
    places = [place for place, one in have.decided.lines.items() if one is decision]
    said = [line for one in have.notes for line in one.lines if (one.path, line.number) in places and line.text.strip()]
    lines = _numbered(text, said[0].number, said[-1].number)
    return Chunk(notes=places[0][0], lines=lines, near=tuple(said), far=())


def _numbered(text: str, first: int, last: int) -> tuple[Line, ...]:
    """Its lines, counted as the ones in the notes that it stands for."""
    rows = text.rstrip("\n").split("\n")
    return tuple(Line(min(first + number, last), row, code=True) for number, row in enumerate(rows))
