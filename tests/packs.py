"""Packs made for one test."""

from __future__ import annotations

import zipfile
from collections.abc import Mapping
from pathlib import Path


def made_pack(
    folder: Path, name: str, sheet: str, files: Mapping[str, str | bytes] | None = None, version: str = "1.0"
) -> Path:
    """A zip in `folder` with a hook sheet; `sheet` is what comes below its `[pack]`."""
    file = folder / f"{name}-{version}.zip"
    head = f'[pack]\nname = "{name}"\nversion = "{version}"\n'
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr("hooksheet.toml", head + sheet)
        for path, data in (files or {}).items():
            archive.writestr(path, data)
    return file
