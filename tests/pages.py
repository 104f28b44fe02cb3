"""Pages of the docs, with what their commands print as it is now."""

from __future__ import annotations

import os
from pathlib import Path

from tests.program import run_program
from tests.test_house import ROOT, tool


def page_and_truth(name: str, folder: Path) -> tuple[str, str]:
    """A page of the docs, and as it would be written now; its commands begin in a folder."""
    filling = tool("fill_docs")

    def printed(words: list[str], here: Path) -> str:
        if words[0] != "hookset":
            return str(filling.as_printed(words, here))
        done = run_program(here, tuple(words[1:]), os.environ | {"NO_COLOR": "1"})
        return done.out + done.err

    page = (ROOT / "docs" / name).read_text(encoding="utf-8")
    return page, filling.filled(page, folder, printed)
