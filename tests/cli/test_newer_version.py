"""A newer version of a pack that came without a hook sheet, in a map in which the one before is installed."""

from __future__ import annotations

import tomllib
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Ran, snapshot
from tests.packs import made_pack

Run = Callable[..., Ran]

GAUGE = 'local scale = require("packs.tide_scale")\n'
GAUGE += "local gauge = { marks = 4 }\n\nfunction gauge.start()\n  print(gauge.marks, scale)\nend\n\nreturn gauge\n"
IMPORT = 'local tide_gauge = require("packs.tide_gauge")'
START = "tide_gauge.start()"
NOTES = f"TIDE GAUGE 1.0\n\nImports of scripts/server/main.lua:\n\n    {IMPORT}\n\nand where the others are started:\n\n    {START}\n"
NEWS = "TIDE GAUGE 2.0\n\nNew: a scale.\n"
FILES = {"scripts/server/packs/tide_gauge.lua": GAUGE, "scripts/server/packs/tide_scale.lua": "return { 1, 2 }\n"}


def zipped(folder: Path, name: str, notes: str, files: Mapping[str, str]) -> str:
    with zipfile.ZipFile(folder / name, "w") as archive:
        for path, text in {**files, "readme.txt": notes}.items():
            archive.writestr(path, text)
    return f"../{name}"


@pytest.fixture
def installed(demo: Path, hookset: Run) -> Path:
    pack = zipped(demo.parent, "tide_gauge_1.zip", NOTES, FILES)
    ran = hookset("install", pack, "--as-drafted", "--anyway")
    assert ran.code == 0, ran.out + ran.err
    return demo


def sheet_of(hookset: Run, pack: str) -> dict[str, Any]:
    ran = hookset("draft", pack, "--show")
    assert ran.code in (0, 1), ran.err
    return tomllib.loads(ran.out)


def test_what_the_one_before_has_set_is_proposed_again(installed: Path, hookset: Run) -> None:
    news = zipped(
        installed.parent, "tide_gauge_2.zip", NEWS, {**FILES, "scripts/server/packs/tide_scale.lua": "return {}\n"}
    )
    before = snapshot(installed)
    sheet = sheet_of(hookset, news)
    (earlier,) = (one["name"] for one in hookset("list", "--json").data["packs"])
    assert sheet["pack"]["name"] == earlier
    assert {(hook["seat"], hook["text"].strip()) for hook in sheet["hook"]} >= {
        ("server-import", IMPORT),
        ("server-start", START),
    }
    data = hookset("draft", news, "--show", "--json").data
    assert data["unsure"] == 2
    assert snapshot(installed) == before
    assert hookset("upgrade", news, "--as-drafted").code == 0
    main = (installed / "scripts/server/main.lua").read_text()
    assert IMPORT in main and START in main
    assert (installed / "scripts/server/packs/tide_scale.lua").read_text() == "return {}\n"


def test_what_the_notes_show_again_is_sure(installed: Path, hookset: Run) -> None:
    pack = zipped(installed.parent, "tide_gauge_2.zip", NOTES.replace("1.0", "2.0"), FILES)
    assert hookset("draft", pack, "--show", "--json").data["unsure"] == 0


@pytest.mark.no_cover
def test_what_is_about_a_file_that_is_gone_is_not(installed: Path, hookset: Run) -> None:
    files = {path: text for path, text in FILES.items() if "gauge" not in path}
    files["scripts/server/packs/tide_table.lua"] = "return {}\n"
    news = zipped(installed.parent, "tide_gauge_2.zip", NEWS, files)
    # Half of its files are others: it is no version of what is there.
    assert sheet_of(hookset, news)["pack"]["name"] == "tide-gauge-2"
    assert "hook" not in sheet_of(hookset, news) or IMPORT not in str(sheet_of(hookset, news)["hook"])


def test_a_value_changed_by_hand_and_a_line_that_is_new_beside_it_are_both_there(installed: Path, hookset: Run) -> None:
    script = installed / "scripts/server/packs/tide_gauge.lua"
    script.write_text(GAUGE.replace("marks = 4", "marks = 6"))
    newer = GAUGE.replace("marks = 4 }\n", "marks = 4 }\nlocal steps = 2\n")
    news = zipped(installed.parent, "tide_gauge_2.zip", NOTES, {**FILES, "scripts/server/packs/tide_gauge.lua": newer})
    assert hookset("upgrade", news, "--as-drafted").code == 0
    assert script.read_text() == newer.replace("marks = 4", "marks = 6")


def test_what_takes_the_place_of_an_entry_stands_where_that_stood(demo: Path, hookset: Run) -> None:
    first, second = (f'[[hook]]\nseat = "server-start"\ntext = "log({word})"\n' for word in ("'ebb tide'", "'flood'"))
    made_pack(demo.parent, "tides", first + second)
    made_pack(demo.parent, "tides", first.replace("ebb tide", "ebb tide, again") + second, version="2.0")
    assert hookset("install", "../tides-1.0.zip").code == 0
    main = demo / "scripts/server/main.lua"
    # A line between the two: the file cannot be wound back, and each entry is found by itself.
    main.write_text(main.read_text().replace("log('ebb tide')\n", "log('ebb tide')\n  local own = 1\n"))
    assert hookset("upgrade", "../tides-2.0.zip").code == 0
    said = [line.strip() for line in main.read_text().splitlines()]
    at = said.index("log('ebb tide, again')")
    assert said[at : at + 3] == ["log('ebb tide, again')", "local own = 1", "log('flood')"]
    assert hookset("status").code == 0


def test_what_the_builder_has_placed_is_proposed_again_as_well(demo: Path, hookset: Run) -> None:
    thing = 'name = "gauge", translation = [1.0, 1.0, -10.0], extras = { key = "gauge", class = "lamp" }'
    sheet = f'[[files]]\nfrom = "scripts/**"\n[[place]]\nname = "gauge"\n[[hook]]\nseat = "scene-objects"\nplace = "gauge"\nrecord = {{ {thing} }}\n'
    made_pack(demo.parent, "gauge", sheet, FILES)
    assert hookset("install", "../gauge-1.0.zip", "--at", "gauge=10,1,-12", "--anyway").code == 0
    news = zipped(demo.parent, "gauge_2.zip", NEWS, FILES)
    assert "scene-objects" in {hook["seat"] for hook in sheet_of(hookset, news)["hook"]}
    assert hookset("upgrade", news, "--as-drafted", "--anyway").code == 0
    (there,) = hookset("where", "gauge", "--json").data["things"]
    assert there["at"] == [10, 1, -12]
