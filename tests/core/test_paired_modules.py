"""The shipped layout of ECMAScript modules, INI asset lists, YAML objects and PO catalogues, on its own small map."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
import yaml

from hookset.checks import judge
from hookset.project import open_project
from tests.conftest import run_hookset, snapshot
from tests.core.test_install import write_pack
from tests.shipped import assert_told, replaced, started


@pytest.fixture
def canal(tmp_path: Path) -> Path:
    return started("paired-modules", tmp_path)


def test_the_map_is_recognised_and_clean(canal: Path) -> None:
    project = open_project(canal)
    assert (project.layout.name, project.file.map.name, project.file.map.version) == (
        "paired-modules",
        "brackwater-canal",
        "2",
    )
    verdict = judge(project.tree, project.layout, project.stock)
    assert verdict.findings == ()
    assert [path for path in verdict.counts.unread if not path.endswith(".bin")] == []
    assert (verdict.counts.in_stock, verdict.counts.not_checkable) == (1, 0)


FAULTS = [
    ("constant misspelt", "missing-name", "server/quay.mjs", 5, replaced("server/quay.mjs", "SOUNDS.bell", "SOUNDS.bel")),
    ("constant dropped", "missing-name", "client/begin.mjs", 6, replaced("common/names.mjs", '  opened: "canal.opened",\n', "")),
    ("sound misspelt in a constant", "missing-name", "common/names.mjs", 3, replaced("common/names.mjs", '"quay_bell"', '"quay_bel"')),
    ("sound in another letter case", "wrong-case", "common/names.mjs", 4, replaced("common/names.mjs", '"gate_open"', '"Gate_open"')),
    ("sound of the game's own name", "defined-in-stock", "assets/sounds.ini", 2, replaced("assets/sounds.ini", "[quay_bell]", "[door_creak]")),
    ("sound file misspelt", "missing-file", "assets/sounds.ini", 3, replaced("assets/sounds.ini", "quay_bell.wav", "quay_bel.wav")),
    ("sound without its reach", "bad-record", "assets/sounds.ini", 0, replaced("assets/sounds.ini", "reach = 25\n", "")),
    ("section twice", "defined-twice", "assets/shapes.ini", 5, replaced("assets/shapes.ini", "[lock_gate]", "[bell_post]")),
    ("module misspelt", "missing-file", "server/begin.mjs", 2, replaced("server/begin.mjs", "./quay.mjs", "./quai.mjs")),
    ("import taken out", "not-loaded", "objects.yaml", 7, replaced("server/begin.mjs", 'import { openQuay } from "./quay.mjs";\n', "")),
    ("handler misspelt", "missing-name", "objects.yaml", 7, replaced("objects.yaml", "quay.ring", "quay.rang")),
    ("handler on the wrong side", "wrong-side", "objects.yaml", 16, replaced("objects.yaml", "on_client: quay.look", "on_client: quay.ring")),
    ("shape misspelt", "missing-name", "objects.yaml", 9, replaced("objects.yaml", "shape: lock_gate", "shape: lock_gat")),
    ("object twice", "defined-twice", "objects.yaml", 11, replaced("objects.yaml", "id: lock_wheel", "id: lock_gate")),
    ("link misspelt", "missing-name", "objects.yaml", 17, replaced("objects.yaml", "opens: [lock_gate]", "opens: [lock_gates]")),
    ("object misspelt that a sound plays at", "missing-name", "server/quay.mjs", 5, replaced("server/quay.mjs", '"bell_post"', '"bell_pots"')),
    ("object misspelt in a script", "missing-name", "server/quay.mjs", 10, replaced("server/quay.mjs", 'find("lock_gate")', 'find("lockgate")')),
    ("text lacking in one language", "missing-in-language", "words/de.po", 0, replaced("words/de.po", 'msgid "quay.rung"', 'msgid "quay.rang"')),
    ("text without a translation", "missing-in-language", "words/de.po", 0, replaced("words/de.po", 'msgstr "Der Kanal von Brackwasser"', 'msgstr ""')),
    ("texture deleted", "missing-file", "media/lock_gate.gltf", 0, lambda root: (root / "media/planks.png").unlink()),
    ("module that does not parse", "unreadable", "client/begin.mjs", 0, replaced("client/begin.mjs", "export function begin() {", "export function begin( {")),
    ("objects with a tab", "unreadable", "objects.yaml", 4, replaced("objects.yaml", "    shape: bell_post", "\tshape: bell_post")),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "path", "line", "make"), [pytest.param(*fault[1:], id=fault[0].replace(" ", "-")) for fault in FAULTS]
)
def test_faults_are_found_where_they_are(
    code: str, path: str, line: int, make: Callable[[Path], object], canal: Path
) -> None:
    make(canal)
    assert_told(canal, code, path, line)


SHEET = """
[pack]
name = "swing-bridge"
version = "1.0"
layouts = ["paired-modules"]
[[files]]
from = "content/**"
[[hook]]
seat = "server-import"
text = 'import { swing } from "./packs/swing.mjs";'
[[hook]]
seat = "server-begin"
text = "swing();"
[[hook]]
seat = "sounds"
text = '''
[swing_creak]
file = gate_open.wav
reach = 30
'''
[[hook]]
seat = "texts"
[hook.each.en]
"swing.lever" = "Swing the bridge"
[hook.each.de]
"swing.lever" = "Brücke drehen"
[[hook]]
seat = "objects"
record = { id = "swing_lever", shape = "bell_post", label = "swing.lever", on_server = "swing.pull" }
"""


def test_a_pack_is_set_in_and_taken_back(canal: Path) -> None:
    script = 'export function swing() {\n  handle("swing.pull", () => find("swing_lever"));\n}\n'
    write_pack(canal.parent / "swing", SHEET, {"content/server/packs/swing.mjs": script})
    before = snapshot(canal)
    installed = run_hookset(canal, "install", "../swing")
    assert installed.code == 0, installed.err
    assert run_hookset(canal, "check").code == 0
    assert (
        'import { swing } from "./packs/swing.mjs";\n\nexport function begin() {\n  openQuay();\n  swing();\n}'
        in (canal / "server/begin.mjs").read_text()
    )
    objects = yaml.safe_load((canal / "objects.yaml").read_text())["objects"]
    assert objects[-1] == {"id": "swing_lever", "shape": "bell_post", "label": "swing.lever", "on_server": "swing.pull"}
    assert (canal / "words/de.po").read_text().endswith('\nmsgid "swing.lever"\nmsgstr "Brücke drehen"\n')
    assert "nothing was written" in run_hookset(canal, "install", "../swing").out
    assert run_hookset(canal, "build").code == 0
    assert run_hookset(canal, "undo").code == 0
    after = {path: data for path, data in snapshot(canal).items() if not path.startswith("build/")}
    assert after == before
