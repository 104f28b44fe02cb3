"""Parts of a pack taken alone, with just what they need: found by following names, not by trusting the sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from msgspec.structs import replace

from hookset.config.sheets import nearest
from hookset.model import WrongUseError
from hookset.packs import SheetedPack
from hookset.planning.choices import Answers
from hookset.planning.naming.rewriting import facts_of
from hookset.planning.pipeline.name_rows import Name, entry_names
from hookset.planning.pipeline.staging import Only, stage_pack
from hookset.planning.state import PlanState
from hookset.project import LedgerHook, LedgerPack
from hookset.symbols import FileFacts
from hookset.trees import EmptyTree, Glob, Member, Overlay

__all__ = ["chosen_parts"]

Key = tuple[str, str]
"""(`file`, its path) or (`entry`, its key)"""


@dataclass
class _Node:
    """A file or an entry of a pack: what it defines, and what it asks for."""

    defines: set[Name] = field(default_factory=set)
    refers: set[Name] = field(default_factory=set)

    def __bool__(self) -> bool:
        return bool(self.defines or self.refers)


def chosen_parts(state: PlanState, pack: SheetedPack, versions: dict[str, str]) -> Only | None:
    """What the chosen parts of a pack need; None where all of it is to be set. Raises WrongUseError."""
    sheet = pack.sheet
    earlier = state.ledger.pack(pack.name)
    answers: Answers = state.choices.of(pack.name)
    chosen = answers.parts or (earlier.parts if earlier else ())
    if not chosen:
        return None
    known = [part.name for part in sheet.part]
    for name in chosen:
        if name not in known:
            raise WrongUseError(
                "unknown-name",
                f"{pack.name} has no part `{name}`{nearest(name, known)}",
                remedy="`hookset inspect` lists the parts of a pack",
            )
    trial = stage_pack(replace(state, ledger=state.ledger.without(pack.name)), pack, versions)
    whole = trial.ledger.pack(pack.name)
    if whole is None:
        return None
    nodes = _nodes(trial, pack, whole)
    globs = [Glob(pattern) for part in sheet.part if part.name in chosen for pattern in part.files]
    seeds = {("file", target) for target, source in pack.targets.items() if any(glob.matches(source) for glob in globs)}
    seeds |= {("entry", hook.key) for hook in whole.hooks if hook.part in chosen}
    needed = _needed(nodes, seeds, [hook for hook in whole.hooks if not hook.part])
    targets = frozenset(name for sort, name in needed if sort == "file")
    keys = frozenset(name for sort, name in needed if sort == "entry")
    out = sum(target not in targets for target in pack.targets)
    listing = state.layout.manifest.seats if state.layout.manifest else frozenset()
    entries = sum(hook.key not in keys for hook in whole.hooks if hook.seat not in listing)
    told = f"parts taken: {', '.join(chosen)}; {out} files and {entries} entries that they do not need stay out"
    return Only(targets, keys, (told,))


def _nodes(trial: PlanState, pack: SheetedPack, whole: LedgerPack) -> dict[Key, _Node]:
    """The files and entries of a pack that is staged as a whole in a trial plan."""
    nodes: dict[Key, _Node] = {}
    own = Overlay(EmptyTree(), {target: Member(pack.tree, source) for target, source in pack.targets.items()})
    for target in pack.targets:
        facts = facts_of(own, trial.layout, target)
        nodes["file", target] = _Node(_defined(facts), _referred(facts))
    for hook in whole.hooks:
        nodes["entry", hook.key] = _Node(*entry_names(trial, hook, trial.entries_in(hook.path)))
    return nodes


def _defined(facts: FileFacts) -> set[Name]:
    return {(d.kind, d.name) for d in facts.definitions}


def _referred(facts: FileFacts) -> set[Name]:
    return {(r.kind, name) for r in facts.references if r.use for name in (r.name, *r.others)}


def _needed(nodes: Mapping[Key, _Node], seeds: set[Key], common: Sequence[LedgerHook]) -> set[Key]:
    """The closure of the seeds, with the entries that hold it to the map: those that name what is in it and nothing
    of the pack that is not, and, beside them, those that name nothing."""
    brought = {name for node in nodes.values() for name in node.defines}
    needed = _closure(nodes, seeds)
    while True:
        inside = {name for key in needed for name in nodes[key].defines}
        holding = {
            ("entry", hook.key)
            for hook in common
            if (own := nodes["entry", hook.key].refers & brought) and own <= inside
        }
        files = {hook.path for hook in common if ("entry", hook.key) in needed | holding}
        silent = {("entry", hook.key) for hook in common if hook.path in files and not nodes["entry", hook.key]}
        grown = _closure(nodes, needed | holding | silent)
        if grown == needed:
            return needed
        needed = grown


def _closure(nodes: Mapping[Key, _Node], seeds: set[Key]) -> set[Key]:
    """The seeds, and whatever defines what they ask for, and so on."""
    definers: dict[Name, list[Key]] = {}
    for key, node in nodes.items():
        for name in node.defines:
            definers.setdefault(name, []).append(key)
    done: set[Key] = set()
    todo = [seed for seed in seeds if seed in nodes]
    while todo:
        key = todo.pop()
        if key not in done:
            done.add(key)
            todo += (other for name in nodes[key].refers for other in definers.get(name, ()))
    return done
