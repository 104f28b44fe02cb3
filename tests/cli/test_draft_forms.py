"""What drafts make of notes in forms that are no text to be copied: arrows, patches, what is for another map."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests.conftest import run_hookset

PATCH = """--- a/scripts/server/main.lua
+++ b/scripts/server/main.lua
@@ -3,6 +3,7 @@
 local harbour = require("harbour")
 local tide = require("tide")
+local weir = require("weir")

 function start()
"""


def drafted(root: Path, notes: str, **files: str) -> Any:
    pack = root.parent / "weir"
    pack.mkdir()
    (pack / "README.txt").write_text(notes, encoding="utf-8")
    for name, text in files.items():
        path = pack / name.replace("__", "/")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.with_suffix(".patch" if text.startswith("---") else ".lua").write_text(text, encoding="utf-8")
    return run_hookset(root, "draft", str(pack), "--show", "--json").data


def targets(data: Any) -> set[tuple[str, str]]:
    return {(row["entry"]["from"], row["entry"]["to"]) for row in data["files"]}


def test_a_sentence_may_give_the_path_of_a_file(demo: Path) -> None:
    data = drafted(demo, "Copy low.lua to scripts/server/low.lua.\n", low="return {}\n")
    assert targets(data) <= {("low.lua", "scripts/server"), ("low.lua", "scripts/server/low.lua")}
    assert targets(data)


def test_an_arrow_may_give_a_file_another_name(demo: Path) -> None:
    data = drafted(demo, "low.lua -> scripts/server/weir_low.lua\n", low="return {}\n")
    assert targets(data) == {("low.lua", "scripts/server/weir_low.lua")}


@pytest.mark.parametrize(
    "row", ["| low.lua | scripts/client/ | copy |", "low.lua is for the client, so scripts/client"]
)
def test_a_row_or_a_sentence_gives_a_folder(demo: Path, row: str) -> None:
    assert targets(drafted(demo, f"{row}\n", low="return {}\n")) == {("low.lua", "scripts/client")}


def test_a_patch_for_another_map_sets_nothing(demo: Path) -> None:
    basin = demo.parent / "maps/basin"
    assert run_hookset(basin, "start").code == 0
    # The basin has a line that the patch shows, in a file of another name.
    patch = PATCH.replace(' local harbour = require("harbour")', ' include("clock")').replace(
        ' local tide = require("tide")\n', ""
    )
    data = drafted(basin, "See weir.patch; the sounds are in sounds/aliases.toml.\n", weir=patch)
    assert data["hook"] == []
    assert not data["complete"]
    assert [one for one in data["decide"] if "split-lua" in one]


def test_a_patch_for_this_map_is_set(demo: Path) -> None:
    data = drafted(demo, "See weir.patch.\n", weir=PATCH, scripts__server__weir="return {}\n")
    assert [row["entry"]["seat"] for row in data["hook"]] == ["server-import"]
    assert not [one for one in data["decide"] if "split-lua" in one]


@pytest.mark.parametrize(
    ("said", "pack"),
    [
        ("Only if you have the pack \u201clanterns\u201d, add to sounds/aliases.toml:", "lanterns"),
        ("If you have the lanterns, add to sounds/aliases.toml:", ""),
        ('Copy what is in "with lanterns" into your map, then add to sounds/aliases.toml:', ""),
    ],
)
def test_what_is_called_a_pack_is_one(demo: Path, said: str, pack: str) -> None:
    row = '[[sound]]\nalias = "weir_low"\nfile = "harbour/gull_1.wav"\nreach = 3.0\n'
    data = drafted(demo, f"{said}\n\n{row}")
    (hook,) = (one["entry"] for one in data["hook"] if one["entry"]["seat"] == "sound-table")
    assert (hook.get("when") or {}).get("pack", "") == pack


COURSE = """Among the buoys of scene/course.xml: {buoy}

and a start, after the last one:

    <Start crew="red" at="8 0">

In course.ini under [scripts]:

    weir = courses/brackwater_regatta/code/weir.lua,
"""


@pytest.mark.parametrize(
    "buoy",
    [
        pytest.param(
            "\n\n    &lt;Buoy name=&quot;weir_1&quot; slot=&quot;50&quot; at=&quot;1 2&quot;/&gt;", id="entities"
        ),
        pytest.param("\n\n    <Buoy name=\u201cweir_1\u201d slot=\u201c50\u201d at=\u201c1 2\u201d/>", id="quotes"),
    ],
)
def test_what_was_damaged_on_its_way_is_repaired_and_told(demo: Path, buoy: str) -> None:
    course = demo.parent / "maps/course"
    assert run_hookset(course, "start").code == 0
    data = drafted(course, COURSE.format(buoy=buoy), code__weir='on("x", function() end)\n')
    found = {one["entry"]["seat"]: one for one in data["hook"]}
    assert found["buoys"]["entry"]["text"] == '<Buoy name="weir_1" slot="{next:slot}" at="1 2"/>'
    assert found["starts"]["entry"]["text"] == '<Start crew="red" at="8 0"/>'
    assert found["scripts"]["entry"]["record"] == {"weir": "courses/{map:folder}/code/weir.lua"}
    # Behind the place in the notes it is told what was repaired.
    assert all("," in one["why"] for one in found.values())


LISTING = """In scene/basin.xml:

```diff
     <Source no="8" from="code/clock.lua"/>
+    <Source no="40" from="assets/weir.gltf"/>
   </Sources>
```

and

```diff
       <Thing key="gate_wheel" form="2" at="6 1 -2">
         <call key="onUse" is="Basin.turn"/>
+        <Thing key="weir" form="40"/>
         <link key="opens" is="tide_gate"/>
```
"""


def test_the_authors_numbers_are_looked_up_between_lines_as_well(demo: Path) -> None:
    basin = demo.parent / "maps/basin"
    assert run_hookset(basin, "start").code == 0
    pack = basin.parent / "weir"
    (pack / "assets").mkdir(parents=True)
    (pack / "README.md").write_text(LISTING, encoding="utf-8")
    (pack / "assets/weir.gltf").write_text('{"asset": {"version": "2.0"}}\n', encoding="utf-8")
    data = run_hookset(basin, "draft", str(pack), "--show", "--json").data
    texts = [one["entry"]["text"] for one in data["hook"]]
    assert [text.strip() for text in texts] == ['<Thing key="weir" form="{listed:file-id:assets/weir.gltf}"/>']
    assert run_hookset(basin, "install", str(pack), "--as-drafted").code == 0
    scene = (basin / "scene/basin.xml").read_text(encoding="utf-8")
    assert '<Source no="9" from="assets/weir.gltf"/>' in scene
    assert '<Thing key="weir" form="9"/>' in scene
