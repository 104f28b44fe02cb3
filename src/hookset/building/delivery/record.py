"""What was delivered where, and what of each pack a builder has looked at in the game: kept with the map."""

from __future__ import annotations

from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.project import OUR_FOLDER, Ledger, save_file

__all__ = ["DELIVERED", "DeliveredMap", "Deliveries", "LookAt", "read_deliveries", "to_look_for", "write_deliveries"]

DELIVERED = f"{OUR_FOLDER}/delivered.json"


class DeliveredMap(Struct, frozen=True, kw_only=True):
    """The last delivery to a destination."""

    destination: str
    target: str
    """The archive's path there."""
    when: str
    """UTC, ISO 8601."""
    version: str = ""
    packs: dict[str, str] = {}
    """The packs in it, with their versions."""
    aside: tuple[tuple[str, str], ...] = ()
    """(path, where it is kept) of what it replaced."""


class LookAt(Struct, frozen=True, kw_only=True):
    """Something to look for in the game."""

    pack: str
    version: str
    says: str
    done: bool = False


class Deliveries(Struct, frozen=True, kw_only=True):
    """All that is kept."""

    last: tuple[DeliveredMap, ...] = ()
    look_for: tuple[LookAt, ...] = ()


def read_deliveries(root: Path) -> Deliveries:
    """What is kept with a map; nothing where it cannot be read: it is a help, and nothing depends on it."""
    try:
        return msgspec.json.decode((root / DELIVERED).read_bytes(), type=Deliveries)
    except (OSError, msgspec.MsgspecError):
        return Deliveries()


def write_deliveries(root: Path, deliveries: Deliveries) -> None:
    """Keep it. Raises CouldNotError."""
    save_file(root / DELIVERED, msgspec.json.format(msgspec.json.encode(deliveries), indent=2) + b"\n")


def to_look_for(ledger: Ledger, before: Deliveries) -> tuple[LookAt, ...]:
    """What there is to be seen of each pack of a map; what was looked at in the same version of it is done."""
    seen = {(one.pack, one.version, one.says) for one in before.look_for if one.done}
    return tuple(
        LookAt(pack=pack.name, version=pack.version, says=says, done=(pack.name, pack.version, says) in seen)
        for pack in ledger.packs
        for says in pack.look_for
    )
