"""What each step was made of and has made, the last time that it ran: `.hookset/steps.json` in the map."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.model import CouldNotError
from hookset.project import OUR_FOLDER, save_file

__all__ = ["StepRun", "StepRuns", "read_runs", "write_runs"]

_FILE = f"{OUR_FOLDER}/steps.json"


class StepRun(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """A step, as it ran last."""

    command: str
    """SHA-256 of what it is: the command with its tools, and what it reads and writes."""
    program: str = ""
    """SHA-256 of the program itself."""
    inputs: Mapping[str, str] = {}
    """The files whose change makes it run, with their SHA-256."""
    values: str = ""
    """SHA-256 of the values whose change makes it run."""
    outputs: Mapping[str, str] = {}
    """What it has made, with the SHA-256."""
    coming: Mapping[str, str] = {}
    """What of it was about to be put into the map; nothing once all of it was."""
    seconds: float = 0.0
    when: str = ""
    failed: bool = False

    def made(self, path: str, sha256: str) -> bool:
        """Whether a file is as the step has made it."""
        return sha256 in (self.outputs.get(path), self.coming.get(path))


class StepRuns(Struct, frozen=True, kw_only=True):
    """All steps of a map that have run."""

    steps: Mapping[str, StepRun] = {}

    def of(self, name: str, run: StepRun) -> StepRuns:
        """The same with one step as it ran now."""
        return StepRuns(steps={**self.steps, name: run})


def read_runs(root: Path) -> StepRuns:
    """What is known of the steps of a map. Raises CouldNotError for a file that cannot be read."""
    file = root / _FILE
    try:
        return msgspec.json.decode(file.read_bytes(), type=StepRuns)
    except FileNotFoundError:
        return StepRuns()
    except (OSError, msgspec.MsgspecError) as error:
        raise CouldNotError(
            "unreadable-file",
            f"cannot be read: {error}",
            where=_FILE,
            why="it says which files of the map the steps of a build have made",
            remedy=f"delete {_FILE} and what the steps have made; the next build runs all steps",
        ) from error


def write_runs(root: Path, runs: StepRuns) -> None:
    """Keep it. Raises CouldNotError."""
    save_file(root / _FILE, msgspec.json.format(msgspec.json.encode(runs), indent=1) + b"\n")
