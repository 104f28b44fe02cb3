"""Texts that a layout makes of other values: `{map|blanks:_|lower}-{version|pad:3}`."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from msgspec import Struct

__all__ = ["Template", "template"]

_FIELD = re.compile(r"\{([^{}]*)\}")
_PLAIN: dict[str, Callable[[str], str]] = {
    "lower": str.lower,
    "upper": str.upper,
    "title": str.title,
    "letters": lambda text: "".join(character for character in text if character.isalnum()),
}
_GIVEN: dict[str, Callable[[str, str], str]] = {
    "blanks": lambda text, by: re.sub(r"\s+", by.replace("\\", "\\\\"), text.strip()),
    "dashes": lambda text, by: text.replace("-", by),
    "slashes": lambda text, joint: text.replace(joint, "/"),
    "pad": lambda text, width: text.zfill(int(width)),
}


class _Field(Struct, frozen=True):
    name: str
    turns: tuple[tuple[str, str | None], ...]

    def of(self, values: Mapping[str, str]) -> str:
        text = values.get(self.name, "")
        for turn, given in self.turns:
            text = _PLAIN[turn](text) if given is None else _GIVEN[turn](text, given)
        return text


class Template(Struct, frozen=True):
    """Fixed parts and fields, in turn."""

    source: str
    parts: tuple[str | _Field, ...]

    @property
    def fields(self) -> frozenset[str]:
        """The names of the fields that the template uses."""
        return frozenset(part.name for part in self.parts if isinstance(part, _Field))

    def of(self, values: Mapping[str, str]) -> str:
        """The text; a field that has no value is empty."""
        return "".join(part if isinstance(part, str) else part.of(values) for part in self.parts)


def template(source: str) -> Template:
    """Raises ValueError, with what is wrong in words."""
    parts: list[str | _Field] = []
    for index, piece in enumerate(_FIELD.split(source)):
        if index % 2:
            parts.append(_field(piece))
        elif "{" in piece or "}" in piece:
            raise ValueError(f"a brace without its other half in {source!r}")
        elif piece:
            parts.append(piece)
    return Template(source, tuple(parts))


def _field(piece: str) -> _Field:
    name, *turns = piece.split("|")
    made = []
    for turn in turns:
        word, colon, given = turn.partition(":")
        known = _GIVEN if colon else _PLAIN
        if word not in known:
            kinds = [*_PLAIN, *(f"{one}:…" for one in _GIVEN)]
            raise ValueError(
                f"{turn!r} in {{{piece}}} is nothing that can be done to a text; there are {', '.join(kinds)}"
            )
        if word == "slashes" and not given:
            raise ValueError(f"slashes in {{{piece}}} needs what stands between the steps of a path: slashes:.")
        if word == "pad" and not (given.isascii() and given.isdigit() and len(given) <= 2):
            raise ValueError(f"pad in {{{piece}}} needs a number of digits")
        made.append((word, given if colon else None))
    return _Field(name, tuple(made))
