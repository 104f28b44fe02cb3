"""The files that the game always reads exist and say what they must."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.missing import missing_because
from hookset.model import Severity
from hookset.symbols import Miss

__all__: list[str] = []

_DESCRIBED = """
[descriptor]
file = "map.json"
name = "$.name"
version = "$.version"
[[read]]
files = "map.json"
format = "json"
"""
_TYPES = """
[kinds.type]
label = "type"
[[read]]
files = "types.ini"
format = "ini"
defines = [{ kind = "type", sections = true }]
[[read]]
files = "things.list"
format = "lines"
refers = [{ kind = "type" }]
"""
_MANY = 4


@check(
    code="no-beginning",
    title="What the game begins with is not there",
    severity=Severity.ERROR,
    why="the game does not take this for a map, or loads nothing of what the file would have loaded",
    remedy="restore it from a copy; if such maps can do without it, take it out of the layout",
    example=Example(
        fails={
            "server/main.lua": None,
            "server/gate.lua": 'on("open", function() play("creak") end)\n',
            "things.csv": "",
        },
        passes={"texts/en.ini": "gate.opens = The gate opens\n"},
    ),
)
def no_beginning(case: Case) -> Iterable[UnplacedFinding]:
    layout, tree = case.layout, case.web.tree
    wanted = {root.pattern: "the game begins with it" for root in layout.roots if "*" not in root.pattern}
    if layout.manifest is not None:
        wanted[layout.manifest.file] = "it says what is shipped"
    wanted |= dict.fromkeys(layout.build.first, "it must stand at the archive's top")
    if layout.descriptor is not None:
        wanted[layout.descriptor.file] = "it says what the map is called"
    for path, why in wanted.items():
        if "*" not in path and "{" not in path and not tree.has(path):
            yield UnplacedFinding(path=path, message=f"`{path}` is not there: {why}", name=path)


@check(
    code="no-defining-file",
    title="The file that would define names that are used is not there",
    severity=Severity.ERROR,
    why="whatever uses one of these names does not work in the game",
    remedy="restore it from a copy; if these are the game's own names, name a stock list that has them in "
    "hookset.toml, under [content]",
    example=Example(
        layout=_TYPES,
        fails={"things.list": "gate\nboat\n"},
        passes={"things.list": "gate\n", "types.ini": "[gate]\n"},
    ),
)
def no_defining_file(case: Case) -> Iterable[UnplacedFinding]:
    """Yield each file, or pattern of files, that the map has none of, and of which names are missing."""
    told = {one.name for one in no_beginning.function(case)}
    names: dict[str, set[str]] = {}
    for resolution in missing_because(case, Miss.ABSENT):
        names.setdefault(resolution.reference.kind, set()).add(resolution.reference.name)
    for kind in filter(case.index.empty, names):
        rules = [rule for rule in case.layout.reads if any(define.kind == kind for define in rule.defines)]
        paths = [glob.pattern for rule in rules for glob in rule.files]
        lacking = not any(rule.match(file.path) is not None for file in case.web.files for rule in rules)
        plain = [path for path in paths if not set("*{") & set(path)]
        # Without a name of the file, a few that are missing are rather misspelt.
        sure = plain or len(names[kind]) >= _MANY
        if paths and lacking and sure and not told & set(paths):
            what = (plain or paths)[0]
            label = case.kind(kind).label
            said = f"`{what}`, which defines every {label}, is not there"
            if not plain:
                said = f"no file is called `{what}`, where every {label} is defined"
            yield UnplacedFinding(path=what if plain else ".", message=said, kind=kind, name=what)


@check(
    code="says-no-name",
    title="The descriptor does not say the map's name, or its version",
    severity=Severity.ERROR,
    why="the game lists the map without a name, or not at all",
    remedy="say it where the layout expects it; `hookset layout explain` on the file shows what is seen in it",
    example=Example(
        layout=_DESCRIBED,
        fails={"map.json": '{ "name": "gate house", "verison": 2 }'},
        passes={"map.json": '{ "name": "gate house", "version": 2 }'},
    ),
)
def says_no_name(case: Case) -> Iterable[UnplacedFinding]:
    entry = case.layout.descriptor
    if entry is None or not case.web.tree.has(entry.file):
        return
    if any(file.path == entry.file and any(one.damage for one in file.problems) for file in case.web.files):
        # It cannot be read at all, which is told as that.
        return
    for word, what, selector in (("map", "name", entry.name), ("version", "version", entry.version)):
        if selector is not None and not case.web.words.get(word, "").strip():
            yield UnplacedFinding(path=entry.file, message=f"`{entry.file}` says no {what} for the map", name=what)
