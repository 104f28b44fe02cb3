"""The ways of changing a map, each from what is asked to a plan."""
