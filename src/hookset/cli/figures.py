"""Figures of a map, for the commands that make one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from hookset.applying import changed_tree
from hookset.model import Finding
from hookset.planning import Plan
from hookset.project import MapProject
from hookset.reports.figures.canvas import figure_text, save_figure
from hookset.reports.figures.frame import PlanView
from hookset.reports.figures.plan import draw_plan
from hookset.scene.scene import Scene

__all__ = ["map_picture", "save_before_after"]


def save_before_after(project: MapProject, plan: Plan, findings: Sequence[Finding], file: Path) -> None:
    """The map as it is and as it would be, side by side; what is new or stands elsewhere stands out, and what a check
    would find that it does not find now is marked."""
    before = Scene(project.tree, project.layout)
    after = Scene(changed_tree(project.tree, plan.changes), project.layout)
    name = project.file.map.name
    views = [
        PlanView(scene=before, title=f"{name}: now"),
        PlanView(scene=after, title=f"{name}: afterwards", fresh=_fresh(before, after), findings=findings),
    ]
    save_figure(draw_plan(views), file)


def _fresh(before: Scene, after: Scene) -> frozenset[int]:
    """The rows of what was not there, or stands elsewhere now."""
    was, now = before.things, after.things
    places = {(one.key, one.class_, tuple(was.at[one.index].round(6))) for one in was.rows}
    return frozenset(
        one.index for one in now.rows if (one.key, one.class_, tuple(now.at[one.index].round(6))) not in places
    )


def map_picture(project: MapProject, findings: Sequence[Finding], links: Mapping[int, str]) -> str:
    """The map as SVG to stand in a page, with a link from each finding about a thing, by its number in the row; empty
    for maps of which nobody knows where things stand."""
    scene = Scene(project.tree, project.layout)
    if not project.layout.positions.placed or not len(scene.things):
        return ""
    return figure_text(draw_plan([PlanView(scene=scene, title="", findings=findings, links=links)]))
