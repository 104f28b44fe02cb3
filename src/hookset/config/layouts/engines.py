"""Games that load a map without a screen, as they are written."""

from __future__ import annotations

from typing import Literal

from hookset.config.layouts.steps import LogEntry
from hookset.config.layouts.tables import PartEntry

__all__ = ["EngineEntry"]


class EngineEntry(PartEntry, frozen=True, kw_only=True):
    """A program that loads a map and says what is wrong with it: `[[engine]]`."""

    name: str
    title: str = ""
    """What it is, in words."""
    command: tuple[str, ...]
    """The program and its arguments, as they are: no shell reads them. `{map}` stands for the place of the map,
    `{folder}` for the folder in which the program runs, and `{ticks}` for how many seconds the map is to be played."""
    loads: Literal["folder", "archive"] = "folder"
    """What it is given: the map's files as they are now, or the built archive."""
    at: str = "map"
    """Where the map goes in that folder; `{archive}` is the archive's name."""
    files: dict[str, str] = {}
    """What else it needs there: texts by their paths. In `map/…` they lie among the map's own files."""
    environment: dict[str, str] = {}
    seconds: int = 60
    """After so long it is stopped, and that is wrong."""
    runs: int = 0
    """After so long it is stopped, and that is as it should be; 0 for one that ends by itself."""
    megabytes: int = 4096
    loaded: str = ""
    """A regular expression of a line that says that the map is loaded; without such a line it did not load."""
    continues: str = ""
    """A regular expression of lines that go on with the one above them."""
    log: tuple[LogEntry, ...] = ()
    """How what it prints tells what is wrong; the first pattern that matches a line counts. Without any, as the layout
    says of the game's log."""
