"""Derive a new pack from a template pack, under a new name."""

from hookset.authoring.derive.derived import Derived, Renaming, derived
from hookset.authoring.derive.tokens import Form, forms_of, words_of

__all__ = ["Derived", "Form", "Renaming", "derived", "forms_of", "words_of"]
