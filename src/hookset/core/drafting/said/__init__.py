"""What notes say: texts to copy, what is said around each, and what is to be put into it."""

from hookset.core.drafting.said.chunks import Chunk, chunks_of
from hookset.core.drafting.said.conditions import Condition, condition_of
from hookset.core.drafting.said.holes import Hole, holed
from hookset.core.drafting.said.words import concepts, languages_said, mends

__all__ = ["Chunk", "Condition", "Hole", "chunks_of", "concepts", "condition_of", "holed", "languages_said", "mends"]
