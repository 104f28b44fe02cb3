"""Lines of a log by the layout's patterns; of a log that no pattern knows, by what all logs have in common."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from hookset.config.layouts import Layout

__all__ = ["LogLine", "log_lines"]

_LEVEL = re.compile(
    r"\b(?P<error>error|fatal|exception|traceback|panic|failed|failure)\b"
    r"|\b(?P<warning>warn(?:ing)?|missing|not found|could not|cannot|can't|unable)\b",
    re.IGNORECASE,
)
_PLACE = re.compile(
    r"(?<![\w.+-])(?P<file>(?:[\w.+-]{1,255}+[/\\]){0,40}+[\w+-]{1,255}+\.[A-Za-z]\w{0,5})(?:[:(](?P<line>\d{1,9})\)?)?"
)
_LONGEST = 2_000
"""Characters of a line that are looked at."""
_QUOTED = re.compile(r"[\"'`“](?P<name>[^\"'`“”\n]{1,120})[\"'`”]")


@dataclass(frozen=True, slots=True, kw_only=True)
class LogLine:
    """One line that tells of something wrong."""

    number: int
    level: str
    """error or warning"""
    text: str
    title: str = ""
    kind: str = ""
    """Empty where it is not known what `name` names."""
    name: str = ""
    file: str = ""
    line: int = 0


def log_lines(log: str, layout: Layout) -> tuple[list[LogLine], int]:
    """What is wrong in the last run that the log tells of, and how many lines were looked at."""
    lines = log.splitlines()
    first = _last_run(lines, layout)
    read = (_read(line[:_LONGEST], number, layout) for number, line in enumerate(lines[first:], first + 1))
    return [one for one in read if one is not None], len(lines) - first


def _last_run(lines: list[str], layout: Layout) -> int:
    begins = [rule.match for rule in layout.logs if rule.entry.level == "begins"]
    at = (
        number
        for number in range(len(lines) - 1, -1, -1)
        if any(rule.search(lines[number][:_LONGEST]) for rule in begins)
    )
    return next(at, 0)


def _read(line: str, number: int, layout: Layout) -> LogLine | None:
    for rule in layout.logs:
        match = rule.match.search(line)
        if match is None:
            continue
        if rule.entry.level in ("skip", "begins"):
            return None
        said = match.groupdict()
        return LogLine(
            number=number,
            level=rule.entry.level,
            text=(said.get("text") or line).strip(),
            title=rule.entry.title,
            kind=rule.entry.kind,
            name=said.get("name") or "",
            file=(said.get("file") or "").replace("\\", "/"),
            line=_number(said.get("line")),
        )
    return _by_its_words(line, number)


def _number(written: str | None) -> int:
    return int(written) if written is not None and re.fullmatch(r"[0-9]{1,9}", written) else 0


def _by_its_words(line: str, number: int) -> LogLine | None:
    """A line that no pattern knows."""
    level = _LEVEL.search(line)
    if level is None:
        return None
    place, quoted = _PLACE.search(line), _QUOTED.search(line)
    made = LogLine(number=number, level="error" if level["error"] else "warning", text=line.strip())
    if place is not None:
        made = replace(made, file=place["file"].replace("\\", "/"), line=int(place["line"] or 0))
    return replace(made, name=quoted["name"]) if quoted is not None else made
