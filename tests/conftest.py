"""Maps to work on, and the built program to drive."""

from __future__ import annotations

import itertools
import json
import os
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings

from hookset.applying import Disk, apply_changes
from hookset.packs import open_pack
from hookset.planning import Choices, plan_install
from hookset.project import Ledger, MapProject, open_project
from tests.program import MEASURED, run_program
from tests.shipped import demo_in

# How long an example takes says more of the machine than of the code.
settings.register_profile("untimed", deadline=None, max_examples=14)
settings.load_profile("untimed")
# Tests start the program many hundred times: compiled once, it starts in half the time.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
if "PYTEST_XDIST_WORKER" not in os.environ:
    _OURS = tempfile.TemporaryDirectory()
    os.environ["PYTHONPYCACHEPREFIX"] = _OURS.name
    os.environ["TOLD_AT_THE_END"] = f"{_OURS.name}/told.txt"


def pytest_configure(config: pytest.Config) -> None:
    # With --cov, what the program runs in processes of its own counts as well.
    if getattr(config.option, "cov_source", None):
        os.environ[MEASURED] = str(Path(".coverage").resolve())
        from coverage import Coverage

        # A worker begins to measure twice, and pausing stops the second only: the first has seen the imports.
        first = Coverage.current() if "PYTEST_XDIST_WORKER" in os.environ else None
        if first is not None:
            first.stop()
            first.save()


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    # What several tests of a file are told of together is made once, if they follow each other.
    items.sort(key=lambda item: (item.path, _told_of(item)))
    # Measuring doubles the time; of many tests that differ in their data only, some run nearly all lines.
    if not getattr(config.option, "cov_source", None):
        return
    of_one: dict[object, list[pytest.Item]] = {}
    for item in items:
        of_one.setdefault((item.path, getattr(item, "originalname", item.name)), []).append(item)
    for item in (item for same in of_one.values() for item in same[1:]):
        if item.get_closest_marker("each_covers") is None:
            item.add_marker(pytest.mark.no_cover)


def _told_of(item: pytest.Item) -> str:
    """The pack or the layout that a test is about, if it is one of many that are."""
    given = getattr(getattr(item, "callspec", None), "params", {})
    return str(given.get("name", given.get("layout", "")))


def tell(line: str) -> None:
    """Something that was counted, for the end of the run."""
    with Path(os.environ["TOLD_AT_THE_END"]).open("a", encoding="utf-8") as file:
        file.write(f"{line}\n")


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    told = Path(os.environ["TOLD_AT_THE_END"])
    if told.exists():
        terminalreporter.write_sep("-", "counted")
        terminalreporter.write_line(told.read_text(encoding="utf-8").rstrip())


@dataclass(frozen=True)
class Ran:
    """One run of the program."""

    code: int
    out: str
    err: str

    @property
    def data(self) -> Any:
        return json.loads(self.out)

    @property
    def told(self) -> list[str]:
        """The code of the error, or those of the stops, as `--json` tells them."""
        return [one["code"] for one in self.wrong]

    @property
    def wrong(self) -> list[dict[str, Any]]:
        """The error, or the stops."""
        data = self.data
        return [data["error"]] if "error" in data else list(data["stops"])


def run_hookset(folder: Path, *arguments: str) -> Ran:
    """The program, in a folder."""
    done = run_program(folder, arguments, os.environ | {"NO_COLOR": "1", "COLUMNS": "140"})
    assert "Traceback" not in done.err, done.err
    return Ran(done.code, done.out, done.err)


_NUMBERS = itertools.count()


@pytest.fixture(autouse=True)
def own_cache(
    tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch, request: pytest.FixtureRequest
) -> None:
    """What one test's maps were like is no concern of another's, nor of the one who runs them."""
    if request.node.get_closest_marker("no_cover") is not None:
        monkeypatch.delenv(MEASURED, raising=False)
    # A folder with a number of its own: to look for a free name among thousands takes longer than most tests.
    own = tmp_path_factory.getbasetemp() / "own" / str(next(_NUMBERS))
    for name in ("config", "cache", "data", "state"):
        monkeypatch.setenv(f"XDG_{name.upper()}_HOME", str(own / name))


@pytest.fixture
def hookset(tmp_path: Path) -> Callable[..., Ran]:
    """Run a command in the demo's map, or in `folder`."""

    def run(*arguments: str, folder: Path | None = None) -> Ran:
        return run_hookset(folder or tmp_path / "demo" / "brackwater", *arguments)

    return run


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    """Brackwater as its builder has it, started; beside it the packs. Gives the map's folder."""
    return demo_in(tmp_path / "demo")


@pytest.fixture
def project(demo: Path) -> MapProject:
    return open_project(demo)


@pytest.fixture
def packed(demo: Path) -> MapProject:
    """Brackwater with both packs installed."""
    project = open_project(demo)
    packs = [open_pack(demo.parent / "packs" / f"{name}.zip") for name in ("lift-bridge", "fog-bell")]
    plan = plan_install(project, Ledger(), None, packs, Choices(), "2026-01-01T00:00:00Z")
    assert not plan.stops
    (demo / ".hookset").mkdir()
    apply_changes(demo, plan.all_changes, action="install", title="install", time="t", disk=Disk())
    return project


def snapshot(folder: Path) -> dict[str, bytes]:
    """Every file of a map, our own left out."""
    return {
        path.relative_to(folder).as_posix(): path.read_bytes()
        for path in sorted(folder.rglob("*"))
        if path.is_file() and ".hookset" not in path.parts
    }
