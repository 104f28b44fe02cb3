"""A name followed through a map, for the commands that tell of one."""

from __future__ import annotations

from hookset.cli.run import Run
from hookset.config.sheets import nearest
from hookset.model import WrongUseError
from hookset.project import MapProject
from hookset.symbols import Analysis, analyse, trace
from hookset.symbols.trace import Trace

__all__ = ["traced"]


def traced(run: Run, project: MapProject, name: str, kind: str | None) -> tuple[list[Trace], Analysis]:
    """What is known of a name. Raises WrongUseError for one that is nowhere."""
    kinds = project.layout.kinds
    if kind is not None and kind not in kinds:
        raise WrongUseError(
            "unknown-kind", f"no kind is called {kind!r}{nearest(kind, sorted(kinds))}", remedy="`hookset layout show`"
        )
    analysis = analyse(project.tree, project.layout, project.stock, run.cache(project))
    found = [one for one in trace(analysis, name) if kind is None or one.kind == kind]
    if not found:
        wanted = [kind] if kind is not None else list(kinds)
        near = dict.fromkeys(other for one in wanted for other in analysis.index.near(one, name))
        raise WrongUseError(
            "unknown-name",
            f"nothing in the map is called {name!r}, and nothing asks for it",
            details=tuple(f"did you mean {other}?" for other in list(near)[:5]),
            remedy="`hookset stock find PART` finds names by a part of them, the base game's too",
        )
    return found, analysis
