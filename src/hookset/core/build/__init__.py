"""Floor 11: the gate, and the archive that players get."""

from hookset.core.build.archive import Archive, plan_archive, write_archive
from hookset.core.build.gate import gate

__all__ = ["Archive", "gate", "plan_archive", "write_archive"]
