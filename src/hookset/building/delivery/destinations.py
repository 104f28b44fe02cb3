"""The folders in which games look for maps, as a user has named them: a file in the user's settings."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from hookset.config.sheets import nearest
from hookset.model import WrongUseError
from hookset.project import read_settings, write_settings

__all__ = [
    "Destination",
    "destination_named",
    "read_destinations",
    "with_destination",
    "without_destination",
    "write_destinations",
]


class Destination(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A folder where a game looks."""

    name: str
    folder: str
    layouts: tuple[str, ...] = ()
    """The layouts whose maps go there."""


class _DestinationsFile(Struct, frozen=True, forbid_unknown_fields=True):
    destination: tuple[Destination, ...] = ()


def read_destinations(file: Path) -> tuple[Destination, ...]:
    """What the user has named. Raises CouldNotError for a file that cannot be read."""
    remedy = "correct it, or delete it and name the folders again: hookset deliver NAME --to FOLDER"
    return read_settings(file, _DestinationsFile, "it says where games look for maps", remedy).destination


def write_destinations(file: Path, destinations: tuple[Destination, ...]) -> None:
    """Keep them. Raises CouldNotError."""
    rows = [{"name": one.name, "folder": one.folder, "layouts": list(one.layouts)} for one in destinations]
    head = "Where games look for maps. `hookset deliver NAME --to FOLDER` adds one."
    write_settings(file, head, "destination", rows)


def destination_named(destinations: tuple[Destination, ...], name: str) -> Destination:
    """The destination of a name. Raises WrongUseError for none."""
    found = next((one for one in destinations if one.name == name), None)
    if found is None:
        names = [one.name for one in destinations]
        raise WrongUseError(
            "unknown-destination",
            f"no destination is called `{name}`{nearest(name, names)}",
            remedy=f"name it: hookset deliver {name} --to FOLDER"
            + (f"; there are {', '.join(names)}" if names else ""),
        )
    return found


def with_destination(destinations: tuple[Destination, ...], new: Destination) -> tuple[Destination, ...]:
    """The destinations with one more, or another folder for one."""
    before = next((one for one in destinations if one.name == new.name), None)
    if before is not None:
        new = Destination(
            name=new.name, folder=new.folder, layouts=tuple(dict.fromkeys((*before.layouts, *new.layouts)))
        )
    return (*(one for one in destinations if one.name != new.name), new)


def without_destination(destinations: tuple[Destination, ...], name: str) -> tuple[Destination, ...]:
    """The destinations without one. Raises WrongUseError where none has that name."""
    gone = destination_named(destinations, name)
    return tuple(one for one in destinations if one is not gone)
