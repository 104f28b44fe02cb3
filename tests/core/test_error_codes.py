"""The codes of errors and stops: their page, and that they are not taken for those of findings."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path
from typing import get_args

import pytest

from hookset.checks import all_checks
from hookset.model import Code

ROOT = Path(__file__).parent.parent.parent
CODES = set(get_args(Code))


@pytest.mark.no_cover
def test_the_page_of_errors_is_made_from_the_code(tmp_path: Path) -> None:
    page = tmp_path / "errors.md"
    subprocess.run([sys.executable, ROOT / "tools/make_errors_page.py", page], check=True)
    assert page.read_text() == (ROOT / "docs/errors.md").read_text()


def test_no_error_is_called_like_a_check() -> None:
    assert CODES.isdisjoint(check.code for check in all_checks())


def test_every_code_is_given_somewhere() -> None:
    sources = "\n".join(
        path.read_text("utf-8") for path in (ROOT / "src/hookset").rglob("*.py") if path.name != "codes.py"
    )
    assert set(re.findall(r'"([a-z]+(?:-[a-z]+)*)"', sources)) >= CODES
