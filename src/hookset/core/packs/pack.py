"""Opening a pack. Nothing in it runs, and nothing of it is unpacked."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.version import InvalidVersion, Version

from hookset.core.model import CouldNotError
from hookset.core.packs.hooksheet import SHEET_NAME, HookSheet
from hookset.core.project import is_ours
from hookset.core.sheets import Complaint, Sheet, read_sheet, typed
from hookset.core.trees import (
    FolderTree,
    Glob,
    Limits,
    Member,
    Tree,
    ZipTree,
    digest_all,
    joined,
    open_zip,
    sha256_of,
    unsafe_reason,
)

__all__ = ["Pack", "open_pack"]

_REMEDY = "correct the hook sheet, or tell the pack's author; nothing was changed"


@dataclass(frozen=True)
class Pack:
    """A pack that was opened and found safe to look into."""

    source: Path
    tree: Tree
    sheet: HookSheet | None
    """None for a pack that was published without one."""
    written: Sheet | None
    top: str = ""
    """The folder inside the archive that everything of the pack lies in."""

    @property
    def name(self) -> str:
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
        """The same, with the number of the `[[files]]` that says so."""
        if self.sheet is None or self.written is None:
            return {}
        targets: dict[str, tuple[str, int]] = {}
        complaints: list[Complaint] = []
        for index, entry in enumerate(self.sheet.files):
            at, glob, found = f"/files/{index}", Glob(entry.from_), False
            for path in self.tree.paths():
                match = glob.match(path)
                if match is None or path == SHEET_NAME:
                    continue
                found = True
                target = joined(entry.to, match.inner)
                reason = "a path that leads outside of the map" if target is None else unsafe_reason(target)
                if target is None or reason:
                    complaints.append(Complaint(f"{at}/to", f"{path} would go to {entry.to}/{match.inner}: {reason}"))
                elif is_ours(target):
                    complaints.append(Complaint(f"{at}/to", f"{path} would become a file of Hook Set's own: {target}"))
                elif targets.setdefault(target, (path, index))[0] != path:
                    other = targets[target][0]
                    complaints.append(Complaint(f"{at}/to", f"{path} and {other} would both go to {target}"))
            if not found:
                complaints.append(Complaint(f"{at}/from", f"nothing in the pack matches {entry.from_!r}"))
        if complaints:
            raise self.written.error(complaints, _REMEDY)
        return dict(sorted(targets.items()))

    @cached_property
    def leftovers(self) -> tuple[str, ...]:
        """Files of the pack that stay out of the map."""
        taken = {*self.targets.values(), SHEET_NAME}
        return tuple(path for path in self.tree.paths() if path not in taken)


def open_pack(source: Path, limits: Limits | None = None) -> Pack:
    """A zip or a folder. Raises CouldNotError for anything that is not safe to look into."""
    if source.is_dir():
        _refuse_links(source)
        tree: FolderTree | ZipTree = FolderTree(source)
    elif source.exists():
        tree = open_zip(source, limits)
    else:
        raise CouldNotError("there is no such file or folder", where=str(source), remedy="check the name of the pack")
    if not tree.paths():
        raise CouldNotError("is empty", where=str(source), remedy="download the pack again")
    top = _top(tree)
    if top:
        tree = FolderTree(source / top) if isinstance(tree, FolderTree) else tree.below(top)
    if not tree.has(SHEET_NAME):
        return Pack(source, tree, None, None, top)
    written = read_sheet(tree.read(SHEET_NAME), f"{source.name}/{top}{SHEET_NAME}")
    sheet = typed(written.data, HookSheet)
    complaints = sheet if isinstance(sheet, list) else _mistakes(sheet)
    if isinstance(sheet, list) or complaints:
        raise written.error(complaints, _REMEDY)
    return Pack(source, tree, sheet, written, top)


def _top(tree: Tree) -> str:
    """Archives are often made of a folder rather than of what is in it."""
    first = {path.split("/", 1)[0] + "/" for path in tree.paths()}
    top = first.pop() if len(first) == 1 else ""
    return top if top and all(path.startswith(top) for path in tree.paths()) else ""


def _refuse_links(folder: Path) -> None:
    for place, folders, files in os.walk(folder):
        for name in (*folders, *files):
            path = Path(place, name)
            if path.is_symlink():
                raise CouldNotError(
                    f"has a link in it: {path.relative_to(folder).as_posix()}",
                    where=str(folder),
                    why="a link can bring in files from anywhere on this machine",
                    remedy="replace it by the file that it stands for",
                )


def _mistakes(sheet: HookSheet) -> list[Complaint]:
    """What the types alone do not tell."""
    found: list[Complaint] = []
    try:
        Version(sheet.pack.version)
    except InvalidVersion:
        found.append(Complaint("/pack/version", f"{sheet.pack.version!r} is no version; write it like 1.2.0"))
    for index, need in enumerate(sheet.needs):
        try:
            SpecifierSet(need.version)
        except InvalidSpecifier:
            found.append(
                Complaint(
                    f"/needs/{index}/version",
                    f"{need.version!r} is no version range; write it like >=1.2, <2",
                )
            )
    for index, hook in enumerate(sheet.hook):
        given = [name for name in ("text", "record", "each") if getattr(hook, name) is not None]
        if len(given) != 1:
            said = " and ".join(given) if given else "none of them"
            found.append(Complaint(f"/hook/{index}", f"a hook says one of text, record and each; this has {said}"))
    return found
