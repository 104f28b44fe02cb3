"""For a program: every output as plain data. The shapes are documented in docs/json.md and only grow."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import msgspec

from hookset import __version__
from hookset.model.visible import json_escaped
from hookset.reports.checked import counts_data, finding_data
from hookset.reports.drafts import draft_data

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hookset.applying import JournalEntry
    from hookset.authoring.draft import Draft, Inside
    from hookset.building import Archive
    from hookset.checks import ExclusionState
    from hookset.config.layouts import Layout
    from hookset.model import HooksetError, Message
    from hookset.packs import Pack
    from hookset.planning import FileDiff, NeedState, Outlook, PackPlan, Plan, Stop
    from hookset.planning.queries.contents import PackReview
    from hookset.project.stocks import StockRow
    from hookset.symbols import Explained, StockChanges, Survey

__all__ = [
    "archive_data",
    "enveloped",
    "error_data",
    "explained_data",
    "inspect_data",
    "layout_data",
    "line_of",
    "plan_data",
    "stock_changes_data",
    "stock_data",
    "survey_data",
    "undo_data",
]


def enveloped(command: str, ok: bool, data: Mapping[str, Any]) -> str:
    """The outer form that every command shares."""
    return json_escaped(json.dumps(_whole(command, ok, data), ensure_ascii=False, indent=1))


def line_of(command: str, ok: bool, data: Mapping[str, Any]) -> str:
    """The same in one line, for commands that say something again and again."""
    return json_escaped(json.dumps(_whole(command, ok, data), ensure_ascii=False))


def _whole(command: str, ok: bool, data: Mapping[str, Any]) -> dict[str, Any]:
    return {"hookset": __version__, "command": command, "ok": ok, **data}


def error_data(error: HooksetError) -> dict[str, Any]:
    return {"error": _message(error.message)}


def _message(message: Message) -> dict[str, Any]:
    return {
        "code": message.code,
        "what": message.what,
        "where": message.where,
        "why": message.why,
        "remedy": message.remedy,
        "details": list(message.details),
    }


def _need(state: NeedState) -> dict[str, Any]:
    need = state.need
    return {"kind": need.kind, "name": need.name, "version": need.version, "met": state.met, "by": state.by}


def _exclusion(state: ExclusionState) -> dict[str, Any]:
    one = state.exclusion
    found = [{"path": clash.path, "what": clash.what} for clash in state.found]
    return {"kind": one.kind, "name": one.name, "version": one.version, "known": state.known, "found": found}


def _stop(stop: Stop) -> dict[str, Any]:
    return {**_message(stop), "question": msgspec.to_builtins(stop.question)}


def _pack_plan(plan: PackPlan) -> dict[str, Any]:
    return {
        "files": [
            {"path": file.path, "state": file.state.value, "size": file.size, "note": file.note} for file in plan.files
        ],
        "entries": [
            {
                "seat": hook.seat,
                "path": hook.path,
                "state": hook.state.value,
                "entry": hook.shown,
                "note": hook.note,
            }
            for hook in plan.hooks
        ],
        "values": [{"what": one.what, "value": one.value, "by": one.by} for one in plan.values],
        "notes": list(plan.notes),
    }


def plan_data(
    plan: Plan, view: Outlook | None, stops: Iterable[Stop], diffs: Iterable[FileDiff], written: bool
) -> dict[str, Any]:
    """A plan, with all that stands in its way, also what only the judged map shows."""
    return {
        "written": written,
        "packs": [
            {"name": one.name, "version": one.version, "before": one.before}
            | _pack_plan(one)
            | {
                "needs": [_need(state) for state in (view.needs.get(one.name, ()) if view else ())],
                "excludes": [_exclusion(state) for state in (view.excluded.get(one.name, ()) if view else ())],
            }
            for one in plan.packs
        ],
        "stops": [_stop(stop) for stop in stops],
        "questions": msgspec.to_builtins(plan.questions),
        "look_at": [
            {"path": o.spot.path, "line": o.spot.line, "column": o.spot.column, "why": o.why} for o in plan.open
        ],
        "diffs": [{"path": diff.path, "lines": list(diff.lines)} for diff in diffs],
        "new_findings": [finding_data(finding) for finding in view.fresh] if view else [],
        "counts": counts_data(view.after.counts) if view else None,
        "names": [
            {"kind": one.kind, "before": one.before, "after": one.after, "gone": list(one.gone)}
            for one in (view.names if view else ())
        ],
    }


def inspect_data(pack: Pack, look: Inside, draft: Draft | None, looked: PackReview) -> dict[str, Any]:
    sheet, contents, needs, plan = pack.sheet, looked.contents, looked.needs, looked.plan
    data: dict[str, Any] = {
        "source": str(pack.source),
        "sha256": pack.sha256,
        "files": [{"path": path, "size": pack.tree.size(path)} for path in pack.tree.paths()],
        "sorts": {word: count for word, count, _ in look.sorts},
        "notes": [one.path for one in look.notes],
        "licence_files": [path for path, _ in look.licences],
        "warnings": list(look.warnings),
        "hook_sheet": sheet is not None and draft is None,
        "drafted": draft_data(draft, None) if draft is not None else None,
        "met_inside": contents.inside,
        "unused": list(contents.unused),
        "collides": [_stop(stop) for stop in looked.stops],
        "layout": contents.layout,
        "brings": {one.kind: list(one.names) for one in contents.brought},
        "asks_for": [{"kind": one.label, "name": one.name, "met": one.met} for one in contents.asked],
        "stays_out": list(pack.leftovers) if sheet else [],
    }
    if sheet is not None:
        data |= {
            "name": sheet.pack.name,
            "version": sheet.pack.version,
            "title": sheet.pack.title,
            "authors": list(sheet.pack.authors),
            "license": sheet.pack.license,
            "look_for": list(sheet.pack.look_for),
            "needs": [_need(state) for state in needs]
            if needs is not None
            else [{"kind": n.kind, "name": n.name, "version": n.version, "met": None, "by": ""} for n in sheet.needs],
            "excludes": [_exclusion(state) for state in looked.excluded]
            or [
                {"kind": e.kind, "name": e.name, "version": e.version, "known": False, "found": []}
                for e in sheet.excludes
            ],
            "settings": [
                {
                    "name": s.name,
                    "type": s.type,
                    "default": s.default,
                    "range": s.range,
                    "unit": s.unit,
                    "says": s.says,
                }
                for s in sheet.setting
            ],
            "claims": [claim.kind for claim in sheet.claim],
            "parts": [{"name": part.name, "title": part.title} for part in sheet.part],
            "does": list(sheet.pack.does),
            "places": [
                {"name": one.name, "says": one.says, "must": one.must, "least": one.least} for one in sheet.place
            ],
            "blanks": [{"name": b.name, "kind": b.kind, "into": b.into, "says": b.says} for b in sheet.blank],
        }
    return data | ({"plan": _pack_plan(plan)} if plan is not None else {})


def undo_data(entries: Sequence[JournalEntry], written: bool) -> dict[str, Any]:
    entry, *further = entries
    return {
        "written": written,
        "undone": _entry(entry),
        "further": [_entry(one) for one in further],
        "files": [
            {"path": step.path, "result": "taken out" if step.before is None else "put back"} for step in entry.steps
        ],
    }


def _entry(entry: JournalEntry) -> dict[str, Any]:
    return {"id": entry.id, "action": entry.action, "title": entry.title, "time": entry.time}


def archive_data(archive: Archive, path: str, size: int, sha256: str, packed: int) -> dict[str, Any]:
    return {
        "archive": path,
        "size": size,
        "sha256": sha256,
        "packed": packed,
        "members": list(archive.members),
        "left_out": list(archive.left_out),
        "inner": {one.name: list(one.members) for one in archive.inner},
    }


def layout_data(layout: Layout) -> dict[str, Any]:
    return {
        "name": layout.name,
        "title": layout.title,
        "sides": list(layout.sides),
        "kinds": {name: kind.label for name, kind in layout.kinds.items()},
        "reads": [
            {
                "rule": number,
                "files": [glob.pattern for glob in rule.files],
                "format": rule.format,
                "defines": [one.kind for one in rule.defines],
                "refers": [one.kind for one in rule.refers],
            }
            for number, rule in enumerate(layout.reads, 1)
        ],
        "seats": {name: {"title": seat.title, "file": seat.file.pattern} for name, seat in layout.seats.items()},
    }


def explained_data(explained: Explained) -> dict[str, Any]:
    return {
        "path": explained.path,
        "rules": [number for number, _ in explained.rules],
        "names": [
            {
                "line": one.line,
                "column": one.column,
                "rule": one.rule,
                "verb": one.verb,
                "kind": one.kind,
                "name": one.name,
                "side": one.side,
                "variant": one.variant,
                "built_at_run_time": one.pattern,
            }
            for one in explained.seen
        ],
        "unseen": [{"line": line, "text": text} for line, text in explained.unseen],
        "left_out": [
            {"rule": one.rule, "verb": one.verb, "kind": one.kind, "key": one.key, "names": list(one.names)}
            for one in explained.left_out
        ],
        "problems": [{"line": line, "what": what} for line, what in explained.problems],
    }


def survey_data(survey: Survey) -> dict[str, Any]:
    return {
        "rules": [
            {"rule": rule.number, "files": rule.files, "names": rule.names, "found_nowhere": list(rule.idle)}
            for rule in survey.rules
        ],
        "judged": [{"title": one.title, "where": one.where, "found": one.found} for one in survey.judged],
        "seats": [
            {"seat": seat.name, "places": list(seat.places), "lacking": list(seat.lacking)} for seat in survey.seats
        ],
        "ids": [{"kind": label, "taken": len(ids.taken), "next": ids.next} for label, ids in survey.ids],
    }


def stock_changes_data(changes: StockChanges) -> dict[str, Any]:
    return {
        "kinds": [
            {"kind": one.kind.name, "dropped": list(one.dropped), "added": list(one.added)} for one in changes.kinds
        ],
        "used": [
            {"kind": one.kind, "name": one.name, "path": spot.path, "line": spot.line, "column": spot.column}
            for one, spot in changes.used
        ],
    }


def stock_data(found: Sequence[tuple[str, StockRow]], more: bool) -> dict[str, Any]:
    return {
        "names": [
            {
                "from": where,
                "kind": row.kind,
                "name": row.name,
                "side": row.side,
                "path": row.path,
                "detail": row.detail,
            }
            for where, row in found
        ],
        "more": more,
    }
