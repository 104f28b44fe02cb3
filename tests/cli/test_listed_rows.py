"""Rows of the list of what is shipped, which files get by themselves."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import run_hookset

SHEET = """[pack]
name = "pole"
version = "{}"
layouts = ["split-lua"]
[[files]]
from = "scripts/**"
to = "scripts"
"""
ROW = """[[hook]]
seat = "manifest"
text = "scripts/server/pole.lua"
"""


def test_a_row_that_a_newer_sheet_does_not_name_stays_where_it_is(demo: Path) -> None:
    pack = demo.parent / "pole"
    (pack / "scripts/server").mkdir(parents=True)
    (pack / "scripts/server/pole.lua").write_text("return {}\n", encoding="utf-8")
    sheet = pack / "hooksheet.toml"
    sheet.write_text(SHEET.format("1.0") + ROW, encoding="utf-8")
    assert run_hookset(demo, "install", str(pack)).code == 0
    # What came behind it since shows whether it has moved.
    manifest = demo / "manifest.txt"
    text = manifest.read_text(encoding="utf-8")
    assert text.count("scripts/server/pole.lua\n") == 1
    manifest.write_text(f"{text}textures/later.png\n", encoding="utf-8")
    before = manifest.read_bytes()
    sheet.write_text(SHEET.format("1.1"), encoding="utf-8")
    assert run_hookset(demo, "upgrade", str(pack), "--anyway").code == 0
    assert manifest.read_bytes() == before
    # A file that goes takes its row along.
    (pack / "scripts/server/pole.lua").rename(pack / "scripts/server/staff.lua")
    sheet.write_text(SHEET.format("1.2"), encoding="utf-8")
    assert run_hookset(demo, "upgrade", str(pack), "--anyway").code == 0
    rows = manifest.read_text(encoding="utf-8").splitlines()
    assert ("scripts/server/pole.lua" in rows, rows.count("scripts/server/staff.lua")) == (False, 1)
    assert run_hookset(demo, "remove", "pole").code == 0
    assert "staff" not in manifest.read_text(encoding="utf-8")
