"""Which files a game loads only because others name them: those of which others name nearly all."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct

from hookset.learning.filed import Files
from hookset.learning.globs import globs_for
from hookset.learning.guess import Guess
from hookset.learning.manifests import LearnedManifest, files_named_by
from hookset.learning.material import Material

__all__ = ["LearnedLoading", "loading_of"]

_LEAST = 3
_NAMED = 0.7
"""Of the files of an ending in a folder: how many others name."""
_MOST_PATTERNS = 24
"""Patterns of what the game loads by itself, before that is nothing that a person would look through."""


class LearnedLoading(Struct, frozen=True):
    """What the game loads by itself, as patterns; all else is loaded if something names it."""

    roots: tuple[str, ...]
    by_name: frozenset[str]
    """The files that are loaded where others name them."""
    groups: tuple[tuple[str, int, int], ...]
    """(pattern of files, how many others name, how many there are)"""


def loading_of(material: Material, guesses: Sequence[Guess], manifest: LearnedManifest | None) -> LearnedLoading | None:
    """How files come to be loaded; None where nothing speaks for any difference among them."""
    tree = material.tree
    files = Files(frozenset(tree.paths()))
    listing = manifest.guesses if manifest is not None else ()
    naming = [guess for guess in guesses if guess.files is not None and guess not in listing and not guess.place.parts]
    named = {guess: frozenset(files_named_by(files, guess)) for guess in naming}
    read = frozenset(path for sort in material.sorts for path in sort.documents)
    groups = dict(_groups(sorted(read), named))
    meant = {path for paths in groups.values() for path in paths}
    known = {path for paths in named.values() for path in paths}
    listed = {path for guess in listing for path in files_named_by(files, guess)}
    # What nobody names begins of itself; where there is a list of all, only what is in it.
    alone = {path for path in meant - known if not listed or path in listed}
    rest = meant - alone
    roots = globs_for(sorted({*tree.paths()} - rest), sorted(rest)) if rest else ()
    if not rest or len(roots) > _MOST_PATTERNS:
        return None
    told = ((pattern, len(paths & known), len(paths)) for pattern, paths in groups.items())
    return LearnedLoading(roots, frozenset(rest), tuple(told))


def _groups(paths: Iterable[str], named: Mapping[Guess, frozenset[str]]) -> Iterator[tuple[str, frozenset[str]]]:
    """The files of an ending below a folder of which others name most, by the pattern that means them."""
    paths = tuple(paths)
    wanted: dict[tuple[str, str], set[str]] = {}
    for guess, there in named.items():
        for path in sorted(there):
            under = guess.files.under if guess.files is not None else ()
            top = (under[0] if len(under) == 1 else "") or posixpath.dirname(path)
            wanted.setdefault((top, posixpath.splitext(path)[1]), set()).add(path)
    for (top, ending), known in wanted.items():
        whole = frozenset(path for path in paths if path.startswith(f"{top}/" if top else "") and path.endswith(ending))
        if whole and len(known) >= _LEAST and len(known) >= _NAMED * len(whole):
            yield (f"{top}/**/*{ending}" if top else f"**/*{ending}"), whole
