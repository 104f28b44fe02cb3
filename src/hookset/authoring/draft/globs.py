"""Where files go, as few `[[files]]` as say it."""

from __future__ import annotations

import posixpath
from collections.abc import Container, Iterator, Mapping, Sequence

from hookset.authoring.draft.cites import because_of
from hookset.authoring.draft.draft import Reason
from hookset.authoring.draft.found.placing import Placed, Placing
from hookset.packs import Pack
from hookset.packs.hooksheet import FilesEntry

__all__ = ["file_entries"]


def file_entries(pack: Pack, placing: Placing, given: Container[str]) -> Iterator[tuple[FilesEntry, Reason]]:
    """One entry for each folder all of which keeps its shape; one for each file that goes elsewhere than its
    neighbours. Those `given` have an entry already."""
    placed = {one.path: one for one in placing.placed if one.path not in given}
    yield from _folder("", tuple(pack.tree.paths()), placed)


def _folder(folder: str, paths: Sequence[str], placed: Mapping[str, Placed]) -> Iterator[tuple[FilesEntry, Reason]]:
    inside = [path for path in paths if path.startswith(folder)]
    if not any(path in placed for path in inside):
        return
    if folder and (target := _kept(folder, inside, placed)) is not None:
        ones = [placed[path] for path in inside]
        yield (
            FilesEntry(from_=f"{folder}**", to=target or ".", keep_mine=ones[0].keep_mine, when=ones[0].when),
            _reason(ones),
        )
        return
    below = dict.fromkeys(path[len(folder) :].split("/")[0] + "/" for path in inside if "/" in path[len(folder) :])
    for path in inside:
        if "/" not in path[len(folder) :] and path in placed:
            one = placed[path]
            same = posixpath.basename(path) == posixpath.basename(one.target)
            # The name with the same ending is another name for the file.
            to = (posixpath.dirname(one.target) or ".") if same else one.target
            yield FilesEntry(from_=path, to=to, keep_mine=one.keep_mine, when=one.when), _reason([one])
    for name in below:
        yield from _folder(folder + name, inside, placed)


def _kept(folder: str, inside: Sequence[str], placed: Mapping[str, Placed]) -> str | None:
    """The folder of the map that a whole folder goes to; None where it does not as a whole."""
    targets = set()
    for path in inside:
        below = path[len(folder) :]
        if path not in placed or not placed[path].target.endswith(f"/{below}"):
            return None
        targets.add(placed[path].target[: -len(below) - 1])
    alike = len({(placed[path].keep_mine, placed[path].when) for path in inside}) == 1
    return targets.pop() if len(targets) == 1 and alike else None


def _reason(ones: Sequence[Placed]) -> Reason:
    sure = all(one.sure for one in ones)
    return Reason(sure, because_of(one.why for one in ones), () if sure else ("is this the right folder?",))
