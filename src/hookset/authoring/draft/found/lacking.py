"""Entries that a pack needs and its notes forget: a script that nobody loads, a name that nobody defines. Each is made
after the entries that stand at the same seat for the map's own things."""

from __future__ import annotations

import itertools
import posixpath
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct, field

from hookset.authoring.draft.cites import Why, as_said
from hookset.authoring.draft.dry_run import DryRun
from hookset.authoring.draft.found.filling import mapped
from hookset.authoring.draft.site import SeatFile, Site
from hookset.edits.place import seat_at
from hookset.formats import Body, format_named
from hookset.formats.base import ExistingEntry, NoSeat
from hookset.formats.document import placement_at
from hookset.model import Reference, sides_meet

__all__ = ["Lacking", "Loading", "idle", "not_loaded", "not_started", "on_the_other_side"]

_STARTS = ("start", "begin", "open", "init", "initialize", "setup", "register", "install", "load", "run")
UNFILLED = "unfilled-"
"""What stands in a trial for a blank that nobody has filled."""
_RUN = re.compile(r"[\w.]+")
_MOST_TRIED = 5
"""Entries after which one is made: what the last of a sort do not show, those before them do not either."""
_FUNCTION = re.compile(r"function\s+(?P<owner>[\w.]*[.:])?(?P<name>\w+)\s*\(|(?P<key>\w+)\s*=\s*function\b")
_EXPORT = re.compile(r"export\s+(?:async\s+)?(?:function|const|class)\s+(?P<name>\w+)")


class Lacking(Struct, frozen=True):
    """One entry that is proposed."""

    seat_file: SeatFile
    body: Body
    why: Why
    sure: bool = False
    at: Mapping[str, str] = field(default_factory=dict)
    """What the seat goes by."""


# ---- scripts that nobody loads ---------------------------------------------------------------------------------------


def not_loaded(loading: Loading, dry_run: DryRun, scripts: Mapping[str, str]) -> Iterator[Lacking]:
    """For each of the pack's scripts that the game would not load: the entry that makes it do so. `scripts` are
    texts by the path that they will have in the map."""
    site = loading.site
    for path in idle(site, dry_run, scripts):
        side = site.side_of(path)
        for seat_file in site.seat_files:
            if seat_file.side and side and seat_file.side != side:
                continue
            made = _after_sibling(loading, dry_run, seat_file, path, scripts[path]) or _by_call(
                site, dry_run, seat_file, path
            )
            if made is not None:
                yield Lacking(seat_file, made, as_said(f"nobody loads {path}"))
                break


def idle(site: Site, dry_run: DryRun, scripts: Iterable[str]) -> tuple[str, ...]:
    """Those of the pack's scripts that the game would not load, without those that such a script asks for."""
    waiting = [path for path in scripts if path not in dry_run.analysis.reach and _is_code(site, path)]
    asked = {target for path in waiting for target in _asked_for(dry_run, path)}
    return tuple(path for path in waiting if path not in asked)


def _is_code(site: Site, path: str) -> bool:
    """Whether the game runs such files, rather than reading or showing them: those that others are loaded from, or that
    register something."""
    rule = site.layout.text_rule(path)
    if rule is None:
        return False
    kinds = {define.kind for define in rule.defines}
    return any(site.layout.kinds[kind].entry.reached for kind in kinds)


def _asked_for(dry_run: DryRun, path: str) -> Iterator[str]:
    """The files that a file refers to."""
    facts = next((file for file in dry_run.analysis.web.files if file.path == path), None)
    for reference in facts.references if facts is not None else ():
        for name in (reference.name, *reference.others):
            yield from (d.path for d in dry_run.analysis.index.get(reference.kind, name) if d.path != path)


def _names_of(dry_run: DryRun, path: str) -> dict[str, str]:
    """What a file is called, by kind, for lying where it does."""
    facts = next((file for file in dry_run.analysis.web.files if file.path == path), None)
    return {d.kind: d.name for d in (facts.definitions if facts is not None else ()) if not d.where}


class Loading(Struct, frozen=True):
    """Which entries of the map load files of a sort. Large files have ten thousands of entries and references: they
    are gone through once for each sort, and entries are looked up by the words in them."""

    site: Site
    _found: dict[tuple[str, frozenset[str], str], Mapping[str, Sequence[Reference]]] = field(default_factory=dict)

    def entries(
        self, seat_file: SeatFile, kinds: frozenset[str], ending: str
    ) -> Iterator[tuple[ExistingEntry, Reference]]:
        """The entries of a seat that refer to a file with that ending by one of the kinds, the last one first."""
        references = self._references(seat_file.path, kinds, ending)
        for existing in reversed(seat_file.siblings) if references else ():
            said = existing.body.text if existing.body.text is not None else str(existing.body.record)
            alike = {id(one): one for run in _RUN.findall(said) for one in references.get(run, ())}
            yield from ((existing, one) for one in alike.values() if _holds(existing.body, one.written))

    def _references(self, path: str, kinds: frozenset[str], ending: str) -> Mapping[str, Sequence[Reference]]:
        """What a file refers to so, by the first word in it."""
        key = (path, kinds, ending)
        if key not in self._found:
            found: dict[str, list[Reference]] = {}
            for one in self.site.references_in(path, kinds):
                if (run := _RUN.search(one.written)) and self._ends(one, ending):
                    found.setdefault(run.group(), []).append(one)
            self._found[key] = found
        return self._found[key]

    def _ends(self, one: Reference, ending: str) -> bool:
        places = (d for name in (one.name, *one.others) for d in self.site.index.get(one.kind, name))
        return any(posixpath.splitext(place.path)[1] == ending for place in places)


def _after_sibling(loading: Loading, dry_run: DryRun, seat_file: SeatFile, path: str, text: str) -> Body | None:
    """An entry like the last one of the seat that has the map load a script of the same sort."""
    names = _names_of(dry_run, path)
    ending = posixpath.splitext(path)[1]
    alike = loading.entries(seat_file, frozenset(names), ending)
    for existing, reference in itertools.islice(alike, _MOST_TRIED):
        new = _written_like(reference, names[reference.kind])
        made = _renamed(existing.body, reference.written, new, text) if new is not None else None
        if made is not None and _only_loads(loading.site, seat_file, made, reference.kind, names):
            return made
    return None


def _only_loads(site: Site, seat_file: SeatFile, made: Body, kind: str, names: Mapping[str, str]) -> bool:
    """Whether an entry asks for the file that it was made for, and brings nothing else of the one that it was made
    after: no number, no name that the map has, no other thing's shape or picture."""
    told = site.told(seat_file, made)
    counted = any(site.layout.kinds[one.kind].entry.numbers is not None for one in told.defines)
    twice = any(site.index.get(one.kind, one.name) for one in told.defines)
    own = set(names.values())
    foreign = any(own.isdisjoint((one.name, *one.others)) for one in told.refers)
    asks = any(one.kind == kind and names[kind] in (one.name, *one.others) for one in told.refers)
    return asks and not (counted or twice or foreign)


def _holds(body: Body, written: str) -> bool:
    if body.text is not None:
        return written in body.text and bool(re.search(rf"(?<![\w.]){re.escape(written)}(?![\w.])", body.text))
    return written in str(body.record)


def _written_like(reference: Reference, name: str) -> str | None:
    """How a name is written where another of its kind is written as it is in the reference."""
    front, _, back = reference.name.partition(reference.written.lstrip("./"))
    if not reference.name.endswith(back) or not name.startswith(front) or not name.endswith(back):
        return None
    lead = "./" if reference.written.startswith("./") else ""
    return lead + name[len(front) : len(name) - len(back)]


def _renamed(body: Body, old: str, new: str, script: str) -> Body:
    """A sibling with another's names: of the file, and of what is made of it."""
    old_stem, new_stem = _stem(old), _stem(new)
    if body.text is None:
        changed = mapped(body, {old: new})
        key = {old_stem: new_stem} if old_stem in (changed.record or {}) else {}
        return Body(record={key.get(k, k): v for k, v in (changed.record or {}).items()})
    mark = "\0"
    text = re.sub(rf"(?<=[\"']){re.escape(old)}(?=[\"'])", mark, body.text)
    braces = re.search(r"\{[^{}]*\}", text) if text.lstrip().startswith("import") else None
    if braces is not None:
        exports = [match["name"] for match in _EXPORT.finditer(script)]
        text = text.replace(braces.group(), "{ " + ", ".join(exports) + " }") if exports else f'import "{mark}";'
    text = re.sub(rf"\b{re.escape(old_stem)}\b", new_stem, text)
    return Body(text=text.replace(mark, new))


def _stem(name: str) -> str:
    return re.sub(
        r"\W", "_", posixpath.splitext(posixpath.basename(name.replace(".", "/") if "/" not in name else name))[0]
    )


def _by_call(site: Site, dry_run: DryRun, seat_file: SeatFile, path: str) -> Body | None:
    """Where nothing of the sort stands at the seat yet: the call or the import that the seat goes by."""
    put = seat_file.seat.put
    names = _names_of(dry_run, path)
    if getattr(put, "after", None) is None or "text" not in format_named(seat_file.seat.format).bodies:
        return None
    call = getattr(put, "call", None)
    if call is None or (not seat_file.side and site.layout.sides):
        return None
    kind = next((refer.kind for rule in site.layout.reads for refer in rule.refers
                 if getattr(refer.selector, "call", None) == call and refer.kind in names), None)  # fmt: skip
    return Body(text=f'local {_stem(names[kind])} = {call}("{names[kind]}")') if kind is not None else None


# ---- scripts that nobody starts --------------------------------------------------------------------------------------


def not_started(site: Site, entries: Sequence[tuple[SeatFile, Body]], scripts: Mapping[str, str]) -> Iterator[Lacking]:
    """For each module that an entry brings in under a name, and that nobody does anything with: the call that starts
    it, as the map starts its own."""
    starts = [s for s in site.seat_files if getattr(s.seat.put, "inside", None)]
    for seat_file, body in entries:
        bound = re.match(
            r"\s*(?:local|const|let|var|import)?\s*\{?\s*(?P<name>\w+)[^=\n]*(?:=|from\b)", body.text or ""
        )
        if bound is None or getattr(seat_file.seat.put, "inside", None):
            continue
        name = bound["name"]
        if any(
            re.search(rf"\b{name}\b(?!\s*=)" if where.side != seat_file.side else rf"\b{name}\b", str(other.text))
            for where, other in entries
            if other is not body and (where.side == seat_file.side or _is_both(site, scripts, name))
        ):
            continue
        text = next(
            (
                scripts[path]
                for path in scripts
                if _stem(path) == name and sides_meet(site.side_of(path), seat_file.side)
            ),
            "",
        )
        calls = list(_calls(starts, seat_file, name, text))
        if len(calls) == 1:
            yield calls[0]


def _is_both(site: Site, scripts: Iterable[str], name: str) -> bool:
    """Whether a module is one for both sides: started on one, it is started."""
    return any(_stem(path) == name and not site.side_of(path) for path in scripts)


def _calls(starts: Sequence[SeatFile], seat_file: SeatFile, name: str, text: str) -> Iterator[Lacking]:
    functions = {m["name"] or m["key"]: bool(m["owner"] or m["key"]) for m in _FUNCTION.finditer(text)}
    exported = {m["name"] for m in _EXPORT.finditer(text)}
    for start in starts:
        if start.path != seat_file.path:
            continue
        used = [m[1] for existing in start.siblings if (m := re.match(r"\w+[.:](\w+)\s*\(", existing.body.text or ""))]
        found = next((f for f in (*used, *_STARTS) if functions.get(f)), None)
        if found is not None:
            yield Lacking(start, Body(text=f"{name}.{found}()"), as_said(f"nobody calls {name}.{found}"))
        elif name in exported:
            yield Lacking(start, Body(text=f"{name}();"), as_said(f"nobody calls {name}"))


def on_the_other_side(
    site: Site, entries: Sequence[tuple[SeatFile, Body, Mapping[str, str]]], scripts: Mapping[str, str]
) -> Iterator[Lacking]:
    """Entries of one side's files that the other side's need as well: the pack has a file of the same name for
    both, and nobody loads the other one. Each has what its seat goes by."""
    for seat_file, body, at in entries:
        if body.text is None or not seat_file.side:
            continue
        twins = [
            other
            for other in site.seat_files
            if other.side
            and other.side != seat_file.side
            and other.seat.put == seat_file.seat.put
            and other.path != seat_file.path
        ]
        for twin in twins:
            words = set(re.findall(r"\w+", body.text))
            files = [path for path in scripts if site.side_of(path) == twin.side and _stem(path) in words]
            called = re.match(r"\w+[.:](\w+)\s*\(", body.text)
            works = bool(files) and (called is None or re.search(rf"\b{called[1]}\b", scripts[files[0]]) is not None)
            there = any(other.path == twin.path and _same(text, body) for other, text, _ in entries)
            there = there or any(other.path == twin.path and _brings_in(text, files) for other, text, _ in entries)
            spot = seat_at(twin.seat, at) if at else twin.seat.put
            if works and not there and not isinstance(placement_at(twin.document, spot, body), NoSeat):
                why = as_said(f"as on the {seat_file.side}: {files[0]} is for the {twin.side}")
                yield Lacking(twin, body, why, at=at)


def _brings_in(body: Body, files: Sequence[str]) -> bool:
    """Whether a statement loads one of the files: nothing else of it is meant for this side then."""
    return re.search(r"\b(?:require|import|include)\b", body.text or "") is not None and any(
        _stem(path) in re.findall(r"\w+", body.text or "") for path in files
    )


def _same(one: Body, other: Body) -> bool:
    """Whether two statements are one, or call the same with other values."""
    calls = [re.match(r"\s*([\w.:]+)\s*\(", body.text or "") for body in (one, other)]
    if calls[0] is not None and calls[1] is not None and calls[0][1] == calls[1][1]:
        return True
    return " ".join((one.text or "").split()) == " ".join((other.text or "").split())
