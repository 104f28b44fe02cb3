"""PDF, read by the package pypdf: the text of its pages, in the order in which it was set."""

from __future__ import annotations

import io
import logging
from collections.abc import Iterator

from hookset.authoring.draft.notes.line import Line
from hookset.authoring.draft.notes.markdown import lines_of as plain_lines

__all__ = ["lines_of"]

_PAGES = 40


def lines_of(data: bytes) -> Iterator[Line]:
    """Lines of the first pages. A damaged document has none."""
    from pypdf import PdfReader
    from pypdf.errors import PyPdfError

    # What the package thinks of a document is not for the builder.
    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    try:
        pages = [page.extract_text() for _, page in zip(range(_PAGES), PdfReader(io.BytesIO(data)).pages, strict=False)]
    except (PyPdfError, ValueError, KeyError, TypeError, AttributeError, IndexError, RecursionError, OSError):
        return
    yield from plain_lines("\n".join(pages))
