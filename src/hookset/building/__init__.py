"""The gate before a build, and the archive that players get."""

from hookset.building.archive import Archive, archive_name, plan_archive, write_archive
from hookset.building.gate import gate, gate_made, gate_shipped

__all__ = ["Archive", "archive_name", "gate", "gate_made", "gate_shipped", "plan_archive", "write_archive"]
