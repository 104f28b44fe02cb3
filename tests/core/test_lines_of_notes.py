"""What becomes of each line of a pack's notes."""

from __future__ import annotations

import zipfile
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Ran, run_hookset
from tests.published import draft_of, names

SCRIPT = "local pump = {}\nlocal SPEED = 3 -- metres\nfunction pump.start() end\nreturn pump\n"
NOTES = """Pump 1.0
by Nobody in Particular

{first}

Copy the folders into your map. Open scripts/server/main.lua and add below the other imports:

    local pump = require("packs.pump")

{last}
"""


def drafted(demo: Path, first: str = "", last: str = "", **files: str) -> Any:
    pack = demo.parent / "pump.zip"
    with zipfile.ZipFile(pack, "w") as archive:
        archive.writestr("README.txt", NOTES.format(first=first, last=last))
        archive.writestr("scripts/server/packs/pump.lua", SCRIPT)
        for path, text in files.items():
            archive.writestr(path.replace("__", "/"), text)
    ran = run_hookset(demo, "draft", str(pack), "--show", "--json")
    return ran.data | {"exit": ran.code}


def fates(data: Any) -> dict[str, str]:
    return {line["text"]: line["fate"] for line in data["lines"]}


def test_what_is_understood_is_done(demo: Path) -> None:
    data = drafted(demo, "It pumps.")
    told = fates(data)
    assert told['local pump = require("packs.pump")'] == "done"
    assert (
        told["Copy the folders into your map. Open scripts/server/main.lua and add below the other imports:"] == "done"
    )
    assert told["It pumps."] == "background"
    assert (data["not_understood"], data["exit"]) == (0, 0)


@pytest.mark.no_cover
@pytest.mark.parametrize(
    "line",
    [
        "Then replace the word still by pumping in the captions.",
        "Only if you have the wind wheel: open scripts/server/wheel.lua and put wheel.stop() at its end",
        "Die Zeile mit dem Tor in der Szene bitte löschen.",
        "Il faut supprimer la porte de la scène.",
        "Never put it on the same berth as the crane.",
        '<pump depth="4"/>',
        "the valve wants a pump beside it",
    ],
)
def test_what_is_not_is_told_with_its_line(line: str, demo: Path) -> None:
    data = drafted(demo, last=line)
    assert fates(data)[line] == "not understood"
    assert (data["not_understood"], data["exit"], data["complete"]) == (1, 1, False)
    number = next(one["line"] for one in data["lines"] if one["text"] == line)
    assert f"README.txt:{number}: {line}" in data["sheet"]


@pytest.mark.parametrize(
    ("line", "fate"),
    [
        pytest.param("You can change SPEED at the top of the script.", "a choice", id="setting"),
        pytest.param("The folder sources stays where it is, do not copy it.", "done", id="left out"),
        pytest.param("scripts/server/packs/pump.lua", "done", id="row of the manifest"),
        pytest.param("I have built it for the mill, and everybody liked it.", "background", id="tale"),
    ],
)
def test_what_needs_no_entry_of_its_own(line: str, fate: str, demo: Path) -> None:
    data = drafted(demo, last=line, sources__pump_blend="x", sources__pump__obj="o")
    assert fates(data)[line] == fate


def test_a_draft_that_is_not_complete_is_not_installed_unasked(demo: Path) -> None:
    drafted(demo, last="Then delete the old pump from the scene.")
    before = (demo / "scripts/server/main.lua").read_bytes()

    def install(*options: str) -> Ran:
        return run_hookset(demo, "install", "../pump.zip", "--as-drafted", "--anyway", *options)

    refused = install()
    assert (refused.code, "--incomplete" in refused.err, "delete the old pump" in refused.err) == (1, True, True)
    assert (demo / "scripts/server/main.lua").read_bytes() == before
    assert install("--incomplete").code == 0
    assert b"packs.pump" in (demo / "scripts/server/main.lua").read_bytes()


@pytest.mark.parametrize("name", names())
def test_every_line_that_says_something_has_a_fate(name: str) -> None:
    draft = draft_of(name)
    assert bool(draft.lines) == bool(draft.notes)
    # These packs are drafted right: hardly anything of their notes is not understood.
    assert len(draft.not_understood) <= 4


@pytest.mark.parametrize(
    "line",
    [
        "| `fee` | in the booth | coins | 1 – 9 | 2 |",
        "The valve is optional, with it there is a second row.",
        "Where it stands is mine.",
        "6,pass,pump_6,port",
    ],
)
def test_what_could_be_set_or_is_the_authors_is_not_passed_over(line: str, demo: Path) -> None:
    assert fates(drafted(demo, last=line))[line] == "not understood"


def test_rows_of_another_game_are_no_paths_of_the_manifest(demo: Path) -> None:
    data = run_hookset(demo, "draft", "../published/Heronry 1.0.zip", "--show", "--json").data
    told = fates(data)
    assert (data["hook"], data["complete"]) == ([], False)
    assert {told[line] for line in told if line.startswith(("{", "heron;"))} == {"not understood"}
