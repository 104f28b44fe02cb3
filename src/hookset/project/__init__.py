"""The map project: its own file, the stock that it may count on, the ledger."""

from hookset.project.inside import RealPlace, our_folder, real_place
from hookset.project.ledger import (
    Ledger,
    LedgerAnchor,
    LedgerBlank,
    LedgerEdit,
    LedgerExclusion,
    LedgerFile,
    LedgerFill,
    LedgerHook,
    LedgerPack,
    LedgerPlace,
    LedgerSetting,
    LedgerSpot,
    read_ledger,
    written_ledger,
)
from hookset.project.project import MapProject, ProjectFile, open_layout, open_project, read_project
from hookset.project.saving import save_file, saved_in_map
from hookset.project.settings import read_settings, write_settings
from hookset.project.starting import Beginning, NoLayoutError, begin
from hookset.project.stocks import Stock, read_stock
from hookset.project.terms import Accepted, Terms
from hookset.trees.ours import KEPT, LEDGER, OUR_FOLDER, PROJECT_FILE, find_root, is_ours

__all__ = [
    "KEPT",
    "LEDGER",
    "OUR_FOLDER",
    "PROJECT_FILE",
    "Accepted",
    "Beginning",
    "Ledger",
    "LedgerAnchor",
    "LedgerBlank",
    "LedgerEdit",
    "LedgerExclusion",
    "LedgerFile",
    "LedgerFill",
    "LedgerHook",
    "LedgerPack",
    "LedgerPlace",
    "LedgerSetting",
    "LedgerSpot",
    "MapProject",
    "NoLayoutError",
    "ProjectFile",
    "RealPlace",
    "Stock",
    "Terms",
    "begin",
    "find_root",
    "is_ours",
    "open_layout",
    "open_project",
    "our_folder",
    "read_ledger",
    "read_project",
    "read_settings",
    "read_stock",
    "real_place",
    "save_file",
    "saved_in_map",
    "write_settings",
    "written_ledger",
]
