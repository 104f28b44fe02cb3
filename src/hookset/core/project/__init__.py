"""Floor 6: the map project as the builder has it: its own file, the stock it may count on, the ledger."""

from hookset.core.project.ledger import (
    Ledger,
    LedgerFile,
    LedgerHook,
    LedgerPack,
    read_ledger,
    written_ledger,
)
from hookset.core.project.places import LEDGER, OUR_FOLDER, PROJECT_FILE, is_ours
from hookset.core.project.project import MapProject, ProjectFile, find_root, open_project, read_project
from hookset.core.project.starting import Beginning, begin
from hookset.core.project.stocks import Stock, read_stock
from hookset.core.project.terms import Accepted, Terms

__all__ = [
    "LEDGER",
    "OUR_FOLDER",
    "PROJECT_FILE",
    "Accepted",
    "Beginning",
    "Ledger",
    "LedgerFile",
    "LedgerHook",
    "LedgerPack",
    "MapProject",
    "ProjectFile",
    "Stock",
    "Terms",
    "begin",
    "find_root",
    "is_ours",
    "open_project",
    "read_ledger",
    "read_project",
    "read_stock",
    "written_ledger",
]
