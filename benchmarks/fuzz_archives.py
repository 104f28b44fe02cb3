"""Broken and hostile archives by the thousand: each is opened, listed, read whole, looked into and, where it opens,
drafted for and planned into the demo's map, under limits of time and memory. Writes docs/fuzz.md.

    python benchmarks/fuzz_archives.py [ARCHIVES [SEED]]
"""

from __future__ import annotations

import bz2
import gzip
import io
import json
import lzma
import os
import platform
import random
import resource
import signal
import sys
import tarfile
import tempfile
import time
import zipfile
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from benchmarks.batches import asked_for, in_batches, limited

PAGE = Path(__file__).parent.parent / "docs/fuzz.md"
BATCH = 250
SECONDS = 30
"""For one archive."""
MEMORY = 1 << 30
"""Address space beyond what the program takes by itself."""
NAMES = [b"../../evil", b"/tmp/evil", b"C:\\evil.txt", b"..\\..\\evil", b"nul", b"a\0b", b"\xff\xfe\xfd", b".", b""]


def seeds() -> dict[str, bytes]:
    """Whole archives of every form, of the demo's packs as they are published."""
    from importlib import resources

    import py7zr

    from hookset.demo import lay_out

    found: dict[str, bytes] = {}
    with tempfile.TemporaryDirectory() as folder, resources.as_file(resources.files("hookset")):
        lay_out(Path(folder) / "demo")
        files = sorted((Path(folder) / "demo").glob("p*/*.zip"))
        for file in files:
            found[f"zip {file.stem}"] = file.read_bytes()
        members = {name: zipfile.ZipFile(files[-1]).read(name) for name in zipfile.ZipFile(files[-1]).namelist()}
    for form in (tarfile.GNU_FORMAT, tarfile.PAX_FORMAT):
        data = io.BytesIO()
        with tarfile.open(fileobj=data, mode="w", format=form) as archive:
            for name, content in members.items():
                info = tarfile.TarInfo(name)
                info.size = len(content)
                archive.addfile(info, io.BytesIO(content))
        found[f"tar {form}"] = data.getvalue()
    plain = found[f"tar {tarfile.GNU_FORMAT}"]
    found |= {"tar.gz": gzip.compress(plain), "tar.bz2": bz2.compress(plain), "tar.xz": lzma.compress(plain)}
    for method in (zipfile.ZIP_STORED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA):
        data = io.BytesIO()
        with zipfile.ZipFile(data, "w", method) as archive:
            for name, content in members.items():
                archive.writestr(name, content)
            archive.writestr("more.tgz", found["tar.gz"])
        found[f"zip by method {method}"] = data.getvalue()
    data = io.BytesIO()
    with py7zr.SevenZipFile(data, "w") as packed:
        for name, content in members.items():
            packed.writestr(content, name)
    found["7z"] = data.getvalue()
    return found


def mutated(data: bytes, other: bytes, dice: random.Random) -> bytes:
    """One to four changes of the kinds that break readers."""
    changed = bytearray(data)
    for _ in range(dice.choice([1, 1, 1, 2, 4])):
        size = len(changed)
        at = dice.randrange(size) if size else 0
        kind = dice.randrange(9)
        if kind == 0:
            changed[at : at + 1] = bytes([dice.randrange(256)])
        elif kind == 1:
            del changed[at:]
        elif kind == 2:
            changed[at:at] = dice.randbytes(dice.randint(1, 64))
        elif kind == 3:
            changed[at : at + 4] = dice.choice([b"\xff" * 4, b"\0" * 4, b"\xff\xff\xff\x7f", b"\0\0\0\x80"])
        elif kind == 4:
            del changed[at : at + dice.randint(1, 200)]
        elif kind == 5:
            start = dice.randrange(size) if size else 0
            changed[at:at] = changed[start : start + dice.randint(1, 400)]
        elif kind == 6:
            start = dice.randrange(len(other))
            changed[at:at] = other[start : start + dice.randint(1, 2000)]
        elif kind == 7 and (found := changed.find(b"readme")) >= 0:
            name = dice.choice(NAMES)
            changed[found : found + len(name)] = name
        else:
            # Near the end, where the lists of zip and 7z are.
            near = max(0, size - dice.randint(1, 400))
            changed[near : near + 2] = dice.randbytes(2)
    return bytes(changed)


def worker(folder: Path, first: int, count: int, seed: int) -> None:
    """A batch, in a process of its own: what came of each, as a line of JSON."""
    from tests.published import site_for

    from hookset.authoring.draft import drafted, inside, sheet_text
    from hookset.authoring.draft.dry_run import dry_run
    from hookset.model import HooksetError
    from hookset.packs import SheetedPack, open_pack, with_sheet

    whole = seeds()
    names = sorted(whole)
    sites = {layout: site_for(layout) for layout in ("split-lua", "scene-graph", "type-table")}
    for site in sites.values():
        _ = site.seat_files, site.index
    held = limited(MEMORY)
    os.chdir(folder)
    for number in range(first, first + count):
        dice = random.Random(seed * 1_000_003 + number)
        name = dice.choice(names)
        file = folder / "in" / f"{number}.{name.split()[0]}"
        file.write_bytes(mutated(whole[name], whole[dice.choice(names)], dice))
        site = sites[dice.choice(sorted(sites))]
        begun = time.perf_counter()
        signal.alarm(SECONDS)
        outcome, what = "opened", ""
        try:
            pack = open_pack(file)
            for path in pack.tree.paths():
                with pack.tree.open(path) as stream:
                    while stream.read(1 << 20):
                        pass
            inside(pack)
            sheeted = pack if isinstance(pack, SheetedPack) else None
            dry_run(site, sheeted or with_sheet(pack, sheet_text(drafted(site, pack)).encode(), "draft"))
        except HooksetError as error:
            outcome, what = "refused", error.what.split(":")[0][:60]
        except BaseException as error:  # noqa: BLE001 - whatever it is, it is what is looked for
            outcome, what = "fault", f"{type(error).__name__}: {error}"[:200]
        signal.alarm(0)
        took = time.perf_counter() - begun
        file.unlink()
        print(json.dumps({"number": number, "seed": name, "outcome": outcome, "what": what, "took": took}), flush=True)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    print(json.dumps({"peak": peak, "held": held}), flush=True)


def main() -> None:
    count, seed = asked_for(5000)
    with tempfile.TemporaryDirectory() as place:
        done = in_batches(__file__, Path(place), count, seed, BATCH)
        strays = [str(path) for path in Path(place).rglob("*") if path.is_file()]
    strays += [str(path) for path in (Path("/tmp/evil"), Path("/evil")) if path.exists()]
    page(count, seed, done.rows, done.peak, done.lost, strays)


def page(
    count: int,
    seed: int,
    rows: list[dict[str, object]],
    peak: int,
    lost: list[tuple[int, int, str]],
    strays: list[str],
) -> None:
    outcomes = Counter(str(row["outcome"]) for row in rows)
    reasons = Counter(str(row["what"]) for row in rows if row["outcome"] == "refused")
    faults = [row for row in rows if row["outcome"] == "fault"]
    slowest = max(rows, key=lambda row: float(str(row["took"])))
    table = "\n".join(f"| {reason} | {number} |" for reason, number in reasons.most_common())
    PAGE.write_text(
        f"""# Broken and hostile archives

Written by `python benchmarks/fuzz_archives.py {count} {seed}` on {platform.machine()}, {os.cpu_count()} cores, Python
{platform.python_version()}. Whole zip, tar (plain, gzip, bzip2, xz) and 7z archives, and zips with tars in them,
each with one to four changes: bits, lengths and offsets changed, pieces cut out, doubled, moved, put in from another
archive, names made to lead elsewhere. Each is opened, listed, every member read, its sorts, notes and licence looked
at; one that opens is drafted for and planned into a map. Limits: {SECONDS} s each, and {MEMORY >> 20} MB of memory
beyond what the program takes by itself.

| archives | {len(rows)} |
|---|---|
| opened after all | {outcomes["opened"]} |
| refused with a reason | {outcomes["refused"]} |
| faults (another exception, out of memory, out of time) | {len(faults)} |
| processes that ended badly | {len(lost)} |
| files that were found anywhere else than where they belong | {len(strays)} |
| slowest | {float(str(slowest["took"])):.2f} s |
| most memory | {peak >> 10} MB |

| refused because it … | |
|---|---|
{table}
""",
        encoding="utf-8",
    )
    for row in faults[:40]:
        print(row)
    print(lost[:5], strays[:5])
    print(PAGE.read_text())


if __name__ == "__main__":
    if sys.argv[1:2] == ["--worker"]:
        worker(Path(sys.argv[2]), *map(int, sys.argv[3:6]))
    else:
        main()
