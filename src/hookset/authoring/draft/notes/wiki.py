"""Marks of wikis and of reStructuredText in plain notes, as Markdown has them: `== Install ==`, `.. code::`."""

from __future__ import annotations

import re

__all__ = ["in_markdown"]

_TITLE = re.compile(r"^(?P<marks>={2,6})[ \t]*(?P<title>[^=\n]+?)[ \t]*(?P=marks)[ \t]*$", re.MULTILINE)
_CODE = re.compile(r"<(?P<tag>code|tt|kbd|samp)>(?P<text>[^<>`\n]{1,200})</(?P=tag)>", re.IGNORECASE)
_DOUBLE = re.compile(r"(?<!`)``(?P<text>[^`\n]{1,200})``(?!`)")
_DIRECTIVE = re.compile(r"^[ \t]*\.\. (?:code-block|code|highlight|literalinclude|sourcecode)::.*$", re.MULTILINE)
_ADMONITION = re.compile(r"^(?P<lead>[ \t]*)\.\. (?:note|warning|tip|important|caution|hint)::[ \t]*", re.MULTILINE)


def in_markdown(text: str) -> str:
    """The text with as many lines, and with the marks of Markdown."""
    text = _TITLE.sub(lambda match: f"{'#' * (len(match['marks']) - 1)} {match['title']}", text)
    text = _DOUBLE.sub(r"`\g<text>`", _CODE.sub(r"`\g<text>`", text))
    return _ADMONITION.sub(r"\g<lead>", _DIRECTIVE.sub("", text))
