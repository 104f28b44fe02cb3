"""What is used is shipped, and what is shipped is used."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from hookset.core.checks.declare import Case, Draft, check
from hookset.core.checks.examples import Example
from hookset.core.model import AddRow, DropRow, Severity
from hookset.core.trees import Glob
from hookset.core.web import listed_paths

__all__: list[str] = []


def _to_list(case: Case) -> Iterator[str]:
    """Files of the map that need a manifest row when they are used."""
    if case.layout.manifest is not None:
        globs = [Glob(pattern) for pattern in case.layout.manifest.must_list]
        yield from (file.path for file in case.web.files if any(glob.matches(file.path) for glob in globs))


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
def not_in_manifest(case: Case) -> Iterable[Draft]:
    manifest = case.layout.manifest
    listed = listed_paths(case.layout, case.index, case.reach)
    for path in _to_list(case):
        if manifest is not None and path in case.reach and path not in listed:
            yield Draft(
                path=path,
                message=f"`{path}` is used, but {manifest.file} has no row for it",
                remedy=f"add the line `{path}` to {manifest.file}",
                kind=manifest.row,
                name=path,
                mend=AddRow(path) if manifest.seat else None,
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
def unused_file(case: Case) -> Iterable[Draft]:
    manifest = case.layout.manifest
    # Something asks for these, wrongly: that is told where it does.
    meant = {hit.path for one in case.resolutions.missing for hit in one.hits}
    if manifest is not None:
        listed = listed_paths(case.layout, case.index, case.reach)
        for path in _to_list(case):
            if path not in case.reach and path not in meant:
                shipped = f", though {manifest.file} ships it" if path in listed else ""
                yield Draft(path=path, message=f"nothing uses `{path}`{shipped}", kind=manifest.row, name=path)
    elif case.layout.roots or case.layout.root_names:
        for file in case.web.files:
            loose = file.path not in case.reach and file.path not in meant
            if file.opened and loose and file.path not in case.layout.build.first:
                yield Draft(path=file.path, message=f"nothing uses `{file.path}`", name=file.path)


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
def row_twice(case: Case) -> Iterable[Draft]:
    manifest = case.layout.manifest
    for rows in case.index.repeated(manifest.row).values() if manifest else ():
        for number, row in enumerate(rows[1:], 1):
            where = "earlier in this file" if row.path == rows[0].path else f"in {rows[0].path}"
            same = any(row.path == other.path for other in rows[:number])
            yield Draft(
                path=row.path,
                where=row.where,
                message=f"`{row.name}` is listed here and {where}",
                kind=row.kind,
                name=row.name,
                mend=DropRow(row.path, row.where) if same else None,
            )
