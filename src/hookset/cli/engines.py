"""The engines that a map can be tried in: those of its layout, those of the user, and the stand-in game."""

from __future__ import annotations

import hashlib
from pathlib import Path

import msgspec
from msgspec import Struct
from platformdirs import user_config_path

from hookset.building.engines.running import EngineRun, run_engine
from hookset.building.logs import LogLine, log_lines
from hookset.building.permission import Asked
from hookset.cli.allowing import permit
from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.config.layouts import own_engines
from hookset.config.layouts.engines import EngineEntry
from hookset.config.layouts.rules import Engine
from hookset.config.sheets import nearest, read_sheet, typed
from hookset.model import WrongUseError
from hookset.project import MapProject
from hookset.trees import read_regular

__all__ = ["STAND_IN", "engine_named", "tried_in"]

STAND_IN = "stand-in"
_LARGEST = 1 << 20


class _EnginesFile(Struct, frozen=True, forbid_unknown_fields=True):
    engine: tuple[EngineEntry, ...] = ()


def engine_named(project: MapProject, name: str) -> Engine:
    """An engine by its name; the user's own come before the layout's. Raises WrongUseError for none, CouldNotError for
    a file of engines that cannot be read."""
    found = {one.entry.name: one for one in (*project.layout.engines, *_own(project))}
    if name not in found:
        names = sorted((*found, STAND_IN))
        raise WrongUseError(
            "unknown-engine",
            f"no engine is called `{name}`{nearest(name, names)}",
            why="the layout, or your own engines.toml, says how an engine loads a map",
            remedy=f"there are {', '.join(names)}; docs/engines.md tells how to declare one",
        )
    return found[name]


def _own(project: MapProject) -> tuple[Engine, ...]:
    file = _file()
    if not file.is_file():
        return ()
    sheet = read_sheet(read_regular(file, _LARGEST), file.name)
    remedy = f"correct {file}; docs/engines.md tells all that it can say"
    entries = typed(sheet.data, _EnginesFile)
    if isinstance(entries, list):
        raise sheet.error(entries, remedy)
    engines, complaints = own_engines(project.layout, entries.engine)
    if complaints:
        raise sheet.error(complaints, remedy)
    return engines


def _file() -> Path:
    return user_config_path("hookset", appauthor=False) / "engines.toml"


def tried_in(
    run: Run, project: MapProject, engine: Engine, archive: Path | None, ticks: int, allow: str
) -> tuple[EngineRun, list[LogLine], int]:
    """What an engine says of a map that it plays for so many seconds; of its lines those that tell of something wrong,
    and how many there were."""
    if engine in project.layout.engines:
        entry = engine.entry
        asked = Asked(
            hashlib.sha256(msgspec.json.encode(entry)).hexdigest(),
            entry.name,
            entry.command,
            project.layout.where,
            (("loads", (f"the map's {'files' if entry.loads == 'folder' else 'archive'}, and runs its scripts",)),),
        )
        permit(run, [asked], allow, f"hookset trial --in {entry.name}")
    with busy(f"trying the map in {engine.entry.title or engine.entry.name}"):
        done = run_engine(engine, project.tree, archive, ticks)
    lines, looked_at = log_lines(done.log, engine.logs or project.layout.logs)
    return done, lines, looked_at
