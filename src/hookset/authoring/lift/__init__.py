"""Make a pack from one object of another map, with everything that it needs."""

from hookset.authoring.lift.attributes import AttributeChange, compare_attributes
from hookset.authoring.lift.closure import Closure, Item, closure_of
from hookset.authoring.lift.donor import Donor, Piece
from hookset.authoring.lift.naming import find_thing
from hookset.authoring.lift.pack import LiftedPack, lifted_pack

__all__ = [
    "AttributeChange",
    "Closure",
    "Donor",
    "Item",
    "LiftedPack",
    "Piece",
    "closure_of",
    "compare_attributes",
    "find_thing",
    "lifted_pack",
]
