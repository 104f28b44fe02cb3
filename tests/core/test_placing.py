"""What stands in the maps of all shipped layouts: copied, moved, turned, taken; packs' own and the builder's."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hookset.applying import Disk, apply_changes, changed_tree
from hookset.model import WrongUseError
from hookset.packs import open_pack
from hookset.planning import Choices, Plan, plan_install, plan_remove, plan_upgrade
from hookset.planning.choices import Answers
from hookset.planning.operations.move import MoveRequest, plan_move
from hookset.planning.operations.place import PlaceRequest, plan_place
from hookset.planning.operations.swap import SwapRequest, plan_swap
from hookset.planning.operations.take import plan_take
from hookset.planning.placing.positions import PositionWish
from hookset.planning.queries.status import pack_statuses
from hookset.project import LEDGER, open_project, read_ledger
from hookset.scene.scene import Scene
from hookset.scene.things import Things
from tests.conftest import snapshot
from tests.shipped import started

THINGS = {
    "brackwater": ("lock_wheel", "lock_gate"),
    "scene-graph": ("gate_wheel", "tide_gate"),
    "type-table": ("gull",),
    "mirrored-folders": ("rope_shed",),
    "numbered-marks": ("red_3",),
    "paired-modules": ("lock_wheel", "lock_gate"),
}
FLAT = ("numbered-marks",)
TURNS = ("brackwater", "scene-graph", "type-table", "mirrored-folders", "paired-modules")
FEW = settings(max_examples=3, deadline=None, suppress_health_check=list(HealthCheck))
NUMBER = st.floats(-90, 90, allow_nan=False).map(lambda one: round(one, 3))


@contextmanager
def map_of(layout: str) -> Iterator[Path]:
    with tempfile.TemporaryDirectory() as folder:
        yield started(layout, Path(folder))


def scene(root: Path) -> Scene:
    project = open_project(root)
    return Scene(project.tree, project.layout)


def rows(root: Path, name: str) -> list[int]:
    things = scene(root).things
    return [one.index for one in things.rows if name in (one.key, one.class_)]


def carried_out(root: Path, plan: Plan) -> Plan:
    assert not plan.stops, plan.stops
    (root / ".hookset").mkdir(exist_ok=True)
    apply_changes(root, plan.all_changes, action="test", title="test", time="2026-01-01T00:00:00Z", disk=Disk())
    return plan


def placed(root: Path, names: tuple[str, ...], **wish: object) -> Plan:
    asked = PlaceRequest(names=names, wish=PositionWish(**wish))  # type: ignore[arg-type]
    return plan_place(open_project(root), read_ledger(root), ledger_bytes(root), asked, Choices(), "now")


def moved(root: Path, names: tuple[str, ...], **wish: object) -> Plan:
    asked = MoveRequest(names=names, wish=PositionWish(**wish))  # type: ignore[arg-type]
    return plan_move(open_project(root), read_ledger(root), ledger_bytes(root), asked, Choices(), "now")


def taken(root: Path, *names: str) -> Plan:
    return plan_take(open_project(root), read_ledger(root), ledger_bytes(root), names, Choices(), "now")


def ledger_bytes(root: Path) -> bytes | None:
    return (root / LEDGER).read_bytes() if (root / LEDGER).exists() else None


def point(layout: str, at: tuple[float, float, float]) -> tuple[float, ...]:
    return at[:2] if layout in FLAT else at


def own_files(root: Path) -> dict[str, object]:
    return {path: data for path, data in snapshot(root).items() if not str(path).startswith(".hookset")}


@pytest.mark.parametrize("layout", THINGS)
@FEW
@given(at=st.tuples(NUMBER, NUMBER, NUMBER), turn=NUMBER)
def test_a_copy_stands_where_it_was_put_and_goes_without_a_trace(
    layout: str, at: tuple[float, float, float], turn: float
) -> None:
    names, where = THINGS[layout], point(layout, at)
    with map_of(layout) as root:
        before = own_files(root)
        was = scene(root).things
        carried_out(root, placed(root, names, at=where, **({"turn": (turn,)} if layout in TURNS else {})))
        things = scene(root).things
        assert len(things) == len(was) + len(names)
        fresh = fresh_rows(was, things)
        assert np.allclose(things.at[fresh[0]][: len(where)], where, atol=1e-5)
        if layout in TURNS:
            expected = np.array([np.cos(np.radians(turn)), np.sin(np.radians(turn))])
            matrix = things.matrix(fresh[0])
            assert np.allclose([matrix[0, 0], matrix[0, 2]], expected, atol=1e-4)
        if not things.rows[fresh[0]].key:
            return
        # Its links are its own.
        keys = {things.rows[row].key for row in fresh}
        assert {link.to for row in fresh for link in things.rows[row].links} <= keys
        carried_out(root, taken(root, *keys))
        assert own_files(root) == before


def fresh_rows(was: Things, now: Things) -> list[int]:
    """What is there now and was not: by its key, or what comes last of the things without one."""
    keys = {one.key for one in was.rows}
    named = [one.index for one in now.rows if one.key and one.key not in keys]
    nameless = [one.index for one in now.rows if not one.key]
    return named + nameless[sum(not one.key for one in was.rows) :]


@pytest.mark.parametrize("layout", THINGS)
@FEW
@given(at=st.tuples(NUMBER, NUMBER, NUMBER))
def test_what_is_moved_and_moved_back_reads_as_before(layout: str, at: tuple[float, float, float]) -> None:
    name = THINGS[layout][0]
    with map_of(layout) as root:
        (row,) = rows(root, name)
        was = scene(root).things
        home = tuple(float(one) for one in was.at[row])
        carried_out(root, moved(root, (name,), at=point(layout, at)))
        there = scene(root).things
        assert np.allclose(there.at[row][: len(point(layout, at))], point(layout, at), atol=1e-5)
        others = [index for index in range(len(was)) if index != row and int(was.outer[index]) != row]
        assert np.allclose(there.at[others], was.at[others])
        carried_out(root, moved(root, (name,), at=home[:2] if layout in FLAT else home))
        assert np.allclose(scene(root).things.at, was.at, atol=1e-6)


@pytest.mark.parametrize("layout", [layout for layout in THINGS if len(THINGS[layout]) > 1])
def test_parts_keep_their_places_to_the_first(layout: str) -> None:
    with map_of(layout) as root:
        first, second = (rows(root, name)[0] for name in THINGS[layout])
        was = scene(root).things
        apart = np.linalg.norm(was.at[first] - was.at[second])
        carried_out(root, moved(root, THINGS[layout], at=(30.0, 2.0, 5.0), turn=(90.0,)))
        now = scene(root).things
        assert np.allclose(now.at[first], (30, 2, 5), atol=1e-5)
        assert np.isclose(np.linalg.norm(now.at[first] - now.at[second]), apart, atol=1e-4)


@pytest.mark.parametrize("layout", THINGS)
def test_a_line_a_grid_and_a_list(layout: str) -> None:
    name, flat = THINGS[layout][-1], layout in FLAT
    with map_of(layout) as root:
        was = scene(root).things
        count = len(was)
        end = (50.0, 10.0) if flat else (50.0, 0.0, 10.0)
        start = (10.0, 10.0) if flat else (10.0, 0.0, 10.0)
        carried_out(root, placed(root, (name,), at=start, line_to=end, every=10.0))
        assert len(scene(root).things) == count + 5
        now = scene(root).things
        assert [float(x) for x in now.at[fresh_rows(was, now)][:, 0]] == [10, 20, 30, 40, 50]
        source = f"{name}_2" if rows(root, f"{name}_2") else THINGS[layout][0]
        key = scene(root).things.rows[rows(root, source)[0]].key
        if not key:
            return
        carried_out(root, placed(root, (key,), at=start, count=3, rows=2, step=(4.0, 5.0)))
        assert len(scene(root).things) == count + 11
        listed = ((1.0, 2.0), (3.0, 4.0)) if flat else ((1.0, 0.0, 2.0), (3.0, 0.0, 4.0))
        carried_out(root, placed(root, (key,), listed=listed))
        assert len(scene(root).things) == count + 13
        keys = [one.key for one in scene(root).things.rows if one.key]
        assert len(keys) == len(set(keys))


def pack(folder: Path, version: str, body: str) -> Path:
    made = folder / f"beacon-{version}"
    made.mkdir()
    head = f'[pack]\nname = "beacon"\nversion = "{version}"\nlayouts = ["split-lua"]\n'
    (made / "hooksheet.toml").write_text(head + body)
    return made


BEACON = """
[[place]]
name = "beacon"
says = "on the quay"
%s
[[hook]]
seat = "scene-objects"
place = "beacon"
record = { name = "beacon", translation = [1.0, 1.0, -10.0], extras = { key = "beacon", class = "lamp", reach = %s } }
[[hook]]
seat = "scene-objects"
place = "beacon"
record = { name = "beacon switch", translation = [2.0, 1.0, -10.0], extras = { key = "beacon_switch", class = "lever", target = "beacon" } }
[[hook]]
seat = "server-start"
text = 'log("beacon")'
"""


def installed(root: Path, source: Path, at: str = "", upgrade: bool = False) -> Plan:
    answers = Answers(placed={"beacon": at}) if at else Answers()
    choices = Choices(packs={"beacon": answers})
    plan = plan_upgrade if upgrade else plan_install
    return plan(open_project(root), read_ledger(root), ledger_bytes(root), [open_pack(source)], choices, "now")


def test_a_pack_goes_where_the_builder_says_and_goes_without_a_trace(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    before = own_files(root)
    source = pack(tmp_path, "1.0", BEACON % ("", 5.0))
    carried_out(root, installed(root, source, "10,1,-12@90 -10,1,-12"))
    things = scene(root).things
    places = {one.key: tuple(np.round(things.at[one.index], 4)) for one in things.rows if "beacon" in one.key}
    assert places == {
        "beacon": (10, 1, -12),
        "beacon_switch": (10, 1, -13),
        "beacon_2": (-10, 1, -12),
        "beacon_switch_2": (-9, 1, -12),
    }
    links = {one.key: [link.to for link in one.links] for one in things.rows if "switch" in one.key}
    assert links == {"beacon_switch": ["beacon"], "beacon_switch_2": ["beacon_2"]}
    (status,) = pack_statuses(open_project(root), read_ledger(root), ())
    assert status.as_set
    again = installed(root, source, "10,1,-12@90 -10,1,-12")
    assert not again.stops
    assert not again.changes
    carried_out(
        root, plan_remove(open_project(root), read_ledger(root), ledger_bytes(root), ["beacon"], Choices(), "now")
    )
    assert own_files(root) == before


def test_an_upgrade_leaves_what_the_builder_has_placed(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    carried_out(root, installed(root, pack(tmp_path, "1.0", BEACON % ("", 5.0)), "10,1,-12"))
    carried_out(root, moved(root, ("beacon_switch",), by=(0.0, 0.0, 3.0)))
    carried_out(root, placed(root, ("beacon",), at=(20.0, 1.0, -12.0)))
    for version, reach in (("1.1", 5.0), ("1.2", 9.0)):
        carried_out(root, installed(root, pack(tmp_path, version, BEACON % ("", reach)), upgrade=True))
        things = scene(root).things
        places = {one.key: tuple(np.round(things.at[one.index], 4)) for one in things.rows if "beacon" in one.key}
        assert places == {"beacon": (10, 1, -12), "beacon_switch": (11, 1, -9), "beacon_2": (20, 1, -12)}
    assert {one.key: one.reach for one in things.rows if one.key in ("beacon", "beacon_2")} == {
        "beacon": 9.0,
        "beacon_2": 5.0,
    }


def test_what_stood_at_a_place_that_is_another_now_becomes_what_stands_there(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    both = (
        BEACON % ("", 5.0)
        + """
[[place]]
name = "buoy"
[[hook]]
seat = "scene-objects"
place = "buoy"
record = { name = "buoy", translation = [3.0, 1.0, -10.0], extras = { key = "buoy", class = "lamp", reach = 2.0 } }
"""
    )
    carried_out(root, installed(root, pack(tmp_path, "1.0", both), "10,1,-12@90"))
    mast = BEACON.replace('"beacon"', '"mast"').replace("beacon_s", "mast_s")
    mast = mast.replace("says", 'was = ["beacon", "buoy"]\nsays')
    carried_out(root, installed(root, pack(tmp_path, "2.0", mast % ("", 9.0)), upgrade=True))
    things = scene(root).things
    told = {one.key: (tuple(np.round(things.at[one.index], 4)), one.reach) for one in things.rows if "mast" in one.key}
    assert told["mast"] == ((10, 1, -12), 9.0)
    assert told["mast_switch"][0] == (10, 1, -13)
    assert not {"beacon", "beacon_switch", "buoy"} & {one.key for one in things.rows}


def test_copies_of_what_becomes_another_stay_and_are_told(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    carried_out(root, installed(root, pack(tmp_path, "1.0", BEACON % ("", 5.0)), "10,1,-12"))
    carried_out(root, placed(root, ("beacon",), at=(20.0, 1.0, -12.0)))
    mast = BEACON.replace('"beacon"', '"mast"').replace("beacon_s", "mast_s").replace("says", 'was = ["beacon"]\nsays')
    plan = carried_out(root, installed(root, pack(tmp_path, "2.0", mast % ("", 9.0)), upgrade=True))
    assert [(one.spot.path, "`beacon_2`" in one.why) for one in plan.open] == [("scene/brackwater.gltf", True)]
    keys = {one.key for one in scene(root).things.rows}
    assert {"mast", "beacon_2"} <= keys
    assert "beacon" not in keys


def test_what_was_moved_in_an_editor_stays_there(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    carried_out(root, installed(root, pack(tmp_path, "1.0", BEACON % ("", 5.0)), "10,1,-12"))
    file = root / "scene/brackwater.gltf"
    file.write_text(file.read_text().replace("[10.0, 1.0, -12.0]", "[14.0, 1.0, -12.5]"))
    carried_out(root, installed(root, pack(tmp_path, "1.1", BEACON % ("", 7.0)), upgrade=True))
    things = scene(root).things
    (row,) = things.by_key["beacon"]
    assert tuple(things.at[row]) == (14, 1, -12.5)
    assert things.rows[row].reach == 7.0


def test_what_must_be_placed_is_not_set_before(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    source = pack(tmp_path, "1.0", BEACON % ("must = true\nleast = 2", 5.0))
    plan = carried_out(root, installed(root, source))
    assert [question.key for question in plan.questions] == [("place", "beacon", "beacon")]
    assert not rows(root, "beacon")
    assert codes(root)["still-to-be-placed"] == 1
    carried_out(root, installed(root, source, "10,1,-12"))
    assert codes(root)["still-to-be-placed"] == 1
    carried_out(root, placed(root, ("beacon", "beacon_switch"), at=(20.0, 1.0, -12.0)))
    assert "still-to-be-placed" not in codes(root)


def codes(root: Path) -> dict[str, int]:
    from collections import Counter

    from hookset.checks import judge

    project = open_project(root)
    found = judge(project.tree, project.layout, project.stock, read_ledger(root), project.terms).findings
    return Counter(one.code for one in found)


@pytest.mark.parametrize(
    ("layout", "names", "wish"),
    [
        ("type-table", ("gull",), {"at": (1.0, 2.0, 3.0), "turn": (10.0, 20.0, 0.0)}),
        ("numbered-marks", ("red_3",), {"at": (1.0, 2.0), "turn": (90.0,)}),
        ("type-table", ("gull",), {"at": (1.0, 2.0, 3.0), "size": (2.0,)}),
        ("numbered-marks", ("red_3",), {"at": (1.0, 2.0, 3.0)}),
    ],
    ids=[
        "a turn that leans",
        "a turn where there is none",
        "a size where there is none",
        "a height where there is none",
    ],
)
def test_what_a_layout_cannot_say_is_refused(layout: str, names: tuple[str, ...], wish: dict[str, object]) -> None:
    with map_of(layout) as root:
        before = own_files(root)
        for plan in (moved(root, names, **wish), placed(root, names, **wish)):
            assert plan.stops
            assert not plan.changes
        assert own_files(root) == before


@pytest.mark.parametrize(
    ("layout", "names", "wish"),
    [
        ("brackwater", ("nobody",), {"at": (1.0, 2.0, 3.0)}),
        ("type-table", ("landing",), {"at": (1.0, 2.0, 3.0)}),
        ("brackwater", ("lock_gate",), {}),
        ("brackwater", ("lock_gate",), {"at": (1.0, 2.0), "on_ground": True}),
        ("mirrored-folders", ("rope_shed",), {"at": (400.0, 2.0), "on_ground": True}),
        ("brackwater", ("lock_gate",), {"at": (1.0, 2.0, 3.0), "size": (0.0,)}),
        ("brackwater", ("lock_gate",), {"at": (1.0,)}),
    ],
    ids=["nobody", "two of a name", "nowhere", "no ground", "beyond the ground", "no size", "one number"],
)
def test_wishes_that_mean_nothing(layout: str, names: tuple[str, ...], wish: dict[str, object]) -> None:
    with map_of(layout) as root, pytest.raises(WrongUseError):
        placed(root, names, **wish)


def test_on_the_ground_and_beside_something(tmp_path: Path) -> None:
    root = started("mirrored-folders", tmp_path)
    carried_out(root, placed(root, ("rope_shed",), at=(8.0, 5.0), on_ground=True))
    assert np.allclose(scene(root).things.at[-1], (8, 1.2, 5), atol=1e-6)
    carried_out(root, moved(root, ("ferry",), beside="lamp_iron", by=(0.0, 0.0, 2.0)))
    (row,) = rows(root, "ferry")
    assert np.allclose(scene(root).things.at[row], (6, 1.1, 10))


def test_what_stands_by_another_by_its_number_is_copied_with_it(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    file = root / "scene/brackwater.gltf"
    file.write_text(file.read_text().replace('"name": "lock gate"', '"children": [6],\n      "name": "lock gate"'))
    before = own_files(root)
    things = scene(root).things
    apart = things.at[rows(root, "lock_wheel")[0]] - things.at[rows(root, "lock_gate")[0]]
    plan = carried_out(root, placed(root, ("lock_gate",), at=(0.0, 0.0, 0.0)))
    assert any("lock_wheel" in note for pack in plan.packs for note in pack.notes)
    things = scene(root).things
    (gate,), (wheel,) = things.by_key["lock_gate_2"], things.by_key["lock_wheel_2"]
    assert np.allclose(things.at[wheel] - things.at[gate], apart)
    assert [link.to for link in things.rows[wheel].links] == ["lock_gate_2"]
    assert int(things.outer[wheel]) == -1
    carried_out(root, taken(root, "lock_wheel_2", "lock_gate_2"))
    assert own_files(root) == before
    # What stands by it moves with it.
    (wheel,) = rows(root, "lock_wheel")
    was = scene(root).things.at[wheel]
    carried_out(root, moved(root, ("lock_gate",), by=(2.0, 0.0, 0.0)))
    assert np.allclose(scene(root).things.at[wheel], was + np.array([2, 0, 0]))


def test_a_thing_in_another_is_put_where_it_is_said_to_be_in_the_map(tmp_path: Path) -> None:
    root = started("scene-graph", tmp_path)
    file = next((root / "scene").glob("*.xml"))
    file.write_text(file.read_text().replace('<Thing key="basin">', '<Thing key="basin" at="100 0 0" turn="90 0 0">'))
    carried_out(root, moved(root, ("gate_wheel",), at=(101.0, 5.0, -7.0)))
    (row,) = rows(root, "gate_wheel")
    assert np.allclose(scene(root).things.at[row], (101, 5, -7), atol=1e-5)
    carried_out(root, placed(root, ("gate_wheel",), at=(1.0, 2.0, 3.0)))
    (copy,) = rows(root, "gate_wheel_2")
    things = scene(root).things
    assert np.allclose(things.at[copy], (1, 2, 3), atol=1e-5)
    assert int(things.outer[copy]) == -1
    assert np.allclose(things.matrix(copy)[:3, :3], things.matrix(row)[:3, :3], atol=1e-4)


def test_numbers_that_must_be_new_are(tmp_path: Path) -> None:
    root = started("numbered-marks", tmp_path)
    carried_out(root, placed(root, ("red_3",), at=(120.0, 5.0), line_to=(140.0, 5.0), count=2))
    text = (root / "scene/course.xml").read_text()
    assert '<Buoy name="red_4" slot="4" at="120 5"/>' in text
    assert '<Buoy name="red_5" slot="7" at="140 5"/>' in text


def test_a_plan_writes_nothing(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    before = snapshot(root)
    plan = placed(root, ("lamp_8",), at=(0.0, 1.0, 20.0))
    assert plan.changes
    assert changed_tree(open_project(root).tree, plan.changes).read("scene/brackwater.gltf")
    assert snapshot(root) == before
    shutil.rmtree(root)


def swapped(root: Path, *names: str, like: str, **asked: object) -> Plan:
    request = SwapRequest(names=names, like=like, **asked)  # type: ignore[arg-type]
    return plan_swap(open_project(root), read_ledger(root), ledger_bytes(root), request, Choices(), "now")


SWAPS = {
    "brackwater": ("lamp_3", "bell_post"),
    "scene-graph": ("gate_wheel", "tide_gate"),
    "numbered-marks": ("red_3", "blue_1"),
    "paired-modules": ("lock_wheel", "lock_gate"),
}


@pytest.mark.parametrize("layout", SWAPS)
def test_what_is_swapped_keeps_its_name_its_place_and_its_links(layout: str) -> None:
    name, like = SWAPS[layout]
    with map_of(layout) as root:
        was = scene(root).things
        (row,), (other,) = was.by_key[name], was.by_key[like]
        carried_out(root, swapped(root, name, like=like))
        now = scene(root).things
        assert len(now) == len(was)
        (swapped_row,) = now.by_key[name]
        assert np.allclose(now.at[swapped_row], was.at[row], atol=1e-5)
        assert now.rows[swapped_row].class_ == was.rows[other].class_
        assert [link.to for link in now.rows[swapped_row].links] == [link.to for link in was.rows[row].links]
        others = sorted(one.key for one in now.rows)
        assert others == sorted(one.key for one in was.rows)


def test_a_swap_keeps_settings_and_tells_what_is_lost(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    file = root / "scene/brackwater.gltf"
    text = file.read_text().replace(
        '"key": "lamp_3",', '"key": "lamp_3",\n        "reach": 3.0,\n        "glow": "red",'
    )
    file.write_text(text.replace('"key": "bell_post",', '"key": "bell_post",\n        "reach": 12.0,'))
    plan = swapped(root, "lamp_3", like="bell_post")
    (told,) = plan.packs
    assert [(one.what, one.value) for one in told.values] == [("lamp_3: extras/reach", "3.0")]
    assert any("extras/glow" in note for note in told.notes)
    assert any("extras/model" in note for note in told.notes)
    carried_out(root, swapped(root, "lamp_3", like="bell_post", keep=(("extras/glow", "extras/shine"),)))
    things = scene(root).things
    assert things.rows[things.by_key["lamp_3"][0]].reach == 3.0
    assert '"shine": "red"' in file.read_text()


def test_a_whole_class_is_swapped_and_back(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    was = {one.key: tuple(scene(root).things.at[one.index]) for one in scene(root).things.rows if one.key}
    carried_out(root, swapped(root, like="landing_1", of_class="lamp"))
    assert not rows(root, "lamp")
    carried_out(root, placed(root, ("bell_post",), at=(0.0, 1.0, 22.0)))
    carried_out(root, swapped(root, "lamp_1", "lamp_2", like="bell_post_2"))
    now = {one.key: tuple(scene(root).things.at[one.index]) for one in scene(root).things.rows if one.key}
    assert {key: now[key] for key in was} == was


def test_what_a_pack_has_set_is_not_swapped(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    carried_out(root, installed(root, pack(tmp_path, "1.0", BEACON % ("", 5.0))))
    assert swapped(root, "beacon", like="lamp_1").stops
    with pytest.raises(WrongUseError):
        swapped(root, "lamp_1", like="lamp_1")
    with pytest.raises(WrongUseError):
        swapped(root, like="lamp_1", of_class="nothing")
