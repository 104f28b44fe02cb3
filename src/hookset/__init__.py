"""Hook Set: sets scripted prefabs into a map project and checks every reference before building."""

__version__ = "0.1.0"
