"""The map under another name or version: its descriptor, its folder, and every place that repeats them."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping

from msgspec import structs
from msgspec.structs import replace

from hookset.applying.change import Change
from hookset.config.layouts import Layout, map_words
from hookset.config.layouts.rules import ValueQuery
from hookset.edits.place import edited, value_written
from hookset.formats import AlreadyThere, Edits, Unreadable, format_named, text_of
from hookset.formats._numbers import whole_number
from hookset.formats.toml import FORMAT as TOML
from hookset.formats.toml import written
from hookset.model import CouldNotError, Spot, WrongUseError
from hookset.model.visible import visible
from hookset.planning.choices import Choices
from hookset.planning.naming.renames import rename_everywhere
from hookset.planning.naming.rewriting import NameMap, Names, by_path_names
from hookset.planning.operations.refill import refill
from hookset.planning.plan import FileState, FileStep, HookStep, PackPlan, Plan, Stop, Unsure, ValueStep
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import PROJECT_FILE, Ledger, LedgerSetting, MapProject
from hookset.symbols.reading import open_document, read_at, read_file
from hookset.trees import Content, Glob, Inline, Member, Overlay, Text, Tree, decode, line_and_column, sha256_of

__all__ = ["plan_rename"]

_PASSES = 3
"""A text can be made of one that is made of the name."""


def plan_rename(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    name: str | None,
    version: str | None,
    choices: Choices,
    now: str,
) -> Plan:
    """Raises WrongUseError where the map does not say its name."""
    for word, given in (("name", name), ("version", version)):
        if given is not None and (not given.strip() or visible(given) != given or "\n" in given):
            raise WrongUseError(
                "wrong-name",
                f"{given!r} is no {word} that a map can have",
                remedy="give one of letters, digits and blanks",
            )
    state = plan_state_for(project, ledger, choices, now)
    layout = state.layout
    old = map_words(state.tree, layout)
    if layout.descriptor is None or not old["map"]:
        raise WrongUseError(
            "not-in-layout",
            f"the layout {layout.name} does not say where a map has its name",
            why="what is not known cannot be followed",
            remedy="give the layout a [descriptor], or write the name into the map's own file",
        )
    new = {"map": name or old["map"], "version": version or old["version"]}
    told = [ValueStep(word, new[word], f"was {old[word]}") for word in ("map", "version") if new[word] != old[word]]
    state, counts = _followed(state, old, new)
    state = _with_descriptor(state, new)
    state, agreeing = _with_agreeing(state, old, new)
    counts += agreeing
    steps: list[HookStep] = []
    for pack in ledger.packs:
        state, more = refill(state, pack.name, frozenset({"map"}), {})
        steps += more
    state = _with_settings_as_read(state)
    state = state.with_unsure(_mentions(state, old, new))
    sizes = {path: content.size for path, content in state.contents.items() if content is not None}
    files = [
        FileStep(path, FileState.NEWER, size, _places(counts[path]) if path in counts else "")
        for path, size in sorted(sizes.items())
    ]
    one = PackPlan(
        name=old["map"],
        before=old["version"],
        version=" ".join(word for word in (new["map"] if name else "", new["version"]) if word),
        files=tuple(files),
        hooks=tuple(steps),
        values=tuple(told),
    )
    plan = replace(state.plan(ledger_bytes), packs=(one,))
    own = _project_file(project, name, version)
    return replace(plan, own_changes=(*(() if own is None else (own,)), *plan.own_changes))


def _with_settings_as_read(state: PlanState) -> PlanState:
    """Settings whose values were made of the map's name or version, as they stand in the files now."""
    for pack in state.ledger.packs:
        settings = tuple(_as_read(state, one) for one in pack.settings)
        if settings != pack.settings:
            state = state.with_row(structs.replace(pack, settings=settings))
    return state


def _as_read(state: PlanState, setting: LedgerSetting) -> LedgerSetting:
    if setting.type != "text" or not any(spot.file in state.contents for spot in setting.write):
        return setting
    found = {read[0] for spot in setting.write if (read := read_at(state.tree, state.layout, spot)) is not None}
    return structs.replace(setting, value=found.pop()) if len(found) == 1 else setting


def _places(count: int) -> str:
    return f"{count} place{'s' if count != 1 else ''}"


def _followed(state: PlanState, old: Mapping[str, str], new: Mapping[str, str]) -> tuple[PlanState, Counter[str]]:
    """Names that are made of the map's, wherever they are written; and the folder that is called after it. Returns
    also the number of places in each file."""
    names: Names = {}
    template = state.layout.folder
    moves: dict[str, str] = {}
    if template is not None and (here := template.of(old)) and (there := template.of(new)) != here:
        moves = {p: there + p[len(here) :] for p in state.tree.paths() if p.startswith(f"{here}/")}
    for path, to in moves.items():
        names |= by_path_names(state.tree, state.layout, path, to)
    for path in state.tree.paths():
        if _speaks_of_the_map(state.layout, path):
            names |= _made_of_words(state.tree, state.layout, path, moves.get(path, path), old, new)
    state, results = rename_everywhere(state, NameMap.of(state.layout, names))
    moved: dict[str, Content | None] = dict.fromkeys(moves)
    moved |= {to: state.contents.get(path) or Member(state.base, path) for path, to in moves.items()}
    counts = Counter({moves.get(path, path): len(result.edits) for path, result in results.items()})
    return state.with_contents(moved), counts


def _speaks_of_the_map(layout: Layout, path: str) -> bool:
    rules = (rule for rule in layout.reads if rule.match(path) is not None)
    return any({"map", "version"} & define.name.fields for rule in rules for define in rule.defines)


def _made_of_words(
    tree: Tree, layout: Layout, path: str, to: str, old: Mapping[str, str], new: Mapping[str, str]
) -> Names:
    """The names that a file defines and that change with the new words."""
    before = read_file(tree, path, layout, old)
    after = read_file(Overlay(tree, {to: Member(tree, path)}), to, layout, new)
    found: Names = {}
    for one, other in zip(before.defined, after.defined, strict=False):
        pairs = zip(one.names, other.names, strict=False)
        found |= {(one.kind, a, one.side): b for a, b in pairs if a != b and one.kind == other.kind}
    return found


def _with_descriptor(state: PlanState, new: Mapping[str, str]) -> PlanState:
    descriptor = state.layout.descriptor
    assert descriptor is not None
    path = descriptor.file
    for selector, value in ((descriptor.name, new["map"]), (descriptor.version, new["version"])):
        if selector is None:
            continue
        asked = ValueQuery(files=Glob(path), rule=descriptor.rule, selector=selector)
        content = _written(state.tree, path, asked, value)
        if isinstance(content, str):
            stop = Stop(
                "not-settable",
                f"the descriptor cannot be written: {content}",
                where=path,
                why="the map would go by its old name",
                remedy="write the name there by hand, in the way that the layout reads it",
            )
            state = state.with_stops([stop])
        elif content is not None:
            state = state.with_contents({path: content})
    return state


def _written(tree: Tree, path: str, asked: ValueQuery, value: str) -> Content | str | None:
    """The file with a value in it; None where nothing is to be written; a text: why it cannot be."""
    form = format_named(asked.rule.format)
    try:
        text = text_of(form, tree.read(path), asked.rule.encodings)
        document = form.open(text, asked.rule.options)
    except (Unreadable, CouldNotError) as error:
        return f"it {error.what}"
    if not list(document.select(asked.selector)):
        return None
    number = whole_number(value)
    typed: object = number if number is not None and str(number) == value else value
    for one in (value, typed):
        said = "the place that the layout names"
        placement = value_written(asked.rule.format, asked.rule.options, text, document, asked.selector, one, said)
        if isinstance(placement, Edits):
            return edited(text, placement.edits)
        if isinstance(placement, AlreadyThere):
            return None
    return getattr(placement, "what", "") or getattr(placement, "looked_for", "")


def _with_agreeing(state: PlanState, old: Mapping[str, str], new: Mapping[str, str]) -> tuple[PlanState, Counter[str]]:
    """Values that the layout says are made of the map's name or version, written as they are to be. Returns also the
    number of places in each file."""
    done: Counter[str] = Counter()
    base = Overlay(state.base, {})
    for _ in range(_PASSES):
        for rule in state.layout.agree:
            if rule.equal is None:
                continue
            was = rule.equal.of({**old, **_taken(base, rule.take)})
            becomes = rule.equal.of({**new, **_taken(state.tree, rule.take)})
            for asked in rule.values:
                for path in [path for path in state.tree.paths() if asked.files.matches(path)]:
                    if was == becomes or _value(state.tree, path, asked) != was:
                        continue
                    content = _written(state.tree, path, asked, becomes)
                    if isinstance(content, str):
                        unsure = Unsure(Spot(path), f"`{was}` cannot be written as `{becomes}`: {content}")
                        state = state.with_unsure([unsure])
                    else:
                        state = state.with_contents({} if content is None else {path: content})
                        done[path] += 1
    return state, done


def _taken(tree: Tree, take: Mapping[str, ValueQuery]) -> dict[str, str]:
    found = {}
    for word, asked in take.items():
        values = (_value(tree, path, asked) for path in tree.paths() if asked.files.matches(path))
        found[word] = next((value for value in values if value is not None), "")
    return found


def _value(tree: Tree, path: str, asked: ValueQuery) -> str | None:
    try:
        document = open_document(tree, path, asked.rule)
    except (Unreadable, CouldNotError):
        return None
    return next((value.text for value in document.select(asked.selector)), None)


def _mentions(state: PlanState, old: Mapping[str, str], new: Mapping[str, str]) -> Iterator[Unsure]:
    """Where the old name still stands, in whatever text: somebody has to look whether it is meant."""
    if old["map"] == new["map"]:
        return
    forms = {old["map"], *(made.of(old) for made in state.layout.words.values())}
    forms |= {rule.equal.of({**old, **_taken(state.base, rule.take)}) for rule in state.layout.agree if rule.equal}
    words = sorted((word for word in forms if len(word) > 2), key=len, reverse=True)
    if not words:
        return
    pattern = re.compile(rf"(?<![\w-])(?:{'|'.join(re.escape(word) for word in words)})(?![\w-])")
    for path in state.tree.paths():
        rule = state.layout.text_rule(path)
        if rule is None:
            continue
        try:
            string = text_of(format_named(rule.format), state.tree.read(path), rule.encodings).string
        except CouldNotError:
            continue
        for match in pattern.finditer(string):
            line, column = line_and_column(string, match.start())
            yield Unsure(Spot(path, line, column), f"`{match[0]}` stands here, and nothing says what it means")


def _project_file(project: MapProject, name: str | None, version: str | None) -> Change | None:
    """hookset.toml with the new name and version."""
    data = (project.root / PROJECT_FILE).read_bytes()
    text = decode(data)
    document = TOML.open(text, None)
    string = text.string
    for key, value in (("version", version), ("name", name)):
        if value is None:
            continue
        span = document.spans([f"/map/{key}"]).get(f"/map/{key}")
        if span is not None:
            string = string[: span[0]] + written(value) + string[span[1] :]
        else:
            after = document.spans(["/map/name"])["/map/name"][1]
            string = string[:after] + f"{text.newline}{key} = {written(value)}" + string[after:]
        text = Text(string, text.encoding, text.bom)
        document = TOML.open(text, None)
    new: Content = Inline(text.encode(string))
    before = sha256_of(Inline(data))
    return None if sha256_of(new) == before else Change(path=PROJECT_FILE, before=before, after=new)
