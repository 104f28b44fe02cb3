"""What a plan would do to the files of a map."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hookset.model import RefusedError
from hookset.project import MapProject, is_ours
from hookset.trees import Content, FolderTree, Member, Overlay, Tree, sha256_of
from hookset.trees.archives import ZipTree
from hookset.trees.rezipped import Rezipped

__all__ = ["Change", "changed_tree", "on_disk"]


class Change(Struct, frozen=True, kw_only=True):
    """One file, from what it was when the plan was made to what it would be."""

    path: str
    before: str | None
    """SHA-256 of the bytes there; None for no file."""
    after: Content | None
    """None takes the file out."""
    mode: int | None = None
    """Permission bits, where they are to be brought back."""
    mtime_ns: int | None = None


def changed_tree(tree: Tree, changes: Iterable[Change]) -> Overlay:
    """The map as the changes would leave it."""
    contents: Mapping[str, Content | None] = {change.path: change.after for change in changes}
    return Overlay(tree, contents)


def on_disk(project: MapProject, changes: Sequence[Change]) -> tuple[Change, ...]:
    """The changes as they are written: those of a map that is an archive are one change of that.

    Raises RefusedError when the archive is not as it was when the plan was made.
    """
    file = project.file.map.file
    inside = {change.path: change.after for change in changes if not is_ours(change.path)}
    tree = project.tree
    if not file or not inside or not isinstance(tree, ZipTree):
        return tuple(changes)
    for change in changes:
        if change.path in inside and change.before != _sha(tree, change.path):
            raise RefusedError(
                "changed-meanwhile",
                f"another program changed {change.path} in the meantime; nothing was written",
                where=file,
                remedy="let it finish, and run this again",
            )
    folder = FolderTree(project.root)
    archive = Change(path=file, before=sha256_of(Member(folder, file)), after=Rezipped(tree, inside))
    return (archive, *(change for change in changes if is_ours(change.path)))


def _sha(tree: Tree, path: str) -> str | None:
    return sha256_of(Member(tree, path)) if tree.has(path) else None
