"""Files in the user's settings, outside of any map: TOML that the program writes, and a person may correct."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from hookset.formats.toml import written
from hookset.model import CouldNotError
from hookset.project.saving import save_file

__all__ = ["read_settings", "write_settings"]

_T = TypeVar("_T")


def read_settings(file: Path, form: type[_T], why: str, remedy: str) -> _T:
    """What a file says; what an empty one would, where there is none. `why` and `remedy` are told with what is wrong.
    Raises CouldNotError for a file that cannot be read."""
    try:
        return msgspec.toml.decode(file.read_bytes(), type=form)
    except FileNotFoundError:
        return form()
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise CouldNotError(
            "unreadable-file", f"cannot be read: {error}", where=str(file), why=why, remedy=remedy
        ) from error


def write_settings(file: Path, head: str, table: str, rows: Sequence[Mapping[str, Any]]) -> None:
    """Write a file of tables that are called alike, below a remark. Raises CouldNotError."""
    lines = [f"# {head}"]
    for row in rows:
        lines += ["", f"[[{table}]]", *(f"{key} = {written(value)}" for key, value in row.items())]
    save_file(file, ("\n".join(lines) + "\n").encode("utf-8", "surrogateescape"))
