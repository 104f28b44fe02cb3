"""Files are what their names say, and records in them keep the layout's rules."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.core.checks.declare import Case, Draft, check
from hookset.core.model import Severity

__all__: list[str] = []


@check(
    code="unreadable",
    title="A file cannot be read as what it is",
    severity=Severity.ERROR,
    why="the game cannot read it either, and nothing is known of the names in it",
    remedy="mend the file at this place, or restore it from a copy",
)
def unreadable(case: Case) -> Iterable[Draft]:
    for file in case.web.files:
        for problem in file.problems:
            if not problem.record:
                yield Draft(path=file.path, where=problem.where, message=f"this file {problem.what}")


@check(
    code="bad-record",
    title="A record breaks a rule of the layout",
    severity=Severity.ERROR,
    why="the game ignores such a record, or does with it something that was not meant",
    remedy="correct the value",
)
def bad_record(case: Case) -> Iterable[Draft]:
    for file in case.web.files:
        for problem in file.problems:
            if problem.record:
                yield Draft(path=file.path, where=problem.where, message=f"in this record: {problem.what}")


@check(
    code="nothing-checked",
    title="No reference was found in the whole map",
    severity=Severity.WARNING,
    why="a check that has nothing to look at finds nothing wrong, which says nothing about the map",
    remedy="see with `hookset layout explain FILE` what the layout sees, or whether this is the map's folder",
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
)
def link_not_followed(case: Case) -> Iterable[Draft]:
    for path in case.web.tree.links:
        yield Draft(path=path, message=f"`{path}` is a link to a folder: what lies behind it is not looked at")
