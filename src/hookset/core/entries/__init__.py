"""Floor 7: entries in the files of a map: setting them, finding them again, taking them out."""

from hookset.core.entries.finding import Standing
from hookset.core.entries.gone import how_it_stands, how_they_stand
from hookset.core.entries.insertions import Insertions
from hookset.core.entries.merging import Conflict, Merged, merged
from hookset.core.entries.putting import Put, line_above, line_below, placed, put, seat_at
from hookset.core.entries.winding import ByHand, Rewound, rewound, standing_of

__all__ = [
    "ByHand",
    "Conflict",
    "Insertions",
    "Merged",
    "Put",
    "Rewound",
    "Standing",
    "how_it_stands",
    "how_they_stand",
    "line_above",
    "line_below",
    "merged",
    "placed",
    "put",
    "rewound",
    "seat_at",
    "standing_of",
]
