"""Figures: the map from above or from the side, the names around a name, what the map weighs."""
