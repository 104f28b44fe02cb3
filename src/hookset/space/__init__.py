"""Geometry: turns as files write them, transforms within transforms, shapes, what is near what. NumPy and SciPy, and
nothing of maps."""
