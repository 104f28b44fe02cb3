"""Writing a plan: all or nothing, recovered after a crash, undoable.

Everything of a change in progress lies in `.hookset/work`: the new bytes, the old bytes, and a journal. The journal's
appearance is the point of no return: before it nothing of the map was touched, from then on the change will be
completed, by this run or by the next one. Renaming the folder into the history ends it.
"""

from hookset.core.install.apply.disk import Disk
from hookset.core.install.apply.history import Entry, history, standing
from hookset.core.install.apply.lock import locked
from hookset.core.install.apply.transaction import Recovery, apply_changes, recover

__all__ = ["Disk", "Entry", "Recovery", "apply_changes", "history", "locked", "recover", "standing"]
