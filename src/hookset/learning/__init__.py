"""A layout learned from a map: the places where texts stand, which of them equal the names at others, and rules."""

from hookset.learning.compared import Beside, beside
from hookset.learning.guess import Guess
from hookset.learning.known import Known, known_by
from hookset.learning.learned import Learned, learned
from hookset.learning.located import lines_of
from hookset.learning.preview import previewed

__all__ = ["Beside", "Guess", "Known", "Learned", "beside", "known_by", "learned", "lines_of", "previewed"]
