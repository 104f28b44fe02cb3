"""A tar (POSIX.1-2001): members in order, owned by nobody, without times, so that equal content gives equal bytes."""

from __future__ import annotations

import tarfile
from collections.abc import Mapping, Sequence
from pathlib import Path

from hookset.project.saving import replacing
from hookset.trees import Glob, Tree

__all__ = ["TAR"]


class _Tar:
    """Nothing in it is packed: it is written as a whole as soon as one member has changed."""

    version = "tar 1"

    def write(
        self,
        tree: Tree,
        members: Sequence[str],
        stored: Sequence[Glob],  # noqa: ARG002
        target: Path,
        same: frozenset[str],  # noqa: ARG002
    ) -> int:
        with replacing(target) as stream, tarfile.open(fileobj=stream, mode="w", format=tarfile.PAX_FORMAT) as archive:
            for path in members:
                info = tarfile.TarInfo(path)
                info.size = tree.size(path)
                info.mode = 0o644
                with tree.open(path) as source:
                    archive.addfile(info, source)
        return len(members)

    def listed(self, target: Path, fresh: frozenset[str]) -> Mapping[str, int]:  # noqa: ARG002
        with tarfile.open(target, "r:") as archive:
            return {member.name: member.size for member in archive}

    def state(self, target: Path) -> tuple[int, int, int]:
        found = target.stat()
        return found.st_size, found.st_ino, found.st_mtime_ns


TAR = _Tar()
