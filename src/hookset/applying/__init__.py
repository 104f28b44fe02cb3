"""Writing a plan: all or nothing, recovered after a crash, undoable.

Everything of a change in progress lies in `.hookset/work`: the new bytes, the old bytes, and a journal. The journal's
appearance is the point of no return: before it nothing of the map was touched, from then on the change will be
completed, by this run or by the next one. Renaming the folder into the history ends it.
"""

from hookset.applying.change import Change, changed_tree, on_disk
from hookset.applying.disk import Disk
from hookset.applying.history import JournalEntry, Room, forget, history, history_size, is_own, standing
from hookset.applying.lock import locked
from hookset.applying.recovery import Ending, Interrupted, Recovery, interrupted, recover
from hookset.applying.seal import Seal, own_seal
from hookset.applying.transaction import apply_changes

__all__ = [
    "Change",
    "Disk",
    "Ending",
    "Interrupted",
    "JournalEntry",
    "Recovery",
    "Room",
    "Seal",
    "apply_changes",
    "changed_tree",
    "forget",
    "history",
    "history_size",
    "interrupted",
    "is_own",
    "locked",
    "on_disk",
    "own_seal",
    "recover",
    "standing",
]
