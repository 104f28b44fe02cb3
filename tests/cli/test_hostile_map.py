"""A map that somebody else has made, `.hookset` and all: it reaches nothing outside of itself, whatever it says."""

from __future__ import annotations

import hashlib
import io
import json
import os
import socket
import stat
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from hookset.applying import Disk
from hookset.model.visible import json_escaped, visible
from hookset.project import MapProject
from tests.conftest import Ran, run_hookset, snapshot
from tests.packs import made_pack
from tests.program import Limits, run_program

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover

Run = Callable[..., Ran]

COMMANDS = (
    ["status"], ["list"], ["check"], ["trace", "quay_bell"], ["recover"], ["install", "../packs/fog-bell.zip"],
    ["undo"], ["undo", "--of-others"], ["recover", "--finish"], ["recover", "--take-back"], ["recover", "--give-up"],
)  # fmt: skip


def sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def journal(root: Path, folder: str, steps: list[dict[str, Any]], **more: Any) -> None:
    """A journal as somebody might write one, with the bytes that it is to put in place."""
    place = root / ".hookset" / folder
    for side in ("old", "new"):
        (place / side).mkdir(parents=True)
    for number, step in enumerate(steps):
        (place / "new" / str(number)).write_bytes(b"planted")
        (place / "old" / str(number)).write_bytes(b"planted")
        step |= {"before": step.get("before", sha(b"planted")), "after": step.get("after", sha(b"planted"))}
    entry = {"entry": 1, "id": "0001", "action": "install", "title": "x", "time": "t", "steps": steps} | more
    (place / "journal.json").write_text(json.dumps(entry))


def outside(root: Path) -> dict[str, tuple[int, bytes]]:
    """Everything beside the map, with its mode."""
    files = [path for path in root.parent.rglob("*") if path.is_file() and not path.is_relative_to(root)]
    return {str(path): (stat.S_IMODE(path.stat().st_mode), path.read_bytes()) for path in files}


@pytest.mark.parametrize("place", ["work", "history/0001"])
@pytest.mark.parametrize(
    ("step", "more"),
    [
        pytest.param({"path": "../planted.txt", "before": None}, {}, id="above-the-map"),
        pytest.param({"path": "/tmp/planted-by-a-map.txt", "before": None}, {}, id="absolute"),
        pytest.param({"path": "link/planted.txt", "before": None}, {}, id="through-a-link"),
        pytest.param({"path": ".git/hooks/post-checkout", "before": None, "mode": 0o4755}, {}, id="control-file"),
        pytest.param({"path": ".hookset/kept/../../x", "before": None}, {}, id="own-folder"),
        pytest.param({"path": "map.toml", "before": "x"}, {}, id="no-digest"),
        pytest.param({"path": "map.toml"}, {"id": "../../0001"}, id="id-that-is-a-path"),
        pytest.param({"path": "map.toml"}, {"made": ["../made"]}, id="folder-outside"),
    ],
)
def test_a_foreign_journal_reaches_nothing(place: str, step: dict[str, Any], more: dict[str, Any], demo: Path) -> None:
    (demo.parent / "elsewhere").mkdir()
    (demo / "link").symlink_to(demo.parent / "elsewhere")
    before, inside = outside(demo), snapshot(demo)
    journal(demo, place, [dict(step)], **more)
    for command in COMMANDS[:5]:
        run_hookset(demo, *command)
        assert outside(demo) == before
    assert snapshot(demo) == inside
    for command in COMMANDS[5:]:
        run_hookset(demo, *command)
        assert outside(demo) == before
    assert not Path("/tmp/planted-by-a-map.txt").exists()
    assert not (demo / ".git").exists()
    assert not (demo.parent / "made").exists()


def test_a_change_of_somebody_else_is_shown_and_followed_only_when_asked(demo: Path) -> None:
    before = snapshot(demo)
    journal(demo, "work", [{"path": "planted.txt", "before": None}])
    assert run_hookset(demo, "check").code == 0
    assert snapshot(demo) == before
    refused = run_hookset(demo, "install", "../packs/fog-bell.zip", "--json")
    assert refused.code == 1 and snapshot(demo) == before
    shown = run_hookset(demo, "recover", "--json")
    assert shown.code == 1 and shown.data["interrupted"]["own"] is False
    assert run_hookset(demo, "recover", "--give-up").code == 0
    assert snapshot(demo) == before
    assert run_hookset(demo, "recover").code == 0
    journal(demo, "work", [{"path": "planted.txt", "before": None}])
    assert run_hookset(demo, "recover", "--finish").code == 0
    assert (demo / "planted.txt").read_bytes() == b"planted"


def test_bytes_that_are_not_those_of_the_journal_are_not_put_in_place(demo: Path) -> None:
    before = snapshot(demo)
    journal(demo, "work", [{"path": "planted.txt", "before": None, "after": sha(b"something else")}])
    assert run_hookset(demo, "recover", "--finish").code == 1
    assert snapshot(demo) == before


@pytest.mark.parametrize("name", [".hookset", ".hookset/work", ".hookset/history", ".hookset/kept"])
def test_our_own_folders_are_no_links(name: str, demo: Path) -> None:
    target = demo.parent / "elsewhere"
    target.mkdir()
    (demo / name).parent.mkdir(exist_ok=True)
    (demo / name).symlink_to(target)
    for command in (["status"], ["install", "../packs/fog-bell.zip"], ["undo"]):
        assert run_hookset(demo, *command).code == 3
    assert list(target.iterdir()) == []


@pytest.mark.parametrize("name", [".gitignore", "lock", "log.json", "log.json.part"])
def test_our_own_files_are_written_through_no_link(name: str, demo: Path) -> None:
    victim = demo.parent / "victim.txt"
    victim.write_text("mine")
    (demo / ".hookset").mkdir()
    (demo / ".hookset" / name).symlink_to(victim)
    (demo.parent / "game.log").write_text("error: x\n")
    run_hookset(demo, "log", "../game.log")
    assert run_hookset(demo, "install", "../packs/fog-bell.zip").code == 0
    assert victim.read_text() == "mine"


def test_nothing_is_written_through_a_link_out_of_the_map(demo: Path, tmp_path: Path) -> None:
    target = demo.parent / "elsewhere"
    target.mkdir()
    (demo / "extra").symlink_to(target)
    pack = made_pack(tmp_path, "leak", '[[files]]\nfrom = "a/**"\nto = "extra"\n', {"a/x.txt": "x"})
    stopped = run_hookset(demo, "install", str(pack), "--json")
    assert stopped.code == 1 and stopped.data["stops"]
    assert list(target.iterdir()) == []
    (demo / "hookset.toml").write_text((demo / "hookset.toml").read_text() + '\n[build]\nfolder = "extra"\n')
    assert run_hookset(demo, "build").code == 1
    assert run_hookset(demo, "check", "--report", "extra/r.html").code == 1
    assert list(target.iterdir()) == []


def test_a_linked_file_of_the_map_stays_a_link(demo: Path) -> None:
    main = demo / "scripts/server/main.lua"
    (demo / "real").mkdir()
    main.rename(demo / "real/main.lua")
    main.symlink_to("../../real/main.lua")
    assert run_hookset(demo, "install", "../packs/fog-bell.zip", "--anyway").code == 0
    assert main.is_symlink()
    assert "fog_bell" in (demo / "real/main.lua").read_text()
    assert run_hookset(demo, "undo").code == 0
    assert main.is_symlink() and "fog_bell" not in main.read_text()


def test_a_build_folder_hides_nothing_of_the_map(demo: Path) -> None:
    main = demo / "scripts/server/main.lua"
    main.write_text(main.read_text() + 'require("nowhere")\n')
    assert run_hookset(demo, "check").code == 1
    (demo / "hookset.toml").write_text((demo / "hookset.toml").read_text() + '\n[build]\nfolder = "scripts"\n')
    assert run_hookset(demo, "check").code == 1
    for folder in ("../out", "/tmp/out", ".hookset"):
        text = (demo / "hookset.toml").read_text().replace('folder = "scripts"', f'folder = "{folder}"')
        (demo / "hookset.toml").write_text(text)
        assert run_hookset(demo, "build", "--anyway").code == 1
        (demo / "hookset.toml").write_text(text.replace(f'folder = "{folder}"', 'folder = "scripts"'))


@pytest.mark.parametrize(
    "path",
    [".git/hooks/post-checkout", ".vscode/tasks.json", "Makefile", "play.desktop", "scripts/.env", ".hidden/x.lua"],
)
def test_control_files_stop_an_install_and_are_found_again(path: str, demo: Path, tmp_path: Path) -> None:
    before = snapshot(demo)
    pack = made_pack(tmp_path, "ctl", '[[files]]\nfrom = "**"\n', {path: "echo x\n", "textures/fine.txt": "x"})
    stopped = run_hookset(demo, "install", str(pack), "--json")
    assert stopped.code == 1
    assert any(path in detail for stop in stopped.data["stops"] for detail in stop["details"])
    assert snapshot(demo) == before
    assert run_hookset(demo, "install", str(pack), "--control-files", "--anyway").code == 0
    assert (demo / path).exists()
    assert run_hookset(demo, "status").code == 0
    (demo / path).write_text("changed\n")
    assert run_hookset(demo, "status").code == 1
    (demo / path).write_text("echo x\n")
    assert run_hookset(demo, "remove", "ctl").code == 0
    assert snapshot(demo) == before


@pytest.mark.parametrize(
    "sheet",
    [
        '[[blank]]\nname = "b"\nkind = "file"\ninto = "../out.bin"\n',
        '[[files]]\nfrom = "a.txt"\nto = "../out"\n',
        '[[setting]]\nname = "s"\ntype = "int"\ndefault = 3\nwrite = [{ file = "../hosts", assign = "X" }]\n',
    ],
)
def test_nothing_of_a_pack_goes_outside(sheet: str, demo: Path, tmp_path: Path) -> None:
    pack = made_pack(tmp_path, "out", sheet, {"a.txt": "x"})
    before = outside(demo)
    blank = tmp_path / "blank.bin"
    blank.write_bytes(b"x")
    before = outside(demo)
    more = ["--blank", f"b={blank}"] if "blank" in sheet else []
    assert run_hookset(demo, "install", str(pack), *more).code in (1, 2, 3)
    assert run_hookset(demo, "install", str(pack), *more, "--anyway").code in (1, 2, 3)
    assert outside(demo) == before


def test_answers_of_somebody_else_move_nothing_outside(demo: Path, tmp_path: Path) -> None:
    (tmp_path / "answers.toml").write_text('[packs.fog-bell.moved]\n"scripts" = "../../stolen"\n')
    before = outside(demo)
    assert run_hookset(demo, "install", "../packs/fog-bell.zip", "--answers", str(tmp_path / "answers.toml")).code != 0
    assert outside(demo) == before
    (tmp_path / "answers.toml").write_text("control_files = true\n")
    assert run_hookset(demo, "install", "../packs/fog-bell.zip", "--answers", str(tmp_path / "answers.toml")).code == 3


def test_a_damaged_kept_file_is_not_used(packed: MapProject) -> None:
    root = packed.root
    for file in (root / ".hookset/kept").iterdir():
        file.write_bytes(b"planted")
    script = next(path for path in root.rglob("*.lua") if "lift_bridge" in path.name)
    script.write_text(script.read_text() + "-- mine\n")
    assert run_hookset(root, "status", "--json").data["packs"]
    assert b"planted" not in b"".join(snapshot(root).values())


@pytest.mark.parametrize("kind", ["fifo", "socket", "device", "folder"])
@pytest.mark.parametrize(
    "command",
    [
        ["inspect", "{}"], ["log", "{}"], ["check", "--since", "{}"], ["install", "../packs/fog-bell.zip", "--answers", "{}"],
        ["layout", "show", "{}"], ["draft", "../published/fog_bell_v0.4.zip", "--layout", "{}.toml"],
    ],
    ids=lambda words: " ".join(words)[:30],
)  # fmt: skip
def test_what_is_no_file_is_refused_at_once(kind: str, command: list[str], demo: Path, tmp_path: Path) -> None:
    place = tmp_path / "odd"
    name = f"{place}.toml" if command[-1].endswith(".toml") else str(place)
    if kind == "fifo":
        os.mkfifo(name)
    elif kind == "socket":
        here = Path.cwd()
        os.chdir(tmp_path)
        with socket.socket(socket.AF_UNIX) as bound:
            bound.bind(Path(name).name)
        os.chdir(here)
    elif kind == "device":
        Path(name).symlink_to("/dev/zero")
    else:
        Path(name).mkdir()
    words = tuple(word.format(place) for word in command)
    done = run_program(demo, words, dict(os.environ), Limits(seconds=20))
    assert done.code in (1, 2, 3)
    assert "Traceback" not in done.err


NASTY = "\x1b[2Jbell\x9b\u202egpj.exe\u200b\u2066"


def test_nothing_raw_reaches_a_terminal_or_a_page(demo: Path, tmp_path: Path) -> None:
    sheet = f'title = {json.dumps(NASTY)}\nhome = "javascript:alert(1)"\nauthors = ["[x](javascript:1)<b>"]\n'
    pack = made_pack(tmp_path, "nasty", sheet + '[[hook]]\nseat = "server-start"\ntext = "-- \\u001b[2J\\u202e"\n')
    main = demo / "scripts/server/main.lua"
    main.write_text(main.read_text() + f'require("a{NASTY[-6:]}")\n')
    (tmp_path / "game.log").write_text(f"error: {NASTY}\n")
    outs = [run_hookset(demo, "inspect", str(pack)), run_hookset(demo, "install", str(pack), "--anyway")]
    outs += [
        run_hookset(demo, *words)
        for words in (["check"], ["list"], ["status", "--all"], ["log", str(tmp_path / "game.log")])
    ]
    credits = run_hookset(demo, "credits")
    outs += [credits, *(run_hookset(demo, *words, "--json") for words in (["check"], ["list"], ["credits"]))]
    reports = [f"build/r.{ending}" for ending in ("html", "json", "sarif", "xml")]
    run_hookset(demo, "check", *(word for report in reports for word in ("--report", report)))
    texts = [ran.out + ran.err for ran in outs] + [(demo / report).read_text() for report in reports]
    for text in texts:
        assert visible(text) == text, text[:300]
    assert "<javascript" not in credits.out
    assert "](javascript" not in credits.out.replace("\\]", "")


@pytest.mark.parametrize("text", [NASTY, "a\udcffb", "\U000e0041", "tab\tand\nline"])
def test_escapes_are_seen_and_mean_the_same_in_json(text: str) -> None:
    assert visible(visible(text)) == visible(text)
    assert json.loads(json_escaped(json.dumps(text, ensure_ascii=False))) == text


def test_a_card_of_the_shelf_names_nothing_elsewhere(demo: Path, tmp_path: Path) -> None:
    assert run_hookset(demo, "shelf", "keep", "../packs/fog-bell.zip").code == 0
    card = next(Path(os.environ["XDG_DATA_HOME"]).rglob("shelf.json"))
    victim = tmp_path / "victim"
    victim.mkdir()
    (victim / "x.txt").write_text("mine")
    data = json.loads(card.read_text())
    card.write_text(json.dumps(data | {"file": os.path.relpath(victim / "x.txt", card.parent)}))
    for command in (["shelf"], ["shelf", "drop", "fog-bell"], ["install", "fog-bell"]):
        assert run_hookset(demo, *command).code == 3
    assert (victim / "x.txt").read_text() == "mine"


@pytest.mark.parametrize(("roots", "code"), [("/", 3), (".", 3), ("../brackwater", 3), ("..", 0), ("../..", 0)])
def test_a_content_root_is_never_the_map_nor_a_disk(roots: str, code: int, demo: Path) -> None:
    """One above the map is left without it: otherwise all that it defines would be the game's as well."""
    file = demo / "hookset.toml"
    assert "[content]\n" in file.read_text()
    file.write_text(file.read_text().replace("[content]\n", f'[content]\nroots = ["{roots}"]\n'))
    assert run_hookset(demo, "check").code == code


@pytest.mark.parametrize(
    ("names", "code"),
    [
        pytest.param(("brackwater-3.zip.new", ".brackwater-3.zip"), 0, id="beside-it"),
        pytest.param(("brackwater-3.zip",), None, id="in-its-place"),
    ],
)
def test_a_build_writes_through_no_link(names: tuple[str, ...], code: int | None, demo: Path) -> None:
    victim = demo.parent / "victim.txt"
    victim.write_text("keep")
    (demo / "build").mkdir(exist_ok=True)
    for name in names:
        (demo / "build" / name).symlink_to(victim)
    before = outside(demo)
    built = run_hookset(demo, "build")
    assert outside(demo) == before
    assert code is None or built.code == code
    archive = demo / "build/brackwater-3.zip"
    assert archive.is_symlink() == (built.code != 0)


def test_a_staged_file_is_written_through_no_link(tmp_path: Path) -> None:
    victim = tmp_path / "victim.txt"
    victim.write_text("keep")
    (tmp_path / "journal.json.new").symlink_to(victim)
    with pytest.raises(OSError):
        Disk().write(tmp_path / "journal.json.new", io.BytesIO(b"planted"))
    assert victim.read_text() == "keep"
