"""Turns as files write them, transforms within transforms, shapes, what is near what, names of copies."""

from __future__ import annotations

import warnings
from itertools import permutations
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from hookset.config.layouts.placing import CopiesEntry
from hookset.scene.suffixes import next_names, parted_name
from hookset.space.near import closest, closest_others
from hookset.space.plan import plan_axes
from hookset.space.shapes import Shape, distance_to_line, in_outline
from hookset.space.transforms import composed, depths, parted, world_of
from hookset.space.turns import CannotHold, TurnForm, degrees_about, matrices_of, numbers_of

ROUND = settings(max_examples=25, deadline=None)
ANGLE = st.floats(-720, 720, allow_nan=False).map(lambda one: round(one, 3))
WHOLE = [
    *(TurnForm("degrees", about) for about in ("xyz", "zyx", "yxz", "zxz", "XYZ", "ZYX", "YXZ", "XYX")),
    TurnForm("radians", "zyx"),
    TurnForm("degrees", "XYZ", clockwise=True),
    TurnForm("quaternion", order="xyzw"),
    TurnForm("quaternion", order="wxyz"),
    TurnForm("matrix", order="rows"),
    TurnForm("matrix", order="columns"),
]
PARTLY = [TurnForm(form, about) for form in ("degrees", "radians") for about in ("x", "y", "Z", "xy", "zy", "YX", "XZ")]


@pytest.mark.parametrize("form", WHOLE, ids=str)
@ROUND
@given(angles=st.tuples(ANGLE, ANGLE, ANGLE))
def test_any_turn_can_be_written_and_reads_back(form: TurnForm, angles: tuple[float, float, float]) -> None:
    matrix = Rotation.from_euler("xyz", angles, degrees=True).as_matrix()
    numbers = numbers_of(form, matrix)
    assert np.allclose(matrices_of(form, np.array([numbers]))[0], matrix, atol=1e-6)


@pytest.mark.parametrize("form", PARTLY, ids=str)
@ROUND
@given(angles=st.tuples(ANGLE, ANGLE))
def test_a_turn_about_one_or_two_axes_reads_back(form: TurnForm, angles: tuple[float, float]) -> None:
    given_angles = np.array([angles[: len(form.about)]]) * (1 if form.form == "degrees" else np.pi / 180)
    matrix = matrices_of(form, given_angles)[0]
    assert np.allclose(matrices_of(form, np.array([numbers_of(form, matrix)]))[0], matrix, atol=1e-6)


@pytest.mark.parametrize("form", PARTLY, ids=str)
def test_a_turn_that_a_file_cannot_say_is_not_written_as_something_else(form: TurnForm) -> None:
    leaning = Rotation.from_euler("xyz", (31, 47, 59), degrees=True).as_matrix()
    with pytest.raises(CannotHold):
        numbers_of(form, leaning)


@pytest.mark.parametrize("about", ["xyz", "yzx", "ZYX", "zxy"])
@pytest.mark.parametrize("angle", [180.0, 135.0, -120.0])
def test_a_turn_about_one_of_three_axes_is_written_as_that(about: str, angle: float) -> None:
    for nth in range(3):
        said = [0.0, 0.0, 0.0]
        said[nth] = angle
        form = TurnForm("degrees", about)
        assert np.allclose(numbers_of(form, matrices_of(form, np.array([said]))[0]), said, atol=1e-6)


@ROUND
@given(
    about=st.sampled_from([*"xyzXYZ", "xy", "ZX", "yzx", "ZYX", "zxz", "XYX"]),
    turns=st.lists(st.tuples(ANGLE, ANGLE, ANGLE), min_size=1, max_size=3),
)
def test_angles_mean_what_scipy_takes_them_for(about: str, turns: list[tuple[float, float, float]]) -> None:
    angles = np.array(turns)[:, : len(about)]
    axes: Any = about
    meant = Rotation.from_euler(axes, angles, degrees=True).as_matrix().reshape(-1, 3, 3)
    assert np.allclose(matrices_of(TurnForm("degrees", about), angles), meant, atol=1e-9)


@ROUND
@given(
    about=st.sampled_from([one for axes in permutations("xyz") for one in ("".join(axes), "".join(axes).upper())])
    | st.sampled_from(["xyx", "zxz", "yzy", "XZX", "ZYZ", "YXY"]),
    turns=st.lists(
        st.tuples(*(ANGLE | st.sampled_from([0.0, 90.0, -90.0, 180.0, 270.0]),) * 3), min_size=1, max_size=3
    ),
)
def test_angles_about_any_axes_are_those_of_a_matrix(about: str, turns: list[tuple[float, float, float]]) -> None:
    axes: Any = about
    matrices = Rotation.from_euler(axes, np.array(turns), degrees=True).as_matrix()
    found = degrees_about(about, matrices)
    assert np.allclose(Rotation.from_euler(axes, found, degrees=True).as_matrix(), matrices, atol=1e-6)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        others = Rotation.from_matrix(matrices).as_euler(axes, degrees=True)
    assert (np.abs(found).sum(axis=1) <= np.abs(others).sum(axis=1) + 1e-4).all()


@ROUND
@given(st.lists(st.tuples(*(st.floats(-9, 9).filter(lambda one: abs(one) > 1e-3),) * 4), min_size=1, max_size=3))
def test_quaternions_mean_what_scipy_takes_them_for(turns: list[tuple[float, float, float, float]]) -> None:
    numbers = np.array(turns)
    meant = Rotation.from_quat(numbers).as_matrix()
    assert np.allclose(matrices_of(TurnForm("quaternion", order="xyzw"), numbers), meant, atol=1e-9)


def test_a_quaternion_of_no_length_turns_nothing() -> None:
    assert np.allclose(matrices_of(TurnForm("quaternion", order="xyzw"), np.zeros((1, 4)))[0], np.eye(3))


@ROUND
@given(
    at=st.tuples(*[st.floats(-1e4, 1e4)] * 3),
    angles=st.tuples(ANGLE, ANGLE, ANGLE),
    size=st.tuples(*[st.floats(0.01, 50)] * 3),
    mirrored=st.booleans(),
)
def test_a_matrix_comes_apart_into_what_it_was_made_of(
    at: tuple[float, ...], angles: tuple[float, ...], size: tuple[float, ...], mirrored: bool
) -> None:
    turn = Rotation.from_euler("xyz", angles, degrees=True).as_matrix()
    size = (-size[0], *size[1:]) if mirrored else size
    matrix = composed(np.array([at]), turn[None], np.array([size]))[0]
    whole = parted(matrix)
    assert whole is not None
    assert np.allclose(whole.matrix, matrix, atol=1e-6)
    assert np.allclose(whole.size, size, rtol=1e-6)


def test_what_is_sheared_or_flat_has_no_turn() -> None:
    sheared = np.eye(4)
    sheared[0, 1] = 0.5
    assert parted(sheared) is None
    assert parted(composed(np.zeros((1, 3)), np.eye(3)[None], np.array([[1.0, 0.0, 1.0]]))[0]) is None
    endless = np.eye(4)
    endless[0, 3] = np.inf
    assert parted(endless) is None


@ROUND
@given(st.lists(st.integers(-1, 11), min_size=1, max_size=12))
def test_circles_are_found_and_depths_count_up(outer: list[int]) -> None:
    around = np.array([one if one < len(outer) else -1 for one in outer])
    depth, circles = depths(around)
    for row, above in enumerate(around):
        way, at = set(), row
        while at >= 0 and at not in way:
            way.add(at)
            at = int(around[at])
        assert (row in circles) == (at == row)
        if at < 0:
            assert depth[row] == (0 if above < 0 else depth[above] + 1)


def test_things_within_things_are_where_all_around_them_put_them() -> None:
    turns = Rotation.from_euler("y", [[90], [90], [0]], degrees=True).as_matrix()
    local = composed(np.array([[10.0, 0, 0], [0, 0, 1.0], [1.0, 0, 0]]), turns, np.ones((3, 3)))
    outer = np.array([-1, 0, 1])
    world = world_of(local, outer, depths(outer)[0])
    assert np.allclose(world[2], local[0] @ local[1] @ local[2])
    assert np.allclose(world[1][:3, 3], [11, 0, 0], atol=1e-9)


def test_a_thousand_things_in_each_other_take_no_recursion() -> None:
    count = 5_000
    local = composed(np.tile([1.0, 0, 0], (count, 1)), np.tile(np.eye(3), (count, 1, 1)), np.ones((count, 3)))
    outer = np.arange(-1, count - 1)
    assert np.allclose(world_of(local, outer, depths(outer)[0])[-1][:3, 3], [count, 0, 0])


@pytest.mark.parametrize(
    ("shape", "inside", "outside"),
    [
        (Shape(form="box", at=np.array([0.0, 0, 0]), half=np.array([1.0, 2, 3])), [0.9, 1.9, -2.9], [1.1, 0, 0]),
        (
            Shape(form="box", turn=Rotation.from_euler("y", 45, degrees=True).as_matrix(), half=np.array([1.0, 1, 1])),
            [1.3, 0, 0],
            [1.0, 0, 1.0],
        ),
        (Shape(form="sphere", at=np.array([5.0, 0, 0]), radius=2.0), [6.9, 0, 0], [5, 2.1, 0]),
        (Shape(form="cylinder", at=np.zeros(3), radius=2.0, low=0.0, high=4.0), [1.9, 3.9, 0], [0, 4.1, 0]),
        (
            Shape(form="outline", corners=np.array([[0.0, 0], [4, 0], [4, 4], [2, 1], [0, 4]]), low=-1.0, high=1.0),
            [0.5, 0, 1.0],
            [2.0, 0, 3.0],
        ),
        (
            Shape(form="outline", corners=np.array([[0.0, 0], [4, 0], [4, 4], [0, 4]]), low=-1.0, high=1.0),
            [2, 0.9, 2],
            [2, 1.1, 2],
        ),
    ],
    ids=["box", "turned box", "sphere", "cylinder", "outline with a bay", "outline of a height"],
)
def test_what_is_in_a_shape(shape: Shape, inside: list[float], outside: list[float]) -> None:
    holds = shape.holds(np.array([inside, outside], dtype=float))
    assert holds.tolist() == [True, False]
    assert shape.distances(np.array([outside], dtype=float))[0] > 0


@ROUND
@given(st.tuples(st.floats(-6, 6), st.floats(-6, 6)))
def test_in_an_outline_the_same_counts_however_it_is_gone_round(point: tuple[float, float]) -> None:
    corners = np.array([[-3.0, -2], [4, -3], [5, 3], [0, 1], [-4, 4]])
    at = np.array([point])
    expected = in_outline(corners, at)[0]
    assert in_outline(corners[::-1], at)[0] == expected
    assert in_outline(np.roll(corners, 2, axis=0), at)[0] == expected


def test_how_far_a_line_is() -> None:
    line = np.array([[0.0, 0], [10, 0], [10, 5]])
    assert distance_to_line(line, np.array([[5.0, 2], [12, 5], [-3, -4]])).tolist() == [2.0, 2.0, 5.0]
    assert distance_to_line(line[:1], np.array([[3.0, 4]])).tolist() == [5.0]


@pytest.mark.parametrize("count", [3, 700], ids=["few", "many"])
def test_the_closest_is_the_same_however_it_is_looked_for(count: int) -> None:
    points = np.random.default_rng(5).uniform(-50, 50, (count, 3))
    points[1] = points[0]
    rows = np.arange(count)
    distances, which = closest_others(points, rows, rows)
    apart = np.linalg.norm(points[:, None] - points[None], axis=2) + np.diag(np.full(count, np.inf))
    assert np.allclose(distances, apart.min(axis=1))
    assert (which != rows).all()
    assert distances[0] == 0
    assert which[0] == 1
    assert np.allclose(closest(points[:5], points)[0], 0)
    nothing, none = closest(points, np.zeros((0, 3)))
    assert np.isinf(nothing).all()
    assert (none == -1).all()


@pytest.mark.parametrize(
    ("up", "hand", "north", "right"),
    [
        ("y", "right", "-z", (0, 1)),
        ("y", "left", "z", (0, 1)),
        ("z", "right", "y", (0, 1)),
        ("z", "left", "x", (1, 1)),
        ("z", "right", "x", (1, -1)),
        ("", "right", "y", (0, 1)),
        ("", "right", "x", (1, -1)),
    ],
)
def test_east_lies_to_the_right_of_north(up: str, hand: str, north: str, right: tuple[int, int]) -> None:
    assert plan_axes(up, hand, north)[0] == right


@pytest.mark.parametrize(
    ("names", "taken", "copies", "made"),
    [
        (["gate"], [], CopiesEntry(), ["gate_2", "gate_3"]),
        (["landing_4"], ["landing_5"], CopiesEntry(), ["landing_6", "landing_7"]),
        (["lever_1", "gate_1"], ["gate_2"], CopiesEntry(), ["lever_3 gate_3", "lever_4 gate_4"]),
        (["bell_1", "bell_2"], [], CopiesEntry(), ["bell_3 bell_4", "bell_5 bell_6"]),
        (["buoy07"], [], CopiesEntry(), ["buoy08", "buoy09"]),
        (["lamp_a"], ["lamp_b"], CopiesEntry(by="letter"), ["lamp_c", "lamp_d"]),
        (["Lamp Z"], [], CopiesEntry(by="letter"), ["Lamp AA", "Lamp AB"]),
        (["post"], [], CopiesEntry(width=3, between="-"), ["post-002", "post-003"]),
    ],
)
def test_names_of_copies(names: list[str], taken: list[str], copies: CopiesEntry, made: list[str]) -> None:
    following = next_names(names, {*names, *taken}, copies)
    assert [" ".join(next(following)) for _ in made] == made


@ROUND
@given(st.from_regex(r"[a-z]{1,6}([ _.-]?[0-9]{1,4})?", fullmatch=True))
def test_a_name_is_its_parts(name: str) -> None:
    stem, between, suffix = parted_name(name, CopiesEntry())
    assert name in (f"{stem}{between}{suffix}", stem)


SHAPES = st.builds(
    lambda form, at, half, up: Shape(
        form=form, at=np.array(at, dtype=float), half=np.array(half, dtype=float), radius=float(half[0]), up=up,
        low=-1.0, high=float(half[1]), corners=np.array([[0.0, 0.0], [4.0, 0.0], [half[2], 5.0]]),
    ),
    st.sampled_from(["box", "sphere", "cylinder", "outline"]),
    st.tuples(*[st.integers(-5, 5)] * 3),
    st.tuples(*[st.integers(1, 5)] * 3),
    st.sampled_from([0, 1, 2]),
)  # fmt: skip


@settings(max_examples=60)
@given(SHAPES, st.integers(-180, 180), st.integers(1, 3), st.tuples(*[st.integers(-9, 9)] * 3), st.integers(0, 99))
def test_a_shape_turned_stretched_and_moved_holds_what_is_turned_stretched_and_moved(
    shape: Shape, angle: int, stretch: int, at: tuple[int, int, int], seed: int
) -> None:
    matrix = np.eye(4)
    turn = Rotation.from_euler("xyz"[shape.up or 0], angle, degrees=True).as_matrix()
    matrix[:3, :3] = turn * stretch
    matrix[:3, 3] = at
    points = np.random.default_rng(seed).uniform(-9, 9, (40, 3))
    moved = shape.moved(matrix)
    assert moved is not None
    there = points @ matrix[:3, :3].T + matrix[:3, 3]
    assert np.allclose(moved.distances(there), shape.distances(points) * stretch, atol=1e-6)


@pytest.mark.parametrize(
    ("form", "linear", "there"),
    [
        ("box", np.diag([1.0, 2.0, 3.0]), True),
        ("box", [[1, 0.5, 0], [0, 1, 0], [0, 0, 1]], False),
        ("box", np.diag([1.0, 0.0, 1.0]), False),
        ("sphere", np.diag([1.0, 2.0, 1.0]), False),
        ("sphere", Rotation.from_euler("xyz", [10, 20, 30], degrees=True).as_matrix(), True),
        ("cylinder", np.diag([2.0, 5.0, 2.0]), True),
        ("cylinder", np.diag([2.0, 5.0, 3.0]), False),
        ("cylinder", Rotation.from_euler("x", 30, degrees=True).as_matrix(), False),
        ("outline", np.diag([2.0, 5.0, 3.0]), True),
        ("outline", Rotation.from_euler("z", 30, degrees=True).as_matrix(), False),
    ],
)
def test_what_becomes_another_shape_is_none(form: Any, linear: Any, there: bool) -> None:
    matrix = np.eye(4)
    matrix[:3, :3] = linear
    shape = Shape(form=form, half=np.ones(3), radius=1.0, low=0.0, high=1.0, corners=np.eye(3, 2), up=1)
    assert (shape.moved(matrix) is not None) == there
