"""An author's notes, in whatever form they came, as lines."""

from hookset.authoring.draft.notes.line import Line, Notes
from hookset.authoring.draft.notes.reading import is_licence, is_notes, read_notes

__all__ = ["Line", "Notes", "is_licence", "is_notes", "read_notes"]
