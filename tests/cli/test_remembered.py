"""A check after a change tells what was judged before the change was written, and the very same as one from nothing."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Ran

NOTHING_NEW = "nothing has changed since the last check"


def alike(hookset: Callable[..., Ran]) -> bool:
    """Whether a check recalls a verdict; in any case it is the one from nothing."""
    known, fresh = hookset("-v", "check", "--json"), hookset("--no-cache", "check", "--json")
    assert (known.code, known.out) == (fresh.code, fresh.out)
    return NOTHING_NEW in known.err


@pytest.mark.no_cover
@pytest.mark.usefixtures("demo")
def test_a_check_after_a_change_is_recalled(hookset: Callable[..., Ran]) -> None:
    assert hookset("install", "../packs/lift-bridge.zip", "../packs/lamp-row-1.0.0.zip").code == 0
    # Sounds and pictures are told by their stamps, which files have that are two seconds old.
    time.sleep(2.1)
    for change in (
        ("upgrade", "../packs/lamp-row-2.0.0.zip"),
        ("place", "lock_wheel", "--at", "41,2,3", "--anyway"),
        ("move", "lock_wheel", "--by", "0,0,2", "--anyway"),
        ("remove", "lamp-row", "--anyway"),
    ):
        assert hookset(*change).code == 0, change
        assert alike(hookset), change
        time.sleep(2.1)


@pytest.mark.usefixtures("demo")
def test_what_was_undone_is_known_by_its_bytes(hookset: Callable[..., Ran]) -> None:
    time.sleep(2.1)
    assert not alike(hookset)
    assert hookset("install", "../packs/lift-bridge.zip").code == 0
    assert hookset("undo").code == 0
    assert alike(hookset)


@pytest.mark.usefixtures("demo")
def test_what_changes_the_project_is_judged_again(hookset: Callable[..., Ran]) -> None:
    time.sleep(2.1)
    assert hookset("rename", "saltwater").code == 0
    assert not alike(hookset)


def test_a_hand_beside_a_change_is_seen(demo: Path, hookset: Callable[..., Ran]) -> None:
    time.sleep(2.1)
    assert hookset("install", "../packs/lift-bridge.zip").code == 0
    texture = demo / "textures/planks.png"
    data = bytearray(texture.read_bytes())
    data[1] ^= 0xFF
    texture.write_bytes(data)
    assert not alike(hookset)
    assert "planks.png" in hookset("check").out
