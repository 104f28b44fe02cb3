"""Frames that people draw around plain notes, with the characters for drawing boxes or with plain ones."""

from __future__ import annotations

import re

__all__ = ["unframed"]

_DRAWN = "─━│┃┄┅┆┇┈┉┊┋┌┍┎┏┐┑┒┓└┕┖┗┘┙┚┛├┝┞┟┠┡┢┣┤┥┦┧┨┩┪┫┬┴┼═║╒╓╔╕╖╗╘╙╚╛╜╝╞╟╠╡╢╣╤╧╪╫╬╭╮╯╰▀▄█▌▐░▒▓"
_EDGE = rf"[{_DRAWN}]"
_ROW = re.compile(rf"\s*{_EDGE}+(?P<text>.*?){_EDGE}*\s*")
_RULE = re.compile(rf"[\s{_DRAWN}]*")
_TITLE = re.compile(rf"\s*{_EDGE}+[\s\[(<{{]*(?P<text>[^{_DRAWN}\[\](){{}}<>]+?)[\s\])>}}]*{_EDGE}{{2,}}\s*")
_PLAIN = re.compile(r"\s*(?P<mark>[|*#:!])(?P<text>.*)(?P=mark)\s*")
_PLAIN_RULE = re.compile(r"\s*[-+=*#.'`,|:!_~]{5,}\s*")
_FEW = 3
"""Lines from which on plain characters at both ends of each are a frame."""


def unframed(text: str) -> str:
    """The text without what is drawn around it: as many lines, each with what stands in it. A title in the frame is a
    line of its own."""
    lines = [_without_box(line) for line in text.splitlines()]
    start = 0
    while start < len(lines):
        end = start
        while end < len(lines) and (_is_framed(lines[end]) or (end > start and _PLAIN_RULE.fullmatch(lines[end]))):
            end += 1
        if sum(_is_framed(line) for line in lines[start:end]) >= _FEW:
            lines[start:end] = [_inner(line) for line in lines[start:end]]
        start = max(end, start + 1)
    return "".join(f"{line}\n" for line in lines)


def _without_box(line: str) -> str:
    if _RULE.fullmatch(line):
        return "" if line.strip() else line
    title = _TITLE.fullmatch(line)
    if title is not None:
        return title["text"].strip()
    row = _ROW.fullmatch(line)
    return row["text"].rstrip() if row is not None else line


def _is_framed(line: str) -> bool:
    """Whether a line is between two of the same plain characters; with more of them in it, it is a row of a table."""
    row = _PLAIN.fullmatch(line)
    return row is not None and row["mark"] not in row["text"] and row["text"][:1] in ("", " ")


def _inner(line: str) -> str:
    row = _PLAIN.fullmatch(line)
    return row["text"].rstrip() if row is not None else ""
