"""What differs from map to map, filled into entries: ids looked up, the next free number, the map's own name."""

from hookset.core.install.filling.fill import Filled, Filling, Unfillable, Unlisted, fill_names, filled, numbers_given
from hookset.core.install.filling.values import MapValues

__all__ = ["Filled", "Filling", "MapValues", "Unfillable", "Unlisted", "fill_names", "filled", "numbers_given"]
