"""A plan, made visible: what each edited file would look like, and what a check would say afterwards."""

from __future__ import annotations

import difflib
import re
from collections.abc import Container, Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from hookset.applying.change import Change
from hookset.checks import Case, Summary, Verdict, all_checks, judge_analysis
from hookset.model import CouldNotError, Finding
from hookset.planning.plan import Plan
from hookset.symbols import FactsCache
from hookset.trees import Tree, decode

__all__ = ["FileDiff", "adapted_diffs", "diff_of", "findings_beyond", "new_findings", "text_diffs"]

_AROUND = 2
"""Lines that are shown around a change."""
_LONG = 4_000
_HUNK = re.compile(r"^@@ -(?P<one>\d+)(?P<ones>,\d+)? \+(?P<other>\d+)(?P<others>,\d+)? @@$")


class FileDiff(Struct, frozen=True):
    """A unified diff of one text file."""

    path: str
    lines: tuple[str, ...]


def text_diffs(
    tree: Tree, changes: Iterable[Change], encodings: tuple[str, ...] = ("utf-8", "cp1252")
) -> Iterator[FileDiff]:
    """The files of the map that would be edited. New files are not shown: they come as the pack has them."""
    for change in changes:
        if change.before is None or change.after is None or not tree.has(change.path):
            continue
        try:
            old = decode(tree.read(change.path), encodings).string
            new = decode(change.after.read(), encodings).string
        except CouldNotError:
            yield FileDiff(change.path, ("(not text: its bytes would be replaced)",))
            continue
        lines = _unified(old.splitlines(), new.splitlines(), f"{change.path}  (now)", f"{change.path}  (afterwards)")
        yield FileDiff(change.path, lines)


def adapted_diffs(plan: Plan) -> Iterator[FileDiff]:
    """What of the packs' own files differs in this map: renamed things, settings."""
    for pack in plan.packs:
        for path, published, here in pack.adapted:
            lines = diff_of(path, published.read(), here.read(), "as published", "here")
            if lines:
                yield FileDiff(path, lines)


def diff_of(path: str, old: bytes, new: bytes, was: str = "now", becomes: str = "afterwards") -> tuple[str, ...]:
    """A unified diff of two states of one file; empty where either is no text."""
    try:
        one, other = (decode(data, ("utf-8", "cp1252")).string.splitlines() for data in (old, new))
    except CouldNotError:
        return ()
    return _unified(one, other, f"{path}  ({was})", f"{path}  ({becomes})")


def _unified(one: list[str], other: list[str], was: str, becomes: str) -> tuple[str, ...]:
    """A unified diff with two lines around each change. Of long files, what both begin and end with is not compared:
    that would take many times as long as reading them."""
    if len(one) + len(other) < _LONG:
        return tuple(difflib.unified_diff(one, other, was, becomes, n=_AROUND, lineterm=""))
    tail = next((n for n, (a, b) in enumerate(zip(reversed(one), reversed(other), strict=False)) if a != b), None)
    kept = max((min(len(one), len(other)) if tail is None else tail) - _AROUND, 0)
    head = next((n for n, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), 0)
    skipped = min(max(head - _AROUND, 0), len(one) - kept, len(other) - kept)
    lines = difflib.unified_diff(
        one[skipped : len(one) - kept], other[skipped : len(other) - kept], was, becomes, n=_AROUND, lineterm=""
    )
    return tuple(_HUNK.sub(lambda m: _moved_down(m, skipped), line) for line in lines)


def _moved_down(hunk: re.Match[str], lines: int) -> str:
    """The line numbers of a hunk, so many further down."""
    first, second = (int(hunk[name]) + lines for name in ("one", "other"))
    return f"@@ -{first}{hunk['ones'] or ''} +{second}{hunk['others'] or ''} @@"


def findings_beyond(
    now: Case, after: Verdict, codes: Container[str], cache: FactsCache | None = None
) -> tuple[Finding, ...]:
    """The findings with these codes that a change of a map would cause. As it is `now` it is judged by the checks alone
    that would tell something: what others tell of it does not matter, and costs as much to find out."""
    told = {one.code for one in after.findings if one.code in codes}
    if not told:
        return ()
    off = {check.code: None for check in all_checks() if check.code not in told}
    terms = replace(now.terms, severities={**now.terms.severities, **off})
    before = judge_analysis(now.analysis, now.ledger, terms, cache)
    return tuple(one for one in new_findings(before.summary, after) if one.code in told)


def new_findings(before: Summary, after: Verdict) -> tuple[Finding, ...]:
    """The new findings that a change would cause, wherever lines have moved."""
    known = {finding.identity for finding in before.findings}
    return tuple(finding for finding in after.findings if finding.identity not in known)
