"""Entries for large files, collected: each file is parsed once, all of its insertions are made together, and what came
of it is read once to see that every entry stands.

What an entry would be beside those that wait (the same one, one of the same name) is seen in a small file that holds
nothing else; so are the numbers and rows that they bring. An entry that needs what another one sets is no insertion
into the file as it is: then those that wait are set first.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from hookset.config.layouts import Layout
from hookset.edits.place import line_above, line_below, placed, seat_at
from hookset.formats import (
    Document,
    Edit,
    Edits,
    Unreadable,
    format_named,
    open_file,
    open_with_insertions,
    spliced,
)
from hookset.formats.document import head_of
from hookset.model import CouldNotError
from hookset.project import LedgerEdit, LedgerHook
from hookset.trees import Content, EmptyTree, Inline, Overlay, Text, Tree

__all__ = ["Insertions"]

_LARGE = 64 << 10
"""Bytes of a file from which on parsing it for each entry would be felt."""
_FEW = 20
"""Entries in a small file: each that comes is looked for in all of them, and parsed with those of the last."""
_NEAR = 2_000
"""Characters around an insertion in which its neighbours are looked for first."""
_Seat = tuple[str, str, str]
"""Path, seat, and what the hook gives for the seat's `{…}`."""


class _Insertion(Struct, frozen=True):
    hook: LedgerHook
    at: int
    """Characters into the file as it was."""
    text: str


class _Small(Struct, frozen=True):
    """A file that holds a seat and the entries that wait for it."""

    tree: Tree
    end: int
    """Where the last entry ends."""
    count: int


def _small(path: str, string: str, end: int, count: int) -> _Small:
    return _Small(Overlay(EmptyTree(), {path: Inline(string.encode())}), end, count)


class Insertions(Struct, frozen=True):
    """What waits to be set into the files of a tree. `opened` and `known` only remember what was read of the tree."""

    layout: Layout
    tree: Tree
    """The map without them."""
    large: int = _LARGE
    waiting: tuple[_Insertion, ...] = ()
    small: Mapping[_Seat, tuple[_Small, ...]] = field(default_factory=dict)
    opened: dict[str, tuple[Text, Document]] = field(default_factory=dict)
    known: dict[int, _Insertion | None] = field(default_factory=dict)
    """By the order of an entry: where it would be inserted into the file as it is; None where it would change more."""

    @property
    def trees(self) -> tuple[Tree, ...]:
        """The small files: what the entries that wait would add to the map."""
        return tuple(small.tree for smalls in self.small.values() for small in smalls)

    def take(self, hook: LedgerHook) -> Insertions | None:
        """The same with one more entry; None where it cannot wait with the others, since it is no plain insertion
        into a large file."""
        seat = self.layout.seats.get(hook.seat)
        if seat is None or not self.tree.has(hook.path) or self.tree.size(hook.path) < self.large:
            return None
        key = (hook.path, hook.seat, repr(sorted(hook.at.items())))
        smalls = self.small.get(key, ())
        try:
            insertion = self._insertion(hook)
            if insertion is None or not self._in_order(insertion, key) or self._has(hook, smalls[:-1]):
                return None
            last = smalls[-1] if smalls and smalls[-1].count < _FEW else None
            if last is None and self._has(hook, smalls[-1:]):
                return None
            small = self._beside(hook, last)
        except (Unreadable, CouldNotError, KeyError, msgspec.ValidationError):
            return None
        if small is None:
            return None
        now = (*(smalls[:-1] if last is not None else smalls), small)
        return replace(self, waiting=(*self.waiting, insertion), small={**self.small, key: now})

    def together(self, hooks: Sequence[LedgerHook]) -> tuple[bytes, tuple[LedgerHook, ...]] | None:
        """One file with all of these entries in it, which are known to stand beside each other; and the entries with
        what each changed. None where one of them is no plain insertion into the file as it is."""
        found: list[_Insertion] = []
        seats: dict[int, _Seat] = {}
        for hook in hooks:
            if hook.order not in self.known:
                self.known[hook.order] = self._insertion(hook)
            insertion = self.known[hook.order]
            if insertion is None:
                return None
            key = (hook.path, hook.seat, repr(sorted(hook.at.items())))
            if seats.setdefault(insertion.at, key) != key:
                return None
            found.append(insertion)
        text, _ = self.opened[hooks[0].path]
        return text.encode(spliced(text.string, _in_order(found))), tuple(_inserted(text.string, found))

    def stand(self, tree: Tree, hooks: Sequence[LedgerHook]) -> bool:
        """Whether all of these entries stand in a tree: setting any of them again would set nothing."""
        try:
            return self._stand(tree, hooks)
        except (Unreadable, CouldNotError):
            return False

    def _insertion(self, hook: LedgerHook) -> _Insertion | None:
        if hook.seat not in self.layout.seats:
            # A value, or what stands by other text: each by itself.
            return None
        if hook.path not in self.opened:
            self.opened[hook.path] = self._opened(self.tree, hook)
        text, document = self.opened[hook.path]
        placement = placed(self.layout, text, document, hook)
        edits = placement.edits if isinstance(placement, Edits) else ()
        if len(edits) != 1 or edits[0].start != edits[0].end:
            return None
        return _Insertion(hook, edits[0].start, edits[0].text)

    def _has(self, hook: LedgerHook, smalls: Sequence[_Small]) -> bool:
        """Whether an entry like it waits, or one of its name."""
        found = (placed(self.layout, *self._opened(small.tree, hook), hook) for small in smalls)
        return any(not isinstance(placement, Edits) for placement in found)

    def _beside(self, hook: LedgerHook, small: _Small | None) -> _Small | None:
        """The small file with the entry in it; None where it cannot stand behind those that wait."""
        seat = self.layout.seats[hook.seat]
        if small is None:
            string = head_of(self.opened[hook.path][1]) or format_named(seat.format).blank(seat_at(seat, hook.at))
            small = _small(hook.path, string, 0, 0)
        text, document = self._opened(small.tree, hook)
        placement = placed(self.layout, text, document, hook)
        if not isinstance(placement, Edits) or placement.edits[0].start < small.end:
            return None
        last = placement.edits[-1]
        before = sum(len(edit.text) - (edit.end - edit.start) for edit in placement.edits[:-1])
        end = last.start + before + len(last.text.rstrip())
        return _small(hook.path, spliced(text.string, placement.edits), end, small.count + 1)

    def _in_order(self, insertion: _Insertion, key: _Seat) -> bool:
        """Whether all that goes to the same place comes from the same seat: one behind the other then."""
        same = [one.hook for one in self.waiting if one.hook.path == key[0] and one.at == insertion.at]
        return all((one.path, one.seat, repr(sorted(one.at.items()))) == key for one in same)

    def _opened(self, tree: Tree, hook: LedgerHook) -> tuple[Text, Document]:
        seat = self.layout.seats[hook.seat]
        text, document = open_file(format_named(seat.format), tree.read(hook.path), seat.encodings, seat.options)
        if document.problems:
            raise Unreadable(document.problems[0][0])
        return text, document

    def written(self) -> tuple[Mapping[str, Content], tuple[LedgerHook, ...]] | None:
        """(the files with all that waited, the entries with what each changed, in their order); None where not every
        one of them stands then."""
        contents: dict[str, Content] = {}
        done: dict[int, LedgerHook] = {}
        for path in dict.fromkeys(one.hook.path for one in self.waiting):
            mine = [one for one in self.waiting if one.hook.path == path]
            try:
                seat = self.layout.seats[mine[0].hook.seat]
                before = self.opened[path]
                hooks = _inserted(before[0].string, mine)
                form = format_named(seat.format)
                contents[path] = Inline(
                    open_with_insertions(form, before, _in_order(mine), seat.encodings, seat.options)
                )
                done |= {hook.order: hook for hook in hooks}
                if not self._stand(Overlay(self.tree, contents), hooks):
                    return None
            except (Unreadable, CouldNotError):
                return None
        return contents, tuple(done[one.hook.order] for one in self.waiting)

    def _stand(self, tree: Tree, hooks: Sequence[LedgerHook]) -> bool:
        """Setting any of them again would set nothing."""
        found = (placed(self.layout, *self._opened(tree, hook), hook) for hook in hooks)
        return not any(isinstance(placement, Edits) for placement in found)


def _inserted(string: str, insertions: Sequence[_Insertion]) -> list[LedgerHook]:
    """Each entry with what it changes in the text, as if set one after the other."""
    hooks: list[LedgerHook] = []
    for number, one in enumerate(insertions):
        near, at = _around(string, one.at, insertions[:number])
        edit = LedgerEdit(new=one.text, old="", above=line_above(near, at), below=line_below(near, at))
        hooks.append(msgspec.structs.replace(one.hook, was_there=False, edits=(edit,)))
    return hooks


def _in_order(insertions: Sequence[_Insertion], start: int = 0) -> list[Edit]:
    """As edits of what begins at `start`; those at one place behind each other."""
    texts: dict[int, str] = {}
    for one in insertions:
        texts[one.at] = texts.get(one.at, "") + one.text
    return [Edit(at - start, at - start, text) for at, text in texts.items()]


def _around(string: str, at: int, earlier: Sequence[_Insertion]) -> tuple[str, int]:
    """What stands around a place once the earlier insertions are made, and where the place is in that."""
    start, end = max(at - _NEAR, 0), min(at + _NEAR, len(string))
    if not string[start:at].strip() or not string[at:end].strip():
        start, end = 0, len(string)
    here = [one for one in earlier if start <= one.at <= end]
    shift = sum(len(one.text) for one in here if one.at <= at)
    return spliced(string[start:end], _in_order(here, start)), at - start + shift
