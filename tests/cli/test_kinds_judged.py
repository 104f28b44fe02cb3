"""What a layout and a builder say of kinds: how grave it is, whether it is used, whether anything defines it."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.checks.examples import FILES, LAYOUT
from tests.conftest import Ran, run_hookset

TOOLS = """
[kinds.tool]
label = "tool"
{}
[[read]]
files = "tools.list"
format = "lines"
defines = [{{ kind = "tool" }}]
[[read]]
files = "{{side}}/*.lua"
format = "lua"
refers = [{{ kind = "tool", call = "take", arg = 1{} }}, {{ kind = "tide", call = "wait_for", arg = 1 }}]
[kinds.tide]
label = "tide"
"""
USES = 'say("gate.opens")\ntake("hook")\ntake("roap")\ntake("oar_" .. number)\n'


def checked(folder: Path, kind: str = "", check: str = "", files: dict[str, str] | None = None, refer: str = "") -> Ran:
    root = folder / "map"
    made = FILES | {"tools.list": "hook\nrope\noar_1\n", "client/main.lua": USES} | (files or {})
    for path, text in made.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_text(text, encoding="utf-8")
    (root / "example.toml").write_text(LAYOUT + TOOLS.format(kind, refer), encoding="utf-8")
    (root / "hookset.toml").write_text(f'[map]\nname = "x"\nlayout = "example.toml"\n{check}', encoding="utf-8")
    return run_hookset(root, "check", "--json")


def found(ran: Ran) -> list[tuple[str, str, str]]:
    return [(one["code"], one["name"], one["severity"]) for one in ran.data["findings"]]


MISSPELT = ("missing-name", "roap")


@pytest.mark.parametrize(
    ("kind", "check", "expected"),
    [
        pytest.param("", "", [(*MISSPELT, "error")], id="as-the-check-says"),
        pytest.param('severity = "warning"', "", [(*MISSPELT, "warning")], id="as-the-layout-says"),
        pytest.param('severity = "off"', "", [], id="not-told"),
        pytest.param(
            'severity = "note"', '[check]\nseverity = { missing-name = "error" }\n', [(*MISSPELT, "error")], id="made-graver"
        ),
        pytest.param(
            'severity = "off"', '[check]\nseverity = { missing-name = "note" }\n', [(*MISSPELT, "note")], id="as-the-builder-says"
        ),
        pytest.param("", '[[check.accept]]\ncode = "missing-name"\nkind = "tool"\n', [], id="accepted-by-kind"),
        pytest.param(
            "",
            '[[check.accept]]\ncode = "missing-name"\nkind = "sound"\n',
            [("accepted-nothing", "missing-name", "warning"), (*MISSPELT, "error")],
            id="another-kind-accepted",
        ),
    ],
)  # fmt: skip
def test_how_grave_a_finding_is(kind: str, check: str, expected: list[tuple[str, str, str]], tmp_path: Path) -> None:
    assert sorted(found(checked(tmp_path, kind, check))) == sorted(expected)


def test_a_rule_says_how_grave_it_is_before_the_kind_does(tmp_path: Path) -> None:
    ran = checked(tmp_path, 'severity = "error"', refer=', severity = "note"')
    assert found(ran) == [(*MISSPELT, "note")]
    builder = '[check]\nseverity = { missing-name = "warning" }\n'
    assert found(checked(tmp_path, check=builder, refer=', severity = "note"')) == [(*MISSPELT, "warning")]
    assert checked(tmp_path, refer=', severity = "grave"').code == 3


@pytest.mark.parametrize("level", ["note", "warning", "error"])
def test_what_nothing_uses_is_told_where_the_kind_asks_for_it(level: str, tmp_path: Path) -> None:
    ran = checked(tmp_path, f'unused = "{level}"', files={"client/main.lua": USES.replace("roap", "hook")})
    # The oar is used by a name that is built at run time.
    assert found(ran) == [("unused-name", "rope", level)]
    (finding,) = ran.data["findings"]
    assert (finding["path"], finding["line"], finding["kind"]) == ("tools.list", 2, "tool")


def test_a_kind_that_nothing_defines_is_told_once(tmp_path: Path) -> None:
    more = USES.replace("roap", "hook") + 'wait_for("ebb")\nwait_for("flood")\nwait_for("ebb")\n'
    ran = checked(tmp_path, files={"client/main.lua": more})
    assert found(ran) == [("no-rule-defines", "ebb", "warning")]
    (finding,) = ran.data["findings"]
    assert (finding["path"], finding["line"], finding["kind"]) == ("client/main.lua", 5, "tide")


def test_a_level_that_is_none_is_told_with_its_line(tmp_path: Path) -> None:
    ran = checked(tmp_path, 'unused = "sometimes"')
    assert ran.code == 3
    assert "example.toml" in ran.out
