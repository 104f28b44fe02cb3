"""The names that could be written at a place in a file, spelt as that place needs them."""

from __future__ import annotations

import hashlib
import posixpath
from collections.abc import Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from hookset.editor.opened import OpenedMap
from hookset.symbols.cursor import WrittenName, name_at, text_in, written_names
from hookset.symbols.owners import names_of_owner, owner_and_name
from hookset.symbols.reading import read_file
from hookset.symbols.spelling import rewritten
from hookset.trees import Inline, Overlay

__all__ = ["Completion", "completions"]

_MOST = 300
"""Names that are offered at once."""


class Completion(Struct, frozen=True):
    """A name that could be written, and in place of what."""

    text: str
    label: str
    """Of its kind."""
    from_map: bool
    """Whether the map has it; else the base game."""
    start: int
    end: int


def completions(opened: OpenedMap, path: str, offset: int) -> tuple[Completion, ...]:
    """The names that could stand there, those of the map first. Where nothing is written yet, it is tried what a rule
    would see if something were."""
    text = opened.text(path)
    if text is None:
        return ()
    names = _names_at(opened, path, text.string, offset)
    if not names:
        return ()
    first = names[0]
    offered: list[dict[str, Completion]] = []
    for name in names:
        label, found = opened.project.layout.kinds[name.kind].label, dict[str, Completion]()
        for from_map, others in ((True, _of_map(opened, name)), (False, _of_game(opened, name))):
            for spelt in filter(None, _spelt(opened, path, name, others)):
                found.setdefault(spelt, Completion(spelt, label, from_map, first.start, first.end))
        if found:
            offered.append(found)
    # What several rules look at has to be what each of them wants.
    fitting = [one for one in offered[0].values() if all(one.text in more for more in offered[1:])] if offered else []
    begun = text.string[first.start : offset].casefold()
    return tuple(one for one in fitting or offered[0].values() if begun in one.text.casefold())[:_MOST]


def _names_at(opened: OpenedMap, path: str, text: str, offset: int) -> tuple[WrittenName, ...]:
    """The uses that stand at a place, or would."""
    used = [one for one in opened.names(path) if not one.defines]
    first = name_at(used, offset)
    if first is None:
        return _tried(opened, path, text, offset, offset)
    there = tuple(one for one in used if (one.start, one.end) == (first.start, first.end))
    if all(one.written and one.name.endswith(one.written) for one in there):
        return there
    # Of a way up and down again, or a name that is changed before it is looked up, more is seen from a plain word.
    return _tried(opened, path, text, first.start, first.end) or there


def _of_map(opened: OpenedMap, name: WrittenName) -> Iterable[str]:
    """What the map has of the kind; of names that belong to something, those that the same owner has."""
    kind, index = opened.project.layout.kinds[name.kind], opened.analysis.index
    if kind.entry.owned:
        return sorted(names_of_owner(index, kind, owner_and_name(name.name)[0]))
    return sorted(index.known(name.kind))


def _of_game(opened: OpenedMap, name: WrittenName) -> Iterable[str]:
    """What the base game has of it."""
    layout = opened.project.layout
    kind = layout.kinds[name.kind]
    owner, _ = owner_and_name(name.name)
    if not kind.entry.owned:
        return sorted({*opened.project.stock.names(name.kind), *kind.entry.vocabulary})
    within = layout.kinds[kind.entry.within].entry.vocabulary if kind.entry.within else ()
    return sorted(f"{owner}::{word}" for word in within)


def _spelt(opened: OpenedMap, path: str, name: WrittenName, others: Iterable[str]) -> Iterator[str]:
    """How other names are written where one stands. What leads to others than is thought is left out."""
    if name.written == name.name or not name.written:
        yield from others
        return
    base = name.name.removesuffix(name.written) if name.name.endswith(f"/{name.written}") else ""
    upwards: bool | None = None
    for other in others:
        spelt = next(rewritten(opened.project.layout, path, name.written, name.name, other), other)
        if spelt == other and base:
            spelt = posixpath.relpath(other, base)
            if upwards is None:
                upwards = _leads_to(opened, path, name, spelt, other)
            spelt = spelt if upwards else other
        yield spelt


def _tried(opened: OpenedMap, path: str, text: str, start: int, end: int) -> tuple[WrittenName, ...]:
    """What rules would see if a word stood there, with the characters that it would stand in place of."""
    word = f"x{hashlib.sha256(text.encode('utf-8', 'surrogatepass')).hexdigest()[:12]}"
    found = (one for one in _read(opened, path, text[:start] + word + text[end:]) if word in one.written)
    more = len(word) - (end - start)
    return tuple(replace(one, end=one.end - more) for one in found)


def _leads_to(opened: OpenedMap, path: str, name: WrittenName, spelt: str, wanted: str) -> bool:
    """Whether a rule sees what is wanted where it is spelt so."""
    text = opened.text(path)
    if text is None:
        return False
    names = _read(opened, path, text.string[: name.start] + spelt + text.string[name.end :])
    return any((one.kind, one.name, one.start) == (name.kind, wanted, name.start) for one in names)


def _read(opened: OpenedMap, path: str, typed: str) -> Iterator[WrittenName]:
    """The uses in a file if it were so."""
    web, text = opened.analysis.web, opened.text(path)
    if text is None:
        return
    tree = Overlay(web.tree, {path: Inline(typed.encode(text.encoding, "replace"))})
    facts, read = read_file(tree, path, web.layout, web.words), text_in(tree, web.layout, path)
    if read is not None:
        yield from (one for one in written_names(read, web.layout, facts) if not one.defines)
