"""Smaller games of the same family, each with maps of another form. The map's descriptor says which one it is for."""

from __future__ import annotations

from collections.abc import Callable

from hookset.standin.games.basin import play_basin
from hookset.standin.games.canal import play_canal
from hookset.standin.games.packed import Packed
from hookset.standin.games.regatta import play_regatta
from hookset.standin.games.ropewalk import play_ropewalk
from hookset.standin.games.shore import play_shore

__all__ = ["GAMES", "Packed"]

GAMES: dict[str, Callable[[Packed], None]] = {
    "place.json": play_canal,
    "world.json": play_basin,
    "town.toml": play_shore,
    "about.yaml": play_ropewalk,
    "course.ini": play_regatta,
}
"""By the file at the archive's top."""
