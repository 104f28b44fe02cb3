"""The engines of a layout or a user."""

from __future__ import annotations

from collections.abc import Sequence

from hookset.config.layouts._compiler import LayoutCompiler
from hookset.config.layouts._steps import log_rules
from hookset.config.layouts.engines import EngineEntry
from hookset.config.layouts.layout import Layout
from hookset.config.layouts.rules import Engine
from hookset.config.layouts.schema import HeadEntry, LayoutFile
from hookset.config.layouts.template import template
from hookset.config.sheets import Complaint, nearest
from hookset.trees import unsafe_reason

__all__ = ["engine_rules", "own_engines"]

_WORDS = ("archive", "folder", "map", "python", "ticks")


def engine_rules(compiler: LayoutCompiler) -> tuple[Engine, ...]:
    """The engines that are declared, in their order."""
    names: set[str] = set()
    found: list[Engine] = []
    for index, entry in enumerate(compiler.entry.engine):
        at = f"/engine/{index}"
        if entry.name in names:
            compiler.complain(f"{at}/name", f"there are two engines called `{entry.name}`")
        names.add(entry.name)
        found.append(_engine(compiler, entry, at))
    return tuple(found)


def own_engines(layout: Layout, entries: Sequence[EngineEntry]) -> tuple[tuple[Engine, ...], list[Complaint]]:
    """Engines that a user has, for maps of a layout; and what is wrong with them."""
    head = HeadEntry(name=layout.name, title=layout.title, sides=layout.sides)
    kinds = {name: kind.entry for name, kind in layout.kinds.items()}
    compiler = LayoutCompiler(LayoutFile(layout=head, kinds=kinds, engine=tuple(entries)), layout.reads)
    return engine_rules(compiler), compiler.complaints


def _engine(compiler: LayoutCompiler, entry: EngineEntry, at: str) -> Engine:
    if not entry.command or not entry.command[0]:
        compiler.complain(f"{at}/command", "it says no program")
    for index, text in enumerate((*entry.command, entry.at)):
        place = f"{at}/at" if index == len(entry.command) else f"{at}/command/{index}"
        try:
            fields = template(text).fields
        except ValueError as error:
            compiler.complain(place, str(error))
            continue
        for name in sorted(fields - {*_WORDS}):
            compiler.complain(place, f"unknown part {{{name}}}{nearest(name, _WORDS)}")
    for path in (entry.at.replace("{archive}", "x"), *entry.files):
        if unsafe_reason(path) is not None:
            compiler.complain(at, f"`{path}` is no path in the engine's folder")
    if entry.seconds <= 0 or entry.megabytes <= 0 or entry.runs < 0:
        compiler.complain(at, "`seconds` and `megabytes` go from 1 on, `runs` from 0 on")
    return Engine(
        entry=entry,
        loaded=compiler.regex(entry.loaded or None, "loaded", f"{at}/loaded"),
        continues=compiler.regex(entry.continues or None, "continues", f"{at}/continues"),
        logs=log_rules(compiler, entry.log, at),
    )
