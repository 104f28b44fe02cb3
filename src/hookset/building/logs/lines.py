"""Lines of a log by the layout's patterns; of a log that no pattern knows, by what all logs have in common."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from hookset.config.layouts.rules import LogRule

__all__ = ["LogLine", "known_lines", "log_lines"]

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


class LogLine(Struct, frozen=True, kw_only=True):
    """One line that tells of something wrong."""

    number: int
    level: str
    """error or warning; about, for what only says which file the next ones are about"""
    text: str
    title: str = ""
    kind: str = ""
    """Empty where it is not known what `name` names."""
    name: str = ""
    file: str = ""
    line: int = 0


def log_lines(log: str, rules: Sequence[LogRule]) -> tuple[list[LogLine], int]:
    """What is wrong in the last run that the log tells of, and how many lines were looked at."""
    lines = log.splitlines()
    first = _last_run(lines, rules)
    numbered = ((number, line[:_LONGEST]) for number, line in enumerate(lines[first:], first + 1))
    read = (
        found if (found := _by_rules(line, n, rules)) != "unknown" else _by_its_words(line, n) for n, line in numbered
    )
    return list(_told(read)), len(lines) - first


def known_lines(log: str, rules: Sequence[LogRule]) -> list[LogLine]:
    """What is wrong by the rules alone: lines that only sound so are none."""
    return list(_told(_by_rules(line[:_LONGEST], number, rules) for number, line in enumerate(log.splitlines(), 1)))


def _read(line: str, number: int, rules: Sequence[LogRule]) -> LogLine | str | None:
    found = _by_rules(line, number, rules)
    return _by_its_words(line, number) if found == "unknown" else found


def _told(read: Iterable[LogLine | str | None]) -> Iterator[LogLine]:
    """Those that tell of something wrong, each with the file that it is about where only a line above says that."""
    about = ""
    for one in read:
        if not isinstance(one, LogLine):
            continue
        if one.level == "about":
            about = one.file
        else:
            yield one if one.file or not about else replace(one, file=about)


def _last_run(lines: list[str], rules: Sequence[LogRule]) -> int:
    begins = [rule.match for rule in rules if rule.entry.level == "begins"]
    at = (
        number
        for number in range(len(lines) - 1, -1, -1)
        if any(rule.search(lines[number][:_LONGEST]) for rule in begins)
    )
    return next(at, 0)


def _by_rules(line: str, number: int, rules: Sequence[LogRule]) -> LogLine | Literal["unknown", "nothing"]:
    """A line by the first rule that matches it."""
    for rule in rules:
        match = rule.match.search(line)
        if match is None:
            continue
        if rule.entry.level in ("skip", "begins"):
            return "nothing"
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
    return "unknown"


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
