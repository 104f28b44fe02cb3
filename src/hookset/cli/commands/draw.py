"""hookset draw"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click
import numpy as np

from hookset.checks import judge
from hookset.cli.busy import busy
from hookset.cli.run import Run, json_option, pass_run
from hookset.cli.tracing import traced
from hookset.model import WrongUseError
from hookset.planning.operations.remove import installed_pack
from hookset.planning.placing.positions import row_called
from hookset.planning.queries.whereabouts import owners_of
from hookset.project import MapProject, read_ledger
from hookset.reports.figures.canvas import save_figure
from hookset.reports.figures.frame import PlanView
from hookset.reports.figures.names import draw_names, name_web
from hookset.reports.figures.plan import draw_plan
from hookset.reports.figures.weight import Weighed, draw_weight, sort_of
from hookset.scene.scene import Scene

if TYPE_CHECKING:
    from matplotlib.figure import Figure

__all__ = ["command"]

_AROUND = 20.0


@click.command("draw", short_help="A figure of the map: what stands where, from above or from the side.")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--around", metavar="NAME", default="", help="Only what is around something that stands in the map.")
@click.option("--within", type=click.FloatRange(0, min_open=True), help=f"So far around it: {_AROUND:g} without this.")
@click.option("--pack", metavar="PACK", default="", help="Let what this pack has set stand out.")
@click.option("--side", is_flag=True, help="Seen from the south instead of from above.")
@click.option("--names", metavar="NAME", default="", help="Instead: who uses a name, and what it uses.")
@click.option("--weight", is_flag=True, help="Instead: how much of the map's size is whose, and of what sort.")
@json_option
@pass_run
def command(
    run: Run,
    file: Path,
    around: str,
    within: float | None,
    pack: str,
    side: bool,
    names: str,
    weight: bool,
    as_json: bool,
) -> None:
    """Draw the map into FILE, a .png or .svg: what stands where by class, volumes, roads, the height of the ground,
    how far things reach, what works on what, and what the checks find about any of them. Where there are very many
    things it is drawn how dense they are.

    \b
    Examples, in the demo's map:
        hookset draw map.png
        hookset draw lock.svg --around lock_wheel --within 15
        hookset draw side.png --side
        hookset draw bell.svg --names quay_bell
        hookset draw weight.png --weight
    """
    if bool(names) + weight + bool(around or pack or side) > 1:
        raise WrongUseError(
            "conflicting-options",
            "--names and --weight are figures of their own",
            remedy="say one of them, and nothing else",
        )
    if weight:
        _draw(run, file, as_json, run.steadily(_weight))
        return
    if names:
        _draw(run, file, as_json, run.steadily(lambda project: _names(run, project, names)))
        return
    view = run.steadily(lambda project: _view(run, project, around, within or _AROUND, pack, side))
    with busy("drawing"):
        save_figure(draw_plan([view]), file)
    things = view.scene.things
    if as_json:
        run.show_json("draw", True, {"file": str(file), "things": len(things), "findings": len(view.findings)})
    else:
        run.print(f"{file} is written: {len(things):,} things, {len(view.findings):,} findings about them")


def _draw(run: Run, file: Path, as_json: bool, figure: Figure) -> None:
    save_figure(figure, file)
    if as_json:
        run.show_json("draw", True, {"file": str(file)})
    else:
        run.print(f"{file} is written")


def _weight(project: MapProject) -> Figure:
    ledger = read_ledger(project.root)
    owners = {file.path: pack.name for pack in ledger.packs for file in pack.files if not file.was_there}
    tree = project.tree
    files = [Weighed(path, tree.size(path), owners.get(path, ""), sort_of(path)) for path in tree.paths()]
    return draw_weight(project.file.map.name, files)


def _names(run: Run, project: MapProject, name: str) -> Figure:
    found, analysis = traced(run, project, name, None)
    return draw_names(project.layout, name_web(analysis, found[0]))


def _view(run: Run, project: MapProject, around: str, within: float, pack: str, side: bool) -> PlanView:
    ledger = read_ledger(project.root)
    if pack:
        installed_pack(ledger, pack)
    scene = Scene(project.tree, project.layout)
    if not scene.layout.positions.placed:
        raise WrongUseError(
            "not-in-layout",
            f"the layout {project.layout.name} does not say where things stand",
            why="there is nothing to be drawn",
            remedy="say it with [[placed]] in a layout of your own: docs/layouts.md has all of it",
        )
    if side and scene.up is None:
        raise WrongUseError(
            "not-in-layout", "this map has no height: it is seen from above only", remedy="leave --side out"
        )
    middle = scene.things.at[row_called(scene, around)] if around else None
    verdict = judge(project.tree, project.layout, project.stock, ledger, project.terms, run.cache(project))
    keys = scene.things.by_key
    return PlanView(
        scene=scene,
        title=f"{project.file.map.name}" + (f": around {around}" if around else ""),
        owners=owners_of(project.tree, ledger, scene) if pack else {},
        pack=pack,
        findings=[one for one in verdict.findings if one.name in keys],
        around=None if middle is None else np.asarray(middle),
        within=within,
        side=side,
    )
