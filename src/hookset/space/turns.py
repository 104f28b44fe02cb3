"""Turns: the many ways in which files write them, and the rotation matrices that they stand for.

Conventions are those of `scipy.spatial.transform.Rotation`: small letters are axes of the space (extrinsic), capitals
axes that turn with the thing (intrinsic). In a left-handed space the same numbers turn the other way round to the eye,
and all formulas stay as they are.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

__all__ = ["CannotHold", "TurnForm", "degrees_about", "matrices_of", "numbers_of"]

Floats = NDArray[np.float64]
_CLOSE = 1e-6
_POLE = 1e-7
"""The sine or cosine of the second angle below which the first and the last one do the same."""


class CannotHold(Exception):  # noqa: N818
    """A way of writing turns that has no numbers for this one."""


class TurnForm(Struct, frozen=True):
    """How a turn is written."""

    form: Literal["degrees", "radians", "quaternion", "matrix"]
    about: str = ""
    """Of angles: axes, in the order of the numbers."""
    order: str = ""
    """Of quaternions `xyzw` or `wxyz`; of matrices `rows` or `columns`."""
    clockwise: bool = False


def matrices_of(form: TurnForm, numbers: Floats) -> Floats:
    """Rotation matrices, (n, 3, 3), of turns as they are written, (n, k). A quaternion of length 0 turns nothing."""
    # SciPy would do the same, and takes longer to load than to read a scene.
    if form.form == "matrix":
        whole = numbers.reshape(-1, 3, 3)
        return whole.transpose(0, 2, 1) if form.order == "columns" else whole
    if form.form == "quaternion":
        return _of_quaternions(numbers[:, [1, 2, 3, 0]] if form.order == "wxyz" else numbers)
    signed = -numbers if form.clockwise else numbers
    return _of_angles(form.about, np.radians(signed) if form.form == "degrees" else signed)


def _of_quaternions(numbers: Floats) -> Floats:
    """Of x, y, z, w, (n, 4), of any length (Shoemake, Animating rotation with quaternion curves, 1985)."""
    lengths = np.linalg.norm(numbers, axis=1)[:, None]
    x, y, z, w = (np.where(lengths > 0, numbers, [0.0, 0.0, 0.0, 1.0]) / np.where(lengths > 0, lengths, 1.0)).T
    rows = (
        (1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)),
        (2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)),
        (2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)),
    )
    return np.array(rows).transpose(2, 0, 1)


def _of_angles(about: str, angles: Floats) -> Floats:
    """Of radians, (n, k), about one axis after the other."""
    whole = np.tile(np.eye(3), (len(angles), 1, 1))
    for axis, angle in zip(about.lower(), angles.T, strict=True):
        j, k = (ord(axis) - ord("x") + 1) % 3, (ord(axis) - ord("x") + 2) % 3
        turn = np.tile(np.eye(3), (len(angles), 1, 1))
        turn[:, j, j] = turn[:, k, k] = np.cos(angle)
        turn[:, k, j] = np.sin(angle)
        turn[:, j, k] = -turn[:, k, j]
        # What turns about the axes of the space comes before all that was done; what turns along, behind it.
        whole = whole @ turn if about.isupper() else turn @ whole
    return whole


def numbers_of(form: TurnForm, matrix: Floats) -> tuple[float, ...]:
    """The numbers that stand for a rotation matrix, (3, 3). Raises CannotHold where this way of writing has none: a
    thing that leans, in a file that says only which way it looks."""
    if form.form == "matrix":
        whole = matrix.T if form.order == "columns" else matrix
        return tuple(float(one) for one in whole.ravel())
    if form.form == "quaternion":
        from scipy.spatial.transform import Rotation

        x, y, z, w = (float(one) for one in Rotation.from_matrix(matrix).as_quat(canonical=True))
        return (w, x, y, z) if form.order == "wxyz" else (x, y, z, w)
    angles = _angles(form.about, matrix)
    if form.clockwise:
        angles = -angles
    found = angles if form.form == "degrees" else np.radians(angles)
    if not np.allclose(matrices_of(form, found[None])[0], matrix, atol=_CLOSE):
        raise CannotHold
    return tuple(float(one) for one in found)


def _angles(about: str, matrix: Floats) -> Floats:
    """Degrees about these axes; for fewer than three those that come closest."""
    if len(about) == 3:
        return np.asarray(degrees_about(about, matrix[None])[0])
    if about.isupper():
        # Turned back, axes that turn along come in the same order as axes of the space.
        return -_angles(about.lower(), matrix.T)
    first, last = "xyz".index(about[0]), "xyz".index(about[-1])
    if len(about) == 1:
        return np.degrees([_angle(first, matrix)])
    # The first axis stays where it is until the second turn: where that has taken it says how far that was.
    j, k = (last + 1) % 3, (last + 2) % 3
    before, after = np.eye(3)[first], matrix[:, first]
    second = np.arctan2(after[k], after[j]) - np.arctan2(before[k], before[j])
    back = matrices_of(TurnForm("radians", about[-1]), np.array([[-second]]))[0]
    return np.degrees([_angle(first, back @ matrix), second])


def _angle(axis: int, matrix: Floats) -> float:
    """How far a matrix turns about one axis."""
    j, k = (axis + 1) % 3, (axis + 2) % 3
    return float(np.arctan2(matrix[k, j], matrix[j, j]))


def degrees_about(about: str, matrices: Floats) -> Floats:
    """Degrees about three axes, (n, 3), for rotation matrices, (n, 3, 3)."""
    if not len(matrices):
        return np.zeros((0, 3))
    # Turned back, axes of the space are axes that turn along.
    turned = matrices if about.isupper() else matrices.transpose(0, 2, 1)
    found = np.degrees(_turning_along(about.lower(), turned)) * (1 if about.isupper() else -1)
    # Each turn can be said in two ways: the one that turns less is what a person would write.
    second = -found[:, 1] if about[0].lower() == about[2].lower() else 180.0 - found[:, 1]
    other = (np.stack([found[:, 0] + 180.0, second, found[:, 2] + 180.0], axis=1) + 180.0) % 360.0 - 180.0
    other[np.isclose(other, -180.0)] = 180.0
    less = np.abs(other).sum(axis=1) < np.abs(found).sum(axis=1) - 1e-6
    return np.where(less[:, None], other, found)


def _turning_along(about: str, matrices: Floats) -> Floats:
    """Radians about three axes that turn along, (n, 3). At the poles two of the angles do the same: there the last
    one is 0 (Diebel, Representing attitude, 2006)."""
    i, j, k = ("xyz".index(axis) for axis in about)
    same = i == k
    third = 3 - i - j
    sign = 1.0 if (j - i) % 3 == 1 else -1.0
    of = matrices.transpose(1, 2, 0)
    if same:
        wide = np.hypot(of[i, j], of[i, third])
        second = np.arctan2(wide, of[i, i])
        first, last = np.arctan2(of[j, i], -sign * of[third, i]), np.arctan2(of[i, j], sign * of[i, third])
    else:
        wide = np.hypot(of[i, i], of[i, j])
        second = np.arctan2(sign * of[i, k], wide)
        first, last = np.arctan2(-sign * of[j, k], of[k, k]), np.arctan2(-sign * of[i, j], of[i, i])
    pole = wide < _POLE
    first = np.where(pole, np.arctan2(sign * of[third, j], of[j, j]), first)
    return np.stack([first, second, np.where(pole, 0.0, last)], axis=1)
