"""What packs have set still stands."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.edits import EntryState
from hookset.edits.literals import read_literal
from hookset.model import Severity, with_article
from hookset.project import LEDGER, LedgerSetting
from hookset.symbols.reading import read_at

__all__: list[str] = []


@check(
    code="entry-gone",
    title="An entry that a pack has set is gone",
    severity=Severity.WARNING,
    why="the pack counts on it: what it brings may be there and never be started",
    remedy="install the pack again, which restores only the missing entries; or remove the whole pack",
    example=Example(
        fails={"server/main.lua": 'load("gate")\n', "server/bell.lua": ""},
        passes={"server/main.lua": "load('gate')\nload 'bell'\n", "server/bell.lua": ""},
        set_by_pack=("loads", "server/main.lua", 'load("bell")\n'),
    ),
)
def entry_gone(case: Case) -> Iterable[UnplacedFinding]:
    for pack in case.ledger.packs:
        for hook in pack.hooks:
            if case.entries.get(hook.order) is EntryState.GONE:
                entry, seat = (hook.text or "").strip(), case.layout.seats.get(hook.seat)
                yield UnplacedFinding(
                    path=hook.path,
                    message=f"`{entry}`, which {pack.name} has set {seat.title if seat is not None else 'there'}, "
                    "is gone or was changed",
                    kind=hook.seat,
                    name=entry,
                )


@check(
    code="pack-file-gone",
    title="A file that a pack has brought is gone",
    severity=Severity.WARNING,
    why="the pack counts on it, even where nothing that can be read refers to it",
    remedy="install the pack again, which restores only the missing files; or remove the whole pack",
    example=Example(
        fails={},
        passes={"sounds/bell.wav": "…"},
        brought_by_pack=("sounds/bell.wav",),
    ),
)
def pack_file_gone(case: Case) -> Iterable[UnplacedFinding]:
    for pack in case.ledger.packs:
        for file in pack.files:
            if not case.web.tree.has(file.path):
                message = f"`{file.path}`, which {pack.name} has brought, is gone"
                yield UnplacedFinding(path=file.path, message=message, name=file.path)


@check(
    code="blank-open",
    title="A blank of a pack is not filled",
    severity=Severity.ERROR,
    why="its author could not ship it: players see or hear something missing there",
    remedy="fill it: hookset tune PACK NAME=FILE",
    example=Example(fails={}, passes={}, left_blank="sign"),
)
def blank_open(case: Case) -> Iterable[UnplacedFinding]:
    for pack in case.ledger.packs:
        for blank in pack.blanks:
            if not blank.filled and not blank.brought:
                goes = f" ({with_article(blank.kind)}, into {blank.into})" if blank.into else ""
                yield UnplacedFinding(
                    path=blank.into or LEDGER,
                    message=f"`{blank.name}` of {pack.name} is not filled{goes}: {blank.says or 'its own'}",
                    remedy=f"fill it: hookset tune {pack.name} {blank.name}=…",
                    kind="blank",
                    name=f"{pack.name}.{blank.name}",
                )


@check(
    code="still-to-be-placed",
    title="Something of a pack is still to be placed",
    severity=Severity.ERROR,
    why="it is nowhere in the map, or not often enough",
    remedy="say where: hookset install PACK --at PLACE=X,Y,Z",
    example=Example(fails={}, passes={}, left_unplaced="landing"),
)
def still_to_be_placed(case: Case) -> Iterable[UnplacedFinding]:
    for pack in case.ledger.packs:
        for place in pack.places:
            least = (case.terms.players or 0) if place.least == "players" else place.least
            there = pack.placed(place)
            if there < least:
                more = "" if least == 1 else f" {least - there} more times: {there} of {least} are there"
                if there:
                    remedy = f"set copies of what stands there: hookset where --pack {pack.name}, then hookset place"
                else:
                    remedy = f"say where: hookset install {pack.source or pack.name} --at {place.name}=X,Y,Z"
                yield UnplacedFinding(
                    path=LEDGER,
                    message=f"`{place.name}` of {pack.name} is still to be placed{more}: {place.says or 'its place'}",
                    remedy=remedy,
                    kind="place",
                    name=f"{pack.name}.{place.name}",
                )


@check(
    code="setting-differs",
    title="A setting has different values in the places where it lives",
    severity=Severity.WARNING,
    why="one part of the pack goes by one value, and another by the other",
    remedy="give it one value everywhere: hookset tune PACK NAME=VALUE",
    example=Example(
        fails={"server/rules.lua": "TOLL = 3\n", "client/rules.lua": "TOLL = 5\n"},
        passes={"server/rules.lua": "TOLL = 3\n", "client/rules.lua": "TOLL = 3\n"},
        tuned=("server/rules.lua", "client/rules.lua"),
    ),
)
def setting_differs(case: Case) -> Iterable[UnplacedFinding]:
    for pack in case.ledger.packs:
        for setting in pack.settings:
            found = [(spot, read_at(case.web.tree, case.layout, spot)) for spot in setting.write]
            there = [(spot, value) for spot, value in found if value is not None]
            if len({_comparable(value, setting) for _, (value, _) in there}) > 1:
                told = ", ".join(f"{value} in {spot.file}" for spot, (value, _) in there)
                spot, (_, where) = there[-1]
                yield UnplacedFinding(
                    path=spot.file,
                    where=where,
                    message=f"the setting `{setting.name}` of {pack.name} is {told}",
                    remedy=f"give it one value everywhere: hookset tune {pack.name} {setting.name}=VALUE",
                    kind="setting",
                    name=f"{pack.name}.{setting.name}",
                )


def _comparable(value: str, setting: LedgerSetting) -> object:
    try:
        return read_literal(value, setting.type)
    except ValueError:
        return value
