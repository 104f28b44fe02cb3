"""A small simulated game that loads a built map by naive code of its own.

It is how a verdict of the checks is tried by somebody else, so it shares no code with them: it opens the zip, takes
the manifest at its word, loads what the descriptor, the tables and the scene name, runs the scripts of both sides in
a real Lua, uses every object once or twice, and writes a log.
"""

from hookset.standin.game import play
from hookset.standin.log import Line, Log

__all__ = ["Line", "Log", "play"]
