"""What packs have set still stands."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.core.checks.declare import Case, Draft, check
from hookset.core.checks.examples import Example
from hookset.core.formats import Body, Edits, Unreadable, format_named, text_of
from hookset.core.layouts import Seat
from hookset.core.model import CouldNotError, Severity
from hookset.core.project import LedgerHook

__all__: list[str] = []


@check(
    code="entry-gone",
    title="An entry that a pack has set is gone",
    severity=Severity.WARNING,
    why="the pack counts on it: what it brings may be there and never be started",
    remedy="install the pack again, which sets what is lacking and nothing else; or take the whole pack out",
    example=Example(
        fails={"server/main.lua": 'load("gate")\n', "server/bell.lua": ""},
        passes={"server/main.lua": "load('gate')\nload 'bell'\n", "server/bell.lua": ""},
        set_by_pack=("loads", "server/main.lua", 'load("bell")\n'),
    ),
)
def entry_gone(case: Case) -> Iterable[Draft]:
    for pack in case.ledger.packs:
        for hook in pack.hooks:
            seat = case.layout.seats.get(hook.seat)
            # Records are the builder's to change; a lacking manifest row is told where its file is judged.
            by_text = seat is not None and hook.texts and "text" in format_named(seat.format).bodies
            listing = case.layout.manifest is not None and hook.seat == case.layout.manifest.seat
            if seat is not None and by_text and not listing and _gone(case, seat, hook):
                entry = hook.texts[0].strip()
                yield Draft(
                    path=hook.path,
                    message=f"`{entry}`, which {pack.name} has set {seat.title}, is gone or was changed",
                    kind=hook.seat,
                    name=entry,
                )


@check(
    code="pack-file-gone",
    title="A file that a pack has brought is gone",
    severity=Severity.WARNING,
    why="the pack counts on it, even where nothing that can be read refers to it",
    remedy="install the pack again, which brings what is lacking and nothing else; or take the whole pack out",
    example=Example(
        fails={},
        passes={"sounds/bell.wav": "…"},
        brought_by_pack=("sounds/bell.wav",),
    ),
)
def pack_file_gone(case: Case) -> Iterable[Draft]:
    for pack in case.ledger.packs:
        for file in pack.files:
            if not case.web.tree.has(file.path):
                message = f"`{file.path}`, which {pack.name} has brought, is gone"
                yield Draft(path=file.path, message=message, name=file.path)


def _gone(case: Case, seat: Seat, hook: LedgerHook) -> bool:
    """Whether setting it again would set something. A file that cannot be read is told as that."""
    if not case.web.tree.has(hook.path):
        return True
    try:
        form = format_named(seat.format)
        document = form.open(text_of(form, case.web.tree.read(hook.path), seat.encodings), seat.options)
    except (Unreadable, CouldNotError):
        return False
    return not document.problems and isinstance(document.put(seat.put, Body(text=hook.texts[0])), Edits)
