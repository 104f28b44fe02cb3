"""How far a value goes that is written over several lines, in files of keys and values."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Literal

__all__ = ["Continuation", "Continued"]

Continuation = Literal["backslash", "brackets", "commas", "indent", "quotes"]
"""What makes a value go on in the next line: a backslash at the end of this one, brackets that are open, a comma at its
end, blanks that the next one begins with, quotes that are open."""

_SECTION = re.compile(r"^[ \t]*\[[^\]\r\n]*\][ \t]*\r?$", re.M)
_OPENS = re.compile(r"\s*(?:\w*[({]|(?P<quote>\w*\(?\"))")
"""What a value begins with whose key stands in a line of its own."""
_INDENTED = re.compile(r"[ \t]+[^\s]")
_QUOTED = r"\"(?:[^\"\\]|\\[\s\S])*\""
_QUOTED_IN_LINE = r"\"(?:[^\"\\\n]|\\.)*\""


class Continued:
    """How values go on in files that are written alike."""

    def __init__(self, ways: Iterable[Continuation], comments: Iterable[str]) -> None:
        self._ways = frozenset(ways)
        marks = "|".join(map(re.escape, comments)) or "(?!)"
        quoted = _QUOTED if "quotes" in self._ways else _QUOTED_IN_LINE
        self._comment = re.compile(rf"[ \t]*(?:{marks}).*")
        self._token = re.compile(
            rf"(?P<quoted>{quoted})|(?P<comment>(?:(?<=\s)|^)(?:{marks}).*)|(?P<line>\n)"
            r"|(?P<opens>[({\[])|(?P<closes>[)}\]])|(?P<blank>[^\S\n]+)|(?P<other>[^\s\"(){}\[\]]+|.)",
            re.M,
        )

    def value(self, string: str, start: int) -> tuple[int, str] | None:
        """The value that begins at `start` or in the line below, and where it does, without what stands behind it;
        comments within it are blanks. None where nothing closes what it opens before the next section: the mark was
        meant as it stands."""
        depth, end, begin = 0, start, start
        below = 0  # Where the value begins that stands below its key: the comments between are passed over once.
        comments: list[tuple[int, int]] = []
        for token in self._token.finditer(string, start):
            kind = token.lastgroup
            if kind == "line":
                if end == start and token.end() <= below:
                    continue
                at_end = _SECTION.match(string, token.end()) is not None
                below = self._content(string, token.end()) if end == start else 0
                if at_end or (not depth and not self._goes_on(string, end, token.end(), below)):
                    return (begin, _blanked(string, begin, end, comments)) if not depth else None
            elif kind == "quoted" and _SECTION.search(token.group()):
                return None
            elif kind == "comment":
                comments.append(token.span())
            elif kind != "blank":
                begin = token.start() if end == start else begin
                if "brackets" in self._ways:
                    depth = max(0, depth + (kind == "opens") - (kind == "closes"))
                end = token.end()
        return (begin, _blanked(string, begin, end, comments)) if not depth else None

    def _goes_on(self, string: str, end: int, line: int, below: int) -> bool:
        """Whether the next line, which begins at `line`, belongs to the value that has come to `end`; `below` is where
        one begins that stands below its key, 0 for others."""
        if below:
            found = _OPENS.match(string, below)
            return found is not None and ("quotes" if found["quote"] else "brackets") in self._ways
        if (string[end - 1] == "\\" and "backslash" in self._ways) or (
            string[end - 1] == "," and "commas" in self._ways
        ):
            return True
        return "indent" in self._ways and _INDENTED.match(string, line) is not None

    def _content(self, string: str, line: int) -> int:
        """Where the next line begins that is no comment."""
        while (found := self._comment.match(string, line)) is not None:
            line = found.end() + 1
        return line


def _blanked(string: str, start: int, end: int, comments: Iterable[tuple[int, int]]) -> str:
    """What stands there, as long as it is, with blanks in the place of comments."""
    text, at = "", start
    for first, last in comments:
        if start <= first and last <= end:
            text += string[at:first] + " " * (last - first)
            at = last
    return text + string[at:end]
