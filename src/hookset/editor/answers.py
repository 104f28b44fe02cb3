"""What an editor asks about a place in a file."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import Struct

from hookset.checks.watched import difference
from hookset.editor.opened import OpenedMap, edited
from hookset.formats import Unreadable, format_named
from hookset.formats.document import facts_of
from hookset.model import EVERY_SIDE, CouldNotError, Finding, RefusedError, Respell, Severity, Where
from hookset.symbols import trace
from hookset.symbols.cursor import WrittenName, name_at
from hookset.symbols.spelling import rewritten

__all__ = ["Place", "Replacement", "definitions", "mends", "renamed", "shown", "uses"]

_MEDIA = ("picture", "audio")


class Place(Struct, frozen=True):
    """Characters of a file."""

    path: str
    start: int = 0
    end: int = 0


class Replacement(Struct, frozen=True):
    """Another text for some characters."""

    title: str
    path: str
    start: int
    end: int
    text: str


def definitions(opened: OpenedMap, path: str, offset: int) -> tuple[Place, ...]:
    """Where what stands there is defined."""
    name = name_at(opened.names(path), offset)
    if name is None:
        return ()
    index = opened.analysis.index
    found = index.get(name.kind, name.name)
    return tuple(dict.fromkeys(_place(opened, one.path, one.where, name) for one in found))


def uses(opened: OpenedMap, path: str, offset: int, defined: bool) -> tuple[Place, ...]:
    """Where what stands there is used, and with `defined` where it is defined as well."""
    name = name_at(opened.names(path), offset)
    if name is None:
        return ()
    traced = next((one for one in trace(opened.analysis, name.name) if one.kind == name.kind), None)
    if traced is None:
        return ()
    places = [_place(opened, one.path, one.where, name) for one in traced.referred]
    if defined:
        places += (_place(opened, one.path, one.where, name) for one in traced.defined)
    return tuple(dict.fromkeys(places))


def _place(opened: OpenedMap, path: str, where: Where, like: WrittenName) -> Place:
    """A name's place in another file; the file as a whole where it is written nowhere in it."""
    same = [one for one in opened.names(path) if one.where == where]
    best = next((one for one in same if one.kind == like.kind), next(iter(same), None))
    return Place(path) if best is None else Place(path, best.start, best.end)


def shown(opened: OpenedMap, path: str, offset: int) -> tuple[WrittenName, str] | None:
    """What stands there, in Markdown: what it is, where it is from, how long a sound and how large a picture is."""
    name = name_at(opened.names(path), offset)
    if name is None:
        return None
    project, index = opened.project, opened.analysis.index
    kind = project.layout.kinds[name.kind]
    lines = [f"**{kind.label}** `{name.name}`"]
    found = index.get(name.kind, name.name)
    for one in found[:4]:
        pack = _pack_of(opened, one.path)
        side = f", {one.side}" if one.side != EVERY_SIDE and one.side else ""
        lines.append(f"defined in {one.path}{side}{f', from the pack {pack}' if pack else ''}")
    if len(found) > 4:
        lines.append(f"and in {len(found) - 4} more places")
    if not found and name.pattern:
        lines.append("put together at run time")
    elif not found:
        there = bool(project.stock.sides(name.kind, name.name))
        lines.append("the base game has it" if there else "defined nowhere")
    if name.kind in project.layout.path_kinds:
        lines += _media(opened, name.name)
    return name, "\n\n".join(lines)


def _pack_of(opened: OpenedMap, path: str) -> str:
    ledger = opened.watched.verdict.case.ledger
    return next((pack.name for pack in ledger.packs if any(file.path == path for file in pack.files)), "")


def _media(opened: OpenedMap, path: str) -> Iterator[str]:
    tree = opened.analysis.web.tree
    for form in map(format_named, _MEDIA if tree.has(path) else ()):
        try:
            facts = facts_of(form.open(tree.read(path), form.options()))
        except (Unreadable, CouldNotError):
            continue
        if facts is not None and facts.seconds:
            yield f"{facts.seconds:.1f} s"
        elif facts is not None and facts.width:
            yield f"{facts.width} × {facts.height}"
            yield f"![{path}]({(opened.project.root / path).as_uri()})"
        return


def mends(opened: OpenedMap, path: str, start: int, end: int) -> tuple[Replacement, ...]:
    """What could be written instead of names between two characters with which something is wrong."""
    text = opened.text(path)
    if text is None:
        return ()
    found = []
    names = [one for one in opened.names(path) if one.start <= end and one.end >= start]
    for finding in opened.findings:
        if finding.spot.path != path or not finding.spot.line:
            continue
        mine = [one for one in names if _begins(text.string, one, finding)]
        for name in mine[:1]:
            for spelling in _spellings(finding):
                found.append(Replacement(f"write {spelling}", path, name.start, name.end, spelling))
    return tuple(found)


def _spellings(finding: Finding) -> Sequence[str]:
    return (finding.mend.right,) if isinstance(finding.mend, Respell) else finding.instead


def _begins(text: str, name: WrittenName, finding: Finding) -> bool:
    """Whether a finding is about a name: in its line, and called as it is."""
    line = text.count("\n", 0, name.start) + 1
    return line == finding.spot.line and finding.name in (name.name, name.written)


def renamed(opened: OpenedMap, path: str, offset: int, new: str) -> tuple[Replacement, ...]:
    """What is to be written, in all files, for what stands there to be renamed. Raises RefusedError where that
    would break something, or cannot be done by writing alone."""
    name = name_at(opened.names(path), offset)
    if name is None or name.pattern:
        raise RefusedError("not-renamable", "nothing stands here that has a name", remedy="point at a name")
    layout = opened.project.layout
    kind = layout.kinds[name.kind]
    if kind.entry.path or not opened.analysis.index.get(name.kind, name.name):
        why = "a file is renamed in its folder" if kind.entry.path else "the map does not define it"
        raise RefusedError(
            "not-renamable",
            f"{kind.label} {name.name} cannot be renamed here",
            why=why,
            remedy="rename it where it is defined",
        )
    replacements = []
    for place in uses(opened, path, offset, defined=True):
        there = [one for one in opened.names(place.path) if (one.start, one.end) == (place.start, place.end)]
        mine = next((one for one in there if (one.kind, one.name) == (name.kind, name.name) and not one.pattern), None)
        if mine is None:
            why = "it stands for the file as a whole, or is put together at run time"
            raise RefusedError(
                "not-renamable",
                f"{place.path} names {name.name} in a way that cannot be rewritten",
                why=why,
                remedy="change that place by hand first",
            )
        plain = name.name in mine.written
        if plain:
            spelt = mine.written.replace(name.name, new, 1)
        else:
            spelt = next(rewritten(layout, place.path, mine.written, mine.name, new), new) if mine.written else new
        replacements.append(Replacement(f"call it {new}", place.path, mine.start, mine.end, spelt))
    _need_harmless(opened, replacements)
    return tuple(replacements)


def _need_harmless(opened: OpenedMap, replacements: Sequence[Replacement]) -> None:
    """Raises RefusedError where a map would have findings with them that it has not."""
    data: dict[str, bytes] = {}
    for path in {one.path for one in replacements}:
        text = opened.text(path)
        if text is None:
            continue
        string = text.string
        for one in sorted((one for one in replacements if one.path == path), key=lambda one: -one.start):
            string = string[: one.start] + one.text + string[one.end :]
        data[path] = string.encode(text.encoding, "replace")
    after = edited(opened, data)
    worse = [one for one in difference(opened.findings, after.findings).came if one.severity is not Severity.NOTE]
    if worse:
        raise RefusedError(
            "map-has-errors",
            f"with that name the map would be broken: {worse[0].message}",
            where=str(worse[0].spot),
            remedy="choose a name that nothing has yet",
        )
