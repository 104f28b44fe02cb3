"""An engine run on a map, in a folder of its own, with limits, and without a network where the system allows that."""

from __future__ import annotations

import functools
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from hookset.building.programs import Limits, Program, filled, found_program, start
from hookset.config.layouts.rules import Engine
from hookset.model import CouldNotError
from hookset.trees import Tree

__all__ = ["EngineRun", "run_engine"]

_WAIT = 0.02
_CHUNK = 1 << 20


class EngineRun(Struct, frozen=True):
    """What an engine said of a map."""

    log: str
    """With the lines joined that belong together."""
    seconds: float
    wrong: str
    """Why its verdict does not count for a whole one: it crashed, hung, did not load; empty for nothing."""
    alone: bool
    """Whether it had no network."""


def run_engine(engine: Engine, tree: Tree, archive: Path | None, ticks: int) -> EngineRun:
    """Load a map, its files as they are or its built archive, and play it for so many seconds. Raises CouldNotError
    where the engine cannot be started."""
    entry = engine.entry
    with tempfile.TemporaryDirectory(prefix="hookset-engine-") as place:
        folder = Path(place).resolve()
        words = {
            "folder": str(folder),
            "python": sys.executable,
            "archive": archive.name if archive else "",
            "ticks": str(ticks),
        }
        at = folder / filled(entry.at, words)
        words["map"] = str(at)
        try:
            _lay_out(engine, tree, archive, folder, at)
        except OSError as error:
            raise CouldNotError(
                "not-writable",
                f"the map cannot be laid out for the engine: {error.strerror or error}",
                remedy="make room on the disk for temporary files",
            ) from error
        command, alone = _without_network([filled(one, words) for one in entry.command], folder)
        environment = {"HOME": str(folder / "home"), "TMPDIR": str(folder / "home"), **entry.environment}
        limit = entry.runs or entry.seconds
        program = start(command, folder, folder / "log.txt", environment, Limits(limit, entry.megabytes))
        try:
            while not program.over():
                time.sleep(_WAIT)
        finally:
            if program.process.poll() is None:
                program.stop("it was stopped")
        log = _joined(engine, program.printed())
        return EngineRun(log, program.seconds, _wrong_with(engine, program, log), alone)


def _lay_out(engine: Engine, tree: Tree, archive: Path | None, folder: Path, at: Path) -> None:
    (folder / "home").mkdir()
    at.parent.mkdir(parents=True, exist_ok=True)
    if engine.entry.loads == "archive" and archive is not None:
        if archive.is_dir():
            shutil.copytree(archive, at)
        else:
            shutil.copyfile(archive, at)
    else:
        at.mkdir(exist_ok=True)
        for path in tree.paths():
            target = at / path
            target.parent.mkdir(parents=True, exist_ok=True)
            with tree.open(path) as source, target.open("wb") as stream:
                shutil.copyfileobj(source, stream, _CHUNK)
    for path, text in engine.entry.files.items():
        target = folder / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text, encoding="utf-8")


def _without_network(command: Sequence[str], folder: Path) -> tuple[list[str], bool]:
    """The command in a network of its own, which has nobody else in it; and whether the system has such."""
    ways = _network_of_its_own()
    place = found_program(command[0], folder)
    if not ways or place is None:
        return list(command), False
    return [*ways, str(place), *command[1:]], True


@functools.lru_cache(maxsize=1)
def _network_of_its_own() -> tuple[str, ...]:
    if os.name != "posix" or shutil.which("unshare") is None:
        return ()
    for options in (("-n",), ("-r", "-n")):
        with suppress(OSError, subprocess.TimeoutExpired):
            done = subprocess.run(["unshare", *options, "true"], capture_output=True, timeout=5, check=False)
            if done.returncode == 0:
                return ("unshare", *options, "--")
    return ()


def _joined(engine: Engine, printed: str) -> str:
    lines: list[str] = []
    for line in printed.splitlines():
        if lines and engine.continues is not None and engine.continues.search(line) is not None:
            lines[-1] = f"{lines[-1]} {line.strip()}"
        else:
            lines.append(line)
    return "\n".join(lines) + "\n"


def _wrong_with(engine: Engine, program: Program, log: str) -> str:
    if program.stopped and not (engine.entry.runs and "did not end" in program.stopped):
        return program.stopped
    code = program.process.returncode
    if not program.stopped and code and code < 0:
        return f"it crashed (signal {-code})"
    loaded = engine.loaded
    if loaded is not None and not any(loaded.search(line) for line in log.splitlines()):
        return "it did not say that the map is loaded"
    return ""
