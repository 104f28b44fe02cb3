"""Entries in the files of a map: place them, find them again, remove them."""

from hookset.edits.find import EntryState
from hookset.edits.insertions import Insertions
from hookset.edits.merge import Conflict, Merged, merged
from hookset.edits.place import Put, line_above, line_below, placed, put, seat_at, with_words
from hookset.edits.presence import entry_state, entry_states
from hookset.edits.replay import ByHand, Replayed, replay
from hookset.edits.runs import in_given_order

__all__ = [
    "ByHand",
    "Conflict",
    "EntryState",
    "Insertions",
    "Merged",
    "Put",
    "Replayed",
    "entry_state",
    "entry_states",
    "in_given_order",
    "line_above",
    "line_below",
    "merged",
    "placed",
    "put",
    "replay",
    "seat_at",
    "with_words",
]
