"""Steps of a build: small real programs that make files of the map, run when what they read has changed and only then."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec
import pytest

from hookset.building.programs import filled
from hookset.building.steps.record import read_runs, write_runs
from tests.conftest import Ran, snapshot
from tests.terminal import at_terminal, interruptible

Run = Callable[..., Ran]

COMPRESS = """
import pathlib, sys, zlib
for file in sorted(pathlib.Path("art").glob("*.txt")):
    if b"broken" in file.read_bytes():
        print(f"{file}:1: error: it is broken")
    pathlib.Path("made", file.stem + ".bin").write_bytes(zlib.compress(file.read_bytes()))
"""
GREY = """
import pathlib
from PIL import Image
for file in pathlib.Path("textures").glob("*.png"):
    Image.open(file).convert("L").save(f"grey/{file.name}")
"""
LIST = """
import pathlib
names = sorted(one.name for one in pathlib.Path("made").glob("*.bin"))
pathlib.Path("made.list").write_text("\\n".join(names))
"""
LIGHT = """
import pathlib
pathlib.Path("light.txt").write_text(str(len(pathlib.Path("scene.json").read_text())))
"""
STEPS = f"""
[[step]]
name = "compress"
title = "art, as the game takes it"
command = ["{sys.executable}", "tools/compress.py"]
tools = ["tools/compress.py"]
reads = ["art/*.txt"]
writes = ["made/*.bin"]
[[step.log]]
match = '^(?P<file>[^:]+):(?P<line>[0-9]+): error: (?P<text>.*)'
[[step]]
name = "list"
command = ["{sys.executable}", "tools/list.py"]
tools = ["tools/list.py"]
after = ["compress"]
writes = ["made.list"]
[[step]]
name = "grey"
command = ["{sys.executable}", "tools/grey.py"]
tools = ["tools/grey.py"]
reads = ["textures/*.png"]
writes = ["grey/*.png"]
[[step]]
name = "light"
command = ["{sys.executable}", "tools/light.py"]
tools = ["tools/light.py"]
reads = ["scene.json"]
needed_by_values = [{{ file = "scene.json", ask = {{ at = "$.lamps[*].at" }} }}]
writes = ["light.txt"]
"""
LAYOUT = """
[layout]
name = "own"
title = "A map with steps"
[build]
archive = "{name}.zip"
[kinds.art]
label = "art"
path = true
[[read]]
files = "**"
format = "any"
[[read.defines]]
kind = "art"
name = "{path}"
[[read]]
files = "scene.json"
format = "json"
[[read.refers]]
kind = "art"
at = "$.shows[*]"
"""
SCENE: dict[str, Any] = {"lamps": [{"at": 1}], "note": "", "shows": ["made/one.bin"]}


@pytest.fixture
def root(demo: Path, tmp_path: Path) -> Path:
    """A map whose files are made by four steps, two of them one behind the other."""
    root = tmp_path / "town"
    for folder in ("art", "textures", "tools"):
        (root / folder).mkdir(parents=True)
    for name, source in (("compress", COMPRESS), ("grey", GREY), ("list", LIST), ("light", LIGHT)):
        (root / f"tools/{name}.py").write_text(source)
    (root / "art/one.txt").write_text("one")
    (root / "art/two.txt").write_text("two")
    picture = next((demo / "textures").rglob("*.png"))
    (root / "textures/sign.png").write_bytes(picture.read_bytes())
    (root / "scene.json").write_text(json.dumps(SCENE, indent=1))
    (root / "own.toml").write_text(LAYOUT)
    (root / "hookset.toml").write_text(f'[map]\nname = "town"\nlayout = "own.toml"\n{STEPS}')
    return root


def allowed(run: Run, root: Path) -> str:
    """The word by which the commands go that are not allowed yet."""
    return run("build", folder=root).err.partition("--allow ")[2].split()[0]


def ran(run: Run, root: Path, *more: str) -> dict[str, str]:
    """A build that succeeds: what became of each step."""
    done = run("build", "--json", *more, folder=root)
    assert done.code == 0, done.err
    return {one["step"]: one["ending"] for one in done.data["steps"]}


def expected(run: Run, root: Path, *more: str) -> dict[str, str]:
    found = run("build", "--what-next", "--json", *more, folder=root).data["what_next"]
    return {one["step"]: one["runs"] for one in found}


@pytest.fixture
def built_here(root: Path, hookset: Run) -> Path:
    """The same, built once."""
    assert set(ran(hookset, root, "--allow", allowed(hookset, root)).values()) == {"ran"}
    return root


_KEPT: list[Path] = []
"""The map as it was built, and what was allowed for that: to build it in each test would take most of its time."""


@pytest.fixture
def built(root: Path, hookset: Run, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The same, built once, and elsewhere."""
    allowed_file = Path(os.environ["XDG_CONFIG_HOME"]) / "hookset/allowed.toml"
    if not _KEPT:
        assert set(ran(hookset, root, "--allow", allowed(hookset, root)).values()) == {"ran"}
        kept = tmp_path_factory.mktemp("built")
        shutil.copytree(root, kept / "town")
        shutil.copy(allowed_file, kept)
        _KEPT.append(kept)
        return root
    shutil.rmtree(root)
    shutil.copytree(_KEPT[0] / "town", root)
    allowed_file.parent.mkdir(parents=True, exist_ok=True)
    shutil.copy(_KEPT[0] / "allowed.toml", allowed_file)
    return root


AS_IT_WAS = dict.fromkeys(("compress", "list", "grey", "light"), "as it was")


def test_nothing_runs_before_it_is_allowed(root: Path, hookset: Run) -> None:
    before = snapshot(root)
    refused = hookset("build", "--json", folder=root)
    assert (refused.code, refused.told) == (1, ["command-not-allowed"])
    assert any("tools/compress.py" in line for line in refused.wrong[0]["details"])
    assert hookset("build", "--allow", "0123456789ab", folder=root).code == 2
    assert snapshot(root) == before
    word = allowed(hookset, root)
    # What is shown is what is allowed: a command that changes in between is not.
    (root / "tools/compress.py").write_text(COMPRESS + "# more\n")
    assert hookset("build", "--allow", word, folder=root).code == 2
    assert snapshot(root).keys() == before.keys()
    assert ran(hookset, root, "--allow", allowed(hookset, root))["compress"] == "ran"
    # A tool that has changed since is asked for again, and it alone.
    (root / "tools/list.py").write_text(LIST + "# more\n")
    refused = hookset("build", folder=root)
    assert refused.code == 1
    assert "tools/list.py" in refused.err
    assert "tools/compress.py" not in refused.err


def test_what_the_steps_make_is_in_the_archive_and_the_second_build_runs_nothing(
    built_here: Path, hookset: Run
) -> None:
    built = built_here
    with zipfile.ZipFile(built / "build/town.zip") as archive:
        assert {"made/one.bin", "made/two.bin", "made.list", "grey/sign.png"} <= set(archive.namelist())
        assert archive.read("made.list") == b"one.bin\ntwo.bin"
    before = (built / "build/town.zip").stat().st_mtime_ns
    assert ran(hookset, built) == AS_IT_WAS
    assert (built / "build/town.zip").stat().st_mtime_ns == before


@pytest.mark.parametrize(
    ("change", "runs"),
    [
        ("art/two.txt", {"compress": "ran", "list": "ran"}),
        ("art/three.txt", {"compress": "ran", "list": "ran"}),
        ("textures/sign.png", {"grey": "ran"}),
        ("tools/grey.py", {"grey": "ran"}),
        ("a lamp", {"light": "ran"}),
        ("a note", {}),
        ("other.txt", {}),
        ("a time", {}),
        ("lost", {"compress": "ran"}),
        ("gone", {"compress": "ran", "list": "ran"}),
    ],
)
def test_exactly_what_a_change_needs_runs(built: Path, hookset: Run, change: str, runs: dict[str, str]) -> None:
    if change in ("a lamp", "a note"):
        scene = SCENE | ({"lamps": [{"at": 2}]} if change == "a lamp" else {"note": "new"})
        (built / "scene.json").write_text(json.dumps(scene, indent=1))
    elif change == "a time":
        os.utime(built / "art/one.txt", (1, 1))
    elif change == "lost":
        (built / "made/two.bin").unlink()
    elif change == "gone":
        (built / "art/two.txt").unlink()
    elif change == "tools/grey.py":
        (built / change).write_text(GREY + "# more\n")
    elif change.endswith(".png"):
        (built / change).write_bytes(next((built.parent / "demo").rglob("textures/**/*.png")).read_bytes() + b"\n")
    else:
        (built / change).write_text("changed")
    may_run = {name for name, word in expected(hookset, built).items() if word != "no"}
    assert set(runs) <= may_run <= {*runs, "list"}
    more = ("--allow", allowed(hookset, built)) if change == "tools/grey.py" else ()
    assert ran(hookset, built, *more) == AS_IT_WAS | runs
    assert ran(hookset, built) == AS_IT_WAS
    if change == "gone":
        assert not (built / "made/two.bin").exists()


def test_a_step_that_fails_leaves_what_it_made_and_is_run_again(built: Path, hookset: Run) -> None:
    before = snapshot(built)
    (built / "art/one.txt").write_text("broken")
    failed = hookset("build", folder=built)
    assert failed.code == 1
    assert "art/one.txt:1: it is broken" in failed.err
    assert snapshot(built) == before | {"art/one.txt": b"broken"}
    assert expected(hookset, built)["compress"] == "yes"
    (built / "art/one.txt").write_text("one")
    assert ran(hookset, built) == AS_IT_WAS | {"compress": "ran"}
    assert snapshot(built) == before


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("source", "told"),
    [
        ("import pathlib; pathlib.Path('made/one.bin').unlink(missing_ok=True)", "made nothing"),
        ("raise SystemExit(3)", "exit code 3"),
        ("import os; os.kill(os.getpid(), 9)", "signal 9"),
        ("import time; time.sleep(60)", "did not end within"),
        ("x = bytearray(1 << 30)", "exit code 1"),
        ("while True: print('again ' * 10_000)", "printed more than"),
    ],
)
def test_a_step_that_lies_crashes_or_never_ends(root: Path, hookset: Run, source: str, told: str) -> None:
    text = (root / "hookset.toml").read_text()
    limits = 'writes = ["made/*.bin"]\nseconds = 5\nmegabytes = 256\n'
    (root / "hookset.toml").write_text(text.replace('writes = ["made/*.bin"]\n', limits))
    (root / "tools/compress.py").write_text(source)
    before = snapshot(root)
    done = hookset("build", "--allow", allowed(hookset, root), folder=root)
    assert done.code == 1
    assert told in done.err
    made = snapshot(root).keys() - before.keys()
    assert not any(path.startswith("made") for path in made)
    assert {"light.txt", "grey/sign.png"} <= made, "what does not need it has run"
    assert not list((root / ".hookset/steps").glob("*/copy"))


def test_what_a_step_writes_elsewhere_is_told_and_thrown_away(root: Path, hookset: Run) -> None:
    more = "pathlib.Path('stray.txt').write_text('x')\npathlib.Path('art/one.txt').write_text('spoilt')\n"
    (root / "tools/compress.py").write_text(COMPRESS + more)
    done = hookset("build", "--json", "--allow", allowed(hookset, root), folder=root)
    assert done.data["steps"][0]["thrown_away"] == ["stray.txt", "art/one.txt"]
    assert not (root / "stray.txt").exists()
    assert (root / "art/one.txt").read_text() == "one"


def test_what_somebody_made_or_changed_by_hand_is_never_written_over(built: Path, hookset: Run) -> None:
    (built / "made/one.bin").write_bytes(b"by hand")
    (built / "art/one.txt").write_text("changed")
    assert hookset("build", folder=built).code == 1
    assert (built / "made/one.bin").read_bytes() == b"by hand"
    (built / "made/one.bin").unlink()
    (built / "made/four.bin").write_bytes(b"mine")
    (built / "art/four.txt").write_text("four")
    assert hookset("build", folder=built).code == 1
    assert (built / "made/four.bin").read_bytes() == b"mine"
    (built / "made/four.bin").unlink()
    assert ran(hookset, built) == AS_IT_WAS | {"compress": "ran", "list": "ran"}


def test_files_of_packs_are_not_run(root: Path, hookset: Run) -> None:
    pack = root.parent / "pack"
    (pack / "files/tools").mkdir(parents=True)
    (pack / "files/tools/zlib.py").write_text("open('/tmp/never', 'w')")
    (pack / "hooksheet.toml").write_text(
        '[pack]\nname = "odd"\nversion = "1"\n[[files]]\nfrom = "files/tools/*"\nto = "tools/"\n'
    )
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(text.replace('reads = ["art/*.txt"]', 'reads = ["art/*.txt", "tools/*"]'))
    assert hookset("install", str(pack), folder=root).code == 0
    refused = hookset("build", "--json", folder=root)
    assert (refused.code, refused.told) == (1, ["command-not-allowed"])
    assert "odd" in refused.wrong[0]["what"]


def test_the_gate_comes_before_the_steps_and_after_them(root: Path, hookset: Run) -> None:
    word = allowed(hookset, root)
    scene = SCENE | {"shows": ["made/one.bin", "art/nine.txt"]}
    (root / "scene.json").write_text(json.dumps(scene))
    refused = hookset("build", "--allow", word, folder=root)
    assert hookset("build", "--allow", word, "--json", folder=root).told == ["map-has-errors"]
    assert refused.code == 1
    assert "art/nine.txt" in refused.err
    assert "made/one.bin" not in refused.err, "a step is to make it"
    assert not (root / "made").exists()
    # What a step promises by its pattern, and does not make, is missing all the same.
    (root / "scene.json").write_text(json.dumps(SCENE | {"shows": ["made/nine.bin"]}))
    refused = hookset("build", "--allow", allowed(hookset, root), folder=root)
    assert refused.code == 1
    assert "made/nine.bin" in refused.err
    assert (root / "made/one.bin").exists()
    assert not (root / "build").exists()


def test_only_one_step_or_all_of_them(built: Path, hookset: Run) -> None:
    (built / "art/three.txt").write_text("three")
    (built / "scene.json").write_text(json.dumps(SCENE | {"lamps": [{"at": 5}]}, indent=1))
    assert ran(hookset, built, "--only", "list") == {"compress": "ran", "list": "ran"}
    assert expected(hookset, built) == {"compress": "no", "list": "no", "grey": "no", "light": "yes"}
    assert hookset("build", "--only", "lists", folder=built).code == 2
    # No archive is written, and so none goes anywhere.
    assert hookset("build", "--only", "list", "--to", "elsewhere", folder=built).code == 2
    assert set(ran(hookset, built, "--full").values()) == {"ran"}


def test_independent_steps_run_side_by_side(tmp_path: Path, hookset: Run) -> None:
    root = tmp_path / "two"
    root.mkdir()
    # Each ends only once the other has begun.
    meet = f"""
import pathlib, sys, time
place = pathlib.Path({str(tmp_path)!r})
own, other = sys.argv[1:]
place.joinpath(own).touch()
end = time.monotonic() + 20
while not place.joinpath(other).exists():
    assert time.monotonic() < end
    time.sleep(0.01)
pathlib.Path(own).write_text(own)
"""
    (root / "meet.py").write_text(meet)
    (root / "own.toml").write_text(LAYOUT)
    (root / "scene.json").write_text("{}")
    steps = "".join(
        f'[[step]]\nname = "{own}"\ncommand = ["{sys.executable}", "meet.py", "{own}", "{other}"]\n'
        f'tools = ["meet.py"]\nwrites = ["{own}"]\n'
        for own, other in (("left", "right"), ("right", "left"))
    )
    (root / "hookset.toml").write_text(f'[map]\nname = "two"\nlayout = "own.toml"\n{steps}')
    if (os.cpu_count() or 1) > 1:
        assert ran(hookset, root, "--allow", allowed(hookset, root)) == {"left": "ran", "right": "ran"}


@pytest.mark.parametrize(
    ("ending", "name"),
    [*((signal.SIGKILL, name) for name in ("compress", "list", "grey", "light")), (signal.SIGINT, "list")],
)
def test_a_build_that_is_stopped_in_a_step_leaves_the_map_as_it_was(
    root: Path, hookset: Run, ending: int, name: str
) -> None:
    begun = root.parent / "begun"
    slow = f"import pathlib, time\npathlib.Path({str(begun)!r}).touch()\ntime.sleep(0.7)\n"
    tool = root / f"tools/{name}.py"
    tool.write_text(slow + tool.read_text())
    word = allowed(hookset, root)
    if name == "list":
        assert hookset("build", "--only", "compress", "--allow", word, folder=root).code == 0
    before = snapshot(root)
    command = [sys.executable, "-m", "hookset", "build", "--only", name, "--allow", word]
    process = subprocess.Popen(
        command, cwd=root, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, preexec_fn=interruptible
    )
    end = time.monotonic() + 30
    while not begun.exists() and time.monotonic() < end:
        time.sleep(0.02)
    process.send_signal(ending)
    process.wait(30)
    assert snapshot(root) == before
    assert expected(hookset, root)[name] == "yes"
    assert ran(hookset, root)[name] == "ran"
    assert not list((root / ".hookset/steps").glob("*/copy"))


def test_a_build_that_is_killed_between_two_files_knows_both_for_its_own(built: Path, hookset: Run) -> None:
    before = read_runs(built)
    old_two = (built / "made/two.bin").read_bytes()
    (built / "art/one.txt").write_text("new one")
    (built / "art/two.txt").write_text("new two")
    assert hookset("build", folder=built).code == 0
    after = read_runs(built).steps["compress"]
    # As it lies there when it is killed: what comes is noted, one of the two files is in place.
    half = msgspec.structs.replace(before.steps["compress"], coming=after.outputs, failed=True)
    write_runs(built, before.of("compress", half))
    (built / "made/two.bin").write_bytes(old_two)
    assert ran(hookset, built)["compress"] == "ran"
    assert read_runs(built).steps["compress"].outputs == after.outputs


def test_at_a_terminal_the_commands_are_shown_and_asked_for(root: Path) -> None:
    said = at_terminal(root, ["build"], [("Run them now", "y\n")])
    assert "tools/compress.py" in said
    assert "is built" in said
    assert (root / "build/town.zip").exists()


def test_steps_of_a_layout_run_like_those_of_a_project(root: Path, hookset: Run) -> None:
    (root / "own.toml").write_text(LAYOUT + STEPS)
    (root / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "own.toml"\n')
    word = allowed(hookset, root)
    assert set(ran(hookset, root, "--allow", word).values()) == {"ran"}
    # A step of the same name in the project takes the place of the layout's.
    own = f'[[step]]\nname = "light"\ncommand = ["{sys.executable}", "-c", "open(\'light.txt\', \'w\')"]\nwrites = ["light.txt"]\n'
    with (root / "hookset.toml").open("a") as file:
        file.write(own)
    assert ran(hookset, root, "--allow", allowed(hookset, root)) == AS_IT_WAS | {"light": "ran"}


@pytest.mark.parametrize(
    ("step", "told"),
    [
        ('name = "a"\ncommand = ["x"]\nwrites = ["y"]\nafter = ["b"]', "no step is called `b`"),
        ('name = "a"\ncommand = ["x"]\nwrites = ["y"]\nafter = ["a"]', "come after itself"),
        ('name = "a"\ncommand = []\nwrites = ["y"]', "no program"),
        ('name = "a"\ncommand = ["x {word}"]\nwrites = ["y"]', "{word}"),
        ('name = "a"\ncommand = ["x"]\nwrites = []', "makes nothing"),
        ('name = "../a"\ncommand = ["x"]\nwrites = ["y"]', "no name for a step"),
        ('name = "a"\ncommand = ["x"]\nwrites = ["y"]\nkinds = ["arts"]', "no kind is called `arts`"),
    ],
)
def test_mistakes_in_steps_are_told_with_their_line(root: Path, hookset: Run, step: str, told: str) -> None:
    (root / "hookset.toml").write_text(f'[map]\nname = "town"\nlayout = "own.toml"\n[[step]]\n{step}\n')
    done = hookset("build", folder=root)
    assert done.code == 3
    assert told in done.err
    assert "hookset.toml:" in done.err


def test_a_program_that_is_not_there_is_told(root: Path, hookset: Run) -> None:
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(
        text.replace(f'"{sys.executable}", "tools/light', '"no-such-program", "tools/light')
    )
    done = hookset("build", "--allow", allowed(hookset, root), folder=root)
    assert done.code == 1
    assert "no-such-program" in done.err


def test_what_stands_for_a_word_is_not_filled_in_again() -> None:
    assert filled("{map} in {folder}, {other}", {"map": "{folder}", "folder": "f"}) == "{folder} in f, {other}"
