"""Findings and what was looked at."""

from __future__ import annotations

import posixpath
from collections import Counter
from itertools import groupby
from typing import TYPE_CHECKING

from rich.table import Table
from rich.text import Text

from hookset.model import Finding, Severity
from hookset.reports.text.style import blank, columns, heading, marked, plural, section, severity, stacked

if TYPE_CHECKING:
    from collections.abc import Iterable

    from rich.console import RenderableType

    from hookset.checks import Since
    from hookset.config.layouts import Layout
    from hookset.verdicts import Counts, OpenReference, Summary

__all__ = ["check_text", "counts_text", "coverage_text", "findings_text", "summary"]

_OPEN_SHOWN = 5
_AGAIN_SHOWN = 12
_ENDINGS_SHOWN = 6
_PLACE = 7
"""Characters for line and column, so that findings of most files line up."""


def check_text(
    title: str, layout: str, verdict: Summary, compared: Since | None = None, most: int | None = None
) -> RenderableType:
    """The whole output of a check: quiet when all is well. `most`: so many findings at most are shown, the worst."""
    findings = verdict.findings if compared is None else compared.fresh
    parts: list[RenderableType | None] = [heading(title, layout), blank()]
    if findings:
        parts += [findings_text(findings, most), blank()]
    if compared is None:
        parts.append(summary(findings))
    else:
        words = summary(findings) if findings else Text("Nothing new.", style="good")
        words.append(f"; {compared.known:,} as before, {compared.gone:,} gone", style="dim")
        parts.append(words)
    if verdict.accepted:
        parts.append(Text(f"{plural(verdict.accepted, 'finding')} accepted in hookset.toml", style="dim"))
    if mendable := sum(finding.mend is not None for finding in findings):
        parts.append(marked(f"`hookset check --mend` can mend {mendable} of these"))
    parts += [counts_text(verdict.counts), _unread(verdict.counts), _open(verdict.open)]
    return stacked(*parts)


def coverage_text(layout: Layout, counts: Counts, open_references: tuple[OpenReference, ...]) -> RenderableType:
    """Which rule read what; what no rule looked into; what cannot be checked, and why."""
    rows = []
    for one in counts.by_rule:
        rule = layout.reads[one.rule - 1]
        files = ", ".join(glob.pattern for glob in rule.files)
        told = f"{plural(one.files, 'file')}, {one.defined:,} defined, {one.referred:,} referred to"
        rows.append(
            (Text(str(one.rule), style="dim"), Text(files, style="name"), Text(rule.format), Text(told, style="dim"))
        )
    unread = "\n".join(counts.unread) or "every file was looked into"
    places = [
        (Text(str(one.spot), style="dim"), marked(f"{one.kind} `{one.name}`, {_fits(one)}", "dim"))
        for one in open_references
    ] or [(Text("every reference can be checked", style="dim"), Text())]
    return stacked(
        section("rules", columns(rows, indent=0)),
        section("unread", Text(unread, style="dim")),
        section("unknown", columns(places, indent=0)),
    )


def _unread(counts: Counts) -> RenderableType | None:
    """Files that are known by their path only, by ending."""
    if not counts.unread:
        return None
    endings: dict[str, int] = {}
    for path in counts.unread:
        ending = posixpath.splitext(path)[1] or posixpath.basename(path)
        endings[ending] = endings.get(ending, 0) + 1
    most = sorted(endings.items(), key=lambda one: (-one[1], one[0]))
    told = ", ".join(f"{count:,} {ending}" for ending, count in most[:_ENDINGS_SHOWN])
    more = f" and {len(most) - _ENDINGS_SHOWN} more endings" if len(most) > _ENDINGS_SHOWN else ""
    return section("unread", Text(f"{plural(len(counts.unread), 'file')} by no rule: {told}{more}", style="dim"))


def findings_text(findings: Iterable[Finding], most: int | None = None) -> RenderableType:
    """By file, each with its place, why it matters and what to do; what is alike in a file is told once."""
    alike: dict[tuple[str, str, str], list[Finding]] = {}
    for finding in findings:
        alike.setdefault((finding.spot.path, finding.code, finding.message), []).append(finding)
    groups = list(alike.values())
    ranked = sorted(range(len(groups)), key=lambda index: groups[index][0].severity)
    shown = [groups[index] for index in sorted(ranked[:most])]
    width = max((len(_place(group[0])) for group in shown), default=0)
    parts: list[RenderableType] = []
    for path, in_file in groupby(shown, key=lambda group: group[0].spot.path):
        if parts:
            parts.append(blank())
        parts.append(Text(path, style="title"))
        parts += [_finding(same[0], same[1:], max(width, _PLACE)) for same in in_file]
    if len(shown) < len(groups):
        parts += [blank(), _left_out(finding for index in ranked[len(shown) :] for finding in groups[index])]
    return stacked(*parts)


def _left_out(findings: Iterable[Finding]) -> Text:
    """What is not shown, by its sort."""
    counts = Counter(finding.code for finding in findings)
    sorts = ", ".join(f"{count:,} {code}" for code, count in counts.most_common())
    return marked(f"and {counts.total():,} more: {sorts}; `--all` shows them, `--report check.html` keeps them")


def _place(finding: Finding) -> str:
    spot = finding.spot
    return f"{spot.line}:{spot.column}" if spot.column else str(spot.line or "")


def _finding(finding: Finding, again: list[Finding], width: int) -> Table:
    """One finding, and where in the same file it is there again."""
    table = Table.grid(padding=(0, 2, 0, 0))
    table.add_column(width=width, justify="right", no_wrap=True)
    table.add_column(width=7, no_wrap=True)
    table.add_column(ratio=1)
    what = marked(finding.message)
    what.append(f"  {finding.code}", style="dim")
    table.add_row(Text(_place(finding), style="dim"), severity(finding.severity), what)
    if again:
        lines = ", ".join(str(other.spot.line) for other in again[:_AGAIN_SHOWN])
        more = f" and {len(again) - _AGAIN_SHOWN:,} more" if len(again) > _AGAIN_SHOWN else ""
        table.add_row("", "", Text(f"the same in line{'s' if len(again) > 1 else ''} {lines}{more}", style="dim"))
    table.add_row("", Text("    why", style="label"), marked(finding.why, "dim"))
    table.add_row("", Text("     do", style="label"), marked(finding.remedy))
    return table


def summary(findings: Iterable[Finding]) -> Text:
    """How many of each."""
    findings = list(findings)
    counts = [(level, sum(finding.severity is level for finding in findings)) for level in Severity]
    told = [(level, count) for level, count in counts if count]
    if not told:
        return Text("No findings: every reference that can be checked is met.", style="good")
    text = Text()
    for level, count in told:
        text.append(" · " if text else "")
        text.append(plural(count, level.word), style=level.word)
    return text


def counts_text(counts: Counts) -> RenderableType:
    """What the verdict rests on."""
    rows = [
        f"{plural(counts.files, 'file')}, {counts.opened:,} of them inside; "
        f"{plural(counts.definitions, 'name')} defined; {plural(counts.checks, 'check')}",
        f"{plural(counts.references, 'reference')}: {counts.in_map:,} met in the map, {counts.in_stock:,} in the stock,"
        f" {counts.missing:,} missing, {counts.not_checkable:,} not checkable",
    ]
    return section("looked at", Text("\n".join(rows), style="dim"))


def _open(references: tuple[OpenReference, ...]) -> RenderableType | None:
    if not references:
        return None
    rows = [
        (Text(str(one.spot), style="dim"), marked(f"{one.kind} `{one.name}`, {_fits(one)}", "dim"))
        for one in references[:_OPEN_SHOWN]
    ]
    if len(references) > _OPEN_SHOWN:
        rows.append((Text(f"and {len(references) - _OPEN_SHOWN:,} more", style="dim"), Text("")))
    return section("unknown", columns(rows, indent=0))


def _fits(reference: OpenReference) -> str:
    if reference.made:
        more = f" and {len(reference.made) - 1} more" if len(reference.made) > 1 else ""
        return f"may be one whose name is built at run time: {reference.made[0]}{more}"
    if reference.optional:
        return "which is not there, and need not be"
    if not reference.built:
        return "of which no stock list names any"
    if reference.name.strip("*"):
        return f"built at run time; fits {plural(reference.fits, 'name')}"
    return "built at run time"
