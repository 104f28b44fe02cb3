"""What a pack cannot stand beside, looked up in this map: a pack, a file that somebody has put there, or a name."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.said.exclusions import Excluded, exclusions_said
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import concepts, words
from hookset.packs.hooksheet import ExcludeEntry

__all__ = ["exclusions_for"]

_VERSION = re.compile(r"[\s,]+(?:v(?:ersion)?\.? ?)?(?P<number>\d+(?:\.\d+)*)(?P<more>\+?)\s*$", re.IGNORECASE)
_PACK = re.compile(r"^(?:pack|mod|add-?on|prefab)\s+|\s+(?:pack|mod|add-?on|prefab|script)s?$", re.IGNORECASE)
_UNKNOWN = "no pack of that name is known here: look whether it is called so"


def exclusions_for(site: Site, notes: Sequence[Notes], own: str) -> Iterator[tuple[ExcludeEntry, Why, str]]:
    """`[[excludes]]` for all that the notes say cannot stand beside the pack, which is called `own`: (entry,
    where that is said, why it is unsure)."""
    done: set[tuple[str, str]] = set()
    for said in exclusions_said(notes):
        for entry, doubt in _entries(site, said):
            key = (entry.kind, entry.name)
            if key not in done and key != ("pack", own):
                done.add(key)
                yield entry, said.why, doubt


def _entries(site: Site, said: Excluded) -> Iterator[tuple[ExcludeEntry, str]]:
    """(entry, why it is unsure) for one thing."""
    if said.path:
        yield ExcludeEntry(kind="file", name=_pattern(site, said.what.lstrip("./"))), ""
    elif kind := _kind(site, said):
        yield ExcludeEntry(kind=kind, name=said.what), ""
    else:
        yield from _packs(site, said.what)


def _pattern(site: Site, path: str) -> str:
    """The files that a path means: below the map, if it begins with a folder that the map has."""
    top, slash, _ = path.partition("/")
    there = slash and any(one.startswith(f"{top}/") for one in site.tree.paths())
    return f"{'' if there else '**/'}{path}{'**' if path.endswith('/') else ''}"


def _packs(site: Site, what: str) -> Iterator[tuple[ExcludeEntry, str]]:
    """A pack; and the file that is called like it, where one was installed by hand and is in no ledger."""
    name, version = _with_version(what)
    asked = kebab(_PACK.sub("", name))
    known = next((one for one in site.packs if kebab(one) == asked), None)
    stem = site.stems.get(asked)
    if known is None and stem is not None:
        yield ExcludeEntry(kind="file", name=f"**/{stem}.*"), ""
    if asked:
        yield ExcludeEntry(kind="pack", name=known or asked, version=version), "" if known or stem else _UNKNOWN


def _with_version(what: str) -> tuple[str, str]:
    """A name and the versions that are meant: `Harbour Watch 2.0+` → `Harbour Watch`, `>=2.0`."""
    version = _VERSION.search(what)
    if version is None:
        return what, ""
    number, before = version["number"], what[: version.start()]
    older = re.search(rf"\s+{words()['exclusions']['older']}\s*$", before, re.IGNORECASE)
    if older is not None:
        return before[: older.start()], f"<{number}"
    return before, f">={number}" if version["more"] else f"=={number}.*"


def _kind(site: Site, said: Excluded) -> str:
    """The kind of a name that is quoted, or of which the sort is said: one that the map has, or that is called like the
    sort. What is called an object, whatever the layout calls it, stands in the map."""
    if not said.quoted and not said.sort:
        return ""
    kinds = [name for name in site.layout.kinds if name not in site.layout.path_kinds]
    there = [kind for kind in kinds if site.index.get(kind, said.what)]
    sort = concepts(said.sort) | {said.sort}
    named = [kind for kind in kinds if sort & {kind, site.layout.kinds[kind].label.casefold()}]
    if "object" in sort:
        named += [rule.entry.kind for rule in site.layout.positions.placed if rule.entry.kind]
    both = [kind for kind in there if kind in named]
    as_pack = kebab(said.what) in map(kebab, site.packs)
    return next(iter(both or ([] if as_pack else there) or named), "")
