"""How authors ask to be named: found in notes, kept in the map, told with the credits."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import run_hookset


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("notes", "credit", "authors"),
    [
        ('Credit me like this:\n  "Boats by Ada Brine (Tidewater)"\n', "Boats by Ada Brine (Tidewater)", ["Ada Brine"]),
        ("by Tern\n\nPlease put this line into your credits: Boats by Tern!\n", "Boats by Tern!", ["Tern"]),
        ("von Ada Brine\n\nBitte so nennen: „Boote: Ada Brine“\n", "Boote: Ada Brine", ["Ada Brine"]),
        ("Merci de créditer ainsi : Bateaux, Ada Brine\n", "Bateaux, Ada Brine", []),
        ("by Tern\n\nCredits: Heron for the planks\n", "", ["Tern"]),
    ],
)
def test_how_authors_ask_to_be_named(demo: Path, notes: str, credit: str, authors: list[str]) -> None:
    pack = demo.parent / "boats"
    pack.mkdir()
    (pack / "readme.txt").write_text(f"Boats 1.2 (CC-BY-4.0)\n\n{notes}", encoding="utf-8")
    (pack / "boats.lua").write_text("return {}\n", encoding="utf-8")
    head = run_hookset(demo, "draft", str(pack), "--show", "--json").data["pack"]
    assert (head["title"], head["credit"], head["authors"]) == ("Boats", credit, authors)


def test_the_credits_name_authors_as_they_ask(demo: Path) -> None:
    pack = demo.parent / "boats"
    pack.mkdir()
    sheet = '[pack]\nname = "boats"\nversion = "1"\ncredit = "Boats by *Ada Brine*"\n'
    (pack / "hooksheet.toml").write_text(sheet, encoding="utf-8")
    assert run_hookset(demo, "install", str(pack)).code == 0
    assert run_hookset(demo, "credits", "--json").data["packs"][0]["credit"] == "Boats by *Ada Brine*"
    assert r"Boats by \*Ada Brine\*." in run_hookset(demo, "credits").out
