"""Names where they are written, and places as editors count them."""

from __future__ import annotations

from pathlib import Path

import hypothesis.strategies as st
import pytest
from hypothesis import given

from hookset.editor.positions import Units, offset_of, position_of
from hookset.project import MapProject, open_project
from hookset.symbols import analyse
from hookset.symbols.cursor import name_at, text_in, written_names
from tests.shipped import started

MAPS = ("brackwater", "godot-3", "mirrored-folders", "numbered-marks", "paired-modules", "scene-graph", "type-table")
UNITS: tuple[Units, ...] = ("utf-8", "utf-16", "utf-32")


@given(st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\r")), st.data())
def test_a_place_is_found_again_in_any_units(text: str, data: st.DataObject) -> None:
    offset = data.draw(st.integers(0, len(text)))
    units = data.draw(st.sampled_from(UNITS))
    line, column = position_of(text, offset, units)
    assert offset_of(text, line, column, units) == offset
    before = text.split("\n")[line][: offset - (text.rfind("\n", 0, offset) + 1)]
    sizes = {"utf-8": len(before.encode()), "utf-16": len(before.encode("utf-16-le")) // 2, "utf-32": len(before)}
    assert column == sizes[units]


@pytest.mark.parametrize("units", UNITS)
def test_places_that_are_not_there_are_the_end(units: Units) -> None:
    assert offset_of("ab\ncd", 0, 99, units) == 2
    assert offset_of("ab\ncd", 9, 0, units) == 5
    assert offset_of("ä𝄞b", 0, 2 if units != "utf-16" else 1, units) <= 2


@pytest.mark.parametrize("name", MAPS)
def test_what_is_pointed_at_is_what_is_written(name: str, tmp_path: Path) -> None:
    """In every format: the characters of a use are what the file says, those of a definition are of its name."""
    project = open_project(started(name, tmp_path))
    analysis = analyse(project.tree, project.layout, project.stock)
    uses = definitions = 0
    for facts in analysis.web.files:
        text = text_in(project.tree, project.layout, facts.path)
        if text is None:
            continue
        names = written_names(text, project.layout, facts)
        for one in names:
            said = text.string[one.start : one.end]
            assert one.written == said and said.strip() and "\n" not in said
            if one.defines:
                assert said in one.name
                definitions += 1
            elif not one.pattern:
                plain = said.replace("\\", "/").lower().lstrip("./*").removeprefix("res://")
                stem = plain.rpartition("/")[2]
                uses += stem in one.name.lower() or one.name.lower() in plain
            assert name_at(names, one.start) is not None
        places = {(one.start, one.end) for one in names}
        assert len(places) > 0 or not facts.referred
    referred = sum(len(block.names) for facts in analysis.web.files for block in facts.referred)
    assert uses > 0.5 * min(referred, 40) and definitions > 0


def test_the_key_in_front_of_a_text_is_what_is_defined(project: MapProject) -> None:
    analysis = analyse(project.tree, project.layout, project.stock)
    facts = next(one for one in analysis.web.files if one.path == "texts/en.toml")
    text = text_in(project.tree, project.layout, facts.path)
    assert text is not None
    names = [one for one in written_names(text, project.layout, facts) if one.defines and one.kind == "text"]
    assert len(names) > 5 and all(one.written == one.name for one in names)
