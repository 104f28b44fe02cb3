"""Words of a layout's own in sentences of ours."""

from __future__ import annotations

__all__ = ["with_article"]


def with_article(noun: str) -> str:
    """`a sound`, `an object`: by the first letter, as most nouns go."""
    return f"{'an' if noun[:1].lower() in 'aeiou' else 'a'} {noun}"
