"""What is learned of scripts in a language that nobody has described, and of how a map is put together: imports, functions,
constants, lists of what there is, what is loaded, where further entries go."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import Learned, learned
from hookset.learning.evidence import band_of
from hookset.learning.filed import Files
from hookset.model import Finding
from hookset.project import Stock
from hookset.trees import FolderTree, Tree
from tests.conftest import run_hookset
from tests.core.test_learning import rules, written

MODULES = ["hut", "lift", "yard", "weather", "crane", "ferry"]
MAIN = """// what runs when the round begins
{uses}
take main::numbers;

fn start() {{
    log("begun (again)");
{calls}
}}

fn pulled() {{
    wait(PAUSE);
}}
"""


def module(name: str) -> str:
    return (
        f'let {name.upper()}_COST = 4;\n\nfn start() {{\n    on_hook("{name}_hook", &pull);\n    wait(PAUSE_{name.upper()});\n'
        f'    give({name.upper()}_COST);\n}}\n\nfn pull() {{\n    play("{name}_bell");\n}}\n'
    )


def project() -> dict[str, str]:
    uses = "\n".join(f"use rail::{one};" for one in MODULES)
    calls = "\n".join(f"    {one}::start();" for one in MODULES)
    scripts = {f"scripts/rail/{one}.srv": module(one) for one in MODULES}
    scripts["scripts/main/main.srv"] = MAIN.format(uses=uses, calls=calls)
    numbers = "define PAUSE 3\n" + "".join(f"define PAUSE_{one.upper()} 5\n" for one in MODULES)
    listed = "".join(f"script rail/{one}.srv\n" for one in MODULES) + "script main/main.srv\nscript main/numbers.inc\n"
    listed += "table bells\ntable horns\n"
    sounds = "Name\tLoud\n" + "".join(f"{one}_bell\t3\n" for one in MODULES)
    return {**scripts, "scripts/main/numbers.inc": numbers, "quay.list": listed, "sounds/bells.tab": sounds}


@pytest.fixture
def quay(tmp_path: Path) -> FolderTree:
    return written(tmp_path / "quay", project())


def told(tree: Tree, by: Learned) -> set[tuple[str, str, str]]:
    """(code, file, name) of what a check says that is no note."""
    findings: tuple[Finding, ...] = judge(tree, load_layout(by.text.encode(), "x.toml"), Stock()).summary.findings
    return {(one.code, one.spot.path, one.name) for one in findings if one.severity.word != "note"}


def test_imports_functions_and_constants_are_found(quay: FolderTree) -> None:
    found = learned(quay, "quay")
    kinds = {kind for kind, _ in rules(found).values()}
    assert {"import", "function", "own-function", "constant", "file"} <= kinds
    assert told(quay, found) == set()


@pytest.mark.parametrize(
    ("file", "old", "new", "expected"),
    [
        ("main/main.srv", "use rail::crane;\n", "", ("missing-name", "main/main.srv", "#crane")),
        ("main/main.srv", "crane::start", "crane::begin", ("missing-name", "main/main.srv", "crane::begin")),
        ("main/main.srv", "use rail::crane;", "use rail::Crane;", ("wrong-case", "main/main.srv", "rail/Crane.srv")),
        ("rail/yard.srv", "&pull", "&push", ("missing-name", "rail/yard.srv", "#push")),
        ("rail/yard.srv", "PAUSE_YARD", "PAUSE_YARDS", ("missing-name", "rail/yard.srv", "PAUSE_YARDS")),
        ("rail/yard.srv", "yard_bell", "yard_bel", ("missing-name", "rail/yard.srv", "yard_bel")),
        ("../quay.list", "script rail/ferry.srv\n", "", ("not-in-manifest", "main/main.srv", "script rail/ferry.srv")),
    ],
)  # fmt: skip
def test_a_fault_planted_later_is_told(
    quay: FolderTree, file: str, old: str, new: str, expected: tuple[str, str, str]
) -> None:
    found = learned(quay, "quay")
    path = quay.root / "scripts" / file
    before = path.read_text(encoding="utf-8")
    assert old in before
    path.write_text(before.replace(old, new), encoding="utf-8")
    code, where, name = expected
    now = told(FolderTree(quay.root), found)
    assert any(one[0] == code and one[1] == f"scripts/{where}" and one[2].endswith(name) for one in now), now


def test_a_list_of_what_there_is_and_what_is_loaded_are_found(quay: FolderTree) -> None:
    found = learned(quay, "quay").arrangement
    assert found.manifest is not None and found.loading is not None
    assert (found.manifest.file, {(one.files, one.row) for one in found.manifest.rows}) == (
        "quay.list",
        {("scripts/**/*.srv", "script {inner}{ext}")},
    )
    assert found.loading.by_name == {f"scripts/rail/{one}.srv" for one in MODULES}


def test_a_script_that_nobody_imports_is_not_loaded(quay: FolderTree) -> None:
    found = learned(quay, "quay")
    (quay.root / "scripts/rail/old.srv").write_text('fn start() {\n    play("nothing");\n}\n', encoding="utf-8")
    tree = FolderTree(quay.root)
    findings = judge(tree, load_layout(found.text.encode(), "x.toml"), Stock()).summary.findings
    assert {one.severity.word for one in findings if one.spot.path == "scripts/rail/old.srv"} == {"note"}


def test_entries_go_under_imports_and_to_the_end(quay: FolderTree) -> None:
    seats = {one.file: (one.name, dict(one.put)) for one in learned(quay, "quay").arrangement.seats}
    assert seats["quay.list"] == ("quay", {"at": "grouped"})
    assert seats["sounds/bells.tab"][1] == {}
    puts = [dict(one.put) for one in learned(quay, "quay").arrangement.seats if one.file == "scripts/main/main.srv"]
    assert puts == [
        {"after": r"^[ \t]*use[ \t]", "otherwise": "start"},
        {"inside": r"^[ \t]*fn\ start\b", "at": "end"},
    ]


def test_texts_for_people_are_read_by_their_keys(tmp_path: Path) -> None:
    keys = [f"{one.upper()}_PROMPT" for one in MODULES]
    files = {
        f"texts/{code}/all.words": "".join(f'{key}   "{code} (once more): {key.lower()}"\n' for key in keys)
        for code in ("en", "fr")
    }
    files["main.srv"] = "".join(f'fn f{n}() {{\n    show(who, text(&"{key}"));\n}}\n' for n, key in enumerate(keys))
    found = learned(written(tmp_path / "x", files), "x")
    assert [kind for kind, _ in rules(found).values()] == ["text"]
    (seat,) = (one for one in found.arrangement.seats if one.kind)
    assert (seat.file, seat.kind, dict(seat.put)) == ("texts/{variant}/all.words", "text", {"at": "end"})


def test_what_is_put_together_at_run_time_is_no_name(tmp_path: Path) -> None:
    calls = "".join(f'    play("{one}_bell");\n' for one in MODULES)
    files = {"main.srv": f'fn start() {{\n{calls}    play("hut_" + number);\n}}\n'}
    files["bells.tab"] = "Name\tLoud\n" + "".join(f"{one}_bell\t{n}\n" for n, one in enumerate(MODULES))
    found = learned(written(tmp_path / "x", files), "x")
    (guess,) = found.guesses
    assert (guess.evidence.hits, guess.evidence.texts, guess.evidence.misfits) == (6, 6, ())
    assert told(found.material.tree, found) == set()


def test_what_the_base_game_says_at_the_same_place_is_there(tmp_path: Path) -> None:
    rows = "".join(f"{one}_bell\tbells/{one}.wav\n" for one in MODULES)
    files = {f"wav/bells/{one}.wav": "RIFF" for one in MODULES}
    mine = written(tmp_path / "map", {"s.tab": f"Name\tFile\n{rows}steam\tmachines\\steam.wav\n", **files})
    base = written(tmp_path / "base", {"b.tab": "Name\tFile\ncog\tmachines/cog.wav\nsteam\tmachines/steam.wav\n"})
    assert [len(one.evidence.misfits) for one in learned(mine, "map").guesses] == [1]
    found = learned(mine, "map", [base])
    assert [len(one.evidence.misfits) for one in found.guesses] == [0]
    assert "wav/machines/cog.wav" in found.outside["file"]


def test_files_of_a_folder_that_is_not_at_hand_are_left_out(tmp_path: Path) -> None:
    rows = "".join(f"{one}_bell\tbells/{one}.wav\n" for one in MODULES)
    rows += "".join(f"{one}_door\tgame\\{one}.wav\n" for one in MODULES[:4])
    files = {f"wav/bells/{one}.wav": "RIFF" for one in MODULES}
    (guess,) = learned(written(tmp_path / "map", {"s.tab": f"Name\tFile\n{rows}", **files}), "map").guesses
    assert (guess.apart, guess.evidence.hits, guess.evidence.misfits) == ("game", 6, ())


def test_the_same_key_at_any_depth_is_one_rule(tmp_path: Path) -> None:
    names = [f"{one}_{what}" for one in MODULES for what in ("item", "rope", "plank")]
    items = ", ".join(f'{{"id": "{one}", "cost": {n}}}' for n, one in enumerate(names))
    uses = ", ".join(
        f'{{"drop": {{"item": "{one}"}}, "when": {{"all": [{{"item": "{one}"}}, {{"not": {{"item": "{names[0]}"}}}}]}}}}'
        for one in (*names, *names)
    )
    tree = written(tmp_path / "x", {"items.json": f"[{items}]", "rules.json": f'{{"rules": [{uses}]}}'})
    assert rules(learned(tree, "x")) == {"at=$..item": ("item", "sure")}


def test_the_legend_of_a_drawing_is_one_table(tmp_path: Path) -> None:
    names = [f"t_{one}_{part}" for one in MODULES for part in ("floor", "wall")]
    tiles = ", ".join(f'{{"id": "{one}"}}' for one in names)
    signs = "abcdefghijkl#.+"
    maps = ", ".join(
        "{"
        + ", ".join(f'"{signs[(n + k) % len(signs)]}": "{names[(n * 5 + k) % len(names)]}"' for k in range(3))
        + ', "*": null'
        + "}"
        for n in range(15)
    )
    tree = written(tmp_path / "x", {"tiles.json": f"[{tiles}]", "maps.json": f'{{"legend": [{maps}]}}'})
    assert rules(learned(tree, "x")) == {"at=$.legend[*].*": ("tile", "sure")}


def test_names_among_numbers_in_one_text_are_found(tmp_path: Path) -> None:
    rows = "".join(f"lot_{n}\t{one}_item,{n % 3},{MODULES[n - 1]}_item\n" for n, one in enumerate(MODULES))
    items = "".join(f"{one}_item\t{n}\n" for n, one in enumerate(MODULES))
    tree = written(tmp_path / "x", {"lots.tab": f"lot\twants\n{rows}", "items.tsv": f"alias\tnth\n{items}"})
    found = learned(tree, "x")
    (guess,) = found.guesses
    assert (guess.split, guess.no_numbers, guess.evidence.texts, guess.evidence.misfits) == (",", True, 12, ())
    assert told(tree, found) == set()


@pytest.mark.parametrize(
    ("misfits", "places", "band"),
    [(0, 100, "sure"), (3, 100, "sure"), (4, 100, "likely"), (1, 8, "sure"), (2, 8, "likely")],
)
def test_a_rule_with_many_mistakes_only_warns(misfits: int, places: int, band: str) -> None:
    assert band_of(-30.0, 1 - misfits / 200, 40, misfits, places) == band


def test_a_script_is_named_by_its_way_with_colons() -> None:
    paths = frozenset({"scripts/rail/hut.srv", "scripts/rail/lift.srv", "scripts/rail/hut.cli"})
    files = Files(paths)
    writing = files.writing_of(["rail::hut", "rail::lift"], ["scripts/a.srv", "scripts/a.srv"])
    assert writing is not None
    assert (writing.under, writing.suffix, writing.joint) == (("scripts",), (".srv",), "::")
    assert files.path_of("rail::lift", "scripts/a.srv", writing) == "scripts/rail/lift.srv"


def test_a_list_ships_what_nobody_imports_and_does_not_load_it(quay: FolderTree) -> None:
    found = learned(quay, "quay")
    main, crane = quay.root / "scripts/main/main.srv", quay.root / "scripts/rail/crane.srv"
    text = main.read_text(encoding="utf-8").replace("use rail::crane;\n", "").replace("    crane::start();\n", "")
    main.write_text(text, encoding="utf-8")
    crane.write_text(crane.read_text(encoding="utf-8").replace("crane_bell", "nothing"), encoding="utf-8")
    assert told(FolderTree(quay.root), found) == set()


def test_what_is_rare_in_some_files_is_known_from_others(tmp_path: Path) -> None:
    names = [f"{one}_{what}" for one in MODULES for what in ("bell", "door")]
    sounds = "Name\tLoud\n" + "".join(f"{one}\t{n}\n" for n, one in enumerate(names))
    server = "".join(f'    play("{one}");\n' for one in names)
    client = '    play("hut_bell");\n    play("lift_bell");\n    quick("yard_bell");\n    quick("crane_bell");\n'
    files = {"s.tab": sounds, "a.srv": f"fn start() {{\n{server}}}\n", "b.cli": f"fn start() {{\n{client}}}\n"}
    found = learned(written(tmp_path / "x", files), "x")
    bands = {(guess.place.word, guess.place.sort.globs[0]): guess.evidence.band for guess in found.guesses}
    assert bands == {("play", "**/*.srv"): "sure", ("play", "**/*.cli"): "likely"}


def test_kinds_are_called_after_the_sort_of_record(tmp_path: Path) -> None:
    names = [f"{one}_{part}" for one in MODULES for part in ("old", "new", "big", "wee", "raw")]
    sorts = ("beast", "plant", "stone", "cloth")
    things = ", ".join(f'{{"type": "{sort}", "id": "{sort}_{one}"}}' for sort in sorts for one in names)
    uses = ", ".join(
        f'{{"lair": "beast_{one}", "food": "plant_{names[n % 30 - 1]}"}}' for n, one in enumerate((*names, *names))
    )
    tree = written(tmp_path / "x", {"things.json": f"[{things}]", "dens.json": f'{{"dens": [{uses}]}}'})
    assert {kind for kind, _ in rules(learned(tree, "x")).values()} == {"beast", "plant"}


def test_kinds_have_no_plural_and_letter_case_counts_unless_it_does_not(tmp_path: Path) -> None:
    rows = "".join(f"{one}_lot\t{n}\n" for n, one in enumerate(MODULES))
    uses = [f"{one}_lot" for one in MODULES * 4] + ["Hut_Lot", "LIFT_LOT"]
    scene = "".join(f'<spot categories="{one}"/>' for one in uses)
    tree = written(tmp_path / "x", {"lots.tab": f"categories\tnth\n{rows}", "scene.xml": f"<Scene>{scene}</Scene>"})
    found = learned(tree, "x")
    (kind,) = found.kinds
    assert (kind.name, kind.folded) == ("category", True)
    assert told(tree, found) == set()


def test_what_the_map_itself_speaks_against_is_not_said_of_loading(quay: FolderTree) -> None:
    """Where names of files that would not be loaded are used, and the map works, files are loaded in other ways."""
    learn = ("layout", "learn", str(quay.root), "--json", "--to")
    before = run_hookset(quay.root.parent, *learn, "before.layout.toml")
    assert before.data["loading"]
    spare = "".join(f"let SPARE_{one.upper()} = 1;\n" for one in MODULES)
    (quay.root / "scripts/rail/spare.srv").write_text(spare, encoding="utf-8")
    for one in MODULES:
        path = quay.root / f"scripts/rail/{one}.srv"
        text = path.read_text(encoding="utf-8")
        path.write_text(
            text.replace("fn pull() {\n", f"fn pull() {{\n    wait(SPARE_{one.upper()});\n"), encoding="utf-8"
        )
    after = run_hookset(quay.root.parent, *learn, "after.layout.toml")
    assert after.data["loading"] == []
    assert [one for one in after.data["findings"] if one["code"] == "not-loaded"] == []


def test_what_is_a_list_here_and_an_object_there_is_seen_as_the_layout_sees_it(tmp_path: Path) -> None:
    """`[*]` means the values of objects as well: what is told of a place is what a check finds there."""
    names = [f"{one}_{what}" for one in MODULES for what in ("rope", "plank")]
    items = ", ".join(f'{{"id": "{one}"}}' for one in names)
    lists = ", ".join(f'{{"uses": ["{one}", "{names[n - 1]}"]}}' for n, one in enumerate(names))
    objects = ", ".join(f'{{"uses": {{"type": "loose", "cost": {n}}}}}' for n in range(9))
    files = {"items.json": f"[{items}]", "lots.json": f'{{"lots": [{lists}, {objects}]}}'}
    found = learned(written(tmp_path / "x", files), "x")
    missing = {name for code, _, name in told(found.material.tree, found) if code == "missing-name"}
    assert missing == {one.text for guess in found.guesses for one in guess.evidence.misfits}
