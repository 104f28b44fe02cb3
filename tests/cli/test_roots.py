"""What lies in a content root counts in each command that asks whether a name is there."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import run_hookset

LIBRARY = '[[sound]]\nalias = "coot_cry"\nfile = "coot.wav"\n'


@pytest.fixture
def rooted(demo: Path) -> Path:
    """The demo's map, which plays a sound that a folder beside it has."""
    project, script = demo / "hookset.toml", demo / "scripts/server/main.lua"
    project.write_text(project.read_text().replace("[content]\n", '[content]\nroots = ["../library"]\n'))
    script.write_text(script.read_text() + '\nplay_sound("coot_cry", "lock_gate")\n')
    library = demo.parent / "library/sounds/coots.toml"
    library.parent.mkdir(parents=True)
    library.write_text(LIBRARY)
    return demo


def test_a_check_finds_it(rooted: Path) -> None:
    assert run_hookset(rooted, "check").code == 0


def test_a_name_is_found_with_the_root_and_the_file_that_it_is_in(rooted: Path) -> None:
    found = run_hookset(rooted, "stock", "find", "coot_cry", "--json").data["names"]
    assert [(one["from"], one["kind"], one["path"]) for one in found] == [("../library", "sound", "sounds/coots.toml")]


def test_an_object_is_lifted_without_what_the_donor_has_from_it(demo: Path) -> None:
    donor, library = demo.parent / "maps/old-quay", demo.parent / "library/sounds/crane.toml"
    aliases, project = donor / "sounds/aliases.toml", donor / "hookset.toml"
    kept, mark, crane = aliases.read_text().partition('[[sound]]\nalias = "crane_creak"')
    aliases.write_text(kept)
    library.parent.mkdir(parents=True)
    library.write_text(mark + crane)
    assert run_hookset(demo, "lift", "tide_crane", "--from", str(donor), "--preview", "--json").data["missing"]
    project.write_text(project.read_text() + 'roots = ["../../library"]\n')
    lifted = run_hookset(demo, "lift", "tide_crane", "--from", str(donor), "--preview", "--json").data
    assert not lifted["missing"]
