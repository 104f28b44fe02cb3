"""One self-contained page to share with people who have neither the map nor the tool."""

from __future__ import annotations

from importlib import resources
from itertools import groupby

from hookset import __version__
from hookset.model import Severity
from hookset.model.visible import visible
from hookset.reports.saved.report_input import ReportInput, SavedReport

__all__ = ["REPORT"]


def _named(words: str) -> str:
    """Names stand in backquotes in every message."""
    from markupsafe import Markup, escape

    parts = [str(escape(part)) for part in words.split("`")]
    if len(parts) % 2 == 0:
        return str(escape(words))
    return Markup("".join(f"<code>{part}</code>" if index % 2 else part for index, part in enumerate(parts)))


def _written(told: ReportInput) -> str:
    from jinja2 import Environment

    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters["named"] = _named
    source = (resources.files("hookset.reports.saved") / "page.html").read_text(encoding="utf-8")
    levels = [(level.word, sum(f.severity is level for f in told.findings)) for level in Severity]
    numbered = enumerate(told.findings)
    by_file = [(path, list(found)) for path, found in groupby(numbered, key=lambda one: one[1].spot.path)]
    page = environment.from_string(source).render(
        told=told, counts=told.verdict.counts, open=told.verdict.open, levels=levels, by_file=by_file, tool=__version__
    )
    return visible(page)


REPORT = SavedReport(".html", "one HTML page, to share", _written, pictured=True)
