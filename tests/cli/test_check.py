"""`check` with all it can be asked, and `trace`."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import jsonschema_rs
import pytest

from hookset.checks import Verdict
from hookset.model import Finding
from hookset.planning import new_findings
from hookset.planning.operations import mend
from hookset.project import MapProject, open_project, read_ledger
from hookset.verdicts import Summary
from tests.conftest import Ran, run_hookset, snapshot
from tests.test_house import ROOT

Run = Callable[..., Ran]


@pytest.fixture
def marred(packed: MapProject) -> Path:
    """The demo's map with one thing wrong of several sorts, three of which need no choice."""
    root = packed.root
    aliases = root / "sounds/aliases.toml"
    text = aliases.read_text()
    text = text.replace("harbour/quay_bell.wav", "Harbour/Quay_bell.wav").replace("gull_3.wav", "gul_3.wav")
    aliases.write_text(text.replace('"harbour/gate_open.wav"', '"harbour\\\\gate_open.wav"'))
    manifest = root / "manifest.txt"
    rows = manifest.read_text().replace("textures/planks.png\n", "")
    manifest.write_text(rows + "textures/iron.png\n")
    return root


def told(root: Path, *more: str) -> dict[str, Any]:
    return dict(json.loads(run_hookset(root, "check", "--json", *more).out))


def test_mending_does_what_needs_no_choice_and_can_be_taken_back(marred: Path) -> None:
    before = snapshot(marred)
    preview = run_hookset(marred, "check", "--mend", "--preview")
    assert preview.code == 1
    assert '+file = "harbour/quay_bell.wav"' in preview.out
    assert "Nothing was written" in preview.out
    assert snapshot(marred) == before
    codes = {f["code"] for f in told(marred)["findings"]}
    assert {"wrong-case", "backslash", "not-in-manifest", "row-twice", "missing-file"} <= codes
    mended = run_hookset(marred, "check", "--mend")
    assert mended.code == 1
    assert {f["code"] for f in told(marred)["findings"]} == {"missing-file", "unused-file"}
    lines = (marred / "sounds/aliases.toml").read_text()
    assert 'file = "harbour/gate_open.wav"' in lines
    assert (marred / "manifest.txt").read_text().count("textures/iron.png\n") == 1
    assert "There is nothing that can be mended" in run_hookset(marred, "check", "--mend").out
    assert run_hookset(marred, "undo").code == 0
    assert snapshot(marred) == before


def test_preview_goes_with_mend(packed: MapProject) -> None:
    assert run_hookset(packed.root, "check", "--preview").code == 2


def test_only_what_is_new_since_a_report(marred: Path) -> None:
    report = marred.parent / "before.json"
    assert run_hookset(marred, "check", "--report", str(report)).code == 1
    same = run_hookset(marred, "check", "--since", str(report))
    assert same.code == 0
    assert "Nothing new." in same.out
    aliases = marred / "sounds/aliases.toml"
    aliases.write_text("# one line more\n" + aliases.read_text().replace("Harbour/Quay_bell", "harbour/quay_bell"))
    (marred / "textures/quay_stone.png").unlink()
    later = told(marred, "--since", str(report))
    assert later["since"]["gone"] >= 1
    assert later["since"]["new"] == 2
    shown = run_hookset(marred, "check", "--since", str(report))
    assert shown.code == 1
    assert "quay_stone" in shown.out
    assert "gul_3" not in shown.out
    report.write_text("{}")
    assert run_hookset(marred, "check", "--since", str(report)).code == 3


def test_sarif_is_valid_and_points_to_the_lines(marred: Path) -> None:
    run_hookset(marred, "check", "--report", "../out/check.sarif")
    log = json.loads((marred.parent / "out/check.sarif").read_text())
    # The published schema has a bracket too many in one pattern, which stricter readers of it refuse.
    text = (ROOT / "tests/data/sarif-2.1.0.schema.json").read_text().replace("{2}]?$", "{2}$")
    schema = json.loads(text)
    jsonschema_rs.validator_for(schema).validate(log)
    results = log["runs"][0]["results"]
    assert len(results) == len(told(marred)["findings"])
    case = next(result for result in results if result["ruleId"] == "wrong-case")
    place = case["locations"][0]["physicalLocation"]
    assert place["artifactLocation"]["uri"] == "sounds/aliases.toml"
    assert place["region"] == {"startLine": 5, "startColumn": 8}
    rules = log["runs"][0]["tool"]["driver"]["rules"]
    assert all(rules[result["ruleIndex"]]["id"] == result["ruleId"] for result in results)


def test_junit_counts_checks_that_fail(marred: Path) -> None:
    (marred / "scene/odd.gltf").write_bytes(b'{"nodes": [{"extras": {"sound": "\\u0001bell"}}]}')
    run_hookset(marred, "check", "--report", "../check.xml")
    suite = ElementTree.parse(marred.parent / "check.xml").getroot()[0]
    failing = {case.get("name", "").split(":")[0] for case in suite if case.find("failure") is not None}
    codes = {f["code"] for f in told(marred)["findings"] if f["severity"] != "note"}
    assert failing == codes
    assert suite.get("failures") == str(len(codes))
    assert int(suite.get("tests", "0")) == told(marred)["counts"]["checks"]


def test_the_page_needs_nothing_but_itself_and_escapes_names(marred: Path) -> None:
    (marred / "scripts/server/harbour.lua").write_text('play_sound("<script>alert(1)</script>")\n')
    run_hookset(marred, "check", "--report", "../check.html")
    page = (marred.parent / "check.html").read_text(encoding="utf-8")
    assert "<script" not in page
    assert "&lt;script&gt;" in page
    assert "gul_3.wav" in page
    assert "http" not in page
    assert "<svg" in page, "the map is in it"


def test_unknown_reports_are_told_before_the_work(packed: MapProject) -> None:
    ran = run_hookset(packed.root, "check", "--report", "x.docx")
    assert ran.code == 2
    assert ".sarif" in ran.err
    assert run_hookset(packed.root, "check", "--report", "manifest.txt/x.json").code == 3


def test_terms_of_the_builder(marred: Path) -> None:
    project = marred / "hookset.toml"
    project.write_text(
        project.read_text()
        + '\n[check]\nseverity = { wrong-case = "note", row-twice = "off", unused-file = "error" }\n'
        '[[check.accept]]\ncode = "missing-file"\nname = "**/gul_*"\nwhy = "tomorrow"\n'
        '[[check.accept]]\ncode = "missing-fil"\n'
    )
    data = told(marred)
    levels = {f["code"]: f["severity"] for f in data["findings"]}
    assert levels["wrong-case"] == "note"
    assert levels["unused-file"] == "error"
    assert "row-twice" not in levels
    assert "missing-file" not in levels
    assert data["accepted"] == 1
    assert {"accepted-nothing", "no-such-check"} <= levels.keys()
    last = len(project.read_text().splitlines())
    assert {f["line"] for f in data["findings"] if f["path"] == "hookset.toml"} == {last - 1}
    project.write_text(project.read_text().replace('"note"', '"nte"'))
    assert "hookset.toml" in run_hookset(marred, "check").err


def test_coverage_names_rules_files_and_what_cannot_be_known(packed: MapProject) -> None:
    (packed.root / "notes.txt").write_text("the tide is at six")
    out = run_hookset(packed.root, "check", "--coverage").out
    assert "6 files by no rule: 5 .bin, 1 .txt" in out
    assert "notes.txt" in out.split("rules")[1]
    assert "sounds/*.toml" in out
    assert "built at run time" in out


def test_trace_follows_a_name_from_the_map_s_roots(hookset: Run, packed: MapProject) -> None:
    data = hookset("trace", "textures/planks.png", "--kind", "file", "--json").data
    (one,) = data["kinds"]
    assert [(step["path"], step["name"]) for step in one["loaded_by"]] == [
        ("map.toml", "scene/brackwater.gltf"),
        ("scene/brackwater.gltf", "models/lock_gate.gltf"),
        ("models/lock_gate.gltf", "textures/planks.png"),
    ]
    (packed.root / "textures/planks.png").unlink()
    missing = {(f["path"], f["line"]) for f in told(packed.root)["findings"] if f["severity"] == "error"}
    assert {(step["path"], step["line"]) for step in one["breaks"]} == missing


def test_trace_tells_what_is_near_and_what_only_the_game_has(hookset: Run, packed: MapProject) -> None:
    wrong = hookset("trace", "quay_bel", "--json")
    assert (wrong.code, wrong.told) == (2, ["unknown-name"])
    assert "quay_bell" in str(wrong.wrong[0])
    assert hookset("trace", "quay_bell", "--kind", "sund").code == 2
    theirs = hookset("trace", "fog_bell_toll")
    assert "the base game has it" in theirs.out
    (packed.root / "scripts/server/alone.lua").write_text('on("never", function() end)\n')
    assert "which nothing loads" in hookset("trace", "never").out


def test_a_long_way_from_the_map_s_roots_is_cut_in_its_middle(hookset: Run, packed: MapProject) -> None:
    chain = packed.root / "scripts/server/chain"
    chain.mkdir()
    for number in range(400):
        (chain / f"c{number}.lua").write_text(f'require("chain.c{number + 1}")\n' if number < 399 else "")
    main = packed.root / "scripts/server/main.lua"
    main.write_text('require("chain.c0")\n' + main.read_text())
    ran = hookset("trace", "scripts/server/chain/c399.lua", "--kind", "file")
    shown = [number for number in range(400) if f"chain/c{number}.lua  by" in ran.out]
    assert ran.code == 0 and shown[0] == 0 and shown[-9:] == list(range(391, 400)) and len(shown) < 15
    assert max(map(len, ran.out.splitlines())) < 100
    (one,) = hookset("trace", "scripts/server/chain/c399.lua", "--kind", "file", "--json").data["kinds"]
    assert len(one["loaded_by"]) == 400


def test_damage_tells_who_counts_on_the_file(hookset: Run, packed: MapProject) -> None:
    (packed.root / "textures/planks.png").write_bytes(b"GIF89a no picture of that sort")
    assert "models/lock_gate.gltf, models/winch_house.gltf count on it" in " ".join(hookset("check").out.split())


def test_one_more_of_a_known_fault_is_new(packed: MapProject) -> None:
    script = packed.root / "scripts/server/harbour.lua"
    text = script.read_text()
    script.write_text('play_sound("gone")\n' + text)
    run_hookset(packed.root, "check", "--report", "../before.json")
    script.write_text('play_sound("gone")\nplay_sound("gone")\n' + text)
    assert told(packed.root, "--since", "../before.json")["since"] == {"new": 1, "known": 1, "gone": 0}


def test_only_the_file_whose_mend_does_harm_is_left(packed: MapProject, monkeypatch: pytest.MonkeyPatch) -> None:
    root = packed.root
    aliases, manifest = root / "sounds/aliases.toml", root / "manifest.txt"
    aliases.write_text(aliases.read_text().replace("harbour/quay_bell.wav", "Harbour/Quay_bell.wav"))
    manifest.write_text(manifest.read_text().replace("textures/planks.png\n", ""))

    def harmful(before: Summary, after: Verdict) -> tuple[Finding, ...]:
        """As if the row brought something new."""
        case = after.case.web.tree
        return after.findings or new_findings(before, after) if b"planks" in case.read("manifest.txt") else ()

    monkeypatch.setattr(mend, "new_findings", harmful)
    project = open_project(root)
    (root / "sounds/unused.wav").write_bytes((root / "sounds/harbour/gull_1.wav").read_bytes())
    plan = mend.plan_mend(project, read_ledger(root))
    assert [change.path for change in plan.changes] == ["sounds/aliases.toml"]
    assert [finding.code for finding in plan.left] == ["not-in-manifest"]


def test_of_very_many_findings_the_worst_are_shown(packed: MapProject) -> None:
    root = packed.root
    calls = "\n".join(f'play_sound("nothing_{number}")' for number in range(300))
    (root / "scripts/server/harbour.lua").write_text(calls + "\nreturn {}\n", encoding="utf-8")
    (root / "textures/old.png").write_bytes((root / "textures/iron.png").read_bytes())
    few = run_hookset(root, "check").out
    assert few.count("nothing_") < 110
    told = " ".join(few.split())
    assert "missing-name" in told.split(" more: ")[1].split("`--all` shows them")[0]
    assert "textures/old.png" not in few.split("looked at")[0]
    every = run_hookset(root, "check", "--all").out
    assert every.count("`nothing_") == 300
    assert "textures/old.png" in every
    assert len(run_hookset(root, "check", "--json").data["findings"]) > 300


def test_lines_of_many_digits_are_shown_whole(packed: MapProject) -> None:
    script = packed.root / "scripts/server/harbour.lua"
    script.write_text("\n" * 123_456 + script.read_text().replace("quay_bell", "quay_bel"), encoding="utf-8")
    assert "123460:14  error" in run_hookset(packed.root, "check").out
