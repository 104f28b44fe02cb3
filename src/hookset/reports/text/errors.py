"""An error, as the builder reads it: what, where, why, what to do."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import columns, marked, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.model import HooksetError
    from hookset.planning import Stop

__all__ = ["error_text", "stops_text"]


def error_text(error: HooksetError, word: str) -> RenderableType:
    """`word` is how it begins: error, refused …"""
    return _told(word, error.where, error.what, error.details, error.why, error.remedy)


def stops_text(stops: tuple[Stop, ...]) -> RenderableType:
    """Everything that stands in the way of a plan."""
    return stacked(*(_told("stopped", s.where, s.what, s.details, s.why, s.remedy) for s in stops))


def _told(word: str, where: str, what: str, details: tuple[str, ...], why: str, remedy: str) -> RenderableType:
    first = Text()
    first.append(f"{word}: ", style="error")
    if where:
        first.append(f"{where}: ", style="title")
    first.append_text(marked(what))
    rows = [(Text(label, style="label"), marked(words)) for label, words in (("why", why), ("do", remedy)) if words]
    return stacked(first, *(Text(f"    {line}") for line in details), columns(rows, indent=2) if rows else None)
