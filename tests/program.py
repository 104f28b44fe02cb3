"""The program in a process of its own, for a sixth of the time: one process has imported it, and is copied for each run.

Where processes cannot be copied, and where a test is about starting the program, it is started afresh.
"""

from __future__ import annotations

import atexit
import contextlib
import importlib
import json
import os
import pkgutil
import signal
import subprocess
import sys
import tempfile
from collections import Counter
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any, NoReturn

if TYPE_CHECKING:
    from coverage import Coverage

MEASURED = "HOOKSET_MEASURED_INTO"
"""In the environment of a run: where to keep which lines were run, if anybody wants to know."""
_MOST_MEASURED = 2
"""Runs of each command with the same options of which it is noted what they run: that takes twice their time, and more
of them show little more."""
_REPORTS = (".html", ".sarif", ".xml", ".json", ".png", ".svg")
_SETTINGS = Path(__file__).parent.parent / "pyproject.toml"


@dataclass(frozen=True)
class Finished:
    """What came of one run."""

    code: int
    out: str
    err: str


@dataclass(frozen=True)
class Limits:
    """What a run may take."""

    seconds: int
    memory: int = 0
    """Bytes beside those that it begins with; 0: as many as there are."""


def run_program(
    folder: Path, arguments: tuple[str, ...], env: dict[str, str], limits: Limits | None = None
) -> Finished:
    """Run `hookset` with these arguments in a folder. What takes longer than it may is ended by a signal."""
    if not hasattr(os, "fork"):
        done = subprocess.run(
            [sys.executable, "-m", "hookset", *arguments],
            cwd=folder,
            capture_output=True,
            encoding="utf-8",
            env=env,
            check=False,
        )
        return Finished(done.returncode, done.stdout, done.stderr)
    with tempfile.TemporaryDirectory() as place:
        out, err = Path(place, "out"), Path(place, "err")
        asked = {"arguments": arguments, "folder": str(folder), "env": env, "out": str(out), "err": str(err)}
        asked |= {"limits": asdict(limits)} if limits is not None else {}
        code = _started().run(asked)
        return Finished(code, out.read_text("utf-8"), err.read_text("utf-8"))


class _Imported:
    """The process that is copied."""

    def __init__(self) -> None:
        self.owner = os.getpid()
        self.process = subprocess.Popen(
            [sys.executable, __file__],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            env=os.environ | {"PYTHONIOENCODING": "utf-8"},
        )
        atexit.register(self.end)

    def run(self, asked: dict[str, Any]) -> int:
        asking, answering = self.process.stdin, self.process.stdout
        assert asking is not None and answering is not None
        asking.write(json.dumps(asked) + "\n")
        asking.flush()
        return int(answering.readline())

    def end(self) -> None:
        if self.owner == os.getpid():
            self.process.kill()
            self.process.wait()


_running: list[_Imported] = []


def _started() -> _Imported:
    if not _running or _running[0].owner != os.getpid() or _running[0].process.poll() is not None:
        _running[:] = [_Imported()]
    return _running[0]


def _serve(asking: IO[str], answering: IO[str]) -> None:
    """One line of JSON for each run that is asked for, and one number for what it ended with."""
    runs: Counter[str] = Counter()
    measuring: Coverage | None = None
    for line in asking:
        asked = json.loads(line)
        # Values differ from run to run; of reports the ending tells which it is.
        words = asked["arguments"]
        options = sorted({word for word in words if word.startswith("--") or Path(word).suffix in _REPORTS})
        command = " ".join([*(word for word in words[:2] if word.isalpha()), *options])
        runs[command] += 1
        if runs[command] > _MOST_MEASURED:
            asked["env"].pop(MEASURED, None)
        if measuring is None and MEASURED in asked["env"]:
            # To begin takes far longer than to go on: it is done once, for all runs.
            measuring = _measuring(asked["env"][MEASURED])
            measuring.start()
            measuring.stop()
        child = os.fork()
        if not child:
            _be(asked, measuring if MEASURED in asked["env"] else None)
        _, status = os.waitpid(child, 0)
        answering.write(f"{os.waitstatus_to_exitcode(status)}\n")
        answering.flush()


def _be(asked: dict[str, Any], measuring: Coverage | None) -> NoReturn:
    """Become a run of the program."""
    for number, name, flags in (
        (0, os.devnull, os.O_RDONLY),
        (1, asked["out"], os.O_WRONLY | os.O_CREAT),
        (2, asked["err"], os.O_WRONLY | os.O_CREAT),
    ):
        opened = os.open(name, flags, 0o600)
        os.dup2(opened, number)
        os.close(opened)
    # It reads nothing of what is asked of the other.
    sys.stdin = open(0, encoding="utf-8", closefd=False)  # noqa: SIM115
    sys.stdout = open(1, "w", encoding="utf-8", closefd=False)  # noqa: SIM115
    sys.stderr = open(2, "w", encoding="utf-8", closefd=False)  # noqa: SIM115
    if "limits" in asked:
        _keep_to(Limits(**asked["limits"]))
    os.environ.clear()
    os.environ.update(asked["env"])
    os.chdir(asked["folder"])
    sys.argv = ["hookset", *asked["arguments"]]
    if measuring is not None:
        _measure(measuring)
    from hookset.cli.main import run

    run()


def _keep_to(limits: Limits) -> None:
    import resource

    if limits.memory:
        begun = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (begun + limits.memory, begun + limits.memory))
    signal.alarm(limits.seconds)


def command_line(*arguments: str) -> list[str]:
    """The program in a process of its own, as a command; what it runs counts as well where that is measured."""
    if MEASURED not in os.environ:
        return [sys.executable, "-m", "hookset", *arguments]
    begin = f"import sys; sys.path.insert(0, {str(_SETTINGS.parent)!r}); from tests.program import measure"
    program = f"{begin}; measure({os.environ[MEASURED]!r}); from hookset.cli.main import run; run()"
    return [sys.executable, "-c", program, *arguments]


def measure(data_file: str) -> None:
    """Note which lines and branches this process runs."""
    _measure(_measuring(data_file))


def _measuring(data_file: str) -> Coverage:
    import coverage

    # Each process that is copied has a file of its own: that is what `True` says.
    return coverage.Coverage(data_file, data_suffix=True, config_file=str(_SETTINGS))


def _measure(measuring: Coverage) -> None:
    """The program ends without tidying up: what was noted is saved before that."""
    measuring.start()
    end = os._exit

    def ended(status: int) -> NoReturn:
        measuring.stop()
        measuring.save()
        end(status)

    os._exit = ended


_LATE = ("matplotlib.figure", "matplotlib.backends.backend_agg", "scipy.spatial", "scipy.spatial.transform")
"""What the program imports only when it needs it, and takes longest."""


def _import_all() -> None:
    """Whatever a run may need: imports are most of what a short run takes."""
    import hookset

    for name in _LATE:
        importlib.import_module(name)

    for module in pkgutil.walk_packages(hookset.__path__, "hookset."):
        if not module.name.startswith("hookset.standin") and not module.name.endswith("__main__"):
            # Formats that want a package that is not here are found missing by the run.
            with contextlib.suppress(ImportError):
                importlib.import_module(module.name)
    _read_layouts()


def _read_layouts() -> None:
    """What is made of types and patterns when they are first met is kept by the process: most runs meet the same."""
    from hookset.config.layouts import shipped_layout, shipped_names

    for name in shipped_names():
        shipped_layout(name)


if __name__ == "__main__":
    # The folder of the tests is no place to import from: names in it are those of the standard library, or might be.
    sys.path = [one for one in sys.path if Path(one or ".").resolve() != Path(__file__).parent]
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    _import_all()
    _serve(sys.stdin, sys.stdout)
