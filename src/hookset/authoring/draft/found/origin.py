"""The map that a pack was made in: its name is in paths that the author copied from it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

from hookset.authoring.draft.site import Site
from hookset.config.layouts import map_words

__all__ = ["made_in"]

_WORD = r"(?P<word>[\w.-]{2,80}?)"


def made_in(site: Site, targets: Sequence[str], sources: Iterable[str]) -> Iterator[tuple[str, str]]:
    """(word, `{map:folder}`) for the word in paths of the pack's own files that stands where this map has its own.

    `targets` are the paths that the files will have here, `sources` the texts that may name them.
    """
    known = dict(_known(site))
    if not known or not targets:
        return
    files = "|".join(re.escape(path) for path in targets)
    text = "\n".join(sources)
    for front, (becomes, back) in known.items():
        pattern = re.compile(rf"(?<![\w/.-]){re.escape(front)}{_WORD}{re.escape(back)}(?:{files})(?![\w/])")
        often = Counter(match["word"] for match in pattern.finditer(text))
        yield from ((word, becomes) for word, _ in often.most_common())


def _known(site: Site) -> Iterator[tuple[str, tuple[str, str]]]:
    """How paths of this map's files begin: (in front of the map's word, (what it is, what stands behind))."""
    words = map_words(site.tree, site.layout)
    own = {made.of(words): f"{{map:{key}}}" for key, made in site.layout.words.items()}
    for file in site.web.files:
        names = (name for block in file.defined for name in block.names if name.endswith(file.path))
        for front in (name.removesuffix(file.path) for name in names):
            if not front:
                continue
            for word, becomes in own.items():
                before, found, behind = front.partition(word)
                if found:
                    yield before, (becomes, behind)
