"""Names that a newer version calls otherwise, changed in the whole map: also where the builder has used them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec.structs import replace
from packaging.version import Version

from hookset.core.entries.finding import Standing, found
from hookset.core.entries.putting import line_above, line_below
from hookset.core.formats import Edit, spliced
from hookset.core.install.naming.respelling import NameMap, Respelt, respelt
from hookset.core.install.planned.desk import Desk
from hookset.core.packs import Pack
from hookset.core.project import LedgerEdit, LedgerHook

_CONTEXT = 8
"""Characters before a name that tell it from the same word elsewhere in an entry."""

__all__ = ["follow", "rename_everywhere", "rename_since"]


def rename_since(desk: Desk, pack: Pack, installed: str) -> None:
    """What the pack renamed after the version that is installed."""
    sheet = pack.sheet
    if sheet is None:
        return
    names = {
        (entry.kind, entry.from_, ""): entry.to
        for entry in sheet.renamed
        if entry.kind in desk.layout.kinds and Version(entry.since or sheet.pack.version) > Version(installed)
    }
    own = desk.ledger.pack(pack.name)
    brought = {file.path for file in own.files} if own else set()
    rename_everywhere(desk, NameMap.of(desk.layout, names), but=brought)


def rename_everywhere(desk: Desk, names: NameMap, but: set[str] | None = None) -> dict[str, int]:
    """Every reference to a name, and its definition where it stands in a file of the builder's; how many, by file."""
    done: dict[str, int] = {}
    if not names:
        return done
    kinds = {kind for kind, _ in names.names}
    for path in desk.tree.paths():
        if path in (but or ()) or not _concerned(desk, path, kinds):
            continue
        result = respelt(desk.tree, desk.layout, path, names)
        desk.unsure(path, result.left)
        if result.content is not None:
            follow(desk, path, result)
            done[path] = len(result.edits)
    return done


def follow(desk: Desk, path: str, result: Respelt) -> None:
    """Put a file with other names in it on the desk, and let the ledger know: nobody has changed it by hand."""
    if result.content is None or result.text is None:
        return
    before = desk.sha(path)
    desk.contents[path] = result.content
    hooks = [_followed(hook, result.text.string, result.edits) for hook in desk.entries_in(path)]
    desk.settle(path, hooks)
    for pack in desk.ledger.packs:
        if any(file.path == path and file.sha256 == before for file in pack.files):
            sha = desk.keep(result.content)
            files = tuple(replace(file, sha256=sha) if file.path == path else file for file in pack.files)
            desk.ledger = desk.ledger.with_pack(replace(pack, files=files))


def _followed(hook: LedgerHook, string: str, edits: Sequence[Edit]) -> LedgerHook:
    """An entry whose text was changed by these edits of its file."""
    changed = spliced(string, edits)
    every: list[Edit] = []
    made: list[LedgerEdit] = []
    for edit in hook.edits:
        span = found(string, edit)
        if span.standing is Standing.GONE:
            made.append(edit)
            continue
        inside = [one for one in edits if span.start <= one.start and one.end <= span.end]
        every += inside
        shifted = [Edit(one.start - span.start, one.end - span.start, one.text) for one in inside]
        start = span.start + sum(len(one.text) - (one.end - one.start) for one in edits if one.end <= span.start)
        if span.standing is Standing.CHANGED:
            new = _alike(edit.new, string, inside)
            made.append(replace(edit, new=new))
            continue
        new = spliced(string[span.start : span.end], shifted)
        above, below = line_above(changed, start), line_below(changed, start + len(new))
        made.append(LedgerEdit(new=new, old=edit.old, above=above, below=below))
    text = None if hook.text is None else _alike(hook.text, string, every)
    record = _values(hook.record, {string[one.start : one.end]: one.text for one in every})
    return replace(hook, edits=tuple(made), text=text, record=record)


def _values(value: Any, names: Mapping[str, str]) -> Any:
    """A record with those of its values called otherwise that are a name, or a path that one is a part of."""
    if isinstance(value, Mapping):
        return {key: _values(below, names) for key, below in value.items()}
    if isinstance(value, list | tuple):
        return [_values(below, names) for below in value]
    if not isinstance(value, str):
        return value
    whole = names.get(value)
    parts = (value.replace(old, new) for old, new in names.items() if "/" in old and old in value)
    return whole if whole is not None else next(parts, value)


def _alike(text: str, string: str, edits: Sequence[Edit]) -> str:
    """The same edits made in what an entry was before the builder changed it, where the same stands around them."""
    for one in edits:
        lead = string[max(one.start - _CONTEXT, 0) : one.start]
        old = lead + string[one.start : one.end]
        if text.count(old) == 1:
            text = text.replace(old, lead + one.text)
    return text


def _concerned(desk: Desk, path: str, kinds: set[str]) -> bool:
    rules = [rule for rule in desk.layout.reads if rule.format != "any" and rule.match(path) is not None]
    named = {one.kind for rule in rules for one in rule.defines} | {one.kind for rule in rules for one in rule.refers}
    return bool(named & kinds)
