"""Places where some texts begin with what stands for a folder: `$DATA/bell.wav` or `/bell.wav` among `bell.wav`."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec.structs import replace

from hookset.learning.place import Place, Said

__all__ = ["parted_by_marks"]

_MARK = re.compile(
    r"(?:\$\w{1,40}|\$\{\w{1,40}\}|\$\(\w{1,40}\)|%\w{1,40}%|\{\w{1,40}\}|@\w{1,40}|\w{2,20}:/)[/\\]+(?=[^/\\])|\.?[/\\](?=[^/\\])"
)
_PLAIN = ("./", ".\\", "/", "\\")
"""What paths may begin with in any case: it says something only where others do not."""
_LEAST = 3
"""Texts of a sort that there must be to look at them by themselves."""
_MOST = 4
"""Marks that are looked at in one place."""


def parted_by_marks(place: Place) -> Iterator[Place]:
    """The texts with each mark, without it, and those with none: as places of their own. Nothing for a place without
    marks."""
    if place.form != "value" or not place.word or place.when or place.parts or "only" in place.asked:
        return
    by_mark: dict[str, Said] = {}
    plain = Said()
    for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
        match = _MARK.match(text)
        if match is None:
            plain.add(text, path, where)
        else:
            by_mark.setdefault(match.group(), Said()).add(text[match.end() :], path, where)
    if not by_mark or len(by_mark) > _MOST or (not plain.texts and by_mark.keys() <= {*_PLAIN}):
        return
    for mark, said in by_mark.items():
        if len(said.texts) >= _LEAST:
            asked = {**place.asked, "only": f"^{re.escape(mark)}(?P<value>.+)$"}
            yield replace(place, asked=asked, said=said, general=None, used=True)
    if len(plain.texts) >= _LEAST:
        skip = f"^(?:{'|'.join(map(re.escape, by_mark))})"
        yield replace(place, asked={**place.asked, "skip": skip}, said=plain, general=None)
