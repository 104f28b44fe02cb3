"""Files are what their names say, and records in them keep the layout's rules."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.core.checks.declare import Case, Draft, check
from hookset.core.checks.examples import FILES, Example
from hookset.core.model import Severity
from hookset.core.trees import unsafe_reason

__all__: list[str] = []


@check(
    code="unreadable",
    title="A file cannot be read as what it is",
    severity=Severity.ERROR,
    why="the game cannot read it either, and nothing is known of the names in it",
    remedy="mend the file at this place, or restore it from a copy",
    example=Example(
        fails={"sounds.json": '[{ "name": "creak", "file": "creak.wav" ]'},
        passes={"sounds.json": '[{ "name": "creak", "file": "creak.wav" }]'},
    ),
)
def unreadable(case: Case) -> Iterable[Draft]:
    for file in case.web.files:
        for problem in file.problems:
            if not problem.record:
                message = f"this file {problem.what}{_used_by(case, file.path)}"
                yield Draft(path=file.path, where=problem.where, message=message, name=file.path)


def _used_by(case: Case, path: str) -> str:
    """Who counts on the file: there the damage will be seen."""
    users = {
        resolution.reference.path
        for resolution in case.resolutions
        if resolution.reference.use and any(hit.path == path for hit in resolution.hits)
    }
    others = sorted(users - {path})
    if not others:
        return ""
    more = f" and {len(others) - 3} more" if len(others) > 3 else ""
    return f"; {', '.join(others[:3])}{more} count{'s' if len(others) == 1 else ''} on it"


@check(
    code="bad-record",
    title="A record breaks a rule of the layout",
    severity=Severity.ERROR,
    why="the game ignores such a record, or does with it something that was not meant",
    remedy="correct the value",
    example=Example(
        fails={"sounds.json": '[{ "name": "creak", "file": "creak.wav" }, { "name": "splash" }]'},
        passes={"sounds.json": '[{ "name": "creak", "file": "creak.wav", "loud": true }]'},
    ),
)
def bad_record(case: Case) -> Iterable[Draft]:
    for file in case.web.files:
        for problem in file.problems:
            if problem.record:
                yield Draft(path=file.path, where=problem.where, message=f"in this record: {problem.what}")


@check(
    code="odd-file-name",
    title="A file's name is one that some systems do not take",
    severity=Severity.WARNING,
    why="it cannot be unpacked everywhere that the map is played or built",
    remedy="rename it, and what refers to it",
    example=Example(fails={"notes/con.txt": ""}, passes={"notes/contents.txt": ""}),
)
def odd_file_name(case: Case) -> Iterable[Draft]:
    for file in case.web.files:
        if reason := unsafe_reason(file.path):
            yield Draft(path=file.path, message=f"`{file.path}` is {reason}", name=file.path)


@check(
    code="nothing-checked",
    title="No reference was found in the whole map",
    severity=Severity.WARNING,
    why="a check that has nothing to look at finds nothing wrong, which says nothing about the map",
    remedy="see with `hookset layout explain FILE` what the layout sees, or whether this is the map's folder",
    example=Example(
        fails=dict.fromkeys(FILES) | {"readme.txt": "a folder of something else"},
    ),
)
def nothing_checked(case: Case) -> Iterable[Draft]:
    if not case.resolutions:
        files = len(case.web.files)
        yield Draft(path=".", message=f"the layout `{case.layout.name}` sees no reference in any of {files:,} files")


@check(
    code="link-not-followed",
    title="A link to a folder is not followed",
    severity=Severity.WARNING,
    why="it may lead in a circle or out of the map; what lies behind is not checked and not built",
    remedy="put the files themselves there, or name the folder in hookset.toml: [content] roots",
    example=Example(fails={}, links=("pictures/more",)),
)
def link_not_followed(case: Case) -> Iterable[Draft]:
    for path in case.web.tree.links:
        yield Draft(path=path, message=f"`{path}` is a link to a folder: what lies behind it is not looked at")
