"""Which layout a pack looks made for, where there is no map to go by."""

from __future__ import annotations

from hookset.authoring.draft.found.placing import fitting
from hookset.authoring.draft.notes import is_notes, read_notes
from hookset.authoring.draft.site import Site
from hookset.config.layouts import shipped_layout, shipped_names
from hookset.packs import Pack

__all__ = ["likeliest_site"]


def likeliest_site(pack: Pack) -> Site | None:
    """The shipped layout in which most of the pack's files lie as in a map; None where hardly any do."""
    sites = [Site(shipped_layout(name)) for name in shipped_names()]
    notes = read_notes(pack.tree, tuple(path for path in pack.tree.paths() if is_notes(path)))
    said = "\n".join(line.text for one in notes for line in one.lines)
    scored = [(_points(site, pack.tree.paths(), said), site) for site in sites]
    best, site = max(scored, key=lambda one: (one[0], one[1].layout.name))
    others = [score for score, other in scored if other is not site]
    return site if best >= 2 and best > max(others, default=0) else None


def _points(site: Site, paths: tuple[str, ...], said: str) -> int:
    """For each file that lies as in such a map, and for each file of such a map that the notes name."""
    named = {seat_file.path for seat_file in site.seat_files if "_" not in seat_file.path and seat_file.path in said}
    return sum(fitting(site, path) for path in paths) + 5 * len(named)
