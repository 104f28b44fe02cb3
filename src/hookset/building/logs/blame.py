"""Whose a line of the log is: the pack whose file or entry it names, or that asks for the missing name."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from msgspec import Struct

from hookset.building.logs.lines import LogLine
from hookset.config.layouts import Layout
from hookset.edits.find import EntryState, found
from hookset.formats import format_named, text_of
from hookset.model import CouldNotError, Reference, Spot
from hookset.project import Ledger
from hookset.symbols import Analysis, spots
from hookset.trees import Tree, line_and_column

__all__ = ["Blame", "Scene"]


class Blame(Struct, frozen=True):
    """A pack, and what makes it the one."""

    pack: str
    """Empty for the map's own."""
    why: str
    spot: Spot | None


class Scene(Struct, frozen=True, dict=True):
    """The map that the log is about."""

    layout: Layout
    tree: Tree
    analysis: Analysis
    ledger: Ledger

    def path(self, said: str) -> str:
        """The map's file that a log means, whatever stands in front of it there; empty where there is none."""
        if not said or said in self._paths:
            return said
        parts = said.split("/")
        for start in range(1, len(parts)):
            if (rest := "/".join(parts[start:])) in self._paths:
                return rest
        longer = [path for path in self._paths if path.endswith(f"/{said}")]
        return longer[0] if len(longer) == 1 else ""

    @cached_property
    def _paths(self) -> frozenset[str]:
        return frozenset(self.tree.paths())

    @cached_property
    def _brought(self) -> dict[str, str]:
        """Files by the pack that brought them."""
        return {file.path: pack.name for pack in self.ledger.packs for file in pack.files if not file.was_there}

    def kind_of(self, line: LogLine) -> str:
        """What the name in a line is the name of: as its pattern says, or by who asks for such a name."""
        if line.kind or not line.name:
            return line.kind
        asked = (kind for kind in self.layout.kinds if self._asking(kind, line.name))
        known = (kind for kind in self.layout.kinds if self.analysis.index.get(kind, line.name))
        return next(asked, None) or next(known, "")

    def _asking(self, kind: str, name: str) -> list[Reference]:
        return [
            block.reference(file.path, row)
            for file in self.analysis.web.files
            for block in file.referred
            if block.kind == kind and block.use
            for row, one in enumerate(block.names)
            if one == name or name in block.others.get(row, ()) or (block.written and block.written[row] == name)
        ]

    def blames(self, line: LogLine) -> Iterator[Blame]:
        """Every pack that has to do with it, the likeliest first."""
        path = self.path(line.file)
        if path:
            yield self._of_place(path, line.line)
        kind = self.kind_of(line)
        if kind and line.name:
            for reference in self._asking(kind, line.name)[:20]:
                yield self._of_reference(reference, f"asks for the {self.layout.kinds[kind].label} {line.name}")

    def _of_reference(self, reference: Reference, why: str) -> Blame:
        spot = spots(self.tree, self.layout, [(reference.path, reference.where)])[reference.path, reference.where]
        blame = self._of_place(reference.path, spot.line)
        return Blame(blame.pack, f"{blame.why} {why}", spot)

    def _of_place(self, path: str, line: int) -> Blame:
        spot = Spot(path, line)
        if path in self._brought:
            return Blame(self._brought[path], "its file", spot)
        pack = self._entry_at(path, line) if line else ""
        return Blame(pack, "its entry" if pack else "the map's own file", spot)

    def _entry_at(self, path: str, line: int) -> str:
        """The pack whose entry stands in that line of a file."""
        for first, last, pack in self._entry_lines(path):
            if first <= line <= last:
                return pack
        return ""

    def _entry_lines(self, path: str) -> list[tuple[int, int, str]]:
        rule = self.layout.text_rule(path)
        if rule is None or not self.tree.has(path):
            return []
        try:
            string = text_of(format_named(rule.format), self.tree.read(path), rule.encodings).string
        except CouldNotError:
            return []
        lines: list[tuple[int, int, str]] = []
        for pack in self.ledger.packs:
            for hook in (one for one in pack.hooks if one.path == path and not one.was_there):
                for edit in hook.edits:
                    where = found(string, edit)
                    if where.standing is not EntryState.GONE and edit.new.strip():
                        # The text of an edit often begins with the end of the line before.
                        lead = len(edit.new) - len(edit.new.lstrip())
                        start = min(where.start + lead, where.end)
                        end = max(start, where.end - 1)
                        first, last = (line_and_column(string, at)[0] for at in (start, end))
                        lines.append((first, last, pack.name))
        return lines
