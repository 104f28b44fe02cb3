"""Hooks whose entries stand in a file of the pack: rows for a table, elements for a scene."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
from msgspec.structs import replace

from hookset.config.layouts import Seat
from hookset.config.sheets import nearest
from hookset.edits import seat_at
from hookset.formats import Body, Snippet, Unreadable, format_named, open_file
from hookset.model import CouldNotError
from hookset.packs import SheetedPack
from hookset.packs.hooksheet import HookEntry
from hookset.planning.pipeline.request import HookRequest, Situation
from hookset.planning.pipeline.spots import only_file, request_of
from hookset.planning.plan import HookStep, Stop
from hookset.trees import decode

__all__ = ["requests_of_fragment"]

_LARGEST = 4 << 20
"""Bytes of a fragment."""


def requests_of_fragment(
    hook: HookEntry, seat: Seat, pack: SheetedPack, situation: Situation, where: str
) -> Iterator[HookRequest | HookStep | Stop]:
    """One for each record in the file; texts are one block, as they stand there."""
    bodies = _bodies(hook, seat, pack, situation, where)
    if isinstance(bodies, Stop):
        yield bodies
        return
    for body in bodies:
        record = dict(body.record) if body.record is not None else None
        one = msgspec.structs.replace(hook, fragment="", text=body.text, record=record)
        request = request_of(one, situation, where, {})
        yield (
            replace(request, part=hook.part, place=hook.place, fill=hook.fill)
            if isinstance(request, HookRequest)
            else request
        )


def _bodies(hook: HookEntry, seat: Seat, pack: SheetedPack, situation: Situation, where: str) -> list[Body] | Stop:
    why, remedy = "the entries would be missing, and the pack would not work", "correct the hook sheet"
    if not pack.tree.has(hook.fragment):
        near = nearest(hook.fragment, sorted(pack.tree.paths()))
        return Stop("not-found", f"the pack has no file `{hook.fragment}`{near}", where=where, why=why, remedy=remedy)
    path = only_file(seat, situation.tree, where, hook.at)
    if isinstance(path, Stop):
        return path
    form = format_named(seat.format)
    try:
        if pack.tree.size(hook.fragment) > _LARGEST:
            raise CouldNotError("too-large", f"it is larger than {_LARGEST >> 20} MB", remedy=remedy)
        _, document = open_file(form, situation.tree.read(path), seat.encodings, seat.options)
        text = decode(pack.tree.read(hook.fragment), ("utf-8", "cp1252")).string
        pasted = form.pasted(seat_at(seat, hook.at), Snippet(text, seat.options, document))
    except (Unreadable, CouldNotError, KeyError) as error:
        told = f"`{hook.fragment}` cannot be read as entries of the seat `{seat.name}`: {error}"
        return Stop("wrong-entry", told, where=where, why=why, remedy=remedy)
    bodies = [one.body for one in pasted]
    if not bodies:
        told = f"nothing in `{hook.fragment}` is an entry of the seat `{seat.name}` ({seat.title})"
        return Stop("wrong-entry", told, where=where, why=why, remedy=remedy)
    if any(body.text is None for body in bodies):
        return bodies
    # With what stands between them: commas, remarks.
    return [Body(text=text[pasted[0].start : pasted[-1].end].strip("\n"))]
