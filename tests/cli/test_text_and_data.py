"""What a command prints for people has the same facts in it as what it prints for programs."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Ran
from tests.program import run_program

NOWHERE = frozenset((
    "hookset", "command", "sha256", "digest", "id", "installed", "unread", "kind", "seat", "form", "band", "at", "entry", "text", "lines",
))  # fmt: skip
"""Of use to programs only, or told in other words."""
OURS = ("XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME")


@dataclass(frozen=True)
class Town:
    """The demo with packs in it, where nothing is changed any more."""

    root: Path
    env: dict[str, str]

    def run(self, words: Sequence[str]) -> Ran:
        """With lines long enough that nothing is cut."""
        done = run_program(self.root, tuple(words), self.env)
        return Ran(done.code, done.out, done.err)


@pytest.fixture(scope="module")
def town(tmp_path_factory: pytest.TempPathFactory) -> Town:
    folder = tmp_path_factory.mktemp("town")
    env = os.environ | {"NO_COLOR": "1", "COLUMNS": "400"} | {one: str(folder / one) for one in OURS}
    assert Town(folder, env).run(["demo", "town"]).code == 0
    made = Town(folder / "town/brackwater", env)
    assert made.run(["install", "../packs/lamp-row-1.0.0.zip"]).code == 0
    assert made.run(["deliver", "game", "--to", ".."]).code == 0
    return made


def facts(data: Any, key: str = "") -> Iterator[tuple[str, str]]:
    """Each text in it, with its key."""
    if isinstance(data, dict):
        for inner, value in data.items():
            yield from facts(value, inner)
    elif isinstance(data, list):
        for value in data:
            yield from facts(value, key)
    elif isinstance(data, str) and data:
        yield key, data


def squeezed(text: str) -> str:
    return "".join(text.split()).replace("`", "").replace("\\", "")


@pytest.mark.parametrize(
    ("command", "more"),
    [
        ("check", ""),
        ("list", "files path"),
        ("status", "path"),
        ("credits", ""),
        ("inspect ../packs/market-stall.zip", "source path state what by layout layouts"),
        ("install ../packs/fog-bell.zip --preview", ""),
        ("install ../packs/market-stall.zip --preview", "name"),
        ("upgrade ../packs/lamp-row-2.0.0.zip --preview", ""),
        ("remove lift-bridge --preview", "gone"),
        ("tune lift-bridge", "type"),
        ("tune lift-bridge toll=30 --preview", ""),
        ("rename Other --preview", ""),
        ("deliver --destinations", ""),
        ("look-for", ""),
        ("build --what-next", ""),
        ("draft ../published/fog_bell_v0.4.zip --show", "fate"),
        ("derive ../packs/market-stall.zip --name fish-stand --also market=fish --preview", "files"),
        ("lift tide_crane --from ../maps/old-quay --preview", "because"),
        ("shelf", ""),
        ("trace quay_bell", ""),
        ("trace packs.lift_bridge", ""),
        ("trace sounds/harbour/quay_bell.wav", ""),
        ("where", "up hand placed_as"),
        ("where --pack lift-bridge", "up hand placed_as name"),
        ("where lock_wheel landing*", "up hand placed_as name"),
        ("undo --preview", "path"),
        ("recover", ""),
        ("layout list", ""),
        ("layout show", ""),
        ("layout explain", ""),
        ("layout explain map.toml", ""),
        ("layout explain scripts/server/harbour.lua", ""),
        ("layout explain scene/brackwater.gltf", ""),
        ("stock find bell", ""),
        ("stock diff ../base.stock.json ../base.stock.json", ""),
        ("place landing_4 --at 4,1,-14 --preview", ""),
        ("move lamp_5 --by 1,0,0 --preview", ""),
        ("take lamp_5 --preview", "gone"),
        ("swap lamp_3 --like bell_post --preview", ""),
        ("log map.toml", ""),
        ("trial", "archive what side"),
    ],
)
def test_the_same_facts_for_people_and_for_programs(command: str, more: str, town: Town) -> None:
    words = command.split()
    data, text = town.run([*words, "--json"]), town.run(words)
    assert data.code == text.code
    shown, unsaid = squeezed(text.out + text.err), NOWHERE | set(more.split())
    left = {(key, value) for key, value in facts(data.data) if key not in unsaid and squeezed(value) not in shown}
    assert not left
