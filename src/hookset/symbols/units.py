"""Units: folders that say which others they need, and what they use of each other."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Mapping
from functools import cached_property

from msgspec import Struct, field

from hookset.config.layouts.schema import UnitsEntry
from hookset.model import Reference
from hookset.symbols.collect import Web
from hookset.symbols.facts import FileFacts, Referred
from hookset.symbols.index import Index

__all__ = ["Unit", "Units", "Use"]


class Unit(Struct, frozen=True):
    """A folder, or a file, that says what it needs."""

    name: str
    folder: str
    """Its path."""
    needs: Mapping[str, Reference] = field(default_factory=dict)
    may_use: Mapping[str, Reference] = field(default_factory=dict)


class Use(Struct, frozen=True):
    """A name of another unit, used in one."""

    user: Unit
    owner: Unit
    reference: Reference


class Units(Struct, frozen=True, dict=True):
    """All units of a map, each question answered once."""

    entry: UnitsEntry | None
    web: Web
    index: Index

    @cached_property
    def by_folder(self) -> Mapping[str, Unit]:
        """Every unit by the folder that it is."""
        if self.entry is None:
            return {}
        found: dict[str, str] = {}
        for definitions in self.index.groups(self.entry.kind).values():
            for one in definitions:
                found.setdefault(self._place(one.path), one.name)
        needs: dict[str, dict[bool, dict[str, Reference]]] = {folder: {False: {}, True: {}} for folder in found}
        for file in self.web.files:
            folder = self._place(file.path)
            for reference in file.references if folder in found else ():
                if reference.kind == self.entry.kind and reference.use and not reference.guards:
                    needs[folder][reference.optional].setdefault(reference.name, reference)
        return {folder: Unit(name, folder, needs[folder][False], needs[folder][True]) for folder, name in found.items()}

    @cached_property
    def by_name(self) -> Mapping[str, Unit]:
        """Every unit by its name."""
        return {unit.name: unit for unit in self.by_folder.values()}

    @cached_property
    def of_file(self) -> Mapping[str, Unit | None]:
        """By path: the unit in whose folder a file lies."""
        return {file.path: self._around(file.path) for file in self.web.files}

    def _place(self, path: str) -> str:
        """What the unit is that such a file describes."""
        return path if self.entry is not None and self.entry.of == "file" else posixpath.dirname(path)

    def _around(self, path: str) -> Unit | None:
        if path in self.by_folder:
            return self.by_folder[path]
        folder = posixpath.dirname(path)
        while folder not in self.by_folder:
            if not folder:
                return None
            folder = posixpath.dirname(folder)
        return self.by_folder[folder]

    @cached_property
    def usable(self) -> Mapping[str, frozenset[str]]:
        """By folder: the names of the units that a unit says it needs, and of those that these need."""
        return {folder: self._usable(unit) for folder, unit in self.by_folder.items()}

    def _usable(self, unit: Unit) -> frozenset[str]:
        found: dict[str, None] = {}
        waiting = list(unit.needs)
        while waiting:
            name = waiting.pop()
            if name not in found:
                found[name] = None
                if self.entry is not None and self.entry.through and name in self.by_name:
                    waiting += self.by_name[name].needs
        return frozenset(found) | frozenset(self.entry.always if self.entry is not None else ()) | {unit.name}

    @cached_property
    def uses(self) -> tuple[Use, ...]:
        """Every use of a name that only other units define."""
        return tuple(self._uses()) if self.by_folder else ()

    def _uses(self) -> Iterator[Use]:
        owners: dict[tuple[str, str], frozenset[str]] = {}

        def owning(block: Referred, row: int) -> frozenset[str]:
            key = block.kind, block.names[row]
            if key not in owners:
                found = [
                    self.of_file[path]
                    for name in (key[1], *block.others.get(row, ()))
                    for path, _ in self.index.places(key[0], name)
                ]
                owners[key] = frozenset() if None in found else frozenset(one.folder for one in found if one)
            return owners[key]

        for file in self.web.files:
            user = self.of_file[file.path]
            for block, row in self._rows(file) if user is not None else ():
                folders = owning(block, row)
                if user is not None and folders and user.folder not in folders:
                    yield Use(user, self.by_folder[min(folders)], block.reference(file.path, row))

    def _rows(self, file: FileFacts) -> Iterator[tuple[Referred, int]]:
        for block in file.referred:
            if block.use and self.entry is not None and block.kind != self.entry.kind:
                yield from ((block, row) for row in range(len(block.names)) if row not in block.patterns)
