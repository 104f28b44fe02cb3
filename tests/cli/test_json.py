"""What `--json` prints is what docs/json.md says, for each command."""

from __future__ import annotations

import re
import shutil
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from hookset.project import MapProject
from tests.cli.test_printed_commands import ALL
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
    ["deliver", "game", "--to", ".."],
    ["deliver", "--destinations"],
    ["deliver", "--back"],
    ["look-for"],
    ["trial"],
    ["inspect", "../published/fog_bell_v0.4.zip"],
    ["draft", "../published/fog_bell_v0.4.zip", "--layout", "split-lua", "--out", "../bell.toml"],
    ["derive", "../packs/market-stall.zip", "--name", "fish-stand", "--also", "market=fish", "--preview"],
    ["lift", "tide_crane", "--from", "../maps/old-quay", "--preview"],
    ["install", "../packs/lamp-row-1.0.0.zip"],
    ["upgrade", "../packs/lamp-row-2.0.0.zip"],
    ["shelf", "keep", "../packs/silt.zip"],
    ["shelf"],
    ["shelf", "drop", "silt"],
    ["trace", "quay_bell"],
    ["where", "lock_wheel", "landing*"],
    ["draw", "../map.svg"],
    ["place", "landing_4", "--at", "4,1,-14"],
    ["move", "landing_5", "--by", "1,0,0"],
    ["take", "landing_5"],
    ["swap", "lamp_3", "--like", "bell_post"],
    ["log", "map.toml"],
    ["layout", "list"],
    ["layout", "show"],
    ["layout", "explain", "map.toml"],
    ["layout", "learn"],
    ["stock", "find", "bell"],
    ["stock", "diff", "../base.stock.json", "../base.stock.json"],
    ["stock", "make", "scripts", "--layout", "split-lua", "--to", "../x.stock"],
    ["undo", "--preview"],
    ["recover"],
    ["undo", "--keep-last", "1"],
    ["start", "../bare"],
    ["demo", "../journey"],
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


ENDLESS = {("watch",)}
"""What ends only when somebody ends it, and is tried by itself."""


def test_every_command_is_tried() -> None:
    """One that is added is added above."""
    with_json = {front for front, one in ALL.items() if any("--json" in each.opts for each in one.params)}
    assert with_json - ENDLESS <= {tuple(command[:size]) for command in COMMANDS for size in (1, 2)}


@pytest.mark.no_cover
def test_every_key_is_documented(packed: MapProject, hookset: Run) -> None:
    bare = packed.root.parent / "bare"
    shutil.copytree(packed.root, bare, ignore=shutil.ignore_patterns(".hookset", "hookset.toml"))
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
