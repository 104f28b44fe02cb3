"""One question has one answer: the check, `status` and an install agree on whether an entry stands."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Ran, run_hookset, snapshot
from tests.packs import made_pack
from tests.shipped import started

Run = Callable[..., Ran]

COMMENTED = '[[hook]]\nseat = "server-start"\ntext = """\n-- the bell, told by the tide\nlocal oyster = 3"""\n'


def told(root: Path) -> tuple[list[str], int]:
    """What a check says of entries, and how status ends."""
    findings = run_hookset(root, "check", "--all", "--json").data["findings"]
    return [one["code"] for one in findings if one["code"] == "entry-gone"], run_hookset(root, "status").code


def test_an_entry_that_begins_with_a_comment_stands(demo: Path, tmp_path: Path) -> None:
    pack = made_pack(tmp_path, "bell", COMMENTED)
    assert run_hookset(demo, "install", str(pack)).code == 0
    assert told(demo) == ([], 0)
    before = snapshot(demo)
    again = run_hookset(demo, "install", str(pack))
    assert again.code == 0
    assert snapshot(demo) == before


def test_an_entry_within_one_of_the_same_pack_stands(tmp_path: Path) -> None:
    root = started("scene-graph", tmp_path / "map")
    outer = '[[hook]]\nseat = "nodes"\ntext = """\n<Thing key="crate_1">\n</Thing>"""\n'
    inner = '[[hook]]\nseat = "on-node"\nat = { node = "crate_1" }\ntext = \'<number key="weight" is="3"/>\'\n'
    pack = made_pack(tmp_path, "crates", outer + inner)
    assert run_hookset(root, "install", str(pack), "--anyway").code == 0
    assert told(root)[0] == []
    before = snapshot(root)
    assert run_hookset(root, "install", str(pack), "--anyway").code == 0
    assert snapshot(root) == before
    assert told(root) == ([], 0)


def test_an_entry_whose_neighbours_the_pack_itself_has_changed_is_as_set(tmp_path: Path) -> None:
    root = started("scene-graph", tmp_path / "map")
    crates = [f'[[hook]]\nseat = "nodes"\ntext = \'<Thing key="crate_{number}"/>\'\n' for number in range(3)]
    inner = '[[hook]]\nseat = "on-node"\nat = { node = "crate_0" }\ntext = \'<Thing key="lid" at="0 1 0"/>\'\n'
    pack = made_pack(tmp_path, "crates", "".join((*crates, inner)))
    assert run_hookset(root, "install", str(pack), "--anyway").code == 0
    (status,) = run_hookset(root, "status", "--json").data["packs"]
    assert {entry["standing"] for entry in status["entries"]} == {"as set"}
    assert told(root) == ([], 0)


@pytest.mark.parametrize("gone", [True, False])
def test_an_entry_that_is_gone_is_so_for_all(gone: bool, demo: Path, tmp_path: Path) -> None:
    pack = made_pack(tmp_path, "bell", COMMENTED)
    assert run_hookset(demo, "install", str(pack)).code == 0
    main = demo / "scripts/server/main.lua"
    if gone:
        lines = [
            line
            for line in main.read_text().splitlines(keepends=True)
            if "oyster" not in line and "told by the tide" not in line
        ]
        main.write_text("".join(lines))
    else:
        main.write_text(main.read_text().replace("local oyster = 3", "local  oyster  =  3"))
    codes, code = told(demo)
    assert (bool(codes), bool(code)) == (gone, gone) or not gone
    assert bool(codes) is gone
    assert run_hookset(demo, "install", str(pack)).code == 0
    assert main.read_text().split().count("oyster") == 1
