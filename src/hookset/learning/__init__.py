"""A layout learned from a map: the places where texts stand, which of them equal the names at others, and rules."""

from hookset.learning.learned import Learned, learned
from hookset.learning.located import lines_of
from hookset.learning.rules import Guess

__all__ = ["Guess", "Learned", "learned", "lines_of"]
