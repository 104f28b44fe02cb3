"""Writing a plan: all or nothing, recovered after a crash, undoable.

Everything of a change in progress lies in `.hookset/work`: the new bytes, the old bytes, and a journal. The journal's
appearance is the point of no return: before it nothing of the map was touched, from then on the change will be
completed, by this run or by the next one. Renaming the folder into the history ends it.
"""

from hookset.core.install.apply.disk import Disk
from hookset.core.install.apply.history import Entry, Room, forget, history, history_size, is_own, standing
from hookset.core.install.apply.lock import locked
from hookset.core.install.apply.recovery import Ending, Interrupted, Recovery, interrupted, recover
from hookset.core.install.apply.seal import Seal, own_seal
from hookset.core.install.apply.transaction import apply_changes

__all__ = [
    "Disk",
    "Ending",
    "Entry",
    "Interrupted",
    "Recovery",
    "Room",
    "Seal",
    "apply_changes",
    "forget",
    "history",
    "history_size",
    "interrupted",
    "is_own",
    "locked",
    "own_seal",
    "recover",
    "standing",
]
