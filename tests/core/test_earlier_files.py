"""Layouts and hook sheets that others wrote for earlier versions, where they lie beside this project: they still read."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.config.layouts import load_layout
from hookset.config.sheets import read_sheet, typed
from hookset.packs import HookSheet
from tests.test_house import ROOT

BESIDE = ROOT.parent / "shared"
OWN = [file for file in BESIDE.glob("foreign/*/ours/*.toml") if file.stem == file.parent.parent.name]
LAYOUTS = sorted([*OWN, *BESIDE.glob("strangers/layouts/*.toml")])
SHEETS = sorted(BESIDE.glob("foreign/*/ours/**/*hooksheet*.toml"))


@pytest.mark.parametrize("file", LAYOUTS, ids=lambda file: f"{file.parent.parent.name}-{file.stem}")
def test_a_layout_reads(file: Path) -> None:
    assert load_layout(file.read_bytes(), file.name).reads


@pytest.mark.parametrize("file", SHEETS, ids=lambda file: f"{file.parent.parent.name}-{file.stem}")
def test_a_hook_sheet_reads(file: Path) -> None:
    assert isinstance(typed(read_sheet(file.read_bytes(), file.name).data, HookSheet), HookSheet)
