"""Installed packs and their status, as data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hookset.applying import Room
    from hookset.planning.queries.status import PackStatus
    from hookset.planning.queries.tunables import Tunables
    from hookset.project import Ledger

__all__ = ["ledger_data", "status_data", "tunables_data"]


def ledger_data(ledger: Ledger) -> dict[str, Any]:
    return {
        "packs": [
            {
                "name": pack.name,
                "version": pack.version,
                "title": pack.title,
                "authors": list(pack.authors),
                "license": pack.license,
                "source": pack.source,
                "sha256": pack.sha256,
                "installed": pack.installed,
                "home": pack.home,
                "parts": list(pack.parts),
                "settings": {one.name: one.value for one in pack.settings},
                "claims": pack.claims,
                "blanks": {one.name: one.filled for one in pack.blanks},
                "renamed": pack.renamed,
                "moved": pack.moved,
                "files": [file.path for file in pack.files],
                "entries": [{"seat": hook.seat, "path": hook.path, "entry": hook.shown} for hook in pack.hooks],
            }
            for pack in ledger.packs
        ]
    }


def tunables_data(found: Tunables) -> dict[str, Any]:
    return {
        "pack": found.pack.name,
        "settings": [
            {
                "name": one.name,
                "type": one.type,
                "value": one.value,
                "default": one.default,
                "range": one.range,
                "choices": list(one.choices),
                "unit": one.unit,
                "says": one.says,
                "places": [
                    {"path": place.spot.path, "line": place.spot.line, "value": place.value} for place in places
                ],
            }
            for one, places in found.settings
        ],
        "claims": found.pack.claims,
        "blanks": [
            {"name": one.name, "kind": one.kind, "into": one.into, "says": one.says, "filled": one.filled}
            for one in found.pack.blanks
        ],
    }


def status_data(packs: Sequence[PackStatus], room: Room) -> dict[str, Any]:
    return {
        "history": {"changes": room.changes, "bytes": room.size},
        "packs": [
            {
                "name": one.pack.name,
                "version": one.pack.version,
                "as_set": one.as_set,
                "files": [
                    {"path": f.path, "standing": f.standing.value, "note": f.note, "diff": list(f.diff)}
                    for f in one.files
                ],
                "entries": [
                    {
                        "seat": h.hook.seat,
                        "path": h.hook.path,
                        "entry": h.hook.shown,
                        "standing": h.standing.value,
                        "diff": list(h.diff),
                    }
                    for h in one.hooks
                ],
            }
            for one in packs
        ],
    }
