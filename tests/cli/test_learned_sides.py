"""Learned of a map whose scripts run in two places: what belongs to one of them, and where the map says its name."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

import pytest

from tests.conftest import Ran, run_hookset

WORDS = ["hatch", "winch", "brazier", "turnstile", "capstan", "lantern", "ferry", "pulley"]
ABOUT = {"about.json": '{"name": "weir", "version": "0.3", "begins": "first"}'}


def _script(defines: Sequence[str], raises: Sequence[str], tells: Sequence[str], far: str = "") -> str:
    lines = [f'wait_for("{name}", function() end)' for name in defines]
    lines += [f'raise("{name}")' for name in raises for _ in range(2)]
    return "\n".join([*lines, *(f'tell_{far}("{name}")' for name in tells for _ in range(2))]) + "\n"


def _weir(server: str = "server", client: str = "client", both: str = "common") -> dict[str, str]:
    """Scripts in two folders: what is raised is there on the same side, and what is told far away on the other."""
    mine, theirs, all_have = ([f"{what}_{word}" for word in WORDS] for what in ("open", "show", "count"))
    return {
        f"parts/gate/{server}/work.lua": _script(mine[:4], [*mine[4:], all_have[0]], theirs[:4], "players"),
        f"parts/gate/{client}/work.lua": _script(theirs[:4], [*theirs[4:], all_have[1]], mine[:4], "host"),
        f"parts/gate/{both}/count.lua": _script(all_have[:4], all_have[4:], []),
        f"parts/mill/{server}/work.lua": _script(mine[4:], [*mine[:4], all_have[2]], theirs[4:], "players"),
        f"parts/mill/{client}/work.lua": _script(theirs[4:], [*theirs[:4], all_have[3]], mine[4:], "host"),
        f"parts/mill/{both}/count.lua": _script(all_have[4:], all_have[:4], []),
        "scene.json": json.dumps({"things": [{"shape": word, "works": f"open_{word}"} for word in WORDS]}),
    }


def _learn(tmp_path: Path, files: dict[str, str], *options: str) -> Ran:
    for path, text in files.items():
        file = tmp_path / "weir" / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text, "utf-8")
    return run_hookset(tmp_path, "layout", "learn", "weir", *options, "--json")


def _found(tmp_path: Path) -> list[tuple[str, str, str]]:
    """Code, name and file of what the check finds."""
    found = run_hookset(tmp_path / "weir", "check", "--json").data["findings"]
    return [(one["code"], one["name"], one["path"]) for one in found]


@pytest.mark.parametrize("words", [("server", "client", "common"), ("SV", "CL", "sh")])
def test_what_belongs_to_a_side_is_told_where_the_other_asks_for_it(tmp_path: Path, words: tuple[str, ...]) -> None:
    files = _weir(*words)
    ran = _learn(tmp_path, files)
    sides = ran.data["sides"]
    assert (sides["names"], sides["both"]) == ([*words[:2]], words[2])
    assert sides["kinds"] == [one["kind"] for one in ran.data["rules"] if one["asked"].get("call") == "raise"]
    assert sides["fits"] == sides["uses"]
    assert run_hookset(tmp_path, "start", "weir", "--layout", "weir.layout.toml").code == 0
    assert not _found(tmp_path)
    # A client's script that raises what only the server has, and one that tells the server what only clients have.
    path = f"parts/mill/{words[1]}/work.lua"
    (tmp_path / "weir" / path).write_text(f'{files[path]}raise("open_hatch")\ntell_host("show_ferry")\n', "utf-8")
    assert _found(tmp_path) == [("wrong-side", "open_hatch", path), ("wrong-side", "show_ferry", path)]


def test_sides_are_learned_of_a_map_that_has_a_fault_in_them(tmp_path: Path) -> None:
    path = "parts/mill/client/work.lua"
    files = _weir()
    sides = _learn(tmp_path, files | {path: f'{files[path]}tell_host("show_ferry")\n'}).data["sides"]
    assert sides["uses"] - sides["fits"] == 1
    assert run_hookset(tmp_path, "start", "weir", "--layout", "weir.layout.toml").code == 0
    assert _found(tmp_path) == [("wrong-side", "show_ferry", path)]


def test_sides_in_many_folders_are_said_at_once(tmp_path: Path) -> None:
    parts = {
        f"parts/{name}/{side}/none.lua": "\n" for name in ("quay", "lock", "kiln") for side in ("server", "client")
    }
    # A part that has scripts for one side alone is on that side as well.
    parts["parts/shed/server/work.lua"] = _script(["open_shed"], ["open_shed", "open_hatch"], [])
    ran = _learn(tmp_path, _weir() | parts)
    assert ran.data["sides"]["files"] == ["**/{side}/**"]
    assert ran.data["sides"]["fits"] == ran.data["sides"]["uses"]
    assert run_hookset(tmp_path, "start", "weir", "--layout", "weir.layout.toml").code == 0
    below = tmp_path / "weir" / "parts" / "quay" / "client" / "far" / "away" / "gate.lua"
    below.parent.mkdir(parents=True)
    below.write_text('raise("show_hatch")\nraise("open_hatch")\n', "utf-8")
    assert _found(tmp_path) == [("wrong-side", "open_hatch", "parts/quay/client/far/away/gate.lua")]


def test_scripts_that_use_the_names_of_any_side_have_none(tmp_path: Path) -> None:
    files = _weir()
    files["parts/gate/client/work.lua"] += _script([], [f"open_{word}" for word in WORDS], [])
    assert _learn(tmp_path, files).data["sides"] is None


def test_a_call_that_always_means_one_side_is_understood_so_wherever_it_is(tmp_path: Path) -> None:
    files = _weir()
    files["parts/gate/server/work.lua"] += "".join(f'note_for_host("open_{word}")\n' for word in WORDS * 2)
    files["parts/gate/client/work.lua"] += 'note_for_host("open_hatch")\n'
    assert _learn(tmp_path, files).data["sides"]
    assert run_hookset(tmp_path, "start", "weir", "--layout", "weir.layout.toml").code == 0
    assert not _found(tmp_path)


@pytest.mark.parametrize(("calls", "words"), [(("raise",), 5), (("raise", "lower", "halt"), 3)])
def test_a_few_names_are_no_evidence(tmp_path: Path, calls: tuple[str, ...], words: int) -> None:
    shared = _script([f"count_{word}" for word in WORDS], [], [])
    uses = "".join(f'{call}("count_{word}")\n' for call in calls for word in WORDS for _ in range(2))
    mine = "".join(f'{call}("open_{word}")\n' for call in calls for word in WORDS[:words] for _ in range(2))
    files = {
        "parts/common/count.lua": shared + uses,
        "parts/server/work.lua": _script([f"open_{word}" for word in WORDS[:words]], [], []) + mine,
        "parts/client/work.lua": uses,
    }
    ran = _learn(tmp_path, files)
    assert {one["asked"].get("call") for one in ran.data["rules"]} == {*calls}
    assert ran.data["sides"] is None


def test_folders_that_are_called_otherwise_are_no_sides(tmp_path: Path) -> None:
    assert _learn(tmp_path, _weir("north", "south", "middle")).data["sides"] is None


def test_the_map_says_its_name_and_version(tmp_path: Path) -> None:
    ran = _learn(tmp_path, _weir() | ABOUT)
    assert ran.data["descriptor"]["says"] == {"name": "weir", "version": "0.3"}
    assert run_hookset(tmp_path, "start", "weir", "--layout", "weir.layout.toml", "--json").data["version"] == "0.3"


@pytest.mark.parametrize(
    "others",
    [
        {"about.json": '{"called": "weir"}'},
        {"about.json": '{"name": "a", "version": "1"}', "tool.json": '{"name": "b", "version": "2"}'},
        {"about.json": '{"name": "some place", "size": 3}'},
        {"things/about.json": '{"name": "weir", "version": "0.3"}'},
    ],
)
def test_without_a_name_at_the_top_or_with_two_nothing_is_described(tmp_path: Path, others: dict[str, str]) -> None:
    assert _learn(tmp_path, _weir() | others).data["descriptor"] is None


def test_of_two_files_the_one_with_the_name_of_the_folder_is_meant(tmp_path: Path) -> None:
    ran = _learn(tmp_path, _weir() | ABOUT | {"tool.json": '{"name": "sluicer", "version": "2"}'})
    assert ran.data["descriptor"]["file"] == "about.json"


def test_a_layout_at_hand_gets_where_the_name_is(tmp_path: Path) -> None:
    (tmp_path / "half.toml").write_text(
        '[layout]\nname = "half"\ntitle = "half"\n[[read]]\nfiles = "**/*.lua"\nformat = "lua"\n', "utf-8"
    )
    ran = _learn(tmp_path, _weir() | ABOUT, "--onto", "half.toml")
    assert ran.data["descriptor"]["file"] == "about.json"
    assert run_hookset(tmp_path, "start", "weir", "--layout", ran.data["file"], "--json").data["version"] == "0.3"


@pytest.mark.parametrize("mixed", [False, True])
def test_files_of_two_sorts_on_a_side_are_not_taken_for_one(tmp_path: Path, mixed: bool) -> None:
    files = {}
    for side, what in (("server", "open"), ("client", "show")):
        names = [f"{what}_{word}" for word in WORDS]
        deeds = {"deeds": [{"id": name} for name in names], "asks": [{"deed": name} for name in names * 2]}
        files[f"parts/{side}/deeds.json"] = json.dumps(deeds)
        if mixed:
            looks = {"looks": [{"id": f"look_{side}_{n}", "size": n} for n in range(9)]}
            files[f"parts/{side}/looks.json"] = json.dumps(looks)
    ran = _learn(tmp_path, files)
    assert [one["asked"]["at"] for one in ran.data["rules"]] == ["$.asks[*].deed"]
    assert (ran.data["sides"] is None) is mixed
