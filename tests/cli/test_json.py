"""What `--json` prints is what docs/json.md says, for each command."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from hookset.project import MapProject
from tests.conftest import Ran
from tests.test_house import ROOT

Run = Callable[..., Ran]
PAGE = (ROOT / "docs/json.md").read_text(encoding="utf-8")
WORDS = set(re.findall(r"[a-z_0-9]+", " ".join(re.findall(r"`([^`]*)`", PAGE))))
# Keyed by the map's own words rather than by ours.
OPEN = {"brings", "kinds", "seats", "settings", "claims", "blanks", "renamed", "moved", "sorts"}

COMMANDS = [
    ["check"],
    ["list"],
    ["inspect", "../packs/lift-bridge.zip"],
    ["install", "../packs/lift-bridge.zip", "--preview"],
    ["install", "../packs/fog-bell.zip"],
    ["tune", "lift-bridge"],
    ["tune", "lift-bridge", "toll=30", "--preview"],
    ["status"],
    ["credits"],
    ["rename", "Other", "--preview"],
    ["remove", "fog-bell", "--preview"],
    ["build"],
    ["trial"],
    ["inspect", "../published/fog_bell_v0.4.zip"],
    ["draft", "../published/silt-0.9-final.zip", "--layout", "scene-graph", "--out", "../silt.toml"],
    ["derive", "../packs/market-stall.zip", "--name", "fish-stand", "--also", "market=fish", "--preview"],
    ["lift", "tide_crane", "--from", "../maps/old-quay", "--preview"],
    ["shelf", "keep", "../packs/silt.zip"],
    ["shelf"],
    ["shelf", "drop", "silt"],
    ["log", "map.toml"],
    ["layout", "list"],
    ["layout", "show"],
    ["layout", "explain", "map.toml"],
    ["stock", "find", "bell"],
    ["stock", "make", "scripts", "--layout", "split-lua", "--to", "../x.stock"],
    ["undo", "--preview"],
    ["recover"],
    ["undo", "--keep-last", "1"],
]


def keys(data: Any, at: str = "") -> Iterator[str]:
    if isinstance(data, dict):
        for key, value in data.items():
            if at not in OPEN:
                yield key
            # What an entry of a sheet says is documented with the sheet.
            yield from keys(value, key) if key not in ("entry", "record") else ()
    elif isinstance(data, list):
        for value in data:
            yield from keys(value, at)


@pytest.mark.usefixtures("packed")
def test_every_key_is_documented(hookset: Run) -> None:
    for command in COMMANDS:
        ran = hookset(*command, "--json")
        assert ran.code == 0, (command, ran.out, ran.err)
        undocumented = set(keys(ran.data)) - WORDS
        assert not undocumented, (command, undocumented)
        assert ran.data["command"] == " ".join(command[: 2 if command[0] in ("layout", "stock", "shelf") else 1])
        assert ran.data["ok"] is True


def test_findings_and_refusals_are_documented(packed: MapProject, hookset: Run) -> None:
    (packed.root / "sounds/harbour/gull_1.wav").unlink()
    for command in (["check"], ["build"], ["install", "../packs/nowhere.zip"]):
        ran = hookset(*command, "--json")
        assert ran.code in (1, 3)
        assert ran.data["ok"] is False
        assert not set(keys(ran.data)) - WORDS, command
