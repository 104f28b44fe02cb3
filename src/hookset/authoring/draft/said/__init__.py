"""What notes say: texts to copy, what is said around each, and what is to be put into it."""

from hookset.authoring.draft.said.chunks import Chunk, chunks_of
from hookset.authoring.draft.said.conditions import Condition, condition_of
from hookset.authoring.draft.said.holes import Hole, holed

__all__ = ["Chunk", "Condition", "Hole", "chunks_of", "condition_of", "holed"]
