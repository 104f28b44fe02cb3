"""What every command needs: the map it is about, and where its output goes."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click
from msgspec import Struct

from hookset.model import CouldNotError, HooksetError, RefusedError, WrongUseError
from hookset.reports.data import enveloped
from hookset.reports.text.style import show
from hookset.trees.ours import LEDGER, OUR_FOLDER, PROJECT_FILE, find_root

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.applying import Recovery
    from hookset.cli.logfile import Notes
    from hookset.project import MapProject
    from hookset.symbols import FactsCache
    from hookset.verdicts import VerdictCache

__all__ = ["Run", "generation", "json_option", "ledger_bytes", "now", "pass_run"]

F = TypeVar("F", bound=Callable[..., Any])
T = TypeVar("T")

_PATIENCE = 5.0
"""Seconds that a run which only reads waits for one that changes the map."""
_ATTEMPTS = 4


class Run(Struct, frozen=True):
    """One run of the program."""

    folder: Path
    notes: Notes
    program: Callable[[list[str]], int]
    """Runs one command line, and gives the exit code."""
    caching: bool = True

    def print(self, renderable: RenderableType) -> None:
        show(renderable)

    def tell(self, renderable: RenderableType) -> None:
        """Beside the output proper: on standard error."""
        show(renderable, sys.stderr)

    def show_json(self, command: str, ok: bool, data: Mapping[str, Any]) -> None:
        click.echo(enveloped(command, ok, data))

    def project(self) -> MapProject:
        """The map that this run reads. An interrupted change is brought to its end first; where that cannot be, or
        is not ours to do, that is said and the map is read as it is."""
        project = self._opened()
        if (project.root / OUR_FOLDER / "work").is_dir():
            try:
                with self._held(project.root, _PATIENCE):
                    pass
            except (RefusedError, CouldNotError) as error:
                # Imported here: hardly any run has to say so.
                from hookset.reports.text.errors import error_text

                self.tell(error_text(error, "warning"))
                self.tell("The map is read as it lies there now.")
        self.notes.add(f"map {project.file.map.name} in {project.root}, layout {project.layout.name}")
        return project

    def root(self) -> Path:
        """The map's folder, with nothing of it read. Raises WrongUseError where there is none."""
        root = find_root(self.folder.resolve())
        if root is None:
            raise WrongUseError(
                "no-map", "there is no map here", where=str(self.folder), remedy="go to the map's folder"
            )
        return root

    def place_of(self, pattern: str) -> str:
        """`FILE:LINE` of a pattern in the map's own hookset.toml or in its layout; empty where it is in neither."""
        # Imported here: only a pattern that takes too long is looked for.
        from hookset.config.layouts import layout_file
        from hookset.config.sheets import place_of, read_sheet

        root = find_root(self.folder.resolve())
        if root is None:
            return ""
        try:
            own = read_sheet((root / PROJECT_FILE).read_bytes(), PROJECT_FILE)
            name = own.data.get("map", {}).get("layout", "")
            data, where = layout_file(name, root)
            return place_of(pattern, read_sheet(data, where)) or place_of(pattern, own)
        except (HooksetError, OSError, AttributeError):
            return ""

    def steadily(self, work: Callable[[MapProject], T]) -> T:
        """What `work` reads of the map, read again where another run changed the map meanwhile."""
        for attempt in range(_ATTEMPTS):
            project = self.project()
            before = generation(project.root)
            last = attempt == _ATTEMPTS - 1
            try:
                result = work(project)
            except HooksetError:
                if last or generation(project.root) == before:
                    raise
            else:
                if generation(project.root) == before:
                    return result
                if last:
                    self.tell("The map is still being changed: this may mix what it was with what it will be.")
                    return result
            self.tell("The map was changed while it was read; it is read again.")
        raise AssertionError

    def beside(self, name: str) -> Path:
        """Where something new of that name goes: here, but never into a map, which would ship it."""
        root = find_root(self.folder.resolve())
        return self.folder / name if root is None else Path(os.path.relpath(root.parent / name))

    def cache(self, project: MapProject) -> FactsCache | None:
        """What is remembered of the map's files, in the user's cache folder; None with --no-cache."""
        if not self.caching:
            return None
        # Imported here: commands that read no map need none of it.
        from hookset.symbols import FactsCache

        return FactsCache(_cache_file(project.root))

    def root_cache(self, place: Path) -> FactsCache | None:
        """The same of the files of a content root."""
        # Imported here: most maps have no content roots.
        from hookset.symbols import FactsCache

        return FactsCache(_cache_file(place, "roots")) if self.caching else None

    def verdicts(self, root: Path) -> VerdictCache | None:
        """What is remembered of what was told of the map in that folder; None with --no-cache."""
        if not self.caching:
            return None
        # Imported here: commands that read no map need none of it.
        from hookset.verdicts import VerdictCache

        return VerdictCache(_cache_file(root))

    def memory_of(self, archive: Path) -> Path | None:
        """Where it is kept what an archive was made of, in the user's cache folder; None with --no-cache."""
        from platformdirs import user_cache_path

        if not self.caching:
            return None
        return user_cache_path("hookset", appauthor=False) / "built" / f"{_remembered(archive.absolute())}.msgpack"

    @contextmanager
    def changing(self) -> Iterator[MapProject]:
        """The same, held so that no other run changes it meanwhile."""
        project = self._opened()
        with self._held(project.root):
            self.notes.add(f"map {project.file.map.name} in {project.root}, layout {project.layout.name}")
            yield project

    def _opened(self) -> MapProject:
        # Imported here: a check of a map in which nothing has changed opens none.
        from hookset.project import open_project

        project = open_project(self.folder)
        if not project.file.content.roots:
            return project
        # Imported here: most maps have no content roots.
        from hookset.symbols import rooted

        return rooted(project, self.root_cache)

    @contextmanager
    def _held(self, root: Path, wait: float = 0) -> Iterator[None]:
        """The map's lock, with nothing left over of an interrupted run; `wait` is how long to wait for it, in
        seconds."""
        # Imported here: commands that only read need none of it.
        from hookset.applying import Disk, locked, recover

        with locked(root, wait):
            recovery = recover(root, Disk())
            if recovery is not None:
                self._recovered(recovery)
            yield

    def _recovered(self, recovery: Recovery) -> None:
        # Imported here: hardly any run has to say so.
        from hookset.reports.text.recoveries import recovery_text

        self.notes.add(f"recovered: {recovery.title}, {recovery.ending.value}")
        self.tell(recovery_text(recovery))


def generation(root: Path) -> tuple[object, ...]:
    """What is another value once a run of Hook Set has begun or ended a change of the map."""
    ours = root / OUR_FOLDER
    stamps: list[object] = []
    for place in (ours / "work", ours / "history", root / LEDGER):
        try:
            state = place.stat()
            stamps.append((state.st_ino, state.st_mtime_ns))
        except OSError:
            stamps.append(None)
    return tuple(stamps)


def ledger_bytes(project: MapProject) -> bytes | None:
    """The ledger as it lies there; None where nothing was set yet."""
    file = project.root / LEDGER
    return file.read_bytes() if file.exists() else None


def now() -> str:
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


pass_run = click.make_pass_decorator(Run)


def json_option(function: F) -> F:
    """`--json`, alike on every command."""
    return click.option("--json", "as_json", is_flag=True, help="Print data for programs instead.")(function)


def _cache_file(root: Path, sort: str = "maps") -> Path:
    from platformdirs import user_cache_path

    return user_cache_path("hookset", appauthor=False) / sort / f"{_remembered(root)}.sqlite"


def _remembered(place: Path) -> str:
    """What is remembered of a place goes by: its name, for people, and its whole path."""
    import hashlib

    digest = hashlib.sha256(str(place).encode("utf-8", "surrogatepass")).hexdigest()[:16]
    return f"{place.name[:40]}-{digest}"
