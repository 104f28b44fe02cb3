"""How a name is written where it is used, once it is another name: below the folder and without the ending that a rule
adds, from the file's own folder, with the separators that stand there."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator

from hookset.config.layouts import Layout

__all__ = ["rewritten"]


def rewritten(layout: Layout, path: str, written: str, old: str, new: str) -> Iterator[str]:
    """The spellings that a reference could take after a rename, the likeliest first."""
    back = "\\" in written and "/" not in written
    plain = written.replace("\\", "/")
    ways: list[str] = []
    if old in plain:
        ways.append(plain.replace(old, new, 1))
    stem, ext = posixpath.splitext(old)
    new_stem, new_ext = posixpath.splitext(new)
    for full, other in ((old, new), (stem, new_stem if ext == new_ext else new)):
        if plain and full.endswith(plain):
            base = full[: len(full) - len(plain)]
            if other.startswith(base):
                ways.append(other[len(base) :])
            # Below another root, as the rule of the file allows them.
            ways += (other[len(f"{root}/") :] for root in _roots(layout) if other.startswith(f"{root}/"))
    parent = posixpath.dirname(path)
    if posixpath.normpath(posixpath.join(parent, plain)) in (old, stem):
        relative = posixpath.relpath(new if plain.endswith(ext) else new_stem, parent or ".")
        ways.append(f"./{relative}" if plain.startswith("./") and not relative.startswith(".") else relative)
    ways.append(new)
    for way in dict.fromkeys(ways):
        yield way.replace("/", "\\") if back else way


def _roots(layout: Layout) -> list[str]:
    return sorted({root for rule in layout.reads for refer in rule.refers for root in refer.under if root})
