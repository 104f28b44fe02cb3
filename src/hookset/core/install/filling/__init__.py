"""What differs from map to map, filled into entries: ids looked up, the next free number, the map's own name."""

from hookset.core.install.filling.fill import Filled, Filling, Unfillable, Unlisted, fill_names, filled, numbers_given
from hookset.core.install.filling.lookups import look_up

__all__ = ["Filled", "Filling", "Unfillable", "Unlisted", "fill_names", "filled", "look_up", "numbers_given"]
