"""Posts of forums, with their tags in square brackets: `[code]…[/code]`, `[b]`, `[*]`."""

from __future__ import annotations

import re
from collections.abc import Iterator

from hookset.authoring.draft.notes.line import Line

__all__ = ["is_post", "lines_of"]

_TAG = re.compile(
    r"\[/?(?:b|i|u|s|list|url|img|size|color|font|quote|center|h\d|spoiler|table|tr|td)(?:=[^\]\n]*)?\]|\[\*\]",
    re.IGNORECASE,
)
_CODE = re.compile(r"\[(?P<end>/?)(?:code|pre|lua|xml|json)(?:=[^\]\n]*)?\]", re.IGNORECASE)
_OTHER_END = re.compile(r"\[/(?:quote|spoiler|list|b|i|u|url)\]", re.IGNORECASE)


def is_post(text: str) -> bool:
    """Whether a text has been written with such tags."""
    return re.search(r"\[/(?:b|i|u|url|list|code|size|quote)\]", text, re.IGNORECASE) is not None


def lines_of(text: str) -> Iterator[Line]:
    """Lines without tags; what stands between those for code is marked as such, also within a line."""
    code = False
    for number, line in enumerate(text.splitlines(), 1):
        position = 0
        for match in _CODE.finditer(line):
            yield from _part(number, line[position : match.start()], code)
            code = not match["end"]
            yield Line(number, "")
            position = match.end()
        rest = line[position:]
        if code and (end := _OTHER_END.search(rest)) is not None:
            # What was opened as code was closed as something else.
            yield from _part(number, rest[: end.start()], code)
            code, rest, position = False, rest[end.end() :], 1
            yield Line(number, "")
        yield from _part(number, rest, code, whole=not position)


def _part(number: int, text: str, code: bool, whole: bool = False) -> Iterator[Line]:
    plain = text if code else _TAG.sub(" ", text)
    if plain.strip() or whole:
        yield Line(number, plain.rstrip() if code else plain.strip(), code)
