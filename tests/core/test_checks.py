"""The check: quiet where all is well, whatever looks like a fault; and what the demo's faults do not show."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from hookset.checks import Verdict, all_checks, judge
from hookset.config.layouts import load_layout, shipped_layout
from hookset.project import MapProject, Stock
from hookset.trees import EmptyTree, Inline, Overlay


@pytest.fixture
def changed(project: MapProject) -> Callable[[str, str, str], Verdict]:
    """Judge the demo's map with one text replaced in one file."""

    def judged(path: str, old: str, new: str) -> Verdict:
        file = project.root / path
        text = file.read_text(encoding="utf-8")
        assert old in text
        file.write_text(text.replace(old, new, 1), encoding="utf-8")
        return judge(project.tree, project.layout, project.stock)

    return judged


def codes(verdict: Verdict) -> list[str]:
    return [finding.code for finding in verdict.findings]


END = "return harbour"


@pytest.mark.parametrize(
    "trap",
    [
        pytest.param('-- play_sound("gone")', id="in-a-comment"),
        pytest.param('--[[\nrequire("gone")\nplay_sound("gone")\n]]', id="in-a-long-comment"),
        pytest.param("log('play_sound(\"gone\")')", id="in-a-string"),
        pytest.param('local x = "gone"', id="unrelated-string"),
        pytest.param('other.play_sound("gone")', id="somebody-else's-function"),
        pytest.param('play_sound("fog_" .. "bell_toll")', id="joined-and-in-the-stock"),
        pytest.param("play_sound(name)", id="unknown-at-run-time"),
        pytest.param('play_sound("water_lap")', id="only-in-the-stock"),
        pytest.param('require("clock")', id="script-of-the-base-game"),
        pytest.param('play_sound(x and "gull_1" or "gull_2")', id="either-of-two"),
        pytest.param('local quay_bell = require("tide")', id="same-word-as-another-kind"),
    ],
)
def test_traps_are_no_findings(trap: str, changed: Callable[..., Verdict]) -> None:
    assert codes(changed("scripts/server/harbour.lua", END, f"{trap}\n{END}")) == []


def test_what_cannot_be_checked_is_counted_and_named(changed: Callable[..., Verdict]) -> None:
    verdict = changed("scripts/server/harbour.lua", END, f'play_sound(n)\nplay_sound("gull_" .. n)\n{END}')
    assert verdict.counts.not_checkable == 3
    assert [(one.name, one.fits, one.built) for one in verdict.open] == [
        ("gull_*", 3, True),
        ("*", 12, True),
        ("gull_*", 3, True),
    ]
    assert verdict.clean


def test_without_a_stock_list_its_kinds_are_not_checkable(project: MapProject) -> None:
    verdict = judge(project.tree, project.layout, Stock())
    found = [(f.code, f.kind, f.name) for f in verdict.findings]
    assert found == [("no-rule-defines", "class", "post"), ("missing-name", "sound", "water_lap")]
    assert {one.kind for one in verdict.open if not one.built} == {"class"}


def test_the_nearest_name_is_offered(changed: Callable[..., Verdict]) -> None:
    verdict = changed("scripts/server/harbour.lua", "'gate_open'", "'gate_opne'")
    finding = verdict.findings[0]
    assert (finding.code, finding.spot.line, finding.remedy) == ("missing-name", 20, "did you mean `gate_open`?")


def test_shared_scripts_must_work_on_each_side_that_loads_them(changed: Callable[..., Verdict]) -> None:
    verdict = changed("scripts/shared/tide.lua", "return tide", 'require("harbour")\nreturn tide')
    assert codes(verdict) == ["wrong-side"]
    assert "not there on the client side" in verdict.findings[0].message


def test_shared_scripts_loaded_on_one_side_only_need_not_work_on_the_other(project: MapProject) -> None:
    (project.root / "scripts/shared/lock.lua").write_text('require("harbour")\n')
    manifest = project.root / "manifest.txt"
    manifest.write_text(manifest.read_text() + "scripts/shared/lock.lua\n")
    main = project.root / "scripts/server/main.lua"
    main.write_text(main.read_text().replace('require("tide")', 'require("tide")\nrequire("lock")'))
    assert codes(judge(project.tree, project.layout, project.stock)) == []


def test_a_circle_of_imports_is_no_harm(project: MapProject) -> None:
    script = project.root / "scripts/server/harbour.lua"
    script.write_text('require("harbour")\nrequire("main")\n' + script.read_text())
    assert codes(judge(project.tree, project.layout, project.stock)) == []


def test_findings_come_in_order_and_alike_each_time(project: MapProject) -> None:
    for path in ("sounds/harbour/gull_1.wav", "textures/planks.png", "scripts/shared/tide.lua"):
        (project.root / path).unlink()
    first = judge(project.tree, project.layout, project.stock).findings
    assert list(first) == sorted(first, key=lambda f: f.order)
    assert judge(project.tree, project.layout, project.stock).findings == first
    assert len(first) > 6


def test_checks_are_declared_whole() -> None:
    declared = all_checks()
    assert len({one.code for one in declared}) == len(declared) >= 18
    for one in declared:
        assert one.title and one.why and one.remedy


FOLDED = """
[layout]
name = "folded"
title = "letter case does not count"
[kinds.sound]
label = "sound"
case = "folded"
unique = true
[kinds.file]
label = "file"
path = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
[[read]]
files = "*.list"
format = "lines"
defines = [{ kind = "sound" }]
[[read]]
files = "*.play"
format = "lines"
refers = [{ kind = "sound" }]
[[read]]
files = "*.open"
format = "lines"
refers = [{ kind = "file", under = "media", suffix = ".wav" }]
"""


def test_folded_letter_case_is_no_finding_where_the_layout_folds() -> None:
    layout = load_layout(FOLDED.encode(), "folded.toml")
    files = {
        "a.list": Inline(b"Horn\nhorn\n"),
        "b.play": Inline(b"HORN\nbell\n"),
        "c.open": Inline(b"x\ny.ogg\n"),
        "media/x.wav": Inline(b""),
    }
    verdict = judge(Overlay(EmptyTree(), files), layout, Stock())
    assert [(f.code, f.name, f.spot.line) for f in verdict.findings] == [
        ("defined-twice", "horn", 2),
        ("missing-name", "bell", 2),
        ("missing-file", "media/y.ogg", 2),
    ]


def test_an_empty_map_is_not_well() -> None:
    verdict = judge(EmptyTree(), shipped_layout("split-lua"), Stock())
    assert verdict.counts.files == 0
    assert set(codes(verdict)) == {"nothing-checked", "no-beginning"}
    assert not verdict.clean


@pytest.mark.parametrize("path", ["map.toml", "manifest.txt", "scripts/server/main.lua", "scripts/client/main.lua"])
def test_a_map_without_what_the_game_begins_with_is_not_well(path: str, project: MapProject) -> None:
    (project.root / path).unlink()
    verdict = judge(project.tree, project.layout, project.stock)
    assert [f.spot.path for f in verdict.findings if f.code == "no-beginning"] == [path]


@pytest.mark.parametrize("line", ['name = "brackwater"\n', 'version = "3"\n'])
def test_a_descriptor_that_does_not_say_what_it_must(line: str, project: MapProject) -> None:
    file = project.root / "map.toml"
    assert line in file.read_text()
    file.write_text(file.read_text().replace(line, ""))
    (told,) = judge(project.tree, project.layout, project.stock).findings
    assert (told.code, told.spot.path, told.name) == ("says-no-name", "map.toml", line.partition(" ")[0])


def test_what_files_really_are_is_told(project: MapProject) -> None:
    root = project.root
    (root / "sounds/harbour/gull_1.wav").write_bytes((root / "textures/iron.png").read_bytes())
    (root / "models/lock_gate.gltf").write_text("<!DOCTYPE html>\n<html><h1>Not found</h1></html>")
    (root / "textures/planks.png").write_bytes(b"PK\x03\x04" + bytes(99))
    (root / "textures/iron.png").write_bytes(b"")
    found = judge(project.tree, project.layout, project.stock).findings
    told = {f.spot.path: f.message for f in found if f.code == "unreadable"}
    assert "is really a PNG picture" in told["sounds/harbour/gull_1.wav"]
    assert "is an HTML page" in told["models/lock_gate.gltf"]
    assert "; scene/brackwater.gltf counts on it" in told["models/lock_gate.gltf"]
    assert "is really a ZIP archive" in told["textures/planks.png"]
    assert told["textures/iron.png"].startswith("this file is empty")
