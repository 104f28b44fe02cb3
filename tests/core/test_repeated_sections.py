"""INI files in which sections are called alike, each of another record: what stands beside a value, what is asked of the
section, and one more of them."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

from hookset.formats import AlreadyThere, Body, format_named
from tests.conftest import run_hookset
from tests.core.test_formats import done, opened, put
from tests.core.test_learning import written

LOT = random.Random(43)
ITEMS = "[item]\nid=1\nname=Rope\n\n[item]\nid=2\nname=Hook\nkind=tool\n\n[box]\nid=9\n"
INI = format_named("ini")


def document() -> Any:
    return opened("ini", ITEMS)


def test_what_stands_beside_a_value_is_in_its_own_section() -> None:
    rows = {value.text: dict(row) for value, row in document().rows(INI.selector(section="item", key="id"))}
    assert rows == {
        "1": {"section": "item", "id": "1", "name": "Rope"},
        "2": {"section": "item", "id": "2", "name": "Hook", "kind": "tool"},
    }


def test_what_is_asked_of_a_section_is_not_asked_of_another_that_is_called_alike() -> None:
    found = document().select(INI.selector(section="item", key="id", when={"kind": "tool"}))
    assert [value.text for value in found] == ["2"]


def test_each_section_is_a_record() -> None:
    records = list(document().records(INI.selector(section="item", key="id")))
    assert [record["name"] for _, record in records] == ["Rope", "Hook"]
    assert [ITEMS[document().field(where, "name") :][:4] for where, _ in records] == ["Rope", "Hook"]


def test_one_more_section_that_is_called_alike() -> None:
    new = "[item]\nid = 3\nuse = pull\nuse = tie\n"
    assert done("ini", ITEMS, {"again": True}, Body(text=new)) == ITEMS + "\n[item]\nid=3\nuse=pull\nuse=tie\n"
    assert done("ini", ITEMS + "\n", {"again": True}, Body(text=new)).endswith(
        "id=9\n\n[item]\nid=3\nuse=pull\nuse=tie\n"
    )


def test_a_section_that_is_there_is_not_set_again() -> None:
    same = "[item]\nname = Hook\nid = 2\nkind = tool\n"
    assert isinstance(put("ini", ITEMS, {"again": True}, Body(text=same)), AlreadyThere)


def test_ids_are_learned_and_the_next_free_ones_are_offered(tmp_path: Path) -> None:
    ids = sorted(LOT.sample(range(1, 400), 60))
    files = {"items.txt": "".join(f"[item]\nid={n}\nname=Thing {n}\nprice={LOT.randrange(90)}\n\n" for n in ids)}
    for shop in ("quay", "mill", "inn", "lock"):
        rows = "".join(f"[stock]\nitem={LOT.choice(ids)}\nlots={LOT.randrange(99)}\n\n" for _ in range(20))
        files[f"shops/{shop}.txt"] = f"[shop]\ntitle=The {shop}\n\n{rows}"
    root, pack, free = written(tmp_path / "map", files).root, tmp_path / "hooks", ids[-1] + 1
    pack.mkdir()
    (pack / "README.txt").write_text(
        f"Boat hooks\n\nAdd this to items.txt:\n\n[item]\nid={ids[5]}\nname=Boat hook\n\n[item]\nid={ids[7]}\nname=Gaff\n\n"
        f"Add this to shops/quay.txt:\n\n[stock]\nitem={ids[5]}\nlots=3\n"
    )
    layout = tmp_path / "items.toml"
    assert run_hookset(root, "layout", "learn", "--to", str(layout)).code == 0
    assert "numbers = { first = 1 }" in layout.read_text()
    run_hookset(root, "start", "--layout", str(layout))
    assert not run_hookset(root, "draft", str(pack), "--json").data["not_understood"]
    stops = run_hookset(root, "install", str(pack), "--json").data["stops"]
    calls = [stop["remedy"].rpartition("--call ")[2] for stop in stops]
    assert calls == [f"item:{ids[5]}={free}", f"item:{ids[7]}={free + 1}"]
    assert run_hookset(root, "install", str(pack), "--call", calls[0], "--call", calls[1]).code == 0
    assert f"[stock]\nitem={free}\nlots=3\n" in (root / "shops/quay.txt").read_text()
    assert run_hookset(root, "check").code == 0
