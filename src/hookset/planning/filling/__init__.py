"""What differs from map to map, filled into entries: ids looked up, the next free number, the map's own name."""

from hookset.planning.filling.map_values import MapValues
from hookset.planning.filling.placeholders import (
    Filled,
    Filling,
    Unfillable,
    Unlisted,
    fill_names,
    filled,
    numbers_given,
)

__all__ = ["Filled", "Filling", "MapValues", "Unfillable", "Unlisted", "fill_names", "filled", "numbers_given"]
