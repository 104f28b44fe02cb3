"""Floor 7: entries in the files of a map: setting them, finding them again, taking them out."""

from hookset.edits.find import Standing
from hookset.edits.insertions import Insertions
from hookset.edits.merge import Conflict, Merged, merged
from hookset.edits.place import Put, line_above, line_below, placed, put, seat_at
from hookset.edits.presence import how_it_stands, how_they_stand
from hookset.edits.replay import ByHand, Rewound, rewound, standing_of

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
