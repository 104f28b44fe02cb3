"""The demo: Brackwater, its packs, and the journey through the tool."""

from hookset.demo.journey import FAULT, Fault, Step, steps
from hookset.demo.lay_out import lay_out

__all__ = ["FAULT", "Fault", "Step", "lay_out", "steps"]
