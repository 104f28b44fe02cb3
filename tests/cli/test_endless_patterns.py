"""Patterns that would try for hours, in a layout, a pack or the map's own file: told, and never run to their end."""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest

from tests.conftest import Ran, snapshot
from tests.packs import made_pack
from tests.program import Limits, run_program

SECONDS = 60
NEVER = "(?P<value>(?:a+)+b)"


def timely(root: Path, *arguments: str) -> Ran:
    """The program, which is far from its end if it really tries everything."""
    done = run_program(root, arguments, os.environ | {"NO_COLOR": "1", "COLUMNS": "200"}, Limits(SECONDS))
    assert "Traceback" not in done.err, done.err
    assert done.code >= 0, f"ended by signal {-done.code}"
    return Ran(done.code, done.out, done.err)


def with_rule(root: Path, rule: str) -> int:
    """The demo with a layout of its own that has one rule more; the line where that rule begins."""
    shown = timely(root, "layout", "show", "split-lua", "--source").out
    (root / "own.toml").write_text(shown + "\n[[read]]\n" + rule, encoding="utf-8")
    project = root / "hookset.toml"
    project.write_text(project.read_text().replace('"split-lua"', '"own.toml"'), encoding="utf-8")
    return shown.count("\n") + 2


@pytest.mark.no_cover
@pytest.mark.parametrize(
    "rule",
    [
        pytest.param(f'format = "text"\nrefers = [{{ kind = "sound", match = "{NEVER}" }}]\n', id="match"),
        pytest.param(
            'format = "text"\noptions = { comments = ["(a+)+b"] }\nrefers = [{ kind = "sound", match = "(?P<value>x)" }]\n',
            id="comments",
        ),
        pytest.param('format = "lines"\nrefers = [{ kind = "sound", only = "^(a+)+b$" }]\n', id="only"),
    ],
)
def test_a_pattern_without_end_is_stopped_and_its_rule_named(rule: str, demo: Path) -> None:
    (demo / "long.txt").write_text("a" * 60_000 + "\n", encoding="utf-8")
    line = with_rule(demo, 'files = "long.txt"\n' + rule)
    ran = timely(demo, "check")
    assert ran.code == 3
    assert f"own.toml:{line}" in ran.err or f"own.toml:{line + 3}" in ran.err, ran.err


@pytest.mark.parametrize(
    "rule",
    [
        pytest.param(
            ("x.xml", 'format = "xml"\nrefers = [{ kind = "sound", at = "//*[count(//*) > 5]/@id" }]\n'), id="xml"
        ),
        pytest.param(("x.json", 'format = "json"\nrefers = [{ kind = "sound", at = "$..*..*" }]\n'), id="json"),
    ],
)
def test_a_path_that_looks_through_the_file_for_each_of_its_parts_is_refused(rule: tuple[str, str], demo: Path) -> None:
    (demo / "x.xml").write_text("<m>" + "<g><o/><o/></g>" * 30_000 + "</m>", encoding="utf-8")
    (demo / "x.json").write_text(json.dumps([{"b": "a", "c": number} for number in range(20_000)]), encoding="utf-8")
    with_rule(demo, f'files = "{rule[0]}"\n{rule[1]}')
    ran = timely(demo, "check")
    assert ran.code == 3
    assert "own.toml:" in ran.err


@pytest.mark.parametrize("pattern", ["*a" * 60 + "b", "**/" * 60 + "b"])
def test_stars_without_end_are_matched_all_the_same(pattern: str, demo: Path) -> None:
    """Each pattern is compared in time that grows with its length: nothing has to be stopped."""
    with_rule(demo, f'files = "{pattern}"\nformat = "any"\ndefines = [{{ kind = "file", name = "{{path}}" }}]\n')
    (demo / ("a" * 200)).write_bytes(b"x")
    assert timely(demo, "check").code == 0
    project = demo / "hookset.toml"
    accepted = f'\n[[check.accept]]\ncode = "missing-sound"\npath = "{pattern}"\n'
    project.write_text(project.read_text() + accepted, encoding="utf-8")
    assert timely(demo, "check").code in (0, 1)


@pytest.mark.parametrize(
    "sheet",
    [
        pytest.param('[[files]]\nfrom = "' + "*a" * 40 + 'b"\nto = "textures"\n', id="stars"),
        pytest.param('[[files]]\nfrom = "' + "**/" * 40 + 'b"\nto = "textures"\n', id="folders"),
        pytest.param(
            '[[value]]\nname = "v0"\nis = "aaaaaaaaaaaaaaaaaaaaaa"\n'
            + "".join(f'[[value]]\nname = "v{n}"\nis = "{{value:v{n - 1}}}{{value:v{n - 1}}}"\n' for n in range(1, 40)),
            id="doublings",
        ),
        pytest.param(".".join(["a"] * 50_000) + " = 1\n", id="deep-name"),
        pytest.param("x = " + "[" * 20_000 + "]" * 20_000 + "\n", id="deep-list"),
        pytest.param("x = " + "1" * 100_000 + "\n", id="long-number"),
        pytest.param(
            "".join(
                f'[[hook]]\nseat = "sound-table"\nrecord = {{ alias = "a{n}", file = "x.wav" }}\n' for n in range(2_000)
            ),
            id="hooks",
        ),
    ],
)
def test_a_sheet_without_measure_is_refused_with_its_place(sheet: str, demo: Path) -> None:
    pack = made_pack(demo.parent, "endless", sheet, {"a" * 200: b"x", "a/" * 60 + "x": b"x"})
    before = snapshot(demo)
    ran = timely(demo, "install", str(pack))
    assert ran.code in (1, 3)
    assert snapshot(demo) == before
    assert "hooksheet.toml" in ran.err


@pytest.mark.no_cover
def test_a_log_of_thousands_of_troubles_is_read(demo: Path) -> None:
    """Many lines that differ are shown up to a limit, and how many there were beyond is said."""
    log = demo.parent / "game.log"
    lines = (f'error: missing sound "abc{n}" in file{n}.lua:{n}\n' for n in range(30_000))
    log.write_text("".join(lines), encoding="utf-8")
    ran = timely(demo, "log", str(log), "--json")
    told = ran.data
    assert len(json.dumps(told)) < 2_000_000
    log.write_text("error a/" * 3_500 + "\n" + "error " + "a." * 12_000 + "\n", encoding="utf-8")
    assert timely(demo, "log", str(log)).code in (0, 1)
