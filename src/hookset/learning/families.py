"""Files of an ending that says nothing, by what they are called: those that are called alike in several folders may be
written in a way of their own."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Sequence

__all__ = ["SEVERAL", "families_of"]

SEVERAL = 3
"""Files that are called alike, before that says what they are."""
_MOST_LISTS = 12
"""Files of sorts of their own in one folder: more are the same in several languages."""
_DIGITS = re.compile(r"\d+")
_TONGUE = re.compile(r"(?<=[^.])\.[A-Za-z]{1,3}(?:[_-][A-Za-z]{2,4})?\.(?=[^.]+$)")
"""A language between the name of a file and its ending."""


def families_of(paths: Sequence[str], mixed: bool) -> dict[str, list[str]]:
    """The files of each name that several have, and the rest: under no name, or, where the forms are mixed, under the
    folder at the top with a slash behind it."""
    named: dict[str, list[str]] = {}
    for path in paths:
        named.setdefault(posixpath.basename(path), []).append(path)
    kinds = Counter(folder for name in named for folder in {posixpath.dirname(path) for path in named[name]})
    families: dict[str, list[str]] = {}
    for name, found in named.items():
        alone = [path for path in found if kinds[posixpath.dirname(path)] <= _MOST_LISTS]
        if len(alone) >= SEVERAL:
            families.setdefault(_family(name), []).extend(alone)
    apart = {path for found in families.values() for path in found}
    rest: dict[str, list[str]] = {}
    for path in paths:
        if path not in apart:
            rest.setdefault(f"{path.partition('/')[0]}/" if mixed and "/" in path else "", []).append(path)
    return {**families, **rest}


def _family(name: str) -> str:
    """What a file is called, without what tells it from others like it: `lod0.mesh` and `lod1.mesh` are of one sort,
    and so are `page.de.txt` and `page.fr.txt`."""
    return _TONGUE.sub(".", _DIGITS.sub("0", name))
