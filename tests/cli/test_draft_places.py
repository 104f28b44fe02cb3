"""What a draft lets the builder put elsewhere, and what it leaves to the builder alone."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import run_hookset
from tests.shipped import started
from tests.test_house import DATA


def places(root: Path, pack: Path) -> list[tuple[str, bool]]:
    draft = run_hookset(root, "draft", str(pack), "--show", "--json").data
    return [(one["entry"]["name"], one["entry"].get("must", False)) for one in draft["place"]]


def noted(folder: Path, text: str) -> Path:
    folder.mkdir()
    (folder / "readme.txt").write_text(text, encoding="utf-8")
    return folder


def test_things_that_work_on_each_other_stand_together_and_others_by_themselves(tmp_path: Path) -> None:
    root = started("scene-graph", tmp_path)
    pack = noted(
        tmp_path / "sluice",
        """Paste this at the end of the things:

<Thing key="sluice" form="1" at="1 0 1"/>
<Thing key="sluice_wheel" form="2" at="2 0 1">
  <link key="opens" is="sluice"/>
</Thing>
<Thing key="post" form="2" at="9 0 1"/>
""",
    )
    assert places(root, pack) == [("sluice", False), ("post", False)]


def test_things_without_names_stand_as_the_author_has_arranged_them(tmp_path: Path) -> None:
    root = started("type-table", tmp_path)
    assert places(root, DATA / "published/Heronry 1.0") == [("heron", False)]


def test_where_notes_have_words_for_numbers_only_the_builder_knows(tmp_path: Path) -> None:
    root = started("mirrored-folders", tmp_path)
    pack = noted(
        tmp_path / "lamp",
        """Add this to stands in about.yaml, with your own numbers:

  - { thing: lamp_iron, at: "x h y" }
""",
    )
    assert places(root, pack) == [("lamp-iron", True)]
    drafted = ("install", str(pack), "--as-drafted", "--incomplete")
    assert run_hookset(root, *drafted).code == 0
    before = (root / "about.yaml").read_text(encoding="utf-8")
    assert "x h y" not in before
    assert run_hookset(root, *drafted, "--at", "lamp-iron=7,1.2,9").code == 0
    assert '"7 1.2 9"' in (root / "about.yaml").read_text(encoding="utf-8")
