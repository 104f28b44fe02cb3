"""RTF (1.9.1), read by the package striprtf."""

from __future__ import annotations

from collections.abc import Iterator

from hookset.authoring.draft.notes.line import Line
from hookset.authoring.draft.notes.markdown import lines_of as plain_lines

__all__ = ["lines_of"]


def lines_of(data: bytes) -> Iterator[Line]:
    """Lines as a word processor would show them; numbers are those of the text, not of the file."""
    from striprtf.striprtf import rtf_to_text

    text = rtf_to_text(data.decode("cp1252", "replace"), errors="replace")  # type: ignore[no-untyped-call]
    yield from plain_lines(text.replace("\x0b", "\n"))
