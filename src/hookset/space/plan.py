"""A map seen from above: which axis goes to the right, and which up."""

from __future__ import annotations

__all__ = ["plan_axes"]

_AXES = "xyz"


def plan_axes(up: str, hand: str, north: str) -> tuple[tuple[int, int], tuple[int, int]]:
    """(axis, sign) of what goes to the right and of what goes up in a figure with north at its top. East is where the
    right hand points when one looks north: north × up in a right-handed space, up × north in a left-handed one."""
    if not up:
        named = north or "y"
        axis, sign = _AXES.index(named[-1]), -1 if named.startswith("-") else 1
        other = 1 - axis
        # East of y is x; of x it is -y.
        turn = 1 if axis == 1 else -1
        return (other, turn * sign * (1 if hand == "right" else -1)), (axis, sign)
    named = north or ("-z" if up == "y" else "y" if up == "z" else "z")
    axis, sign = _AXES.index(named[-1]), -1 if named.startswith("-") else 1
    above = _AXES.index(up)
    east = 3 - axis - above
    # x × y = z, and so on in a circle; the other way round with the sign changed.
    cross = 1 if (above - axis) % 3 == 1 else -1
    return (east, cross * sign * (1 if hand == "right" else -1)), (axis, sign)
