"""A stock as a database: however long somebody works on its names, it is not called damaged for it."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.project.stocks.database import StockDatabase, write_database
from hookset.project.stocks.row import StockRow


@pytest.mark.no_cover
def test_what_is_done_with_the_names_is_not_the_stock_s_time(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    now = 0.0
    monkeypatch.setattr("time.monotonic", lambda: now)
    rows = (StockRow("sound", f"bell_{number}", "", "", "") for number in range(60_000))
    assert write_database(tmp_path / "base.db", "Base", rows) == 60_000
    seen = 0
    for _ in StockDatabase(tmp_path / "base.db").names("sound"):
        now += 1.0
        seen += 1
    assert seen == 60_000
