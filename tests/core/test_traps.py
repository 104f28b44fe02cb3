"""What looks like a fault and is none. On each clean map, none of these brings a finding."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.project import MapProject, open_project
from tests.shipped import judged, replaced, started

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover


def added(path: str, text: str, encoding: str = "utf-8") -> Callable[[Path], object]:
    def make(root: Path) -> None:
        file = root / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes((file.read_bytes() if file.exists() else b"") + text.encode(encoding))

    return make


def begun(path: str, text: str) -> Callable[[Path], object]:
    """Above everything else in the file."""
    return lambda root: (root / path).write_text(text.lstrip("\n") + (root / path).read_text())


SERVER = "scripts/server/harbour.lua"
DEMO = [
    ("name in a comment", begun(SERVER, '\n-- play_sound("gone")\n--[[ require("gone")\nplay_sound("gone") ]]\n')),
    ("name in a text", begun(SERVER, '\nlocal help = \'say play_sound("gone") to hear it\'\nlog([[require("gone")]])\n')),
    ("call of another's function", begun(SERVER, '\nlocal band = { play_sound = function() end }\nband.play_sound("gone")\n')),
    ("call that is a method", begun(SERVER, '\nlocal band = { require = function() end }\nband:require("gone")\n')),
    ("name built at run time", begun(SERVER, '\nlocal n = math.random(3)\nplay_sound("gull_" .. n)\n')),
    ("name in a constant", begun(SERVER, '\nlocal BELL = "quay_bell"\nplay_sound(BELL)\n')),
    ("name by a choice", begun(SERVER, '\nplay_sound(flood and "quay_bell" or "water_lap")\n')),
    ("name of the stock only", begun(SERVER, '\nplay_sound("fog_bell_toll")\nrequire("clock")\n')),
    ("the same word as another kind", added("texts/en.toml", '\nquay_bell = "Bell"\n')),
    ("the same word as another kind, in German", added("texts/de.toml", '\nquay_bell = "Glocke"\n')),
    ("file called like a script's name elsewhere", added("notes/main.txt", "no script")),
    ("table row that is commented out", added("sounds/aliases.toml", '\n# [[sound]]\n# alias = "x"\n# file = "gone.wav"\n')),
    ("manifest row that is commented out", added("manifest.txt", "# textures/gone.png\n\n")),
    ("script that nobody loads, and that asks for nothing", added("notes/old.lua", 'require("gone")\n')),
    ("another spelling of a string", begun(SERVER, "\nplay_sound 'quay_bell'\nplay_sound(\"quay\\95bell\")\n")),
    ("byte order mark and Windows lines", lambda root: (root / SERVER).write_bytes(b"\xef\xbb\xbf" + (root / SERVER).read_bytes().replace(b"\n", b"\r\n"))),
]  # fmt: skip
PAIRS = {"the same word as another kind": DEMO[9][1]}


@pytest.mark.parametrize(("title", "make"), [pytest.param(*one, id=one[0].replace(" ", "-")) for one in DEMO])
def test_traps_in_the_demo_map(title: str, make: Callable[[Path], object], packed: MapProject) -> None:
    make(packed.root)
    if title in PAIRS:
        PAIRS[title](packed.root)
    elif title.endswith("in German"):
        DEMO[8][1](packed.root)
    project = open_project(packed.root)
    assert judge(project.tree, project.layout, project.stock).findings == ()


OTHERS = [
    ("paired-modules", added("server/quay.mjs", '\n// play(SOUNDS.gone)\n/* import "./gone.mjs" */\nconst s = `handle("quay.ring")`;\n')),
    ("paired-modules", added("words/de.po", '\n#~ msgid "old"\n#~ msgstr "alt"\n')),
    ("scene-graph", replaced("scene/basin.xml", "<Things>", '<Things><!-- <Thing key="tide_gate" form="99"/> -->')),
    ("scene-graph", added("code/clock.lua", "\nlocal function turn() end\nlocal function helper() end\n")),
    ("scene-graph", added("code/basin.lua", "\nlocal function helper() end\n-- node('gone')\n")),
    ("type-table", replaced("tables/places.csv", "gull;4", "GULL;4")),
    ("type-table", added("tables/places.csv", "# seagull;1;2;3;0;nowhere\r\n", "cp1252")),
    ("mirrored-folders", replaced("quay/posts/oak_post.yaml", "weight: 80", "weight: 80 # thing: gone\n# sort: psot")),
    ("mirrored-folders", added("code/walk.lua", '\n--[==[ deed("wind_rope") sign("gone.png") ]==]\n')),
    ("numbered-marks", replaced("crews/red.csv", "Starboard", "STARBOARD")),
    ("numbered-marks", replaced("course.ini", "laps = 3", "laps = 3 ; was courses/old_quay")),
]  # fmt: skip


@pytest.mark.parametrize(("layout", "make"), OTHERS, ids=[f"{one[0]}-{number}" for number, one in enumerate(OTHERS)])
def test_traps_in_the_other_maps(layout: str, make: Callable[[Path], object], tmp_path: Path) -> None:
    root = started(layout, tmp_path)
    make(root)
    assert judged(root).findings == ()


def test_the_same_helper_in_two_scripts_is_no_name_twice(tmp_path: Path) -> None:
    root = started("scene-graph", tmp_path)
    for script in ("code/clock.lua", "code/basin.lua"):
        added(script, "\nlocal function settle(x) return x end\n")(root)
    assert judged(root).findings == ()
    for script in ("code/clock.lua", "code/basin.lua"):
        added(script, "\nfunction unsettle(x) return x end\n")(root)
    assert [finding.code for finding in judged(root).findings] == ["defined-twice"]
