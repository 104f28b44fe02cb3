"""Decisions, and the lines of notes that each is about."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from hookset.authoring.draft.cites import Why, as_said
from hookset.authoring.draft.decisions import PACK, Decision, Walk
from hookset.authoring.draft.found.placing import Left, Placed, Placing
from hookset.authoring.draft.notes import Notes
from hookset.config.sheets import read_sheet
from hookset.model import CouldNotError
from hookset.packs import Pack, SheetedPack
from hookset.packs.hooksheet import FilesEntry, HookSheet, PackEntry
from hookset.trees import Glob

_SAID = "what was decided"
__all__ = ["Decided", "decided_of", "placed_as_decided"]


class Decided(Struct, frozen=True):
    """What was decided, by the lines that it is about."""

    walk: Walk = field(default_factory=Walk)
    names: frozenset[str] = frozenset()
    """The files of notes."""
    lines: Mapping[tuple[str, int], Decision] = field(default_factory=dict)
    pack: Decision | None = None
    """What was decided about what no line says."""
    gone: tuple[Decision, ...] = ()
    """Those about lines that the notes do not have any more."""
    given: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """Where decided files go, by their path in the pack."""
    out: frozenset[str] = frozenset()
    """Files that stay out."""

    def everywhere(self, whys: Iterable[Why]) -> dict[str, str]:
        """Words that are something else in all entries: those marked in lines that no entry is from. `whys` are the
        reasons for the entries."""
        own = {id(one) for one in map(self.about, whys) if one is not None}
        return {mark.text: mark.becomes for one in self.steps if id(one) not in own for mark in one.mark}

    def about(self, why: Why) -> Decision | None:
        """The decision about something, by the reason for it."""
        places = [place for place in why.lines if place in self.lines]
        return self.lines[places[0]] if places else None

    def drops(self, why: Why, sure: bool) -> bool:
        """Whether what was drafted for this reason is not to be. A decision about the pack is about what is unsure."""
        one = self.about(why) or (self.pack if not (sure or self.in_notes(why)) else None)
        return one is not None and one.do != "accept"

    def agrees(self, why: Why) -> bool:
        """Whether somebody has looked at it and agreed."""
        one = self.about(why) or (self.pack if not self.in_notes(why) else None)
        return one is not None and one.do == "accept"

    def in_notes(self, why: Why) -> bool:
        """Whether a line of the notes is a reason for it."""
        return any(path in self.names for path, _ in why.lines)

    @property
    def steps(self) -> tuple[Decision, ...]:
        """Those about something that is there."""
        return tuple(one for one in self.walk.step if one not in self.gone)


def decided_of(walk: Walk, notes: Sequence[Notes], pack: Pack) -> Decided:
    """Each decision with its lines, found again by what the first of them says. Raises CouldNotError where files
    cannot go where they are said to."""
    lines: dict[tuple[str, int], Decision] = {}
    gone: list[Decision] = []
    about_pack: Decision | None = None
    for one in walk.step:
        if one.lines == PACK:
            about_pack = one
            continue
        found = list(_lines_of(one, notes, pack))
        lines |= dict.fromkeys(found, one)
        if not found:
            gone.append(one)
    steps = [one for one in walk.step if one not in gone]
    files = tuple(entry for one in steps for entry in one.files)
    out = {path for one in steps for glob in map(Glob, one.out) for path in pack.tree.paths() if glob.matches(path)}
    names = frozenset(one.path for one in notes)
    return Decided(walk, names, lines, about_pack, tuple(gone), _given(pack, files), frozenset(out))


def _lines_of(one: Decision, notes: Sequence[Notes], pack: Pack) -> Iterator[tuple[str, int]]:
    place = one.stretch
    if place is None:
        return
    name, first, last = place
    if name not in {file.path for file in notes} and pack.tree.has(name):
        # Another file of the pack that holds what is to be copied.
        yield from ((name, number) for number in range(first, last + 1))
        return
    known = {line.number: line.text.strip() for file in notes if file.path == name for line in file.lines}
    said = one.said.strip()
    if said and known.get(first) != said:
        same = sorted((abs(number - first), number) for number, text in known.items() if text == said)
        if not same:
            return
        first, last = same[0][1], same[0][1] + last - first
    yield from ((name, number) for number in range(first, last + 1) if number in known)


def _given(pack: Pack, files: Sequence[FilesEntry]) -> dict[str, tuple[str, ...]]:
    """Where decided files go, by their path in the pack: a file can be there under several names."""
    sheet = HookSheet(pack=PackEntry(name=pack.name, version="1"), files=tuple(files))
    sheeted = SheetedPack(pack.source, pack.tree, sheet, read_sheet(b"", _SAID), pack.top, pack.beside)
    try:
        given: dict[str, tuple[str, ...]] = {}
        for target, path in sheeted.targets.items():
            given[path] = (*given.get(path, ()), target)
        return given
    except CouldNotError as error:
        raise CouldNotError(
            "wrong-decision",
            "what was decided about files cannot be done",
            where=str(pack.source),
            details=tuple(line.removeprefix(f"{_SAID}:1: ") for line in error.details),
            why="the files would be missing in the map",
            remedy="correct `files` in what was decided",
        ) from error


def placed_as_decided(placing: Placing, decided: Decided) -> Placing:
    """The same with what was decided about files."""
    taken = {target.casefold() for targets in decided.given.values() for target in targets}
    placed: list[Placed] = []
    left = [one for one in placing.left if one.path not in decided.given and one.path not in decided.out]
    for one in placing.placed:
        if one.path in decided.given or one.path in decided.out:
            continue
        if decided.drops(one.why, one.sure):
            left.append(Left(one.path, "not wanted, as decided"))
        elif one.target.casefold() in taken:
            left.append(Left(one.path, f"something else goes to {one.target}, as decided"))
        else:
            placed.append(replace(one, sure=one.sure or decided.agrees(one.why)))
    placed += (
        Placed(path, target, True, as_said("as decided"))
        for path, targets in decided.given.items()
        for target in targets
    )
    left += (Left(path, "left out, as decided") for path in sorted(decided.out - decided.given.keys()))
    if decided.pack is not None:
        left = [replace(one, sure=True) for one in left]
    paths = {*decided.given, *decided.out}
    shared = tuple((path, target) for path, target in placing.shared if path not in paths)
    return Placing(tuple(sorted(placed, key=lambda one: one.path)), tuple(left), shared)
