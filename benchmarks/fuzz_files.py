"""Damaged files by the thousand, in the maps of all shipped layouts and in Salt Fen: each map with one such file is
judged, the file explained, rules and seats surveyed; in every fourth a pack is installed, installed again and removed,
after which the map must be what it was, byte by byte. Limits of time and memory. Writes docs/fuzz-files.md.

    python benchmarks/fuzz_files.py [FILES [SEED]]
"""

from __future__ import annotations

import json
import os
import platform
import random
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

PAGE = Path(__file__).parent.parent / "docs/fuzz-files.md"
BATCH = 200
SECONDS = 30
"""For one map."""
MEMORY = 1 << 30
MAPS = ("brackwater", "scene-graph", "type-table", "mirrored-folders", "numbered-marks", "paired-modules", "salt-fen")
SNIPPETS = (
    b"\0", b"\xff\xfe", b"\xef\xbb\xbf", b"\r", b"\r\n", b"\xe4", b"\xf0\x9f\x8c\x8a", b"<!--",
    b"-->", b"<![CDATA[", b"<!DOCTYPE a [<!ENTITY b 'c'>]>", b"&a;", b"/*", b"*/", b"//", b"--[[",
    b"]]", b"\"", b"'", b"`", b"\\", b"{" * 400, b"[" * 400, b"(" * 400,
    b"}", b"]", b")", b"<a>" * 300, b"- " * 300, b"*", b"&x ", b"<<: *x",
    b"---\n", b",,,", b";" * 99, b"=" * 9, b"%00", b"../" * 40, b"1e999", b"-0",
    b"NaN", b"null", b"[[a]]\n", b"[a", b"\t", b" " * 5000, b"a" * 70_000,
)  # fmt: skip


def mutated(data: bytes, other: bytes, dice: random.Random) -> bytes:
    """Spelled differently, or with one to four changes of the kinds that break readers."""
    if dice.randrange(4) == 0:
        return otherwise(data, dice)
    changed = bytearray(data)
    for _ in range(dice.choice([1, 1, 1, 2, 4])):
        size = len(changed)
        at = dice.randrange(size) if size else 0
        kind = dice.randrange(8)
        if kind == 0:
            changed[at : at + 1] = bytes([dice.randrange(256)])
        elif kind == 1:
            del changed[at:]
        elif kind == 2:
            changed[at:at] = dice.randbytes(dice.randint(1, 30))
        elif kind in (3, 4):
            changed[at:at] = dice.choice(SNIPPETS)
        elif kind == 5:
            del changed[at : at + dice.randint(1, 60)]
        elif kind == 6:
            start = dice.randrange(size) if size else 0
            changed[at:at] = changed[start : start + dice.randint(1, 400)]
        else:
            start = dice.randrange(len(other) or 1)
            changed[at:at] = other[start : start + dice.randint(1, 400)]
    return bytes(changed)


def otherwise(data: bytes, dice: random.Random) -> bytes:
    """The same text as another editor would have written it."""
    kind = dice.randrange(7)
    if kind == 0:
        return data.replace(b"\r\n", b"\n").replace(b"\n", b"\r\n")
    if kind == 1:
        lines = data.split(b"\n")
        return b"".join(line + dice.choice([b"\n", b"\r\n"]) for line in lines)
    if kind == 2:
        return b"\xef\xbb\xbf" + data
    if kind in (3, 4):
        text = data.decode("utf-8", "replace")
        return text.encode("utf-16" if kind == 3 else "cp1252", "replace")
    if kind == 5:
        return data.rstrip()
    return b"\n".join(line + b" \t" for line in data.split(b"\n"))


def worker(folder: Path, first: int, count: int, seed: int) -> None:
    """A batch, in a process of its own: what came of each, as a line of JSON."""
    from hookset.checks import judge
    from hookset.project import open_project
    from hookset.symbols import explain, survey
    from hookset.trees import Inline, Overlay

    maps = {name: laid_out(name, folder / "maps") for name in MAPS}
    projects = {name: open_project(root) for name, root in maps.items()}
    for project in projects.values():
        judge(project.tree, project.layout, project.stock)
    held = limited(MEMORY)
    for number in range(first, first + count):
        dice = random.Random(seed * 1_000_003 + number)
        name = dice.choice(MAPS)
        project = projects[name]
        path = dice.choice([path for path in project.tree.paths() if not path.endswith(".bin")])
        other = dice.choice(project.tree.paths())
        data = mutated(project.tree.read(path), project.tree.read(other), dice)
        begun = time.perf_counter()
        signal.alarm(SECONDS)
        outcome, what = "", ""
        try:
            tree = Overlay(project.tree, {path: Inline(data)})
            verdict = judge(tree, project.layout, project.stock, None, project.terms)
            outcome = "clean" if not verdict.findings else "findings"
            explain(tree, path, project.layout)
            survey(tree, project.layout, project.stock)
            if number % 4 == 0 and name != "salt-fen":
                what = there_and_back(maps[name], name, path, data, folder / "in" / str(number), dice)
        except BaseException as error:  # noqa: BLE001 - whatever it is, it is what is looked for
            outcome, what = "fault", f"{type(error).__name__}: {error}"[:300]
        signal.alarm(0)
        took = time.perf_counter() - begun
        shutil.rmtree(folder / "in" / str(number), ignore_errors=True)
        row = {"number": number, "map": name, "path": path, "outcome": outcome, "what": what, "took": took}
        print(json.dumps(row), flush=True)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    print(json.dumps({"peak": peak, "held": held}), flush=True)


def laid_out(name: str, folder: Path) -> Path:
    """A map of that name, started."""
    from tests.shipped import started
    from tests.test_house import ROOT, tool

    if name != "salt-fen":
        return Path(started(name, folder / name))
    tool("make_salt_fen").make(folder / name)
    root = folder / name / "salt-fen"
    shutil.copy(ROOT / "docs/own-layout/salt-fen.toml", root.parent)
    (root / "hookset.toml").write_text('[map]\nname = "salt-fen"\nversion = "7"\nlayout = "../salt-fen.toml"\n')
    return root


def there_and_back(clean: Path, name: str, path: str, data: bytes, place: Path, dice: random.Random) -> str:
    """Install a pack, install it again and remove it. Returns how that ended."""
    from tests.conftest import snapshot
    from tests.core.test_every_layout import entries, given_map, install, pack_of, remove

    from hookset.model import HooksetError
    from hookset.planning import Choices, plan_install
    from hookset.project import read_ledger

    shutil.copytree(clean.parent, place)
    root = place / clean.name
    (root / path).write_bytes(data)
    pool = sorted(entries(name, "wordy", 41).items())
    chosen = dice.sample(pool, dice.randint(1, len(pool)))
    hooks = [f'[[hook]]\nseat = "{seat}"\n{body}' for seat, body in chosen]
    before = snapshot(root)
    try:
        pack = pack_of(root, "wordy", "1", hooks)
        project, ledger = given_map(root)
        plan = plan_install(project, read_ledger(root), ledger, [pack], Choices(), "t")
        if plan.stops:
            return "stopped with a reason"
        install(root, pack)
        project, ledger = given_map(root)
        assert not plan_install(project, read_ledger(root), ledger, [pack], Choices(), "t").changes, "set twice"
        remove(root, "wordy")
    except HooksetError as error:
        return f"refused: {error.what[:60]}"
    after = snapshot(root)
    differ = sorted(one for one in before.keys() | after.keys() if before.get(one) != after.get(one))
    assert not differ, f"not as before: {differ} after {[seat for seat, _ in chosen]}"
    return "there and back"


def main() -> None:
    count, seed = asked_for(4000)
    with tempfile.TemporaryDirectory() as place:
        os.environ["XDG_CACHE_HOME"] = place
        page(count, seed, in_batches(__file__, Path(place), count, seed, BATCH))


def page(count: int, seed: int, done: Done) -> None:
    outcomes = Counter(str(row["outcome"]) for row in done.rows)
    ways = Counter(str(row["what"]).split(":")[0] for row in done.rows if row["what"] and row["outcome"] != "fault")
    faults = [row for row in done.rows if row["outcome"] == "fault"]
    slowest: dict[str, Any] = max(done.rows, key=lambda row: float(row["took"]))
    PAGE.write_text(
        f"""# Damaged files

Written by `python benchmarks/fuzz_files.py {count} {seed}` on {platform.machine()}, {os.cpu_count()} cores, Python
{platform.python_version()}. In the maps of the six shipped layouts and in Salt Fen one file each is damaged (bytes and
pieces changed, cut out, doubled, put in from other files, brackets and comments opened without end, other bytes than
text) or written as another editor would have (line ends, encodings, byte order marks, blanks). The map is judged, the
file explained, rules and seats surveyed. In every fourth a pack is installed, installed again and removed, and the
map must then be what it was, byte by byte. Limits: {SECONDS} s each, and {MEMORY >> 20} MB beyond what the program
takes by itself.

| maps with one such file | {len(done.rows)} |
|---|---|
| with findings | {outcomes["findings"]} |
| clean: the change means nothing to the game | {outcomes["clean"]} |
| faults (an exception, out of memory, out of time, another byte than before) | {len(faults)} |
| processes that ended badly | {len(done.lost)} |
| slowest | {float(slowest["took"]):.2f} s |
| most memory | {done.peak >> 10} MB |

| packs installed and removed | {sum(ways.values())} |
|---|---|
| there and back | {ways["there and back"]} |
| stopped, or refused, with a reason | {ways["stopped with a reason"] + ways["refused"]} |
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
