"""What notes say: texts to copy, what is said around each, and what is to be put into it."""

from hookset.authoring.draft.said.chunks import Chunk, chunks_of
from hookset.authoring.draft.said.conditions import Condition, condition_of
from hookset.authoring.draft.said.holes import Hole, holed
from hookset.authoring.draft.said.words import concepts, languages_said, mends

__all__ = ["Chunk", "Condition", "Hole", "chunks_of", "concepts", "condition_of", "holed", "languages_said", "mends"]
