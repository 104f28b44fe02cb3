"""Places where some texts begin with what stands for a folder, `$DATA/bell.wav` or `/bell.wav` among `bell.wav`, or
with a mark that says what is meant: `@bells` for all sounds of a class."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec.structs import replace

from hookset.learning.place import Place
from hookset.learning.said import Said

__all__ = ["parted_by_marks"]

_MARK = re.compile(
    r"(?:\$\w{1,40}|\$\{\w{1,40}\}|\$\(\w{1,40}\)|%\w{1,40}%|\{\w{1,40}\}|@\w{1,40}|\w{2,20}:/)[/\\]+(?=[^/\\])|\.?[/\\](?=[^/\\])"
    r"|[@$#!%&~^](?=[A-Za-z_])"
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
    marks = {text: match.group() for text in place.counts if (match := _MARK.match(text)) is not None}
    named = {*marks.values()}
    if not named or len(named) > _MOST or (len(marks) == len(place.counts) and named <= {*_PLAIN}):
        return
    by_mark: dict[str, Said] = {}
    plain = Said()
    for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
        if (mark := marks.get(text)) is None:
            plain.add(text, path, where)
        else:
            by_mark.setdefault(mark, Said()).add(text[len(mark) :], path, where)
    for mark, said in by_mark.items():
        if len(said.texts) >= _LEAST:
            asked = {**place.asked, "only": f"^{re.escape(mark)}(?P<value>.+)$"}
            yield replace(place, asked=asked, said=said, general=None, used=True)
    if len(plain.texts) >= _LEAST:
        skip = f"^(?:{'|'.join(map(re.escape, by_mark))})"
        yield replace(place, asked={**place.asked, "skip": skip}, said=plain, general=None)
