"""Which layout a pack looks made for."""

from __future__ import annotations

from collections.abc import Sequence

from hookset.authoring.draft.found.placing import fitting
from hookset.authoring.draft.notes import Notes, is_notes, read_notes
from hookset.authoring.draft.site import Site
from hookset.config.layouts import shipped_layout, shipped_names
from hookset.packs import Pack

__all__ = ["likeliest_site", "made_for"]

_NAMED = 2
"""Files of a map that notes name, from which on they are notes for such a map."""


def likeliest_site(pack: Pack) -> Site | None:
    """The shipped layout in which most of the pack's files lie as in a map; None where hardly any do."""
    sites = [Site(shipped_layout(name)) for name in shipped_names()]
    notes = read_notes(pack.tree, tuple(path for path in pack.tree.paths() if is_notes(path)))
    said = "\n".join(line.text for one in notes for line in one.lines)
    scored = [(_points(site, pack.tree.paths(), said), site) for site in sites]
    best, site = max(scored, key=lambda one: (one[0], one[1].layout.name))
    others = [score for score, other in scored if other is not site]
    return site if best >= 2 and best > max(others, default=0) else None


def made_for(site: Site, notes: Sequence[Notes]) -> tuple[str, tuple[str, ...]] | None:
    """(name, files of such a map that the notes name) of the shipped layout that a pack's notes are for, where they
    name several such files and none of this map's; None otherwise."""
    said = "\n".join(line.text.replace("\\", "/") for one in notes for line in one.lines)
    if _named(site, said):
        return None
    others = [Site(shipped_layout(name)) for name in shipped_names() if name != site.layout.name]
    named, name = max(((_named(other, said), other.layout.name) for other in others), key=lambda one: len(one[0]))
    return (name, tuple(sorted(named))) if len(named) >= _NAMED else None


def _points(site: Site, paths: tuple[str, ...], said: str) -> int:
    """For each file that lies as in such a map, and for each file of such a map that the notes name."""
    return sum(fitting(site, path) for path in paths) + 5 * len(_named(site, said))


def _named(site: Site, said: str) -> set[str]:
    """The files with seats that some notes name."""
    return {seat_file.path for seat_file in site.seat_files if "_" not in seat_file.path and seat_file.path in said}
