"""One pack, told in many ways: whatever the words, the draft is the same two entries, or says what it does not know."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from hookset.authoring.draft import Draft, drafted
from hookset.packs import open_pack
from tests.core.test_drafting import IMPORT, made
from tests.published import site_for

START = "ringer.start()"
BOTH = {("server-import", IMPORT), ("server-start", START)}
LOUD = (
    'local ringer = {}\nlocal LOUD = 0.5\nfunction ringer.start() on("ringer.pull", function() return LOUD end) end\n'
    "return ringer\n"
)


def entries(draft: Draft) -> set[tuple[str, Any]]:
    return {(hook.seat or hook.file, hook.text) for hook in draft.sheet.hook if hook.text}


def unsure(draft: Draft) -> set[str]:
    return {hook.text or "" for number, hook in enumerate(draft.sheet.hook) if not draft.reason("hook", number).sure}


TOLD = {
    "a list": f"""
Bell ringer 2.1 by Ada Brine

SETUP
* copy the scripts folder over
* open scripts/server/main.lua, scroll to the requires and paste:
      {IMPORT}
* then, as the last thing start() does:
      {START}
""",
    "numbered": f"""
1. Unzip into your map.
2. Server main script, imports: {IMPORT}
3. Server main script, start function: {START}
""",
    "German": f"""
Installation (deutsch)

Dateien in die Karte kopieren. In scripts/server/main.lua bei den anderen require-Zeilen ergänzen:

    {IMPORT}

Ganz unten in start() kommt dann noch

    {START}

hin. Fertig!
""",
    "French": f"""
Pour installer : copiez les fichiers dans votre carte, puis dans scripts/server/main.lua, sous le dernier require :

    {IMPORT}

et à la fin de la fonction start :

    {START}
""",
    "one sentence": f"""
Copy everything. Then server side: imports get `{IMPORT}`; start gets `{START}`.
""",
    "a table": f"""
How to:

| file | where | line |
|------|-------|------|
| scripts/server/main.lua | imports | {IMPORT} |
| scripts/server/main.lua | start() | {START} |
""",
    "a table with ticks": f"""
| where | line |
|-------|------|
| server imports | `{IMPORT}` |
| server start() | `{START}` |
""",
    "columns": f"""
scripts/server/main.lua
    imports:  {IMPORT}
    start:    {START}
""",
    "remarks in the code": f"""
### Server
```lua
-- with the other imports
{IMPORT}

-- at the end of start()
{START}
```
""",
    "below a line that is there": f"""
STEP ONE -- files. STEP TWO -- find this in scripts/server/main.lua:

local harbour = require("harbour")

and add right below it:

{IMPORT}

STEP THREE -- find the line with `harbour.start()` and add `{START}` after it.
""",
    "in both steps by another name": f"""
Changes since 2.0: ringer.begin() is now {START}.

Server imports: `{IMPORT}`, and in start `{START}` (was: `ringer.begin()`).
""",
    "a warning": f"""
Server: require it (`{IMPORT}`), then start it (`{START}`).
""",
    "corrected": f"""
Below `tide.begin(6` no, sorry, I mean in start(): `{START}`. And `{IMPORT}` with the imports, server side of course.
""",
}


@pytest.mark.parametrize("notes", TOLD.values(), ids=TOLD)
def test_the_same_two_entries_however_they_are_told(notes: str, tmp_path: Path) -> None:
    draft = made(tmp_path, notes)
    assert entries(draft) == BOTH
    assert not unsure(draft)
    assert not draft.not_understood


@pytest.mark.parametrize(
    ("notes", "left"),
    [
        pytest.param(
            f"(optional) if you have the lift-bridge, also add ringer.bridge() in start of the server.\n\n"
            f"needed: {IMPORT} at the server imports, {START} in start\n",
            f"needed: {IMPORT} at the server imports, {START} in start",
            id="a second call within the sentence",
        ),
        pytest.param(
            f"For testing only: ringer.debug() in start. Remove before you publish!\n\n"
            f"Server: `{IMPORT}` (imports), `{START}` (start)\n",
            "For testing only: ringer.debug() in start. Remove before you publish!",
            id="for testing only",
        ),
        pytest.param(
            f"Server: require it (`{IMPORT}`), then start it (`{START}`).\n"
            "Do NOT put it into the client's script, it will crash.\n",
            "Do NOT put it into the client's script, it will crash.",
            id="what is not to be done",
        ),
    ],
)
def test_what_is_not_understood_is_told(notes: str, left: str, tmp_path: Path) -> None:
    draft = made(tmp_path, notes)
    assert left in [line.text for line in draft.not_understood]
    assert not draft.complete


@pytest.mark.parametrize(
    ("said", "version"),
    [
        ("Requires the lift-bridge pack, version 1.2 or newer.", ">=1.2"),
        ("Needs lift-bridge 1.2.", ">=1.2"),
        ("Needs lift-bridge v1.2.1, nothing else.", ">=1.2.1"),
        ("Needs lift-bridge (at least 1.2).", ">=1.2"),
        ("Braucht lift-bridge 1.2 oder neuer.", ">=1.2"),
        ("Nécessite lift-bridge 1.2.", ">=1.2"),
        ("Needs lift-bridge and 2 ropes.", ""),
        ("Needs lift-bridge.", ""),
    ],
)
def test_the_version_of_a_pack_that_is_needed(said: str, version: str, tmp_path: Path) -> None:
    draft = made(tmp_path, f"{said}\n\nServer imports: `{IMPORT}`, start: `{START}`\n")
    assert [(one.kind, one.name, one.version) for one in draft.sheet.needs] == [("pack", "lift-bridge", version)]
    assert entries(draft) == BOTH


@pytest.mark.parametrize(
    "said",
    [
        "Will not work together with fog-bell.",
        "Cannot be used together with fog-bell!",
        "Does not work with fog-bell.",
        "Nicht zusammen mit der Nebelglocke (fog-bell) benutzen!",
        "ne fonctionne pas avec fog-bell.",
    ],
)
def test_a_pack_that_it_does_not_go_with(said: str, tmp_path: Path) -> None:
    draft = made(tmp_path, f"{said}\n\nServer imports: `{IMPORT}`, start: `{START}`\n")
    assert [(one.kind, one.name) for one in draft.sheet.excludes] == [("pack", "fog-bell")]
    assert entries(draft) == BOTH


@pytest.mark.parametrize(
    "said", ["needed", "Required", "Always", "For everybody, always", "In any case", "Auf jeden Fall", "Toujours"]
)
def test_a_condition_ends_where_it_goes_on_for_all(said: str, tmp_path: Path) -> None:
    draft = made(
        tmp_path,
        f"If you have the lift-bridge, `ringer.bridge()` in the server's start function.\n\n"
        f"{said}: `{IMPORT}` at the server imports. `{START}` in start.\n",
    )
    bound = {hook.text: hook.when.pack if hook.when else "" for hook in draft.sheet.hook}
    assert bound == {"ringer.bridge()": "lift-bridge", IMPORT: "", START: ""}


@pytest.mark.parametrize(
    "said",
    [
        "For a louder bell change LOUD in scripts/server/packs/ringer.lua from 0.5 to up to 1.0.",
        "How loud it is, you can set: LOUD in scripts/server/packs/ringer.lua (0.1 to 1.0).",
        "Wie laut sie ist, steht in ringer.lua ganz oben (LOUD = 0.5, erlaubt 0.1 bis 1.0).",
    ],
)
def test_a_value_that_can_be_changed(said: str, tmp_path: Path) -> None:
    notes = f"{said}\n\nImports server: `{IMPORT}`. `{START}` belongs into start().\n"
    draft = made(tmp_path, notes, {"scripts/server/packs/ringer.lua": LOUD})
    assert entries(draft) == BOTH
    ((setting, write),) = [(one, write) for one in draft.sheet.setting for write in one.write]
    assert (setting.default, write.file, write.assign) == (0.5, "scripts/server/packs/ringer.lua", "LOUD")
    assert not draft.not_understood


def drafted_for(layout: str, folder: Path, notes: str, files: dict[str, str]) -> Draft:
    pack = folder / "thing_v1.0"
    for path, text in {**files, "readme.txt": notes}.items():
        (pack / path).parent.mkdir(parents=True, exist_ok=True)
        (pack / path).write_text(text, encoding="utf-8")
    return drafted(site_for(layout), open_pack(pack))


HORN = {"server/horn.mjs": "export function soundHorn() {}\n", "media/horn.wav": "RIFF"}
HERON = {"shapes/heron.gltf": '{"asset": {"version": "2.0"}}'}
BUOY = {"assets/buoy.gltf": '{"asset": {"version": "2.0"}}'}
BLANK = {"code/x.lua": "-- x\n"}


@pytest.mark.parametrize(
    ("layout", "files", "notes", "seats"),
    [
        pytest.param(
            "paired-modules",
            HORN,
            'At the top of server/begin.mjs:\n\n    import { soundHorn } from "./horn.mjs";\n\n'
            "and as the last line in begin():\n\n    soundHorn();\n\n"
            "New section in assets/sounds.ini:\n\n    [horn]\n    file = horn.wav\n    reach = 80\n",
            ["server-import", "server-begin", "sounds"],
            id="modules: three blocks",
        ),
        pytest.param(
            "paired-modules",
            HORN,
            'begin.mjs (server): `import { soundHorn } from "./horn.mjs";` and in begin `soundHorn();`\n',
            ["server-import", "server-begin"],
            id="modules: one sentence",
        ),
        pytest.param(
            "type-table",
            HERON,
            "Put this row at the end of tables/places.csv:\n\nheron;3;0;5;90;shore\n\n"
            'and the type itself into types.json:\n\n{ "type": "heron", "shape": "heron", "rank": "wild" }\n',
            ["places", "types"],
            id="tables: two blocks",
        ),
        pytest.param(
            "type-table",
            HERON,
            "tables/places.csv gets   heron;3;0;5;90;shore\n"
            'tables/types.json gets   { "type": "heron", "shape": "heron", "rank": "wild" }\n',
            ["places", "types"],
            id="tables: what each file gets",
        ),
        pytest.param(
            "type-table",
            HERON,
            "tables/places.csv bekommt heron;3;0;5;90;shore\n"
            'tables/types.json bekommt { "type": "heron", "shape": "heron", "rank": "wild" }\n',
            ["places", "types"],
            id="tables: what each file gets, in German",
        ),
        pytest.param(
            "scene-graph",
            BLANK,
            'Texts: basin.buoy = "A buoy" (en), "Eine Boje" (de)\n'
            'Thing: <Thing key="buoy" at="1 0 2"><text key="label" is="basin.buoy"/></Thing> at the end of the things.\n',
            ["nodes", "texts"],
            id="scene: an element with another in it",
        ),
        pytest.param(
            "numbered-marks",
            {"code/gust.lua": 'on("gust", function() end)\n'},
            "In course.ini, [scripts]:\n\ngust = courses/brackwater_regatta/code/gust.lua\n\n"
            "(replace brackwater_regatta by your own folder)\n",
            ["scripts"],
            id="options: a folder of one's own",
        ),
        pytest.param(
            "numbered-marks",
            BLANK,
            'Zwei neue Bojen in die Szene:\n\n<Buoy name="red_5" slot="7" at="130 2"/>\n'
            '<Buoy name="blue_5" slot="8" at="131 6"/>\n\n(Nummern: die nächsten freien)\n',
            ["buoys", "buoys"],
            id="scene: the next free numbers",
        ),
        pytest.param(
            "scene-graph",
            BUOY,
            "In scene/basin.xml, before the water surface, add\n\n"
            '<Thing key="buoy" form="9" at="1 0 2"/>\n\n'
            'Register the model in the Sources: <Source no="9" from="assets/buoy.gltf"/> (take the next free number)\n',
            ["water"],
            id="scene: a row that the entry gets by itself",
        ),
        pytest.param(
            "numbered-marks",
            {"code/gust.lua": 'on("gust", function() end)\n'},
            "course.ini\n[scripts]\ngust = courses/YOURFOLDER/code/gust.lua\n[options]\ngusts = 3\n",
            ["options", "scripts"],
            id="options: sections that are there, with what goes below them",
        ),
        pytest.param(
            "mirrored-folders",
            {"noises/heron.wav": "RIFF"},
            "noises.yaml:\n\nheron_cry:\n  file: heron.wav\n",
            ["noises"],
            id="YAML: a key with what is in it",
        ),
    ],
)
def test_in_other_layouts(layout: str, files: dict[str, str], notes: str, seats: list[str], tmp_path: Path) -> None:
    draft = drafted_for(layout, tmp_path, notes, files)
    said = [
        hook
        for number, hook in enumerate(draft.sheet.hook)
        if any("readme" in path for path, _ in draft.reason("hook", number).why.lines)
    ]
    assert sorted(hook.seat for hook in said) == sorted(seats)
    assert not draft.not_understood and not draft.missing


def test_what_comes_behind_an_arrow_is_the_text(tmp_path: Path) -> None:
    lever = "- {id: horn_lever, shape: bell_post, at: [1, 1, 2], label: quay.horn, on_server: horn.blow}"
    notes = f'Text for the lever: quay.horn -> "Blow the horn" / "Ins Horn stoßen"\n\nobjects.yaml:\n\n{lever}\n'
    files = {"server/horn.mjs": 'import { handle } from "canal";\nhandle("horn.blow", () => {});\n'}
    draft = drafted_for("paired-modules", tmp_path, notes, files)
    (texts,) = [hook.each for hook in draft.sheet.hook if hook.seat == "texts"]
    assert texts == {"en": {"quay.horn": "Blow the horn"}, "de": {"quay.horn": "Ins Horn stoßen"}}


def test_a_number_and_a_file_in_front_are_no_part_of_a_row(tmp_path: Path) -> None:
    notes = "1) copy the shape\n2) places.csv: gull;3;0;5;90;shore\n"
    draft = drafted_for("type-table", tmp_path, notes, {})
    (row,) = [hook.record for hook in draft.sheet.hook if hook.seat == "places"]
    assert row is not None and row["type"] == "gull"
