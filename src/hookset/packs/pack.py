"""A pack that was opened: its files, its hook sheet, and where what of it goes."""

from __future__ import annotations

import hashlib
import posixpath
import re
from collections.abc import Sequence
from functools import cached_property
from pathlib import Path

from msgspec import Struct

from hookset.config.sheets import Complaint, Sheet
from hookset.packs.hooksheet import SHEET_NAME, FilesEntry, HookSheet, WhenEntry
from hookset.project import is_ours
from hookset.trees import (
    Glob,
    GlobMatch,
    Member,
    SlowPatternError,
    Tree,
    digest_all,
    joined,
    sha256_of,
    unsafe_reason,
)

__all__ = ["Pack", "SheetedPack"]

MAP_WORD = re.compile(r"\{map:[^{}\n]*\}")
"""What the map is called: not known before the pack is planned for one."""
_LONGEST = 1_000
"""Characters of a pattern."""
REMEDY = "correct the hook sheet, or tell the pack's author; nothing was changed"


def _is_a_name(entry: FilesEntry, path: str) -> bool:
    """Whether `to` is what one file is to be called, rather than a folder: the pattern is that file, and both end
    alike."""
    ending = posixpath.splitext(path)[1].casefold()
    return entry.from_ == path and bool(ending) and entry.to.casefold().endswith(ending)


def _exclude(one: WhenEntry | None, other: WhenEntry | None) -> bool:
    """Whether two conditions never hold both."""
    if one is None or other is None:
        return False
    pairs = ((one, other), (other, one))
    return (
        (bool(one.setting) and one.setting == other.setting and one.equals != other.equals)
        or any(this.pack and this.pack == that.without for this, that in pairs)
        or any(this.file and this.file == that.without_file for this, that in pairs)
    )


class Pack(Struct, frozen=True, dict=True):
    """A pack that was opened and found safe to look into."""

    source: Path
    tree: Tree
    sheet: HookSheet | None
    """None for a pack that was published without one."""
    written: Sheet | None
    top: str = ""
    """The folder inside the archive that everything of the pack lies in."""
    beside: tuple[str, ...] = ()
    """What lies outside of that folder: what some systems add to every archive."""

    @property
    def name(self) -> str:
        """The name by the hook sheet, else by the file."""
        return self.sheet.pack.name if self.sheet else self.source.stem

    @cached_property
    def sha256(self) -> str:
        """Of the archive; for a folder, of the list of its files with theirs."""
        digest = hashlib.sha256()
        if self.source.is_file():
            with self.source.open("rb") as stream:
                while chunk := stream.read(1 << 20):
                    digest.update(chunk)
        else:
            digest_all(self.members.values())
            for path, member in self.members.items():
                digest.update(f"{sha256_of(member)}  {path}\n".encode())
        return digest.hexdigest()

    @cached_property
    def members(self) -> dict[str, Member]:
        """Its files as contents, by path."""
        return {path: Member(self.tree, path) for path in self.tree.paths()}

    @property
    def targets(self) -> dict[str, str]:
        """Where each file would go: path in the map → path in the pack. Raises CouldNotError for unsafe ones."""
        return {target: path for target, (path, _) in self.places.items()}

    @cached_property
    def places(self) -> dict[str, tuple[str, int]]:
        """The same, with the number of the `[[files]]` that says so; of files that exclude each other the first."""
        return {target: ones[0] for target, ones in self.alternatives.items()}

    @cached_property
    def alternatives(self) -> dict[str, tuple[tuple[str, int], ...]]:
        """All files that can go to each path: more than one only where they exclude each other."""
        if self.sheet is None or self.written is None:
            return {}
        targets: dict[str, list[tuple[str, int]]] = {}
        complaints: list[Complaint] = []
        for index, entry in enumerate(self.sheet.files):
            at, glob, found = f"/files/{index}", Glob(entry.from_), False
            if len(entry.from_) > _LONGEST:
                complaints.append(
                    Complaint(f"{at}/from", f"a pattern of {len(entry.from_):,} characters is not looked for")
                )
                continue
            for path in self.tree.paths():
                match = self._matched(glob, path, f"{at}/from")
                if match is None or path == SHEET_NAME:
                    continue
                found = True
                to = MAP_WORD.sub("map", entry.to)
                target = joined(to, match.inner) if not _is_a_name(entry, path) else joined("", to)
                reason = "a path that leads outside of the map" if target is None else unsafe_reason(target)
                if target is None or reason:
                    complaints.append(Complaint(f"{at}/to", f"{path} would go to {entry.to}/{match.inner}: {reason}"))
                elif is_ours(target):
                    complaints.append(Complaint(f"{at}/to", f"{path} would become a file of Hook Set's own: {target}"))
                elif other := self._rival(targets.get(target, []), path, entry):
                    complaints.append(Complaint(f"{at}/to", f"{path} and {other} would both go to {target}"))
                elif all(path != known for known, _ in targets.get(target, [])):
                    targets.setdefault(target, []).append((path, index))
            if not found:
                complaints.append(Complaint(f"{at}/from", f"nothing in the pack matches {entry.from_!r}"))
        if complaints:
            raise self.written.error(complaints, REMEDY)
        return {target: tuple(ones) for target, ones in sorted(targets.items())}

    def _rival(self, ones: Sequence[tuple[str, int]], path: str, entry: FilesEntry) -> str:
        """Another file that would go to the same path in the same map; empty where there is none."""
        files = self.sheet.files if self.sheet is not None else ()
        rivals = (known for known, index in ones if known != path and not _exclude(files[index].when, entry.when))
        return next(rivals, "")

    def _matched(self, glob: Glob, path: str, at: str) -> GlobMatch | None:
        try:
            return glob.match(path)
        except SlowPatternError as error:
            raise self.written.error([Complaint(at, error.what)], REMEDY) if self.written else error from error

    @cached_property
    def leftovers(self) -> tuple[str, ...]:
        """Files of the pack that stay out of the map."""
        taken = {path for ones in self.alternatives.values() for path, _ in ones} | {SHEET_NAME}
        return (*(path for path in self.tree.paths() if path not in taken), *self.beside)


class SheetedPack(Pack, frozen=True):
    """A pack with its hook sheet: one that can be planned."""

    sheet: HookSheet
    written: Sheet

    @property
    def version(self) -> str:
        """The version by the hook sheet."""
        return self.sheet.pack.version

    def keeps_mine(self, target: str) -> bool:
        """Whether a file of the map at that path stays, by the hook sheet."""
        return any(self.sheet.files[index].keep_mine for _, index in self.alternatives.get(target, ()))

    def line(self, address: str) -> str:
        """Where something of the hook sheet is, by its JSON Pointer: `hooksheet.toml:12`."""
        return f"{self.written.where}:{self.written.line_of(address)}"
