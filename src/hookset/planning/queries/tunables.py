"""What a pack was given in a map, and where each value stands now."""

from __future__ import annotations

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.model import Spot
from hookset.planning.operations.remove import installed_pack
from hookset.project import Ledger, LedgerPack, LedgerSetting, LedgerSpot, MapProject
from hookset.symbols import spots
from hookset.symbols.reading import read_at
from hookset.trees import Tree

__all__ = ["Place", "Tunables", "tunables"]


class Place(Struct, frozen=True):
    """One place where a setting lives."""

    spot: Spot
    value: str
    """As it stands there; empty where it is not found."""


class Tunables(Struct, frozen=True):
    """What of an installed pack can be changed."""

    pack: LedgerPack
    settings: tuple[tuple[LedgerSetting, tuple[Place, ...]], ...]


def tunables(project: MapProject, ledger: Ledger, name: str) -> Tunables:
    """Raises WrongUseError for a pack that is not there."""
    pack = installed_pack(ledger, name)
    tree = project.tree
    settings = tuple((one, tuple(_place(tree, project.layout, spot) for spot in one.write)) for one in pack.settings)
    return Tunables(pack, settings)


def _place(tree: Tree, layout: Layout, spot: LedgerSpot) -> Place:
    found = read_at(tree, layout, spot)
    if found is None:
        return Place(Spot(spot.file), "")
    value, where = found
    return Place(spots(tree, layout, [(spot.file, where)])[spot.file, where], value)
