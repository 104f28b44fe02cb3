"""What is used is shipped, and what is shipped is used."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.config.layouts import Row
from hookset.formats import format_named
from hookset.model import AddRow, DropRow, Severity, Where, sides_meet
from hookset.symbols import FileFacts, listed, reference_to
from hookset.trees import Glob

__all__: list[str] = []


def _to_list(case: Case) -> Iterator[tuple[FileFacts, Row]]:
    """Files of the map that need a manifest row when they are used."""
    manifest = case.layout.manifest
    if manifest is not None:
        for file in case.web.files:
            if (row := manifest.row_of_file(file.path)) is not None:
                yield file, row


def _remedy(case: Case, row: Row) -> str:
    """What to add, and where."""
    seat = case.layout.seats.get(row.seat)
    where = seat.file.pattern if seat is not None else case.layout.manifest.file if case.layout.manifest else ""
    if row.record is not None:
        return f"add {json.dumps(row.record, ensure_ascii=False)} to {where}"
    return f"add the line `{row.text}` to {where}"


def _mend(row: Row) -> AddRow | None:
    return AddRow(row.seat, row.text, row.record) if row.seat else None


@check(
    code="not-in-manifest",
    title="A file is used but not in the manifest",
    severity=Severity.ERROR,
    why="the map is built without it, and it is missing in the game only, where nobody sees why",
    remedy="add a row for it to the manifest",
    example=Example(
        fails={"manifest.txt": "sounds/creak.wav\n"},
        passes={"manifest.txt": "pictures/gate.png\nsounds/creak.wav\n"},
    ),
)
def not_in_manifest(case: Case) -> Iterable[UnplacedFinding]:
    manifest = case.layout.manifest
    rows = listed(case.layout, case.index, case.reach)
    for file, row in _to_list(case):
        if manifest is None or file.path not in case.reach or rows.has(row.name, file.side):
            continue
        if rows.has(row.name):
            elsewhere = " and ".join(sorted(rows.sides[row.name]))
            said = f"`{file.path}` is used on the {file.side}, and only the {elsewhere} has a row for it"
        else:
            said = f"`{file.path}` is used, but {_list_of(case, row)} has no row for it"
        path, where = _first_use(case, file.path)
        yield UnplacedFinding(
            path=path,
            where=where,
            message=said,
            remedy=_remedy(case, row),
            kind=manifest.kind,
            name=row.name,
            mend=_mend(row),
        )


def _first_use(case: Case, path: str) -> tuple[str, Where | None]:
    """Where a file is used first; the file itself where the game begins with it."""
    via = case.reach.via.get(path)
    if via is None:
        return path, None
    user, block = via
    return user, reference_to(case.index, block, user, path).where


def _list_of(case: Case, row: Row) -> str:
    seat = case.layout.seats.get(row.seat)
    if seat is not None and "*" not in seat.file.pattern:
        return seat.file.pattern
    return case.layout.manifest.file if case.layout.manifest else ""


@check(
    code="name-not-in-manifest",
    title="A name is used but not in the manifest",
    severity=Severity.ERROR,
    why="the game has it, but a map gets only what its manifest lists: there, nothing answers to the name",
    remedy="add a row for it to the manifest",
    example=Example(
        layout="""
[kinds.light]
label = "light"
[[read]]
files = "server/*.lua"
format = "lua"
refers = [{ kind = "light", call = "shine", arg = 1 }]
[[manifest.rows]]
kind = "light"
row = "light {value}"
seat = "manifest"
[[read]]
files = "lights.txt"
format = "lines"
uses = false
refers = [{ kind = "light" }]
""",
        stock={"light": ("harbour_glow",)},
        fails={"server/gate.lua": 'on("open", function() play("creak") shine("harbour_glow") end)\n'},
        passes={"server/gate.lua": 'on("open", function() play("creak") shine(a_light) end)\n'},
    ),
)
def name_not_in_manifest(case: Case) -> Iterable[UnplacedFinding]:
    manifest = case.layout.manifest
    if manifest is None or not manifest.kinds:
        return
    rows = listed(case.layout, case.index, case.reach)
    told: set[tuple[str, str]] = set()
    for reference in case.resolutions.used(manifest.kinds):
        row = manifest.row_of_name(reference.kind, reference.name)
        if row is None or rows.has(row.name) or (reference.kind, reference.name) in told:
            continue
        if manifest.only_own(reference.kind) and not case.index.meant(reference):
            continue
        if not case.index.meant(reference) and not case.web.stock.sides(reference.kind, reference.name):
            # There is no such thing to list, which is told as that.
            continue
        told.add((reference.kind, reference.name))
        label = case.kind(reference.kind).label
        yield UnplacedFinding(
            path=reference.path,
            where=reference.where,
            message=f"{label} `{reference.name}` is used here, but {_list_of(case, row)} has no row for it",
            remedy=_remedy(case, row),
            kind=reference.kind,
            name=reference.name,
            mend=_mend(row),
        )


@check(
    code="unused-file",
    title="Nothing in the map uses a file",
    severity=Severity.NOTE,
    why="players download it for nothing, unless a name built at run time leads to it",
    remedy="take it out of the map, or out of the manifest, if it is really not needed",
    example=Example(
        fails={"pictures/old.png": "…"},
        passes={"old/gate.png": "…"},
    ),
)
def unused_file(case: Case) -> Iterable[UnplacedFinding]:
    manifest = case.layout.manifest
    # Something asks for these, wrongly: that is told where it does.
    meant = {hit.path for one in case.resolutions.missing for hit in one.hits}
    if manifest is not None:
        rows = listed(case.layout, case.index, case.reach)
        for file, row in _to_list(case):
            path = file.path
            if path not in case.reach and path not in meant:
                shipped = f", though {_list_of(case, row)} ships it" if rows.has(row.name) else ""
                yield UnplacedFinding(
                    path=path, message=f"nothing uses `{path}`{shipped}", kind=manifest.kind, name=path
                )
    elif case.layout.roots or case.layout.root_names:
        for file in case.web.files:
            loose = file.path not in case.reach and file.path not in meant
            if file.opened and loose and file.path not in case.layout.build.first:
                yield UnplacedFinding(path=file.path, message=f"nothing uses `{file.path}`", name=file.path)


@check(
    code="must-not-be-listed",
    title="The manifest lists what must not be in it",
    severity=Severity.ERROR,
    why="the game takes such a row for something else, or ships what is nobody's but the builder's",
    remedy="take the row out",
    example=Example(
        fails={"manifest.txt": "sounds/creak.wav\npictures/gate.png\nnotes/todo.txt\n", "notes/todo.txt": ""},
        passes={"manifest.txt": "sounds/creak.wav\npictures/gate.png\n", "notes/todo.txt": ""},
    ),
)
def must_not_be_listed(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the rows that the layout's `must_not_list` means."""
    manifest = case.layout.manifest
    globs = [Glob(pattern) for pattern in manifest.must_not] if manifest is not None else []
    for definitions in case.index.groups(manifest.kind).values() if manifest is not None and globs else ():
        for row in definitions:
            if any(glob.matches(row.name) for glob in globs):
                yield UnplacedFinding(
                    path=row.path,
                    where=row.where,
                    message=f"`{row.name}` is listed, and must not be",
                    kind=row.kind,
                    name=row.name,
                    mend=DropRow(row.path, row.where) if _in_lines(case, row.path) else None,
                )


def _in_lines(case: Case, path: str) -> bool:
    """Whether each row of a list is a line of its own, so that one can be taken out."""
    rule = case.layout.text_rule(path)
    return rule is not None and format_named(rule.format).lined


@check(
    code="row-twice",
    title="The manifest lists a file twice",
    severity=Severity.WARNING,
    why="whoever takes out one of the rows believes that the file is no longer shipped",
    remedy="take out one of them",
    example=Example(
        fails={"manifest.txt": "sounds/creak.wav\npictures/gate.png\nsounds/creak.wav\n"},
        passes={"manifest.txt": "sounds/creak.wav\npictures/gate.png\n# sounds/creak.wav\n"},
    ),
)
def row_twice(case: Case) -> Iterable[UnplacedFinding]:
    manifest = case.layout.manifest
    by_side = manifest is not None and case.kind(manifest.kind).entry.sided
    for rows in case.index.repeated(manifest.kind).values() if manifest else ():
        for number, row in enumerate(rows[1:], 1):
            if by_side and not any(sides_meet(row.side, other.side) for other in rows[:number]):
                continue
            where = "earlier in this file" if row.path == rows[0].path else f"in {rows[0].path}"
            same = any(row.path == other.path for other in rows[:number])
            yield UnplacedFinding(
                path=row.path,
                where=row.where,
                message=f"`{row.name}` is listed here and {where}",
                kind=row.kind,
                name=row.name,
                mend=DropRow(row.path, row.where) if same and _in_lines(case, row.path) else None,
            )
