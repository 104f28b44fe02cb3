"""Damaged state files, hook sheets, layouts, project files, answers, stocks and logs by the thousand: one of them is
broken (or written as somebody would who wishes harm), and the program itself is run on it. Nothing beside the map may
change, nothing may take longer than 10 s or 400 MB, and there is no traceback. Writes docs/fuzz-state.md.

    python benchmarks/fuzz_state.py [RUNS [SEED]]
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
import platform
import random
import re
import resource
import shutil
import signal
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent.parent))

from benchmarks.batches import Done, asked_for, in_batches, limited
from benchmarks.fuzz_files import mutated

PAGE = Path(__file__).parent.parent / "docs/fuzz-state.md"
BATCH = 250
SECONDS = 10
MEMORY = 400 << 20
WORDS = (
    b"../../escaped.txt", b"/tmp/hookset-fuzz-escaped", b".git/hooks/post-checkout", b".hookset/ledger.json", b"link/x",
    b"4095", b"-1", b"9" * 5000, b"1e999", b"null", b"true", b"[]", b"{}", b'"\\ud800"', b'"\\u001b[2J"', b"**/" * 60,
    b"*a" * 60, b"(a+)+$", b"{name.__class__}", b"{0}", b"{next:object}{next:object}", b"$..*..*", b"//*//*",
    b"//x:a", b"count(//a)", b"//a/namespace::*", b"//a[matches(@b)]", b"$[?@.a == 1e999]", b"$[?@ =~ /(/]", b"",
    b"(string) @value (#match? @value '(a|aa)+b')", b"(string", b"\xc2\xb2", b"a." * 300,
    b"[[hook]]\n" * 300, b"2020-01-01", b"nan", b"inf",
)  # fmt: skip
# What is broken, and the commands that read it.
TARGETS: dict[str, tuple[str, tuple[str, ...]]] = {
    "ledger": (
        "brackwater/.hookset/ledger.json",
        (
            "status",
            "check",
            "list",
            "credits",
            "remove lift-bridge --drop-changed",
            "tune lift-bridge toll=9",
            "install ../packs/fog-bell.zip",
        ),
    ),
    "history": (
        "brackwater/.hookset/history/0001/journal.json",
        (
            "status",
            "undo",
            "undo --of-others",
            "undo --keep-last 0",
        ),
    ),
    "interrupted": (
        "brackwater/.hookset/work/journal.json",
        (
            "check",
            "recover",
            "recover --finish",
            "recover --take-back",
            "recover --give-up",
            "install ../packs/fog-bell.zip",
        ),
    ),
    "project file": (
        "brackwater/hookset.toml",
        (
            "check",
            "status",
            "build --anyway",
            "rename Other --preview",
        ),
    ),
    "layout": (
        "brackwater/own.toml",
        (
            "check",
            "layout show own.toml",
            "layout explain",
            "install ../packs/fog-bell.zip --preview",
        ),
    ),
    **{
        f"layout of the {name}": (
            f"maps/{name}/own.toml",
            (
                f"--map ../maps/{name} check",
                f"--map ../maps/{name} layout explain",
                f"--map ../maps/{name} stock find a",
            ),
        )
        for name in ("basin", "course", "shore")
    },
    "hook sheet": (
        "sheeted/hooksheet.toml",
        (
            "inspect ../sheeted",
            "install ../sheeted",
            "install ../sheeted --anyway --control-files",
        ),
    ),
    "answers": (
        "answers.toml",
        ("install ../packs/lift-bridge.zip --answers ../answers.toml",),
    ),
    "stock list": (
        "base.stock.json",
        (
            "check",
            "stock find bell",
        ),
    ),
    "stock": (
        "made.stock",
        (
            "--map ../stocked check",
            "--map ../stocked stock find bell",
        ),
    ),
    "log": (
        "game.log",
        ("log ../game.log",),
    ),
    "shelf card": (
        "data/hookset/shelf/fog-bell/0.4/shelf.json",
        (
            "shelf",
            "install fog-bell --preview",
            "shelf drop fog-bell",
        ),
    ),
}


def broken(data: bytes, dice: random.Random) -> bytes:
    """A few changes, of which many put in what is known to be harmful where a value stands."""
    if dice.randrange(3) == 0:
        return bytes(mutated(data, data, dice))
    for _ in range(dice.choice([1, 1, 2, 3])):
        quotes = [index for index, byte in enumerate(data) if byte == 0x22]
        word = dice.choice(WORDS)
        if len(quotes) > 1 and dice.randrange(4):
            at = dice.randrange(len(quotes) - 1)
            data = data[: quotes[at] + 1] + word + data[quotes[at + 1] :]
        else:
            at = dice.randrange(len(data) + 1)
            data = data[:at] + word + data[at:]
    return data


def laid_out(folder: Path) -> None:
    """Brackwater with a pack in it, a layout of its own, and all else that there is to be broken."""
    from hookset.config.layouts import layout_source
    from hookset.demo import lay_out

    lay_out(folder / "demo")
    for part in ("brackwater", "packs", "maps", "base.stock.json"):
        shutil.move(folder / "demo" / part, folder / part)
    shutil.rmtree(folder / "demo")
    root = folder / "brackwater"
    ran(root, "start")
    (root / "own.toml").write_text(layout_source("split-lua"))
    text = (root / "hookset.toml").read_text()
    (root / "hookset.toml").write_text(text.replace('"split-lua"', '"own.toml"'))
    for other in ("basin", "course", "shore"):
        ran(folder / "maps" / other, "start")
        project = folder / "maps" / other / "hookset.toml"
        text = project.read_text()
        (name,) = re.findall(r'(?m)^layout = "(.*)"', text)
        (project.parent / "own.toml").write_text(layout_source(name))
        project.write_text(text.replace(f'layout = "{name}"', 'layout = "own.toml"'))
    ran(root, "install", "../packs/lift-bridge.zip")
    shutil.copytree(root / ".hookset/history/0001", root / ".hookset/spare")
    shutil.unpack_archive(folder / "packs/cable-ferry.zip", folder / "sheeted")
    ran(root, "list", "--answers", "../answers.toml")
    ran(root, "stock", "make", ".", "--to", "../made.stock")
    ran(root, "shelf", "keep", "../packs/fog-bell.zip")
    (folder / "game.log").write_text(
        "[game] begins\n[error] scripts/server/main.lua:3: no sound alias 'nowhere'\n" * 20
    )
    (folder / "stocked").mkdir()
    shutil.copytree(root / "scripts", folder / "stocked/scripts")
    shutil.copy(root / "map.toml", folder / "stocked/map.toml")
    (folder / "stocked/hookset.toml").write_text(
        '[map]\nname = "s"\nversion = "1"\nlayout = "split-lua"\n[content]\nstock = ["../made.stock"]\n'
    )


def ran(root: Path, *arguments: str) -> tuple[int, str]:
    """The program, in this process; (exit code, what it said)."""
    from hookset.cli.main import main

    out = io.StringIO()
    here = Path.cwd()
    os.chdir(root)
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
            return main(list(arguments)), out.getvalue()
    finally:
        os.chdir(here)


def beside(folder: Path) -> str:
    """A digest of all that no command may change: everything but the maps and the shelf."""
    digest = hashlib.sha256()
    for path in sorted(folder.rglob("*")):
        inner = path.relative_to(folder).parts
        if inner[0] not in ("brackwater", "stocked", "maps", "data", "cache", "state") and path.is_file():
            digest.update(str(inner).encode() + path.read_bytes())
    return digest.hexdigest()


def worker(folder: Path, first: int, count: int, seed: int) -> None:
    """A batch, in a process of its own: what came of each, as a line of JSON."""
    base = folder / "in" / "base"
    base.mkdir(parents=True)
    for name in ("CACHE", "STATE", "DATA"):
        os.environ[f"XDG_{name}_HOME"] = str(base / name.lower())
    laid_out(base)
    place = folder / "in" / "now"
    held = 0
    for number in range(first, first + count):
        dice = random.Random(seed * 1_000_003 + number)
        target = dice.choice(list(TARGETS))
        path, commands = TARGETS[target]
        if place.exists():
            shutil.rmtree(place)
        shutil.copytree(base, place, symlinks=True)
        for name in ("CACHE", "STATE", "DATA"):
            os.environ[f"XDG_{name}_HOME"] = str(place / name.lower())
        if target == "interrupted":
            shutil.copytree(place / "brackwater/.hookset/spare", place / "brackwater/.hookset/work")
            (place / "brackwater/.hookset/work/new").mkdir(exist_ok=True)
        file = place / path
        file.write_bytes(broken(file.read_bytes(), dice))
        before = beside(place)
        held = held or limited(MEMORY)
        begun = time.perf_counter()
        signal.alarm(SECONDS + 5)
        outcome, what = "", ""
        command = dice.choice(commands).split()
        try:
            code, said = ran(place / "brackwater", *command)
            outcome = {0: "taken", 1: "findings or refused", 2: "wrong use", 3: "told as damaged"}.get(code, "fault")
            what = said[-300:] if outcome == "fault" else ""
        except BaseException as error:  # noqa: BLE001 - whatever it is, it is what is looked for
            outcome, what = "fault", f"{type(error).__name__}: {error}"[:300]
        signal.alarm(0)
        took = time.perf_counter() - begun
        reached = beside(place) != before or Path("/tmp/hookset-fuzz-escaped").exists() or took > SECONDS
        if reached:
            outcome, what = "fault", f"reached outside, or took {took:.1f} s"
        row = {"number": number, "target": target, "command": command, "outcome": outcome, "what": what, "took": took}
        print(json.dumps(row), flush=True)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    print(json.dumps({"peak": peak, "held": held}), flush=True)


def main() -> None:
    count, seed = asked_for(20_000)
    with tempfile.TemporaryDirectory() as place:
        page(count, seed, in_batches(__file__, Path(place), count, seed, BATCH))


def page(count: int, seed: int, done: Done) -> None:
    outcomes = Counter(str(row["outcome"]) for row in done.rows)
    targets = Counter(str(row["target"]) for row in done.rows)
    faults = [row for row in done.rows if row["outcome"] == "fault"]
    slowest: dict[str, Any] = max(done.rows, key=lambda row: float(row["took"]))
    lines = "\n".join(f"| {target} | {targets[target]} |" for target in TARGETS)
    PAGE.write_text(
        f"""# Damaged state files, sheets, layouts, stocks and logs

Written by `python benchmarks/fuzz_state.py {count} {seed}` on {platform.machine()}, {os.cpu_count()} cores, Python
{platform.python_version()}. In Brackwater, with a pack installed, one file that Hook Set reads is broken: bytes and
pieces changed, cut out and doubled, or what is known to be harmful put where a value stands (paths that lead out of the
map, digits by the thousand, patterns that take for ever, templates, escapes). Then a command that reads it is run.
Nothing beside the map may change. Limits: {SECONDS} s each, and {MEMORY >> 20} MB beyond what the program takes by
itself. (First figures, before anything was mended: 5 faults in 4,400 runs, all of them tracebacks: bytes that are no
UTF-8 in a list, versions of a thousand digits, version ranges of conditions. The first 20,000 runs found one more: an
encoding of a layout that is none; the second 20,000 two, both of words in braces in a layout's JSONPath; the third
20,000, which broke the layouts of three more maps, one: `²` as the number of a column; the fourth none.)

| runs | {len(done.rows)} |
|---|---|
| the file was taken as it is | {outcomes["taken"]} |
| findings, or refused | {outcomes["findings or refused"]} |
| told as damaged, with the place | {outcomes["told as damaged"] + outcomes["wrong use"]} |
| faults (a traceback, out of memory or time, a file changed beside the map) | {len(faults)} |
| processes that ended badly | {len(done.lost)} |
| slowest | {float(slowest["took"]):.2f} s ({slowest["target"]}) |
| most memory | {done.peak >> 10} MB |

| what was broken | runs |
|---|---|
{lines}
""",
        encoding="utf-8",
    )
    for row in faults[:40]:
        print(row)
    print(done.lost[:5])
    print(PAGE.read_text())


if __name__ == "__main__":
    if sys.argv[1:2] == ["--worker"]:
        worker(Path(sys.argv[2]), *map(int, sys.argv[3:6]))
    else:
        main()
