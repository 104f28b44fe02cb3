"""Files are what their names say, and records in them keep the layout's rules."""

from __future__ import annotations

from collections.abc import Iterable, Set

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import FILES, Example
from hookset.model import CouldNotError, Severity
from hookset.trees import unsafe_among

__all__: list[str] = []


@check(
    code="unreadable",
    title="A file cannot be read as what it is",
    severity=Severity.ERROR,
    loaded=True,
    why="the game cannot read it either, and nothing is known of the names in it",
    remedy="mend the file at this place, or restore it from a copy",
    example=Example(
        fails={"sounds.json": '[{ "name": "creak", "file": "creak.wav" ]'},
        passes={"sounds.json": '[{ "name": "creak", "file": "creak.wav" }]'},
    ),
)
def unreadable(case: Case) -> Iterable[UnplacedFinding]:
    damaged = {one.path for file in case.web.files for one in file.problems if one.damage}
    users = _users(case, damaged) if damaged else {}
    for file in case.web.files:
        for problem in file.problems:
            if problem.unseen:
                yield UnplacedFinding(
                    path=file.path,
                    where=problem.where,
                    message=f"this file {problem.what}",
                    name=file.path,
                    severity=Severity.NOTE,
                    why="names in it may look missing, or unused, and are neither",
                    remedy="where one does, write out here what it stands for",
                )
            elif problem.damage:
                message = f"this file {_really(case, file.path) or problem.what}{_counting(users[file.path])}"
                yield UnplacedFinding(
                    path=file.path, where=problem.where, message=message, name=file.path, loaded=not problem.closed
                )


_WORDS = {
    "picture": "picture",
    "sound": "sound",
    "film": "film",
    "archive": "archive",
    "program": "file",
    "font": "font",
    "source": "of a painting or modelling program",
}
_OF_FORMATS = {"picture": "picture", "audio": "sound"}


def _really(case: Case, path: str) -> str:
    """What a file is by its content, where that is something else than its name and its rule say."""
    # Imported here: what opens archives takes a while to load, and files are seldom damaged.
    from hookset.packs.sorts import HEAD, sort_of

    try:
        with case.web.tree.open(path) as stream:
            sort = sort_of("any.zip", stream.read(HEAD))
    except CouldNotError:
        return ""
    meant = {_OF_FORMATS.get(rule.format) for rule in case.layout.reads if rule.match(path) is not None}
    if sort.word == "empty":
        return "is empty"
    if sort.form == "HTML":
        return "is an HTML page, as servers send for what they do not have"
    if sort.word not in _WORDS or sort.word in meant:
        return ""
    return f"is really {'an' if sort.form[0] in 'AEIO' else 'a'} {sort.form} {_WORDS[sort.word]}".removesuffix(
        " file file"
    )


def _users(case: Case, paths: Set[str]) -> dict[str, list[str]]:
    """Who counts on each of some files, or on a name in it: there the damage will be seen."""
    users: dict[str, set[str]] = {path: set() for path in paths}
    owners: dict[str, dict[str, str]] = {}
    for file in case.web.files:
        for block in file.defined if file.path in paths else ():
            key = case.kind(block.kind).key
            owners.setdefault(block.kind, {}).update((key(name), file.path) for name in block.names)
    for file in case.web.files:
        for used in file.referred:
            if used.use and used.kind in owners:
                key, here = case.kind(used.kind).key, owners[used.kind]
                for name in (*used.names, *(other for others in used.others.values() for other in others)):
                    if (owner := here.get(key(name))) is not None and owner != file.path:
                        users[owner].add(file.path)
    return {path: sorted(found) for path, found in users.items()}


def _counting(users: list[str]) -> str:
    if not users:
        return ""
    more = f" and {len(users) - 3} more" if len(users) > 3 else ""
    return f"; {', '.join(users[:3])}{more} count{'s' if len(users) == 1 else ''} on it"


@check(
    code="cut-off",
    title="A file is shorter than what uses it says",
    severity=Severity.ERROR,
    loaded=True,
    why="the game stops reading at its end: what it belongs to is not shown, or is shown in pieces",
    remedy="fetch the file again; the copying or the download was interrupted",
    example=Example(
        layout="""
[[read]]
files = "gate.gltf"
format = "json"
refers = [{ kind = "file", at = "$.buffers[*].uri", bytes = "byteLength" }]
""",
        fails={"gate.gltf": '{ "buffers": [{ "uri": "gate.bin", "byteLength": 12 }] }', "gate.bin": "01234567"},
        passes={"gate.gltf": '{ "buffers": [{ "uri": "gate.bin", "byteLength": 8 }] }', "gate.bin": "01234567"},
    ),
)
def cut_off(case: Case) -> Iterable[UnplacedFinding]:
    for file in case.web.files:
        for block in file.referred:
            for row, least in block.least.items():
                reference = block.reference(file.path, row)
                for hit in case.index.meant(reference)[:1]:
                    if (size := case.web.tree.size(hit.path)) < least:
                        yield UnplacedFinding(
                            path=file.path,
                            where=reference.where,
                            message=f"`{hit.path}` has {size:,} bytes, and {least:,} are counted on here",
                            kind=reference.kind,
                            name=reference.name,
                        )


@check(
    code="bad-record",
    title="A record breaks a rule of the layout",
    severity=Severity.ERROR,
    loaded=True,
    why="the game ignores such a record, or does with it something that was not meant",
    remedy="correct the value",
    example=Example(
        fails={"sounds.json": '[{ "name": "creak", "file": "creak.wav" }, { "name": "splash" }]'},
        passes={"sounds.json": '[{ "name": "creak", "file": "creak.wav", "loud": true }]'},
    ),
)
def bad_record(case: Case) -> Iterable[UnplacedFinding]:
    for file in case.web.files:
        for problem in file.problems:
            if problem.record:
                yield UnplacedFinding(path=file.path, where=problem.where, message=f"in this record: {problem.what}")


@check(
    code="saved-otherwise",
    title="A file is saved in another way than the game reads it",
    severity=Severity.ERROR,
    why="the game takes what it does not expect for a letter of the name before it, and finds nothing of that name",
    remedy="save the file in that way; most editors ask for it when they save",
    example=Example(
        layout='[[read]]\nfiles = "pumps.list"\nformat = "lines"\nnewline = "lf"\n',
        fails={"pumps.list": "north\r\nsouth\r\n"},
        passes={"pumps.list": "north\nsouth\n"},
    ),
    loaded=True,
)
def saved_otherwise(case: Case) -> Iterable[UnplacedFinding]:
    """Yield one finding for each such file and rule."""
    for file in case.web.files:
        for problem in file.saved:
            yield UnplacedFinding(
                path=file.path, where=problem.where, message=f"in this file {problem.what}", name=file.path
            )


@check(
    code="odd-file-name",
    title="A file's name is one that some systems do not take",
    severity=Severity.WARNING,
    why="it cannot be unpacked everywhere that the map is played or built",
    remedy="rename it, and what refers to it",
    example=Example(fails={"notes/con.txt": ""}, passes={"notes/contents.txt": ""}),
)
def odd_file_name(case: Case) -> Iterable[UnplacedFinding]:
    for path, reason in unsafe_among([file.path for file in case.web.files]):
        yield UnplacedFinding(path=path, message=f"`{path}` is {reason}", name=path)


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
def nothing_checked(case: Case) -> Iterable[UnplacedFinding]:
    if not case.resolutions:
        files = len(case.web.files)
        yield UnplacedFinding(
            path=".", message=f"the layout `{case.layout.name}` sees no reference in any of {files:,} files"
        )


@check(
    code="link-not-followed",
    title="A link to a folder is not followed",
    severity=Severity.WARNING,
    why="it may lead in a circle or out of the map; what lies behind is not checked and not built",
    remedy="put the files themselves there, or name the folder in hookset.toml: [content] roots",
    example=Example(fails={}, links=("pictures/more",)),
)
def link_not_followed(case: Case) -> Iterable[UnplacedFinding]:
    for path in case.web.tree.links:
        yield UnplacedFinding(
            path=path, message=f"`{path}` is a link to a folder: what lies behind it is not looked at"
        )
