"""Files of a pack that are called like the map."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import run_hookset

SHEET = """
[pack]
name = "bell"
version = "1"
layouts = ["split-lua"]
[[files]]
from = "bell.wav"
to = "{to}"
"""


def pack(folder: Path, to: str) -> str:
    folder.mkdir(exist_ok=True)
    (folder / "hooksheet.toml").write_text(SHEET.replace("{to}", to))
    (folder / "bell.wav").write_bytes(b"RIFF\x24\x00\x00\x00WAVEfmt \x10\x00\x00\x00")
    return str(folder)


def test_a_file_is_called_like_the_map(demo: Path) -> None:
    root = demo
    done = run_hookset(
        root, "install", pack(demo.parent / "bell", "sounds/bell/{map:name|lower|blanks:_}_bell.wav"), "--json"
    )
    assert done.code == 0, done.out
    assert [file["path"] for file in done.data["packs"][0]["files"]] == ["sounds/bell/brackwater_bell.wav"]
    assert (root / "sounds/bell/brackwater_bell.wav").is_file()
    looked = run_hookset(root, "inspect", str(demo.parent / "bell"), "--json").data
    assert looked["unused"] == ["sounds/bell/brackwater_bell.wav"]
    assert run_hookset(root, "remove", "bell").code == 0
    assert not (root / "sounds/bell").exists()


def test_only_what_the_map_is_called_can_be_in_the_name_of_a_file(demo: Path) -> None:
    root = demo
    refused = run_hookset(root, "install", pack(demo.parent / "bell", "sounds/{setting:word}.wav"), "--json")
    assert refused.code == 3
    assert "hooksheet.toml:8" in str(refused.data["error"])
    misspelt = pack(demo.parent / "bell", "sounds/{name}.wav")
    assert run_hookset(root, "install", misspelt).code == 3


def test_what_a_map_does_not_say_is_told(demo: Path) -> None:
    root = demo
    refused = run_hookset(root, "install", pack(demo.parent / "bell", "sounds/{map:colour}.wav"), "--json")
    assert refused.code == 3
    assert "hooksheet.toml:8" in str(refused.data["error"])
    assert not (root / ".hookset/ledger.json").exists()


def test_a_name_of_the_map_may_not_lead_elsewhere(demo: Path) -> None:
    root = demo
    toml = root / "map.toml"
    toml.write_text(toml.read_text().replace('name = "brackwater"', 'name = "../../brackwater"'))
    refused = run_hookset(root, "install", pack(demo.parent / "bell", "sounds/{map:name}.wav"), "--json")
    assert refused.code == 3
    assert "hooksheet.toml:8" in str(refused.data["error"])
    assert not list(demo.parent.glob("**/brackwater.wav"))
