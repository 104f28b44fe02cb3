"""Writing a hook's own lines the way the file around them is written."""

from __future__ import annotations

import textwrap

from hookset.trees import Text

__all__ = ["lead_of", "written_lines"]


def written_lines(file: Text, text: str, lead: str) -> str:
    """The lines of `text` below each other, with the file's indentation and newlines. The first has its lead, too."""
    own = Text(textwrap.dedent(text.replace("\r\n", "\n")).rstrip("\n"), "utf-8")
    lines = []
    for line in own.string.split("\n"):
        body = line.lstrip(" \t")
        blanks = line[: len(line) - len(body)]
        if not blanks:
            lines.append(lead + body.rstrip() if body else "")
            continue
        depth = blanks.count("\t") if own.indent == "\t" else len(blanks.expandtabs(4)) // len(own.indent)
        lines.append(lead + file.indent * depth + body.rstrip() if body else "")
    return file.newline.join(lines)


def lead_of(string: str, offset: int) -> str:
    """The blanks that the line of `offset` begins with."""
    start = string.rfind("\n", 0, offset) + 1
    end = start
    while end < len(string) and string[end] in " \t":
        end += 1
    return string[start:end]
