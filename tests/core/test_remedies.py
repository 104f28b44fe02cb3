"""What a finding says could be done about it is done, and helps."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.project import MapProject
from tests.core.test_games import MAPS, FaultRow
from tests.faults import FAULTS, Fault
from tests.shipped import assert_remedies_work, started

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover


@pytest.mark.parametrize("fault", [pytest.param(fault, id=fault.title.replace(" ", "-")) for fault in FAULTS])
def test_remedies_help_in_the_demo(fault: Fault, packed: MapProject) -> None:
    fault.make(packed.root)
    dry_run = assert_remedies_work(packed.root)
    assert dry_run or "misspelt" not in fault.title or fault.unseen


@pytest.mark.parametrize(
    ("name", "fault"),
    [pytest.param(name, row, id=f"{name}-{row[0].replace(' ', '-')}") for name, rows in MAPS.items() for row in rows],
)
def test_remedies_help_in_other_layouts(name: str, fault: FaultRow, tmp_path: Path) -> None:
    root = started(name, tmp_path)
    fault[4](root)
    dry_run = assert_remedies_work(root)
    assert dry_run or "misspelt" not in fault[0]
