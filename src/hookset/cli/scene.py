"""The map that a log is about."""

from __future__ import annotations

from hookset.cli.run import Run
from hookset.core.build.logs import Memory, written_memory
from hookset.core.build.logs.blame import Scene
from hookset.core.build.logs.memory import LOG_MEMORY
from hookset.core.project import MapProject, read_ledger, save_file
from hookset.core.web import Index, collect

__all__ = ["keep_memory", "scene_of"]


def scene_of(run: Run, project: MapProject) -> Scene:
    tree = project.tree
    web = collect(tree, project.layout, project.stock, run.cache(project))
    return Scene(project.layout, tree, web, Index(web), read_ledger(project.root))


def keep_memory(run: Run, memory: Memory) -> None:
    """Write down what the log told. Held so that no other run writes it meanwhile."""
    with run.changing() as project:
        save_file(project.root / LOG_MEMORY, written_memory(memory))
