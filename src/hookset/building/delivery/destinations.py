"""The folders in which games look for maps, as a user has named them: a file in the user's settings."""

from __future__ import annotations

from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.config.sheets import nearest
from hookset.formats.toml import written
from hookset.model import CouldNotError, WrongUseError
from hookset.project import save_file

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
    try:
        return msgspec.toml.decode(file.read_bytes(), type=_DestinationsFile).destination
    except FileNotFoundError:
        return ()
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise CouldNotError(
            "unreadable-file",
            f"cannot be read: {error}",
            where=str(file),
            why="it says where games look for maps",
            remedy="correct it, or delete it and name the folders again: hookset deliver NAME --to FOLDER",
        ) from error


def write_destinations(file: Path, destinations: tuple[Destination, ...]) -> None:
    """Keep them. Raises CouldNotError."""
    lines = ["# Where games look for maps. `hookset deliver NAME --to FOLDER` adds one."]
    for one in destinations:
        lines += ["", "[[destination]]", f"name = {written(one.name)}", f"folder = {written(one.folder)}"]
        lines.append(f"layouts = {written(list(one.layouts))}")
    save_file(file, ("\n".join(lines) + "\n").encode("utf-8", "surrogateescape"))


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
