"""Every reference has its definition: the right name, side and language, loaded by the game."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Sequence

from msgspec import structs

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.missing import in_words, missing_because, missing_finding, not_made_yet
from hookset.config.layouts import Kind
from hookset.model import Definition, Severity, with_article
from hookset.symbols import Miss, Outcome, Resolution, resolve
from hookset.symbols.owners import owner_and_name
from hookset.symbols.spelling import rewritten

__all__: list[str] = []

_WORDS = 12
"""Words of a kind that are shown to choose from."""
_USERS = 3
"""Files that are named which use a text."""


def _near(case: Case, resolution: Resolution) -> tuple[str, ...]:
    """The likeliest names that were meant and that are there for this reference, as they would be written here."""
    reference = resolution.reference
    names = case.index.near(reference.kind, reference.name)
    if case.kind(reference.kind).entry.owned:
        # Where it is used the owner is not written: another one cannot be meant.
        owner = owner_and_name(reference.name)[0]
        names = tuple(name for name in names if owner_and_name(name)[0] == owner)
    found = []
    for name in names:
        other = structs.replace(reference, name=name, others=())
        if resolve(other, case.web, case.index, case.reach).outcome is not Outcome.MISSING:
            ways = rewritten(case.layout, reference.path, reference.written, reference.name, name)
            found.append(next(ways))
    return tuple(dict.fromkeys(found))


def _on(side: str) -> str:
    return f" on the {side} side" if side else ""


@check(
    code="missing-name",
    title="A name that is used is defined nowhere",
    severity=Severity.ERROR,
    loaded=True,
    why="what uses it does not work in the game",
    remedy="define it, correct the spelling, or take out what uses it; a name of the base game belongs in a stock list",
    example=Example(
        fails={"server/gate.lua": 'on("open", function() play("craek") end)\n'},
        passes={"server/gate.lua": 'on("open", function() play("creak") end) -- not play("craek")\n'},
    ),
)
def missing_name(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.ABSENT):
        reference = resolution.reference
        kind = case.kind(reference.kind)
        if not kind.entry.path:
            own = owner_and_name(reference.name)[1] if kind.entry.owned else reference.name
            others = case.index.other_kinds(reference.kind, own)
            another = f"; there is {' and '.join(map(with_article, others))} of that name" if others else ""
            yield missing_finding(
                case,
                resolution,
                f"{in_words(case, reference)} is defined nowhere{_on(reference.side if kind.entry.sided else '')}:"
                f" not in the map, not in the stock{another}",
                _none_at_all(kind) if case.index.empty(kind.name) else "",
                instead=_near(case, resolution),
            )


def _none_at_all(kind: Kind) -> str:
    if words := kind.entry.vocabulary:
        more = f" and {len(words) - _WORDS} more" if len(words) > _WORDS else ""
        return f"the game knows these words: {', '.join(f'`{word}`' for word in words[:_WORDS])}{more}"
    return (
        f"nothing in the map or its stock is any {kind.label}: if these are the game's own, name a stock list that has "
        "them in hookset.toml, under [content]"
    )


@check(
    code="missing-file",
    title="A file that is used is not there",
    severity=Severity.ERROR,
    loaded=True,
    why="what should show it or play it shows or plays nothing",
    remedy="put the file there, correct the path, or take out what uses it",
    example=Example(
        fails={"things.csv": "name,deed,picture\ngate,open,gates.png\n"},
        passes={"things.csv": "name,deed,picture\n# was gates.png\ngate,open,gate.png\n"},
    ),
)
def missing_file(case: Case) -> Iterable[UnplacedFinding]:
    # A file that the builder has still to supply is told as that.
    blanks = {b.into for pack in case.ledger.packs for b in pack.blanks if b.into and not b.filled and not b.brought}
    for resolution in missing_because(case, Miss.ABSENT):
        reference = resolution.reference
        if case.kind(reference.kind).entry.path and reference.use and reference.name not in blanks:
            yield missing_finding(
                case, resolution, f"the file `{reference.name}` is not there", instead=_near(case, resolution)
            )


@check(
    code="not-made-yet",
    title="A file that is used is yet to be made",
    severity=Severity.NOTE,
    loaded=True,
    why="a step of the build makes it; without that it is not in the game",
    remedy="hookset build",
    example=Example(
        fails={"things.csv": "name,deed,picture\ngate,open,gates.png\n"},
        passes={"things.csv": "name,deed,picture\ngate,open,gate.png\n"},
        layout="""
[[step]]
name = "pictures"
command = ["paint"]
writes = ["**/gates.png"]
""",
    ),
)
def made_by_no_step_yet(case: Case) -> Iterable[UnplacedFinding]:
    for resolution, step in not_made_yet(case):
        yield missing_finding(
            case, resolution, f"the file `{resolution.reference.name}` is made by the step `{step}` of a build"
        )


@check(
    code="row-without-file",
    title="The manifest lists a file that is not there",
    severity=Severity.ERROR,
    why="the build stops at this row or ships without it",
    remedy="put the file there, correct the row, or take it out",
    example=Example(
        fails={"manifest.txt": "sounds/creak.wav\npictures/gate.png\npictures/quay.png\n"},
        passes={"manifest.txt": "sounds/creak.wav\npictures/gate.png\n# pictures/quay.png\n"},
    ),
)
def row_without_file(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.ABSENT):
        reference = resolution.reference
        if case.kind(reference.kind).entry.path and not reference.use:
            message = f"this row lists `{reference.name}`, which is not there"
            # What has a row of its own was not meant by this one.
            rows = {row.name for file in case.web.files if file.path == reference.path for row in file.references}
            instead = tuple(name for name in _near(case, resolution) if name not in rows)
            yield missing_finding(case, resolution, message, why="", instead=instead)


@check(
    code="wrong-side",
    title="A name is there, but not on the side that uses it",
    severity=Severity.ERROR,
    loaded=True,
    why="works alone in the editor and breaks for players, since each side knows only its own half",
    remedy="define it on that side as well, or move it to where both sides load it",
    example=Example(
        fails={
            "server/gate.lua": "",
            "client/main.lua": 'say("gate.opens") on("open", function() play("creak") end)\n',
        },
        passes={"client/main.lua": 'say("gate.opens") on("open", function() play("creak") end)\n'},
    ),
)
def wrong_side(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.SIDE):
        reference = resolution.reference
        sides = " and ".join(resolution.lacking)
        there = sorted({f"{d.path} ({d.side or 'both sides'})" for d in resolution.hits})
        yield missing_finding(
            case,
            resolution,
            f"{case.kind(reference.kind).label} `{reference.name}` is not there on the {sides} side"
            + (f", only in {', '.join(there)}" if there else ""),
            side=resolution.lacking[0],
        )


def _how_to_load(case: Case, path: str) -> str:
    """What loads a file like this one: a script is imported, a part is placed, a table is listed."""
    own = {number for file in case.web.files if file.path == path for number, _, _ in file.by_rule}
    alike = {file.path for file in case.web.files if own & {number for number, _, _ in file.by_rule}}
    others = sorted(
        (
            other
            for other in case.reach.via.keys() & alike
            if posixpath.splitext(other)[1] == posixpath.splitext(path)[1]
        ),
        key=lambda other: (-len(posixpath.commonprefix([other, path])), other),
    )
    if not others:
        return ""
    user, _ = case.reach.via[others[0]]
    return f"have something load {path}, as {user} does with {others[0]}: a line that a pack needs may be missing"


@check(
    code="not-loaded",
    title="A name is defined in a file that the game never loads on that side",
    severity=Severity.ERROR,
    loaded=True,
    why="what is in a file that nothing loads is not in the game",
    remedy="have that file loaded there: import a script, place a part, name a table where tables are named",
    example=Example(
        fails={"server/main.lua": '-- load("gate")\n'},
        passes={"server/main.lua": 'load("again")\n', "server/again.lua": 'load("gate")\n'},
    ),
)
def not_loaded(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.UNLOADED):
        reference = resolution.reference
        files = sorted({d.path for d in resolution.hits})
        yield missing_finding(
            case,
            resolution,
            f"{case.kind(reference.kind).label} `{reference.name}` is defined in {', '.join(files)},"
            f" which nothing loads{_on(' and '.join(filter(None, resolution.lacking)))}",
            _how_to_load(case, files[0]),
            side=resolution.lacking[0],
        )


@check(
    code="missing-in-language",
    title="A text is not there in every language",
    severity=Severity.ERROR,
    loaded=True,
    why="players with that language see the raw key instead of words",
    remedy="add the key to each language's texts, untranslated if need be",
    example=Example(
        fails={"texts/de.ini": "; nothing yet\n", "texts/fr.ini": "gate.shuts = La porte\n"},
        passes={"texts/de.ini": "; by hand\ngate.opens: Das Tor\n"},
    ),
)
def missing_in_language(case: Case) -> Iterable[UnplacedFinding]:
    users: dict[tuple[str, str, str], list[Resolution]] = {}
    for resolution in missing_because(case, Miss.VARIANT):
        reference = resolution.reference
        for variant in resolution.lacking if reference.path in case.reach else ():
            users.setdefault((reference.kind, reference.name, variant), []).append(resolution)
    for (_, name, variant), found in users.items():
        kind = case.kind(found[0].reference.kind)
        path = _table_of(case, found[0].hits, variant)
        paths = sorted({one.reference.path for one in found})
        more = f" and {len(paths) - _USERS} more files" if len(paths) > _USERS else ""
        draft = missing_finding(
            case,
            found[0],
            f"{kind.label} `{name}` is missing in the {kind.entry.each} `{variant}`;"
            f" it is there in {', '.join(sorted({d.variant for d in found[0].hits}))}, and used in"
            f" {', '.join(paths[:_USERS])}{more}",
            side=variant,
        )
        yield structs.replace(draft, path=path, where=None) if path else draft


def _table_of(case: Case, there: Sequence[Definition], variant: str) -> str:
    """The file in which another variant of a name belongs: the one that lies where its like does, or else any that
    has names of its kind; empty where there is none."""
    kind = there[0].kind
    files = [file.path for file in case.web.files if any((b.kind, b.variant) == (kind, variant) for b in file.defined)]
    alike = {one.path.replace(one.variant, variant) for one in there if one.variant}
    return next((path for path in files if path in alike), next(iter(files), ""))


@check(
    code="outside-map",
    title="A path leads out of the map",
    severity=Severity.ERROR,
    loaded=True,
    why="it exists on this machine at best: players have the map's own files and the game's, nothing else",
    remedy="copy the file into the map and name it there",
    example=Example(
        fails={"things.csv": "name,deed,picture\ngate,open,../../gate.png\n"},
        passes={"things.csv": "name,deed,picture\ngate,open,../pictures/gate.png\n"},
    ),
)
def outside_map(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.OUTSIDE):
        yield missing_finding(case, resolution, f"the path `{resolution.reference.written}` leads out of the map")


@check(
    code="matches-nothing",
    title="A name built at run time has a fixed part that fits nothing",
    severity=Severity.WARNING,
    loaded=True,
    why="whatever the game adds to the fixed part, no such name is defined",
    remedy="correct the fixed part, or define the names that it should lead to",
    example=Example(
        fails={"server/gate.lua": 'on("open", function(n) play("horn_" .. n) end)\n'},
        passes={"server/gate.lua": 'on("open", function(n) play("cr" .. n) end)\n'},
    ),
)
def matches_nothing(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in case.resolutions.open:
        reference = resolution.reference
        if not reference.pattern or reference.kind in case.index.unknowable:
            continue
        fixed = reference.name.replace("*", "")
        index = case.index
        if fixed and not (
            index.matching(reference.kind, reference.name) or index.made_like(reference.kind, reference.name)
        ):
            label = case.kind(reference.kind).label
            yield missing_finding(case, resolution, f"no {label} fits `{reference.name}`, which is built at run time")
