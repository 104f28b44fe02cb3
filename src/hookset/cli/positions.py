"""The options by which a place is said."""

from __future__ import annotations

import csv
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, TypeVar

import click

from hookset.model import WrongUseError
from hookset.planning.placing.positions import PositionWish
from hookset.trees import decode, read_regular

__all__ = ["NUMBERS", "listed_places", "position_options"]

_Command = TypeVar("_Command", bound=Callable[..., Any])
_LARGEST = 16 << 20
"""Bytes of a list of places."""


class _Numbers(click.ParamType):  # type: ignore[type-arg,unused-ignore]
    """Numbers with commas between them."""

    name = "numbers"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> tuple[float, ...]:
        if isinstance(value, tuple):
            return value
        numbers = _read(str(value))
        if numbers is None:
            self.fail(f"{value!r} is not numbers with commas between them, such as 12,0,-4.5", param, ctx)
        return numbers


NUMBERS = _Numbers()


def _read(text: str) -> tuple[float, ...] | None:
    try:
        numbers = tuple(float(one) for one in text.split(","))
    except ValueError:
        return None
    return numbers if all(abs(one) < float("inf") for one in numbers) else None


def position_options(command: _Command) -> _Command:
    """The options that `place` and `move` have in common, in the order in which they are shown."""
    options = (
        click.option("--at", type=NUMBERS, metavar="X,Y,Z", help="Where, along the axes of the map."),
        click.option("--beside", metavar="NAME", default="", help="Where something stands that is called so."),
        click.option("--by", type=NUMBERS, metavar="X,Y,Z", help="So far from there."),
        click.option("--on-ground", is_flag=True, help="As high as the ground is there; --at X,Y will do then."),
        click.option("--turn", type=NUMBERS, metavar="DEGREES", help="About the axis that goes up; or X,Y,Z, in turn."),
        click.option("--size", type=NUMBERS, metavar="SIZE", help="By what it is stretched: one number, or three."),
        click.option("--group", metavar="GROUP", help="What it belongs to."),
    )
    for option in reversed(options):
        command = option(command)
    return command


def wish_of(given: dict[str, Any]) -> PositionWish:
    """What the options say."""
    return PositionWish(
        at=given["at"] or (),
        beside=given["beside"],
        by=given["by"] or (),
        on_ground=given["on_ground"],
        turn=given["turn"],
        size=given["size"],
    )


def listed_places(file: Path) -> tuple[tuple[float, ...], ...]:
    """Places out of a table with the columns x, y, z and turn, or without a head of two to four numbers a row. Raises
    WrongUseError with the line of what is no place."""
    text = decode(read_regular(file, _LARGEST, "it says where the things go", "name a table of places")).string
    lines = [(number, line) for number, line in enumerate(text.splitlines(), 1) if _says(line)]
    delimiter = max(",;\t", key=lines[0][1].count) if lines else ","
    rows = list(csv.reader((line for _, line in lines), delimiter=delimiter))
    names = [one.strip().casefold() for one in rows[0]] if rows else []
    with_head = bool(rows) and _row(rows[0]) is None
    found: list[tuple[float, ...]] = []
    for (line, _), row in list(zip(lines, rows, strict=True))[int(with_head) :]:
        numbers = _named(names, row) if with_head else _row(row)
        if numbers is None or not 2 <= len(numbers) <= 4:
            raise WrongUseError(
                "wrong-place",
                f"{file.name}:{line} is no place: {delimiter.join(row)[:60]!r}",
                remedy="write x, y, z and turn, with a head that names them or without one",
            )
        found.append(numbers)
    if not found:
        raise WrongUseError(
            "wrong-place",
            f"{file.name} has no places",
            remedy="write a place in each line: x, y, z and, if it is turned, the degrees",
        )
    return tuple(found)


def _says(line: str) -> bool:
    return bool(line.strip()) and not line.lstrip().startswith("#")


def _row(row: Sequence[str]) -> tuple[float, ...] | None:
    return _read(",".join(cell.strip() for cell in row if cell.strip()))


def _named(names: Sequence[str], row: Sequence[str]) -> tuple[float, ...] | None:
    cells = dict(zip(names, (cell.strip() for cell in row), strict=False))
    wanted = [cells.get(name, "") for name in ("x", "y", "z")]
    turn = cells.get("turn", "")
    if turn and not wanted[2]:
        return None
    return _read(",".join([one for one in (*wanted, turn) if one]))
