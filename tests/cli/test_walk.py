"""Walking through the notes of a pack: what is decided of each step, by a file and at a terminal."""

from __future__ import annotations

import json
import sys
import tomllib
import zipfile
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Ran, run_hookset
from tests.terminal import at_terminal

SCRIPT = "local pump = {}\nfunction pump.start(depth) end\nreturn pump\n"
NOTES = """Pump 1.0 by Nobody in Particular

Copy the folders into your map. Open scripts/server/main.lua and add below the other imports:

    local pump = require("packs.pump")

Then, somewhere where it runs once, pump.start(4) has to be called.

Every lamp whose name begins with lamp_ wants a rusty look, delete the old one:

    "rust": 4

Whoever has the crane must take out the old pump in the harbour first.
"""
START = {"lines": "README.txt:7", "text": "pump.start(4)", "seat": "server-start"}
LAMPS = {
    "lines": "README.txt:9-11",
    "do": "instead",
    "hook": [
        {
            "seat": "on-object",
            "every": {"kind": "object", "name": "lamp_*", "at": "key"},
            "record": {"rust": 4},
        }
    ],
}
CRANE = {"lines": "README.txt:13", "do": "by-hand", "why": "there is no crane"}


def pack_of(demo: Path, notes: str = NOTES, **files: str) -> Path:
    pack = demo.parent / "pump.zip"
    with zipfile.ZipFile(pack, "w") as archive:
        archive.writestr("README.txt", notes)
        archive.writestr("scripts/server/packs/pump.lua", SCRIPT)
        for path, text in files.items():
            archive.writestr(path.replace("__", "/"), text)
    return pack


def answered(demo: Path, source: Path, *steps: dict[str, Any], **more: Any) -> Ran:
    """A draft with these decisions."""
    file = demo.parent / "decided.toml"
    file.write_text(toml({"step": list(steps)} | more), encoding="utf-8")
    return run_hookset(demo, "draft", str(source), "--answers", str(file), "--over", "--json")


def toml(data: Any) -> str:
    """JSON is TOML inline, but for the names of keys."""
    rows = [f"{key} = {inline(value)}" for key, value in data.items()]
    return "\n".join(rows) + "\n"


def inline(value: Any) -> str:
    if isinstance(value, dict):
        return "{" + ", ".join(f"{json.dumps(key)} = {inline(inner)}" for key, inner in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(inline, value)) + "]"
    return json.dumps(value)


def sheet_of(pack: Path) -> dict[str, Any]:
    return tomllib.loads(pack.with_name("pump.hooksheet.toml").read_text(encoding="utf-8"))


def test_the_steps_as_data_say_what_is_open(demo: Path) -> None:
    ran = run_hookset(demo, "draft", str(pack_of(demo)), "--walk", "--json")
    assert ran.code == 1
    steps = {step["lines"]: step for step in ran.data["steps"]}
    assert list(steps) == ["README.txt:1", "README.txt:3-5", "README.txt:7", "README.txt:9-11", "README.txt:13", "pack"]
    assert [name for name, step in steps.items() if step["open"]] == list(steps)[2:]
    assert "on-object" in steps["README.txt:9-11"]["seats"]
    assert [entry["entry"]["seat"] for entry in steps["README.txt:3-5"]["entries"]] == ["server-import"]
    assert [line["code"] for line in steps["README.txt:9-11"]["text"]] == [False, True]
    assert not (demo.parent / "pump.hooksheet.toml").exists()


def test_what_is_decided_is_set(demo: Path) -> None:
    pack = pack_of(demo)
    ran = answered(demo, pack, START, LAMPS, CRANE)
    assert (ran.code, ran.data["complete"], ran.data["findings"]) == (0, True, [])
    fates = {line["line"]: line["fate"] for line in ran.data["lines"]}
    assert (fates[7], fates[11], fates[13]) == ("done", "done", "by hand")
    assert [hook["seat"] for hook in sheet_of(pack)["hook"]] == ["server-import", "server-start", "on-object"]
    assert run_hookset(demo, "install", str(pack)).code == 0
    assert "pump.start(4)" in (demo / "scripts/server/main.lua").read_text()
    nodes = json.loads(next((demo / "scene").glob("*.gltf")).read_text())["nodes"]
    rusty = [node["extras"]["key"] for node in nodes if node.get("extras", {}).get("rust") == 4]
    assert rusty == [f"lamp_{number}" for number in range(1, 9)]


def test_what_is_not_wanted_stays_out(demo: Path) -> None:
    pack = pack_of(demo, art__pump__txt="the pump")
    leave: list[dict[str, Any]] = [
        {"lines": lines, "do": "leave"} for lines in ("README.txt:3-5", "README.txt:7", "README.txt:9-13")
    ]
    ran = answered(demo, pack, *leave, {"lines": "pack", "do": "leave", "out": ["art/**"]}, pack={"license": "CC0-1.0"})
    assert ran.code == 0
    assert sheet_of(pack).get("hook", []) == []
    assert sheet_of(pack)["pack"]["license"] == "CC0-1.0"
    assert [one["path"] for one in ran.data["left"] if "decided" in one["why"]] == ["art/pump/txt"]


def test_pieces_are_marked_and_words_everywhere(demo: Path) -> None:
    pack = pack_of(demo)
    depth = [{"name": "depth", "type": "int", "default": 6, "range": [1, 9]}]
    marked = START | {"mark": [{"text": "4", "becomes": "{setting:depth}"}], "setting": depth}
    ran = answered(demo, pack, marked, LAMPS, CRANE)
    assert ran.code == 0, ran.out
    assert sheet_of(pack)["hook"][1]["text"] == "pump.start({setting:depth})"
    assert run_hookset(demo, "install", str(pack), "--set", "depth=8").code == 0
    assert "pump.start(8)" in (demo / "scripts/server/main.lua").read_text()


def test_a_piece_is_marked_in_its_own_entry_only(demo: Path) -> None:
    pack = pack_of(
        demo, NOTES.replace("crane must", "crane calls `pump.start(4, 4)` at the start of the server and must")
    )
    own = {"lines": "README.txt:7", "mark": [{"text": "4", "becomes": "{value:four}"}], "text": "pump.start(4)"}
    other = {"lines": "README.txt:13", "text": "pump.stop(4)", "seat": "server-start"}
    four = [{"name": "four", "is": "4"}]
    assert answered(demo, pack, own | {"seat": "server-start", "value": four}, LAMPS, other).code == 0
    assert [hook.get("text") for hook in sheet_of(pack)["hook"]][1:] == [
        "pump.start({value:four})",
        None,
        "pump.stop(4)",
    ]


def test_a_word_is_marked_in_all_entries_at_once(demo: Path) -> None:
    pack = pack_of(demo)
    word = {"lines": "README.txt:13", "mark": [{"text": "pump", "becomes": "{map:name|lower}"}]}
    ran = answered(demo, pack, START, LAMPS, word)
    assert ran.code == 0, ran.out
    texts = [hook.get("text") for hook in sheet_of(pack)["hook"]]
    assert texts[:2] == ['local {map:name|lower} = require("packs.{map:name|lower}")', "{map:name|lower}.start(4)"]
    assert sheet_of(pack)["pack"]["published"] == {"map": "pump"}


def test_decisions_count_for_a_later_version(demo: Path) -> None:
    pack = pack_of(demo)
    steps: list[dict[str, Any]] = [START | {"said": NOTES.splitlines()[6]}, LAMPS | {"said": NOTES.splitlines()[8]}]
    gone = CRANE | {"said": "A line that the author has taken out."}
    assert answered(demo, pack, *steps, gone).code == 1
    (demo.parent / "decided.toml").rename(demo.parent / "pump.walk.toml")
    pack_of(demo, "Pump 1.1 by Nobody in Particular\n\nNew: less rust.\n\n" + NOTES.split("\n\n", 1)[1])
    ran = run_hookset(demo, "draft", str(pack), "--over", "--json")
    fates = {line["text"]: line["fate"] for line in ran.data["lines"]}
    assert (fates[NOTES.splitlines()[6]], fates['"rust": 4']) == ("done", "done")
    assert any("README.txt:13" in one for one in ran.data["decide"])
    assert ran.data["not_understood"] == 1


def test_what_the_check_would_tell_is_told(demo: Path) -> None:
    pack = pack_of(demo)
    lost = START | {"text": 'play_sound("pump_lost")'}
    ran = answered(demo, pack, lost, LAMPS, CRANE)
    assert [(one["severity"], one["name"]) for one in ran.data["findings"]] == [("error", "pump_lost")]
    assert not ran.data["complete"]


@pytest.mark.parametrize(
    ("step", "word"),
    [
        ({"lines": "somewhere"}, "somewhere"),
        ({"lines": "README.txt:7", "do": "forget"}, "forget"),
        ({"lines": "README.txt:7", "do": "leave", "seat": "server-start"}, "leave"),
        ({"lines": "README.txt:7", "do": "instead", "text": "x"}, "instead"),
        ({"lines": "README.txt:7", "hooks": []}, "hooks"),
        ({"lines": "README.txt:7", "files": [{"from": "nothing.png"}]}, "nothing.png"),
    ],
)
def test_a_mistake_in_a_decision_is_told(step: dict[str, Any], word: str, demo: Path) -> None:
    ran = answered(demo, pack_of(demo), step)
    assert ran.code == 3
    assert any(word in line for line in ran.data["error"]["details"])
    assert not (demo.parent / "pump.hooksheet.toml").exists()


@pytest.mark.no_cover
def test_the_walk_at_a_terminal_ends_in_the_same_sheet(demo: Path) -> None:
    pack = pack_of(demo)
    answered(demo, pack, START, LAMPS, CRANE)
    wanted = sheet_of(pack)
    pack.with_name("pump.hooksheet.toml").unlink()
    written, editor = demo.parent / "edited.txt", demo.parent / "editor.py"
    editor.write_text(f"import shutil, sys\nshutil.copy({str(written)!r}, sys.argv[-1])\n")
    written.write_text("pump.start(4)\n")
    steps = run_hookset(demo, "draft", str(pack), "--walk", "--json").data["steps"]
    seats = next(step["seats"] for step in steps if step["lines"] == "README.txt:9-11")
    walk = ["draft", str(pack), "--walk"]
    edits = f"{sys.executable} {editor}"
    said = at_terminal(demo, walk, [("[y]> ", "y\n"), ("[n]> ", "b\n"), ("[y]> ", "y\n"), ("[n]> ", "q\n")])
    assert "README.txt:7" in said
    assert not pack.with_name("pump.hooksheet.toml").exists()
    # Taken up again: nothing that was decided is asked once more.
    lamps = [("[n]> ", "s\n"), ("which", f"{seats.index('on-object') + 1}\n"), ("which key", "lamp_1\n")]
    all_lamps = [("[y]> ", "a\n"), ("called", "\n"), ("[y]> ", "y\n")]
    said = at_terminal(
        demo,
        walk,
        [("[n]> ", "t\n"), ("[y]> ", "y\n"), *lamps, *all_lamps, ("[n]> ", "h\n"), ("[y]> ", "y\n")],
        EDITOR=edits,
    )
    assert "README.txt:3" not in said
    assert sheet_of(pack)["hook"] == wanted["hook"]
    assert run_hookset(demo, "install", str(pack)).code == 0


def test_what_was_changed_in_a_drafted_sheet_is_carried_over(demo: Path) -> None:
    notes = NOTES.split("Then, somewhere")[0]
    pack = pack_of(demo, notes)
    sheet = pack.with_name("pump.hooksheet.toml")
    assert run_hookset(demo, "draft", str(pack)).code == 0
    own = '[[hook]]\nseat = "server-start"\ntext = "pump.start(7)"\n'
    changed = sheet.read_text(encoding="utf-8").replace('title = "Pump"', 'title = "Our pump"')
    drafted = tomllib.loads(changed)
    # The start that was proposed is taken out, and another one is written.
    proposed = next(hook["text"] for hook in drafted["hook"] if hook["seat"] == "server-start")
    changed = changed.replace(f'[[hook]]\nseat = "server-start"\ntext = "{proposed}"\n', own)
    sheet.write_text(changed, encoding="utf-8")
    assert run_hookset(demo, "draft", str(pack)).code == 1, "remarks that somebody wrote into it would be lost"
    pack_of(demo, notes.replace("1.0", "1.1"), scripts__server__packs__valve="x")
    refused = run_hookset(demo, "install", str(pack), "--json")
    assert (refused.code, refused.told) == (1, ["draft-not-agreed"])
    again = run_hookset(demo, "draft", str(pack), "--json")
    assert again.code == 0, again.out
    now = sheet_of(pack)
    assert (now["pack"]["version"], now["pack"]["title"]) == ("1.1", "Our pump")
    assert [hook["text"] for hook in now["hook"] if hook["seat"] == "server-start"] == ["pump.start(7)"]
    assert now["drafted"]["sha256"] != drafted["drafted"]["sha256"]
    assert run_hookset(demo, "install", str(pack)).code == 0
    assert "pump.start(7)" in (demo / "scripts/server/main.lua").read_text()
