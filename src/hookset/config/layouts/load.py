"""From the layout file to a Layout, with every mistake in it told at once."""

from __future__ import annotations

import functools
import hashlib
import os
from collections.abc import Callable, Iterable, Iterator
from importlib import resources
from pathlib import Path

from msgspec.structs import replace

from hookset.config.layouts._engines import engine_rules
from hookset.config.layouts._judging import (
    agree_rules,
    archive_template,
    bounds_rules,
    called_rules,
    check_archive,
    count_rules,
    ground_rules,
    lookup_tables,
    map_templates,
    order_rules,
    paired_rules,
    series_rules,
)
from hookset.config.layouts._listing import manifest_rule
from hookset.config.layouts._reading import change_rules, descriptor_rule, read_rules, seat_rules
from hookset.config.layouts._schemas import schema_mistakes
from hookset.config.layouts._standing import position_rules
from hookset.config.layouts._steps import log_rules, step_rules
from hookset.config.layouts.layout import Layout
from hookset.config.layouts.lists import with_lists
from hookset.config.layouts.rules import Kind
from hookset.config.layouts.schema import LayoutFile, PartEntry
from hookset.config.sheets import Complaint, Sheet, nearest, read_sheet, typed
from hookset.model import WrongUseError
from hookset.trees import Globs, read_regular

__all__ = ["layout_file", "layout_source", "load_layout", "named_layout", "shipped_layout", "shipped_names"]

_LARGEST = 4 << 20
"""Bytes of a layout file."""
_REMEDY = "correct the layout; `hookset start` uses the shipped ones, which serve as examples"


def shipped_names() -> tuple[str, ...]:
    """The layouts that come with the tool."""
    folder = resources.files("hookset.config.layouts") / "shipped"
    return tuple(sorted(f.name.removesuffix(".toml") for f in folder.iterdir() if f.name.endswith(".toml")))


def layout_source(name: str) -> str:
    """A shipped layout as it is written; `template` is the one to begin with."""
    folder = resources.files("hookset.config.layouts")
    file = folder / "template.toml" if name == "template" else folder / "shipped" / f"{name}.toml"
    return file.read_text(encoding="utf-8")


@functools.cache
def shipped_layout(name: str) -> Layout:
    """One that comes with the tool, read once. Raises WrongUseError for a name that none has."""
    if name not in shipped_names():
        raise WrongUseError(
            "unknown-layout",
            f"there is no layout called {name!r}{nearest(name, shipped_names())}",
            why="the layout says what in a map's files is a name and what is a reference",
            remedy="name a shipped layout, or the path of a layout file of your own (ending in .toml)",
        )
    file = resources.files("hookset.config.layouts") / "shipped" / f"{name}.toml"
    return _loaded(file.read_bytes(), f"{name}.toml", lambda _: ())


def named_layout(name: str, base: Path) -> Layout:
    """A shipped layout by its name, or a layout file by its path, which counts from `base`."""
    if not name.endswith(".toml"):
        return shipped_layout(name)
    file = base / name
    why = "the layout says what in a map's files is a name and what is a reference"
    data = read_regular(file, _LARGEST, why, "name a layout file, which ends in .toml")
    # Findings name it as hookset.toml does.
    return replace(load_layout(data, os.path.normpath(file)), where=name)


def layout_file(name: str, base: Path) -> tuple[bytes, str]:
    """The bytes of a layout as `named_layout` finds it, and what it is called in messages. Raises CouldNotError."""
    if name.endswith(".toml"):
        return read_regular(base / name, _LARGEST), str(base / name)
    return layout_source(name).encode(), f"{name}.toml"


def load_layout(data: bytes, where: str) -> Layout:
    """Raises CouldNotError with every mistake and its line."""
    return _loaded(data, where, schema_mistakes)


def _loaded(data: bytes, where: str, further: Callable[[LayoutFile], Iterable[Complaint]]) -> Layout:
    """`further` are mistakes to look for that shipped layouts are known not to have."""
    sheet = read_sheet(data, where)
    values, mistakes = with_lists(sheet.data)
    entry = typed(values, LayoutFile)
    if isinstance(entry, list) or mistakes:
        raise sheet.error([*mistakes, *(entry if isinstance(entry, list) else ())], _REMEDY)
    made = _made(sheet, entry, further(entry))
    lines = {} if entry.layout.may_be_empty else dict(_lines(sheet, entry))
    return replace(made, where=where, lines=lines, fingerprint=hashlib.sha256(data).hexdigest())


def _lines(sheet: Sheet, entry: LayoutFile) -> Iterator[tuple[str, int]]:
    """In which line each part begins."""
    for table in entry.__struct_fields__:
        parts = getattr(entry, table)
        for index, part in enumerate(parts if isinstance(parts, tuple) else ()):
            if isinstance(part, PartEntry):
                yield f"/{table}/{index}", sheet.line_of(f"/{table}/{index}")
    for index, read in enumerate(entry.read):
        for verb, parts in (("defines", read.defines), ("refers", read.refers)):
            for number in range(len(parts)):
                yield f"/read/{index}/{verb}/{number}", sheet.line_of(f"/read/{index}/{verb}/{number}/kind")


def _made(sheet: Sheet, entry: LayoutFile, further: Iterable[Complaint]) -> Layout:
    reads, compiler = read_rules(entry)
    compiler.complaints += further
    compiler.check_kinds()
    ignore = tuple(compiler.glob(pattern, f"/layout/ignore/{i}") for i, pattern in enumerate(entry.layout.ignore))
    reached = entry.reached.files if entry.reached else ()
    roots = tuple(compiler.glob(pattern, f"/reached/files/{i}") for i, pattern in enumerate(reached))
    seats = seat_rules(compiler)
    changes = change_rules(compiler)
    manifest = manifest_rule(compiler)
    counts, bounds, paired = count_rules(compiler), bounds_rules(compiler), paired_rules(compiler)
    orders, called = order_rules(compiler), called_rules(compiler)
    for index, mirror in enumerate(entry.mirror):
        compiler.known_kind(mirror.kind, f"/mirror/{index}/kind")
    if entry.units is not None:
        compiler.known_kind(entry.units.kind, "/units/kind")
    for kind in entry.reached.names if entry.reached else ():
        compiler.known_kind(kind, f"/reached/names/{kind}")
    agree, series, grounds = agree_rules(compiler), series_rules(compiler), ground_rules(compiler)
    descriptor = descriptor_rule(compiler)
    lookups = lookup_tables(compiler)
    positions = position_rules(compiler)
    words, folder = map_templates(compiler)
    logs, steps = log_rules(compiler, entry.log, ""), step_rules(compiler)
    engines = engine_rules(compiler)
    archive = archive_template(compiler)
    check_archive(compiler)
    if not entry.read:
        compiler.complain("", "no [[read]] rule: nothing in a map would be looked at")
    if compiler.complaints:
        raise sheet.error(compiler.complaints, _REMEDY)
    return Layout(
        name=entry.layout.name,
        title=entry.layout.title,
        sides=entry.layout.sides,
        both=entry.layout.both,
        ignore=Globs(ignore),
        recognise=entry.recognise,
        descriptor=descriptor,
        kinds={name: Kind(name, kind) for name, kind in entry.kinds.items()},
        reads=reads,
        roots=roots,
        root_names=entry.reached.names if entry.reached else {},
        units=entry.units,
        manifest=manifest,
        build=entry.build,
        archive=archive,
        seats=seats,
        agree=agree,
        changes=changes,
        counts=counts,
        bounds=bounds,
        orders=orders,
        called=called,
        paired=paired,
        series=series,
        mirrors=entry.mirror,
        grounds=grounds,
        positions=positions,
        lookups=lookups,
        words=words,
        folder=folder,
        logs=logs,
        steps=steps,
        engines=engines,
    )
