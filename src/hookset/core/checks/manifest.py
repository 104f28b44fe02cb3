"""What is used is shipped, and what is shipped is used."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from hookset.core.checks.declare import Case, Draft, check
from hookset.core.model import Severity
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
            )


@check(
    code="unused-file",
    title="Nothing in the map uses a file",
    severity=Severity.NOTE,
    why="players download it for nothing, unless a name built at run time leads to it",
    remedy="take it out of the map, or out of the manifest, if it is really not needed",
)
def unused_file(case: Case) -> Iterable[Draft]:
    manifest = case.layout.manifest
    listed = listed_paths(case.layout, case.index, case.reach)
    for path in _to_list(case):
        if manifest is not None and path not in case.reach:
            shipped = f", though {manifest.file} ships it" if path in listed else ""
            yield Draft(path=path, message=f"nothing uses `{path}`{shipped}", kind=manifest.row, name=path)
