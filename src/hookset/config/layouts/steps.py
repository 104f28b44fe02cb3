"""Commands that make files of a map, and what logs tell, as they are written."""

from __future__ import annotations

from typing import Literal

from hookset.config.layouts.tables import PartEntry, Table, ValueEntry

__all__ = ["LogEntry", "StepEntry"]


class LogEntry(Table, frozen=True):
    """A line of the game's log. Of several that match a line, the first counts."""

    match: str
    """A regular expression for a line or a part of it. Its groups say what is known: `text`, `name`, `file`, `line`."""
    level: Literal["error", "warning", "skip", "begins", "about"] = "error"
    """`skip`: nothing worth telling; `begins`: a new run of the game, so that what is above is an earlier one's;
    `about`: what follows is about its `file`, where it does not say so itself."""
    kind: str = ""
    """What `name` is the name of."""
    title: str = ""
    """What it means, in words."""


class StepEntry(PartEntry, frozen=True, kw_only=True):
    """A command that makes files of the map out of others: `[[step]]`."""

    name: str
    title: str = ""
    """What it does, in words."""
    command: tuple[str, ...]
    """The program and its arguments, as they are: no shell reads them. `{map}`, `{version}` and `{folder}` stand for
    the map's name and version, and for the folder in which it runs; `{python}` for the Python that Hook Set runs in."""
    tools: tuple[str, ...] = ()
    """Patterns: the map's own files that the command runs. A change of them is a change of the command."""
    reads: tuple[str, ...] = ()
    """Patterns: the files that it finds in its folder. What other steps write is not among them but for `after`."""
    kinds: tuple[str, ...] = ()
    """It reads the files, too, that define names of these kinds."""
    after: tuple[str, ...] = ()
    """The steps whose files it reads."""
    writes: tuple[str, ...]
    """Patterns: the files that it makes, in the map. Each must come of it."""
    needed_by: tuple[str, ...] = ()
    """Patterns: the files of those that it reads whose change makes it run. Without it, all of them."""
    needed_by_values: tuple[ValueEntry, ...] = ()
    """Values in files whose change makes it run, where the rest of the file does not."""
    environment: dict[str, str] = {}
    """What it finds in its environment, beside what every program needs."""
    seconds: int = 600
    """After so long it is stopped."""
    megabytes: int = 4096
    """So much memory it can have."""
    log: tuple[LogEntry, ...] = ()
    """How what it prints tells what is wrong; the first pattern that matches a line counts."""
