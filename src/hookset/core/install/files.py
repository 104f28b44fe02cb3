"""The files that a pack brings, against those that are there."""

from __future__ import annotations

from hookset.core.install.plan import Choices, FileState, FileStep, Stop
from hookset.core.packs import Pack
from hookset.core.trees import Content, Member, Tree, sha256_of, spelled_otherwise

__all__ = ["plan_files"]


def plan_files(
    pack: Pack, tree: Tree, choices: Choices
) -> tuple[tuple[FileStep, ...], list[Stop], dict[str, Content | None]]:
    """(every file and its state, what stops the plan, the contents that would be written)"""
    steps: list[FileStep] = []
    stops: list[Stop] = []
    contents: dict[str, Content | None] = {}
    there = tree.paths()
    folded = {path.casefold() for path in there}
    for target, source in pack.targets.items():
        content = Member(pack.tree, source)
        state = _state(tree, target, content, choices)
        if state is FileState.NEW and target.casefold() in folded:
            other = spelled_otherwise(target, there)
            stops.append(
                Stop(
                    f"the pack brings {target}, and the map has {other}",
                    where=pack.name,
                    why="they differ in letter case only: on Windows they are one file",
                    remedy="rename the map's file and what refers to it, or take it out",
                )
            )
        if state is FileState.DIFFERENT:
            stops.append(
                Stop(
                    f"the map has {target} already, with other content",
                    where=pack.name,
                    why="writing over it would lose what is there",
                    remedy="keep the map's file: --keep-mine; or take the pack's: --take-theirs",
                )
            )
        if state in (FileState.NEW, FileState.REPLACED):
            contents[target] = content
        steps.append(FileStep(target, state, content.size))
    return tuple(steps), stops, contents


def _state(tree: Tree, target: str, content: Member, choices: Choices) -> FileState:
    if not tree.has(target):
        return FileState.NEW
    if tree.size(target) == content.size and sha256_of(Member(tree, target)) == sha256_of(content):
        return FileState.SAME
    return {"stop": FileState.DIFFERENT, "mine": FileState.KEPT, "theirs": FileState.REPLACED}[choices.other_bytes]
