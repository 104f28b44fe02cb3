"""The game's log read back: what is wrong, how often, where, and whose it is."""

from hookset.building.logs.blame import Blame
from hookset.building.logs.lines import LogLine, known_lines, log_lines
from hookset.building.logs.memory import Memory, read_memory, remembered, written_memory
from hookset.building.logs.report import LogReport, Trouble, log_report

__all__ = [
    "Blame",
    "LogLine",
    "LogReport",
    "Memory",
    "Trouble",
    "known_lines",
    "log_lines",
    "log_report",
    "read_memory",
    "remembered",
    "written_memory",
]
