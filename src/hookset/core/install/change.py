"""What a plan would do to the files of a map."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hookset.core.trees import Content, Overlay, Tree

__all__ = ["Change", "changed_tree"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
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
