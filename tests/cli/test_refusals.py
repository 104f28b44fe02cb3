"""What is refused, or cannot be done: told by its code, with what to do, and nothing in the map is touched."""

from __future__ import annotations

import gzip
import json
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.model import Code
from tests.conftest import run_hookset, snapshot
from tests.packs import made_pack
from tests.shipped import demo_in


@pytest.fixture(scope="module")
def untouched(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Brackwater, laid out once: nothing that is refused changes it."""
    return demo_in(tmp_path_factory.mktemp("untouched") / "demo")


def told(map_folder: Path, arguments: str, exit_code: int, code: Code) -> None:
    """Run it, once for programs and once for people: the same is told, with a remedy, and nothing is written."""
    before = snapshot(map_folder)
    words = arguments.split()
    ran = run_hookset(map_folder, *words, "--json")
    assert (ran.code, set(ran.told)) == (exit_code, {code}), ran.out
    assert ran.data["ok"] is False
    shown = run_hookset(map_folder, *words)
    assert shown.code == exit_code
    for wrong in ran.wrong:
        assert wrong["what"] and wrong["remedy"], wrong
        assert squeezed(wrong["what"].replace("`", "")) in squeezed(shown.err.replace("`", "")), shown.err
    assert snapshot(map_folder) == before


def squeezed(text: str) -> str:
    return "".join(text.split())


# ---- command lines that mean nothing -----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("arguments", "code"),
    [
        ("check --preview", "conflicting-options"),
        ("undo 2 --preview", "conflicting-options"),
        ("recover --finish --take-back", "conflicting-options"),
        ("deliver", "unknown-destination"),
        ("deliver game --to .. --back", "conflicting-options"),
        ("deliver game --back --watch", "conflicting-options"),
        ("draw x.svg --weight --names quay_bell", "conflicting-options"),
        ("start ../maps/quay --base ../maps", "conflicting-options"),
        ("build --what-next --to ..", "conflicting-options"),
        ("install ../packs/fog-bell.zip --like ../maps/quay --answers a.toml", "conflicting-options"),
        ("layout learn --pack ../packs/silt.zip", "conflicting-options"),
        ("rename", "incomplete-option"),
        ("tune lift-bridge speed", "incomplete-option"),
        ("install ../packs/lift-bridge.zip --set speed", "incomplete-option"),
        ("install ../packs/lift-bridge.zip --word shy=bold", "incomplete-option"),
        ("install ../packs/lift-bridge.zip ../packs/fog-bell.zip --set toll=3", "incomplete-option"),
        ("derive ../packs/lift-bridge.zip --name foot-bridge --also deck", "incomplete-option"),
        ("deliver one two --to ..", "incomplete-option"),
        ("move lamp_1", "incomplete-option"),
        ("swap --like lamp_1", "incomplete-option"),
        ("swap lamp_1", "incomplete-option"),
        ("place lamp_1", "incomplete-option"),
        ("place lamp_1 --at 1,1,1 --count 3", "incomplete-option"),
        ("place lamp_1 --at 1,1,1 --every 3", "incomplete-option"),
        ("place lamp_1 --at 1,1,1 --step 3,3", "incomplete-option"),
        ("place lamp_1 --at 1,1,1 --line-to 9,1,1", "incomplete-option"),
        ("place lamp_1 --at 1,1,1 --beside lamp_2", "conflicting-options"),
        ("place lamp_1 --at 1,1,1 --line-to 9,1,1 --rows 2 --count 2 --step 1,1", "conflicting-options"),
        ("place lamp_1 --at 1,1,1 --line-to 9,1,1 --every 2 --count 2", "conflicting-options"),
        ("place lamp_1 --at 1,1,1 --line-to 9,1,1 --count 1000000", "too-many"),
        ("place lamp_1 --at 1,1 --on-ground", "no-ground"),
        ("place lamp_1 --at 1,1,1 --rows 3 --count 2", "incomplete-option"),
        ("check --report findings.doc", "wrong-ending"),
        ("draw map.doc", "wrong-ending"),
        ("stock make scripts --layout split-lua --to x.json", "wrong-ending"),
        ("layout learn ../maps/quay --to quay.txt", "wrong-ending"),
        ("instal", "wrong-usage"),
        ("check --al", "wrong-usage"),
        ("undo none", "wrong-usage"),
        ("undo 0", "wrong-usage"),
        ("move lamp_1 --at 1,1", "wrong-place"),
        ("move lamp_1 --at here", "wrong-usage"),
        ("move lamp_1 --at 1,1,1 --turn 1,2", "wrong-place"),
        ("move lamp_1 --at 1,1,1 --size 0", "wrong-value"),
        ("layout learn ../maps/quay --ask", "no-terminal"),
        ("rename \x07", "wrong-name"),
        ("stock make scripts=../x --to x.stock", "wrong-path"),
        ("derive ../packs/lift-bridge.zip --name Foot/Bridge", "wrong-name"),
    ],
)
def test_a_command_line_that_means_nothing(arguments: str, code: Code, untouched: Path) -> None:
    told(untouched, arguments, 2, code)


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("arguments", "exit_code", "code"),
    [
        ("layout show split-lau", 2, "unknown-layout"),
        ("start ../maps/quay --layout nope", 2, "unknown-layout"),
        ("trace quay_bel", 2, "unknown-name"),
        ("trace quay_bell --kind sond", 2, "unknown-kind"),
        ("where crane_1", 2, "unknown-name"),
        ("move crane_1 --by 1,0,0", 2, "unknown-name"),
        ("place crane_1 --at 1,1,1", 2, "unknown-name"),
        ("take crane_1", 2, "unknown-name"),
        ("swap crane_1 --like lamp_1", 2, "unknown-name"),
        ("lift weigh_hose --from ../maps/old-quay", 2, "unknown-name"),
        ("install ../packs/lift-bridge.zip --set sped=3", 2, "unknown-name"),
        ("install ../packs/lift-bridge.zip --part deck", 2, "unknown-name"),
        ("install ../packs/lift-bridge.zip --at deck=1,1,1", 2, "unknown-name"),
        ("install ../packs/market-stall.zip --blank sing=../market/sign.png", 2, "unknown-name"),
        ("install ../packs/market-stall.zip --call sond:x=y", 2, "unknown-kind"),
        ("install ../packs/market-stall.zip --call sound:nothing=y", 2, "unknown-name"),
        ("install ../packs/market-stall.zip --call file:sounds/market/jingle.wav=y", 2, "called-by-path"),
        ("install ../packs/market-stall.zip --blank sign=../market/none.png", 2, "not-found"),
        ("install ../packs/market-stall.zip --blank sign=../market/jingle.wav", 2, "wrong-value"),
        ("install ../packs/market-stall.zip --blank jingle=../market/sign.png", 2, "wrong-value"),
        ("install ../packs/market-stall.zip --claim berth=nowhere-1", 1, "none-free"),
        ("install ../packs/lamp-row-1.0.0.zip --set dusk-hour=99", 2, "wrong-value"),
        ("install ../packs/lamp-row-1.0.0.zip --set dusk-hour=late", 2, "wrong-value"),
        ("install ../packs/none.zip", 3, "not-found"),
        ("inspect ../packs/none.zip", 3, "not-found"),
        ("install lift-brige", 2, "not-found"),
        ("shelf drop lift-bridge", 2, "not-found"),
        ("start --stock none.stock", 1, "file-exists"),
        ("start ../maps/quay --stock none.stock", 2, "not-found"),
        ("layout explain scripts/none.lua", 2, "not-found"),
        ("stock make ../none --layout split-lua --to x.stock", 2, "not-found"),
        ("lift weigh_house --from ../maps/none", 2, "not-found"),
        ("trial none.zip", 2, "not-found"),
        ("deliver game --to ../none", 2, "not-found"),
        ("deliver game", 2, "unknown-destination"),
        ("deliver game --back", 2, "unknown-destination"),
        ("deliver game --forget", 2, "unknown-destination"),
        ("trial --in nope", 2, "unknown-engine"),
        ("look-for 3", 2, "unknown-number"),
        ("build --only compress", 2, "unknown-step"),
        ("remove lift-brige", 2, "not-installed"),
        ("tune lift-bridge", 2, "not-installed"),
        ("where --pack lift-bridge", 2, "not-installed"),
        ("undo", 1, "nothing-to-undo"),
        ("undo --redo", 1, "nothing-to-undo"),
        ("log none.txt", 3, "not-found"),
        ("check --since none.json", 3, "not-found"),
        ("place lamp_1 --list lamps.csv", 3, "not-found"),
        ("install ../packs/fog-bell.zip --answers none.toml", 3, "not-found"),
        ("check --since map.toml", 3, "unexpected-content"),
        ("upgrade ../packs/lift-bridge.zip", 1, "not-installed"),
        ("demo ../maps", 1, "file-exists"),
        ("layout learn ../maps/quay --to map.toml", 1, "file-exists"),
        ("layout learn ../maps/quay --to quay.toml --drop 9999", 2, "unknown-number"),
        ("swap lamp_1 --like lamp_1", 2, "same-thing"),
    ],
)
def test_what_is_not_there(arguments: str, exit_code: int, code: Code, untouched: Path) -> None:
    told(untouched, arguments, exit_code, code)


# ---- packs that cannot be installed ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("code", "exit_code", "sheet"),
    [
        pytest.param("other-layout", 1, 'layouts = ["old-quay"]', id="another layout"),
        pytest.param("no-pool", 1, '[[claim]]\nkind = "sound"', id="no pool"),
        pytest.param("unknown-seat", 1, '[[hook]]\nseat = "server-strat"\ntext = "x()"', id="no seat"),
        pytest.param("wrong-entry", 1, '[[hook]]\nseat = "client-start"\ntext = "x("', id="no Lua"),
        pytest.param("wrong-entry", 1, '[[hook]]\nseat = "sound-table"\ntext = "x"', id="no record"),
        pytest.param("not-found", 1, '[[hook]]\nseat = "server-start"\nfragment = "x.lua"', id="no fragment"),
        pytest.param(
            "entry-exists", 1, '[[hook]]\nseat = "texts"\n[hook.each.en]\n"tide.high" = "Flood"', id="other words"
        ),
        pytest.param("incomplete-hook", 1, '[[hook]]\nseat = "on-object"\nrecord = { label = "x" }', id="no object"),
        pytest.param("unknown-name", 1, '[[hook]]\nseat = "server-start"\ntext = "x({value:n})"', id="no value"),
        pytest.param("unknown-name", 1, '[[hook]]\nseat = "server-start"\ntext = "x({setting:n})"', id="no setting"),
        pytest.param(
            "unknown-name", 1, '[[hook]]\nseat = "server-start"\ntext = "x({map:colour})"', id="no such value"
        ),
        pytest.param("unknown-name", 1, '[[hook]]\nseat = "server-start"\ntext = "x({lookup:n:a})"', id="no lookup"),
        pytest.param("unknown-kind", 1, '[[hook]]\nseat = "server-start"\ntext = "x({next:sond:1})"', id="no kind"),
        pytest.param(
            "wrong-value", 1, '[[hook]]\nseat = "server-start"\ntext = "x({map:name|upwards})"', id="no filter"
        ),
        pytest.param("need-not-met", 1, '[[needs]]\nkind = "sound"\nname = "whale"', id="no such sound"),
        pytest.param("need-not-met", 1, '[[needs]]\nkind = "pack"\nname = "whale"', id="no such pack"),
        pytest.param("map-has-errors", 1, '[[hook]]\nseat = "manifest"\ntext = "textures/none.png"', id="no file"),
        pytest.param("wrong-rows", 3, '[[hook]]\nseat = "server-start"\ntxt = "x()"', id="a key that is none"),
        pytest.param("wrong-rows", 3, "[[hook]]\nseat = 3", id="a number for a text"),
        pytest.param("wrong-rows", 3, '[[files]]\nfrom = "files/**"\nto = "../.."', id="out of the map"),
        pytest.param("syntax-error", 3, '[[hook]\nseat = "x"', id="no TOML"),
        pytest.param("syntax-error", 3, 'title = "a\ntext"', id="a text that does not end"),
    ],
)
def test_a_sheet_that_cannot_be_followed(code: Code, exit_code: int, sheet: str, demo: Path) -> None:
    pack = made_pack(demo.parent, "odd", sheet + "\n", {"files/read.me": "x"})
    told(demo, f"install {pack}", exit_code, code)


def sheet_of(name: str, body: str = "") -> str:
    return f'[pack]\nname = "{name}"\nversion = "1"\n{body}'


def folder_pack(place: Path, name: str, body: str = "") -> None:
    place.mkdir()
    (place / "hooksheet.toml").write_text(sheet_of(name, body))


def two_of_a_name(beside: Path) -> str:
    for place in ("one", "two"):
        folder_pack(beside / place, "same")
    return "install ../one ../two"


def a_circle(beside: Path) -> str:
    for name, other in (("one", "two"), ("two", "one")):
        folder_pack(beside / name, name, f'[[needs]]\nkind = "pack"\nname = "{other}"\n')
    return "install ../one ../two"


def nothing_in_it(beside: Path) -> str:
    (beside / "one").mkdir()
    return "install ../one"


def a_link_in_it(beside: Path) -> str:
    folder_pack(beside / "one", "one")
    (beside / "one/secret").symlink_to("/etc/passwd")
    return "install ../one"


def in_another_encoding(beside: Path) -> str:
    (beside / "one").mkdir()
    (beside / "one/hooksheet.toml").write_bytes(sheet_of("one", 'title = "Brücke"\n').encode("cp1252"))
    return "install ../one"


def cut_off(beside: Path) -> str:
    data = (beside / "packs/lift-bridge.zip").read_bytes()
    (beside / "one.zip").write_bytes(data[: len(data) // 2])
    return "inspect ../one.zip"


def a_web_page(beside: Path) -> str:
    (beside / "one.zip").write_text("<html>You must log in first</html>")
    return "install ../one.zip"


def one_packed_file(beside: Path) -> str:
    (beside / "one.gz").write_bytes(gzip.compress(b"return 1\n"))
    return "inspect ../one.gz"


def of_another_program(beside: Path) -> str:
    (beside / "one.rar").write_bytes(b"Rar!\x1a\x07\x01\x00" + bytes(100))
    return "inspect ../one.rar"


def out_of_the_folder(beside: Path) -> str:
    with zipfile.ZipFile(beside / "one.zip", "w") as archive:
        archive.writestr("hooksheet.toml", sheet_of("one"))
        archive.writestr("../../evil.lua", "x")
    return "install ../one.zip"


def in_another_case(beside: Path) -> str:
    made_pack(beside, "one", '[[files]]\nfrom = "files/**"\n', {"files/scripts/shared/TIDE.lua": "return {}\n"})
    return "install ../one-1.0.zip"


def over_a_file(beside: Path) -> str:
    made_pack(beside, "one", '[[files]]\nfrom = "files/**"\n', {"files/scripts/shared/tide.lua": "return {}\n"})
    return "install ../one-1.0.zip"


def too_many_hooks(beside: Path) -> str:
    made_pack(beside, "one", '[[hook]]\nseat = "server-start"\ntext = "x()"\n' * 1001)
    return "install ../one-1.0.zip"


def without_a_sheet(beside: Path) -> str:
    (beside / "one").mkdir()
    (beside / "one/a.lua").write_text("return 1\n")
    return "derive ../one --name two"


def a_map_for_a_pack(beside: Path) -> str:
    assert (beside / "brackwater/hookset.toml").exists()
    return "install ../brackwater"


def a_map_that_is_put_on_the_shelf(beside: Path) -> str:
    assert (beside / "brackwater/hookset.toml").exists()
    return "shelf keep ."


def like_a_damaged_answer(beside: Path) -> str:
    (beside / "answers.toml").write_text("[[packs]]\nname = 3\n")
    return "install ../packs/fog-bell.zip --answers ../answers.toml"


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("prepare", "exit_code", "code"),
    [
        (two_of_a_name, 1, "two-of-a-name"),
        (a_circle, 1, "circle-of-needs"),
        (nothing_in_it, 3, "empty-pack"),
        (a_link_in_it, 3, "link"),
        (in_another_encoding, 3, "wrong-encoding"),
        (cut_off, 3, "damaged-archive"),
        (a_web_page, 3, "unread-archive"),
        (one_packed_file, 3, "unread-archive"),
        (of_another_program, 3, "unread-archive"),
        (out_of_the_folder, 3, "unsafe-archive"),
        (in_another_case, 1, "other-case"),
        (over_a_file, 1, "file-exists"),
        (too_many_hooks, 1, "too-many"),
        (without_a_sheet, 1, "no-hook-sheet"),
        (a_map_for_a_pack, 2, "unexpected-content"),
        (a_map_that_is_put_on_the_shelf, 2, "unexpected-content"),
        (like_a_damaged_answer, 3, "wrong-rows"),
    ],
)
def test_a_pack_that_is_none(prepare: Callable[[Path], str], exit_code: int, code: Code, demo: Path) -> None:
    told(demo, prepare(demo.parent), exit_code, code)


# ---- maps in which it cannot be done -----------------------------------------------------------------------------------


def without_its_place(root: Path) -> str:
    (root / "scripts/client/main.lua").write_text("local function begin() end\nbegin()\n")
    return "install ../packs/lift-bridge.zip"


def without_its_file(root: Path) -> str:
    (root / "sounds/aliases.toml").unlink()
    return "install ../packs/lift-bridge.zip"


def two_scenes(root: Path) -> str:
    (root / "scene/second.gltf").write_bytes((root / "scene/brackwater.gltf").read_bytes())
    return "install ../packs/lift-bridge.zip"


def a_script_that_does_not_parse(root: Path) -> str:
    script = root / "scripts/server/main.lua"
    script.write_text(script.read_text() + "function (")
    return "install ../packs/lift-bridge.zip"


def all_taken(root: Path) -> str:
    scene = json.loads((root / "scene/brackwater.gltf").read_text())
    for number, berth in enumerate(("north-1", "north-2", "south-1", "south-2", "island")):
        scene["nodes"][number + 3]["extras"]["berth"] = berth
    (root / "scene/brackwater.gltf").write_text(json.dumps(scene))
    return "install ../packs/market-stall.zip"


def a_form_of_later(root: Path) -> str:
    (root / ".hookset").mkdir()
    (root / ".hookset/ledger.json").write_text('{"ledger": 99, "packs": []}')
    return "list"


def a_ledger_of_files_elsewhere(root: Path) -> str:
    assert run_hookset(root, "install", "../packs/fog-bell.zip").code == 0
    ledger = root / ".hookset/ledger.json"
    ledger.write_text(ledger.read_text().replace("scripts/server/packs/fog_bell.lua", "../../evil.lua"))
    return "remove fog-bell"


def a_ledger_of_something_else(root: Path) -> str:
    (root / ".hookset").mkdir()
    (root / ".hookset/ledger.json").write_text("[3, 4]")
    return "status"


def a_journal_of_nothing(root: Path) -> str:
    assert run_hookset(root, "install", "../packs/fog-bell.zip").code == 0
    journal = root / ".hookset/history/0001/journal.json"
    journal.write_text(journal.read_text().replace("scripts/server/main.lua", "../../../evil.lua"))
    return "undo"


def changed_since(root: Path) -> str:
    assert run_hookset(root, "install", "../packs/fog-bell.zip").code == 0
    script = root / "scripts/server/packs/fog_bell.lua"
    script.write_text(script.read_text() + "-- mine\n")
    return "remove fog-bell"


def what_others_need(root: Path) -> str:
    made_pack(root.parent, "one", '[[needs]]\nkind = "pack"\nname = "fog-bell"\n')
    assert run_hookset(root, "install", "../packs/fog-bell.zip", "../one-1.0.zip").code == 0
    return "remove fog-bell"


def there_already(root: Path) -> str:
    assert run_hookset(root, "install", "../packs/lamp-row-2.0.0.zip").code == 0
    return "install ../packs/lamp-row-1.0.0.zip"


def no_file_of_the_project(root: Path) -> str:
    (root / "hookset.toml").unlink()
    return "check"


def a_project_file_that_is_none(root: Path) -> str:
    (root / "hookset.toml").write_text("[map\n")
    return "check"


def a_project_file_with_a_slip(root: Path) -> str:
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(text.replace("version =", "verson ="))
    return "check"


def a_layout_that_is_none(root: Path) -> str:
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(text.replace('"split-lua"', '"split-luna"'))
    return "check"


def a_stock_that_is_gone(root: Path) -> str:
    (root.parent / "base.stock.json").unlink()
    return "check"


def the_whole_disk(root: Path) -> str:
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(text.replace("[content]\n", '[content]\nroots = ["/"]\n'))
    return "check"


def roots_that_are_gone(root: Path) -> str:
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(text.replace("[content]\n", '[content]\nroots = ["../libary"]\n'))
    return "check"


def a_folder_of_ours_that_is_a_link(root: Path) -> str:
    (root.parent / "elsewhere").mkdir()
    (root / ".hookset").symlink_to(root.parent / "elsewhere")
    return "install ../packs/fog-bell.zip"


def broken_references(root: Path) -> str:
    (root / "sounds/harbour/gull_1.wav").unlink()
    return "build"


def broken_references_delivered(root: Path) -> str:
    (root.parent / "game").mkdir()
    (root / "sounds/harbour/gull_1.wav").unlink()
    return "deliver game --to ../game"


def what_decides_what_is_there(root: Path) -> str:
    made_pack(
        root.parent,
        "one",
        '[[setting]]\nname = "colour"\ntype = "text"\nchoices = ["red", "blue"]\ndefault = "red"\n'
        '[[files]]\nfrom = "red/**"\nwhen = { setting = "colour", equals = "red" }\n'
        '[[files]]\nfrom = "blue/**"\nwhen = { setting = "colour", equals = "blue" }\n',
        {"red/texts/notes.md": "red", "blue/texts/notes.md": "blue"},
    )
    assert run_hookset(root, "install", "../one-1.0.zip").code == 0
    return "tune one colour=blue"


def a_setting_that_is_none(root: Path) -> str:
    assert run_hookset(root, "install", "../packs/lamp-row-1.0.0.zip").code == 0
    return "tune lamp-row stop=3"


def a_name_that_nothing_says(root: Path) -> str:
    text = (root / "map.toml").read_text()
    (root / "map.toml").write_text(text.replace('version = "3"\n', ""))
    made_pack(root.parent, "one", '[[hook]]\nseat = "server-start"\ntext = "x(\'{map:version}\')"\n')
    return "install ../one-1.0.zip"


def a_table_of_no_places(root: Path) -> str:
    (root.parent / "lamps.csv").write_text("x,y,z\n1,2,3\n4,five,6\n")
    return "place lamp_1 --list ../lamps.csv"


def an_empty_table_of_places(root: Path) -> str:
    (root.parent / "lamps.csv").write_text("# none yet\n")
    return "place lamp_1 --list ../lamps.csv"


def a_report_that_is_cut_off(root: Path) -> str:
    assert run_hookset(root, "check", "--report", "../was.json").code == 0
    report = root.parent / "was.json"
    report.write_text(report.read_text()[:200])
    return "check --since ../was.json"


def a_stock_of_nothing(root: Path) -> str:
    (root.parent / "bad.stock").write_text("no database")
    return "stock diff ../bad.stock ../base.stock.json"


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("prepare", "exit_code", "code"),
    [
        (without_its_place, 1, "seat-missing"),
        (without_its_file, 1, "seat-missing"),
        (two_scenes, 1, "several-files"),
        (a_script_that_does_not_parse, 1, "not-settable"),
        (all_taken, 1, "none-free"),
        (a_form_of_later, 3, "newer-form"),
        (a_ledger_of_files_elsewhere, 3, "path-outside-map"),
        (a_ledger_of_something_else, 3, "unexpected-content"),
        (a_journal_of_nothing, 3, "journal-damaged"),
        (changed_since, 1, "changed-by-you"),
        (what_others_need, 1, "needed-by-others"),
        (there_already, 1, "already-installed"),
        (no_file_of_the_project, 2, "no-map"),
        (a_project_file_that_is_none, 3, "syntax-error"),
        (a_project_file_with_a_slip, 3, "wrong-rows"),
        (a_layout_that_is_none, 2, "unknown-layout"),
        (a_stock_that_is_gone, 3, "not-found"),
        (the_whole_disk, 3, "wrong-root"),
        (roots_that_are_gone, 3, "not-found"),
        (a_folder_of_ours_that_is_a_link, 3, "link"),
        (broken_references, 1, "map-has-errors"),
        (broken_references_delivered, 1, "map-has-errors"),
        (what_decides_what_is_there, 1, "not-tunable"),
        (a_setting_that_is_none, 2, "unknown-name"),
        (a_name_that_nothing_says, 1, "map-lacks-value"),
        (a_table_of_no_places, 2, "wrong-place"),
        (an_empty_table_of_places, 2, "wrong-place"),
        (a_report_that_is_cut_off, 3, "unexpected-content"),
        (a_stock_of_nothing, 3, "unexpected-content"),
    ],
)
def test_a_map_in_which_it_cannot_be_done(
    prepare: Callable[[Path], str], exit_code: int, code: Code, demo: Path
) -> None:
    told(demo, prepare(demo), exit_code, code)


@pytest.mark.parametrize(
    ("arguments", "command"),
    [
        (["check", "--preview"], "check"),
        (["--map", "{map}", "check", "--preview"], "check"),
        (["--no-cache", "--map", "{map}", "tune", "gate", "speed"], "tune"),
        (["layout", "show", "split-lau"], "layout show"),
        (["shelf", "drop", "gate"], "shelf drop"),
        (["instal"], "instal"),
    ],
)
def test_the_command_is_told_wherever_it_stands(arguments: list[str], command: str, untouched: Path) -> None:
    words = [word.format(map=untouched) for word in arguments]
    assert run_hookset(untouched, *words, "--json").data["command"] == command
