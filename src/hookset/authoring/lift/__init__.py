"""Floor 13: lifting: a pack out of one object of another map, with all that it needs."""

from hookset.authoring.lift.attributes import Compared, compared
from hookset.authoring.lift.closure import Item, Lifted, closed
from hookset.authoring.lift.donor import Donor, Piece
from hookset.authoring.lift.naming import thing_called
from hookset.authoring.lift.pack import Made, lifted_pack

__all__ = ["Compared", "Donor", "Item", "Lifted", "Made", "Piece", "closed", "compared", "lifted_pack", "thing_called"]
