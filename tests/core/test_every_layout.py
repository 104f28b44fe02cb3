"""In every shipped layout, whatever packs bring: what was set can be taken out, is set once, and leaves others alone."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hookset.applying import Disk, apply_changes, changed_tree
from hookset.formats.toml import written
from hookset.packs import Pack, open_pack
from hookset.planning import Choices, Plan, plan_install, plan_redo, plan_remove, plan_undo, plan_upgrade
from hookset.project import LEDGER, MapProject, open_project, read_ledger
from tests.conftest import snapshot
from tests.shipped import started

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover

LAYOUTS = ("brackwater", "scene-graph", "type-table", "mirrored-folders", "numbered-marks", "paired-modules")
FEW = settings(max_examples=4, deadline=None, suppress_health_check=list(HealthCheck))
WORDS = st.text("abcdefgh", min_size=3, max_size=7)


def entries(layout: str, word: str, number: int) -> dict[str, str]:
    """One or two entries for each seat of a layout, about one made-up thing; some of them filled in."""
    return {
        # The map of the layout split-lua.
        "brackwater": {
            "server-import": f"text = 'local {word} = require(\"tide\")'",
            "server-start": f'text = "log(\\"{word}\\")"',
            "sound-table": f'record = {{ alias = "{word}", file = "harbour/gull_1.wav", reach = {number}.5 }}',
            "texts": f'[hook.each.en]\n"{word}.label" = "The {word}"',
            "scene-objects": f'record = {{ name = "{word}", extras = {{ key = "{word}_{{next:object:{word}_}}", class = "lever" }} }}',
            "on-object": f'at = {{ key = "lock_gate" }}\nrecord = {{ {word} = {number} }}',
        },
        "scene-graph": {
            "files": f"text = '<Source no=\"{number}\" from=\"assets/{word}.gltf\"/>'",
            "scripts": "text = '<Run source=\"{lookup:file-id:code/clock.lua}\"/>'",
            "nodes": f"text = '<Thing key=\"{word}\" form=\"{{listed:file-id:assets/{word}_{number}.gltf}}\"/>'",
            "water": f"text = '''<Thing key=\"{word}_bank\" at=\"0 -2 0\">\n  <text key=\"a\" is=\"x\"/>\n</Thing>'''",
            "on-node": f"at = {{ node = \"tide_gate\" }}\ntext = '<number key=\"{word}\" is=\"{number}\"/>'",
            "node-itself": f'at = {{ node = "gate_wheel" }}\nrecord = {{ {word} = {number} }}',
            "texts": f"[hook.each]\nen = '<Text key=\"{word}\">The {word}</Text>'",
        },
        "type-table": {
            "types": f'record = {{ type = "{word}", shape = "shed", rank = "wild" }}',
            "groups": f'record = {{ group = "{word}", owner = "nobody" }}',
            "places": f'record = {{ type = "shed", x = {number}, y = 0, z = 1, turn = 0, group = "shore" }}',
        },
        "mirrored-folders": {
            "stands": f'record = {{ thing = "oak_post", at = "{number} 1.2 9.5", {word} = "{{map:name|upper}}" }}',
            "noises": f'[hook.record.{word}]\nfile = "hum.wav"\ntimes = {number}',
        },
        "numbered-marks": {
            "scripts": f'record = {{ {word} = "courses/{{map:folder|lower}}/code/wind.lua" }}',
            "moments": f'record = {{ {word} = "bell" }}',
            "options": f"record = {{ {word} = {number} }}",
            "buoys": f"text = '<Buoy name=\"{word}_{{next:buoy:{word}_}}\" slot=\"{{next:slot}}\" at=\"1 {number}\"/>'",
            "starts": f"text = '<Start crew=\"{word}\" at=\"{number} 0\"/>'",
        },
        "paired-modules": {
            "server-import": f"text = 'import {{ open as {word} }} from \"./{word}.mjs\";'",
            "client-import": f"text = 'import \"./{word}.mjs\";'",
            "server-begin": f"text = '{word}({number});'",
            "client-begin": f"text = '{word}();'",
            "sounds": f"text = '''[{word}]\nfile = quay_bell.wav\nreach = {number}'''",
            "shapes": f"text = '''[{word}]\nfile = bell_post.gltf'''",
            "objects": f'record = {{ id = "{word}", shape = "bell_post", at = [1.0, {number}.0, 2.0] }}',
        },
    }[layout]  # fmt: skip


@st.composite
def sheets(draw: st.DrawFn, layout: str, name: str) -> dict[str, list[str]]:
    """The hooks of two versions of one pack: the second keeps some, drops some, has some of its own."""
    number = draw(st.integers(30, 60))
    pool = [
        (seat, body)
        for word in (draw(WORDS), draw(WORDS))
        for seat, body in entries(layout, word + name, number).items()
    ]
    first = draw(st.lists(st.sampled_from(pool), unique=True, max_size=6))
    second = draw(st.lists(st.sampled_from(pool), unique=True, max_size=6))
    return {
        version: [f'[[hook]]\nseat = "{seat}"\n{body}' for seat, body in chosen]
        for version, chosen in (("1", first), ("2", second))
    }


def every_seat(layout: str, name: str) -> dict[str, list[str]]:
    """The same with an entry for each seat, all of them in both versions."""
    hooks = [f'[[hook]]\nseat = "{seat}"\n{body}' for seat, body in entries(layout, f"fad{name}", 40).items()]
    return {"1": hooks, "2": hooks}


@contextmanager
def map_of(layout: str) -> Iterator[Path]:
    with tempfile.TemporaryDirectory() as folder:
        yield started(layout, Path(folder))


def pack_of(root: Path, name: str, version: str, hooks: list[str]) -> Pack:
    """With one text file that is another in each version, and one that only its own version has."""
    folder = root.parent / f"{name}-{version}"
    (folder / "content/extra").mkdir(parents=True, exist_ok=True)
    (folder / f"content/extra/{name}.txt").write_text(f"line\n{version}\nlast\n")
    (folder / f"content/extra/{name}_{version}.txt").write_text("only here\n")
    head = ["[pack]", f"name = {written(name)}", f'version = "{version}"', "[[files]]", 'from = "content/**"']
    (folder / "hooksheet.toml").write_text("\n".join([*head, *hooks]) + "\n", encoding="utf-8")
    return open_pack(folder)


def carried_out(root: Path, plan: Plan, action: str) -> Plan:
    """The plan written, after seeing that what it shows is what is written."""
    assert not plan.stops, plan.stops
    project = open_project(root)
    would = changed_tree(project.tree, plan.changes)
    expected = {path: would.read(path) for path in would.paths()}
    if plan.all_changes:
        (root / ".hookset").mkdir(exist_ok=True)
        apply_changes(root, plan.all_changes, action=action, title=action, time="t", disk=Disk())
    tree = open_project(root).tree
    assert {path: tree.read(path) for path in tree.paths()} == expected
    return plan


def given_map(root: Path) -> tuple[MapProject, bytes | None]:
    return open_project(root), (root / LEDGER).read_bytes() if (root / LEDGER).exists() else None


def install(root: Path, pack: Pack) -> Plan:
    project, data = given_map(root)
    return carried_out(root, plan_install(project, read_ledger(root), data, [pack], Choices(), "t"), "install")


def upgrade(root: Path, pack: Pack) -> Plan:
    project, data = given_map(root)
    return carried_out(root, plan_upgrade(project, read_ledger(root), data, [pack], Choices(), "t"), "upgrade")


def remove(root: Path, name: str) -> Plan:
    project, data = given_map(root)
    return carried_out(root, plan_remove(project, read_ledger(root), data, [name], Choices(), "t"), "remove")


def undo(root: Path) -> None:
    plan = plan_undo(root)
    apply_changes(root, plan.changes, action="undo", title="u", time="t", disk=Disk(), undoes=plan.entry.id)


def redo(root: Path) -> None:
    plan = plan_redo(root)
    apply_changes(root, plan.changes, action="redo", title="r", time="t", disk=Disk(), undoes=plan.entry.id)


@pytest.mark.parametrize("layout", LAYOUTS)
def test_set_once_taken_out_and_undone(layout: str) -> None:
    @FEW
    @given(sheets(layout, "q"))
    def holds(versions: dict[str, list[str]]) -> None:
        with map_of(layout) as root:
            states = [snapshot(root)]
            first, second = (pack_of(root, "pack", version, versions[version]) for version in ("1", "2"))
            install(root, first)
            states.append(snapshot(root))
            assert install(root, first).all_changes == ()
            upgrade(root, second)
            states.append(snapshot(root))
            remove(root, "pack")
            assert snapshot(root) == states[0]
            for state in reversed(states):
                undo(root)
                assert snapshot(root) == state
                redo(root)
                undo(root)
                assert snapshot(root) == state

    holds()


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_one_taken_out_leaves_the_other_as_if_alone(layout: str) -> None:
    @FEW
    @given(sheets(layout, "q"), sheets(layout, "r"))
    def holds(one: dict[str, list[str]], other: dict[str, list[str]]) -> None:
        with map_of(layout) as both, map_of(layout) as alone:
            install(both, pack_of(both, "first", "1", one["1"]))
            install(both, pack_of(both, "second", "1", other["1"]))
            remove(both, "first")
            install(alone, pack_of(alone, "second", "1", other["1"]))
            now, expected = snapshot(both), snapshot(alone)
            # Numbers that were free then are what they were: existing entries keep their numbers.
            if not any("{next:" in hook or "{listed:" in hook for hook in (*one["1"], *other["1"])):
                assert now == expected
            assert now.keys() == expected.keys()

    holds()


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_an_upgrade_is_as_the_new_version_alone(layout: str) -> None:
    @FEW
    @given(sheets(layout, "q"))
    def holds(versions: dict[str, list[str]]) -> None:
        with map_of(layout) as stepwise, map_of(layout) as alone:
            install(stepwise, pack_of(stepwise, "pack", "1", versions["1"]))
            before = snapshot(stepwise)
            upgrade(stepwise, pack_of(stepwise, "pack", "2", versions["2"]))
            install(alone, pack_of(alone, "pack", "2", versions["2"]))
            now, expected = snapshot(stepwise), snapshot(alone)
            assert {p: sorted(d.split()) for p, d in now.items() if b"<" not in d} == {
                p: sorted(d.split()) for p, d in expected.items() if b"<" not in d
            }
            undo(stepwise)
            assert snapshot(stepwise) == before

    holds()
