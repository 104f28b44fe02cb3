"""The map that a log is about."""

from __future__ import annotations

from hookset.building.logs import Memory, written_memory
from hookset.building.logs.blame import Scene
from hookset.building.logs.memory import LOG_MEMORY
from hookset.cli.run import Run
from hookset.project import MapProject, read_ledger, save_file
from hookset.symbols import analyse

__all__ = ["keep_memory", "scene_of"]


def scene_of(run: Run, project: MapProject) -> Scene:
    tree = project.tree
    analysis = analyse(tree, project.layout, project.stock, run.cache(project))
    return Scene(project.layout, tree, analysis, read_ledger(project.root))


def keep_memory(run: Run, memory: Memory) -> None:
    """Write down what the log told. Held so that no other run writes it meanwhile."""
    with run.changing() as project:
        save_file(project.root / LOG_MEMORY, written_memory(memory))
