"""Floor 13: lifting: a pack out of one object of another map, with all that it needs."""

from hookset.core.lifting.attributes import Compared, compared
from hookset.core.lifting.closure import Item, Lifted, closed
from hookset.core.lifting.donor import Donor, Piece
from hookset.core.lifting.naming import thing_called
from hookset.core.lifting.pack import Made, lifted_pack

__all__ = ["Compared", "Donor", "Item", "Lifted", "Made", "Piece", "closed", "compared", "lifted_pack", "thing_called"]
