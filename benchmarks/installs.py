"""How long installs take: a pack of 1 GB beside copying and hashing it, and a map with 200 packs beside its check.
Writes docs/install-benchmarks.md.

    python benchmarks/installs.py [MEGABYTES [PACKS]]
"""

from __future__ import annotations

import os
import platform
import shutil
import struct
import subprocess
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

from timing import Took, timed

from hookset.demo import lay_out

PAGE = Path(__file__).parent.parent / "docs/install-benchmarks.md"
HOOKSET = (sys.executable, "-m", "hookset")


def wav(size: int) -> bytes:
    head = struct.pack("<IHHIIHH", 16, 1, 1, 44100, 88200, 2, 16)
    return b"RIFF" + struct.pack("<I", 36 + size) + b"WAVEfmt " + head + b"data" + struct.pack("<I", size)


def large_pack(folder: Path, megabytes: int) -> None:
    """Sounds of 10 MB each, a fifth of them with an alias."""
    sounds = folder / "content/sounds/large"
    sounds.mkdir(parents=True)
    block = os.urandom(1 << 20)
    lines = ['[pack]\nname = "large"\nversion = "1"\n[[files]]\nfrom = "content/**"\n']
    for number in range(megabytes // 10):
        with (sounds / f"s{number}.wav").open("wb") as file:
            file.write(wav(10 << 20))
            for _ in range(10):
                file.write(block)
        if number % 5 == 0:
            row = f'{{ alias = "large_{number}", file = "large/s{number}.wav", reach = 5.0 }}'
            lines.append(f'[[hook]]\nseat = "sound-table"\nrecord = {row}\n')
    (folder / "hooksheet.toml").write_text("".join(lines))


def small_pack(folder: Path, number: int) -> Path:
    script = folder / f"content/scripts/server/packs/small_{number}.lua"
    script.parent.mkdir(parents=True)
    script.write_text(f"local small = {{}}\nfunction small.start() log('{number}') end\nreturn small\n")
    (folder / "hooksheet.toml").write_text(
        f'[pack]\nname = "small-{number}"\nversion = "1"\n[[files]]\nfrom = "content/**"\n'
        f'[[hook]]\nseat = "server-import"\ntext = \'local small_{number} = require("packs.small_{number}")\'\n'
        f'[[hook]]\nseat = "server-start"\ntext = "small_{number}.start()"\n'
        f'[[hook]]\nseat = "texts"\n[hook.each.en]\n"small_{number}.name" = "Thing {number}"\n'
        f'[[hook]]\nseat = "scene-objects"\n[hook.record]\nname = "thing {number}"\n'
        f'extras = {{ key = "small_{number}", class = "post", label = "small_{number}.name" }}\n'
    )
    return folder


def demo_map(folder: Path) -> Path:
    lay_out(folder / "demo")
    root = folder / "demo/brackwater"
    subprocess.run([*HOOKSET, "--map", str(root), "start"], check=True, stdout=subprocess.DEVNULL)
    return root


def of_a_large_pack(folder: Path, megabytes: int) -> list[str]:
    root, pack, cache = demo_map(folder), folder / "large", folder / "cache"
    large_pack(pack, megabytes)
    copied = (
        f"cp -r {pack} {folder / 'copy'} && find {folder / 'copy'} -type f -print0 | xargs -0 sha256sum > /dev/null"
    )
    # Both read what the machine has in its memory already.
    timed("sh", "-c", copied, folder=folder, cache=cache)
    shutil.rmtree(folder / "copy")
    plain = timed("sh", "-c", copied, folder=folder, cache=cache)
    shutil.rmtree(folder / "copy")
    took = timed(*HOOKSET, "install", str(pack), folder=root, cache=cache)
    return [
        f"| install of a pack of {megabytes:,} MB | {took.seconds:.1f} s | {plain.seconds:.1f} s | "
        f"{took.seconds / plain.seconds:.2f} | {took.memory:.0f} MB | at most 1.5 ×, 200 MB |"
    ]


def row(words: str, took: Took, plain: Took) -> str:
    ratio = took.seconds / plain.seconds
    return f"| {words} | {took.seconds:.2f} s | {plain.seconds:.2f} s | {ratio:.1f} | {took.memory:.0f} MB | |"


def of_many_packs(folder: Path, count: int) -> list[str]:
    root, cache = demo_map(folder), folder / "cache"
    packs = [str(small_pack(folder / f"small-{number}", number)) for number in range(count)]
    rows = []
    together = timed(*HOOKSET, "install", *packs[:-1], folder=root, cache=cache)
    timed(*HOOKSET, "check", folder=root, cache=cache)
    plain = timed(*HOOKSET, "--no-cache", "check", folder=root, cache=cache)
    rows.append(row(f"{count - 1} packs in one command", together, plain))
    for words, command in (
        (f"one more pack, number {count}", ("install", packs[-1])),
        ("status of all of them", ("status",)),
        ("removal of the last", ("remove", f"small-{count - 1}")),
        ("removal of the first, around which all others were set", ("remove", "small-0")),
        ("undo", ("undo",)),
    ):
        took = timed(*HOOKSET, *command, folder=root, cache=cache)
        rows.append(row(words, took, plain))
    return rows


def main(megabytes: int, packs: int) -> None:
    lines = [
        "# Benchmarks of installs",
        "",
        f"Written by `python benchmarks/installs.py` on {platform.machine()}, {os.cpu_count()} cores,",
        f"Python {platform.python_version()}. The yardstick of the large pack is `cp -r` of it and `sha256sum` of the",
        "copy; that of many packs is a check of the same map with nothing remembered. Both are of the same run.",
        "",
        "| what | takes | yardstick | ratio | memory | budget |",
        "|---|---|---|---|---|---|",
    ]
    for measure, size in ((of_a_large_pack, megabytes), (of_many_packs, packs)):
        with tempfile.TemporaryDirectory() as folder:
            rows = measure(Path(folder), size)
            print("\n".join(rows))
            lines += rows
    lines += [
        "",
        "Copying does not wait until the disk has the bytes; an install does, file by file, before the first of them",
        "is put in place. That wait and a second reading (to know each file's digest before anything is written) are",
        "what the large pack takes beyond the yardstick.",
    ]
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main(*(int(one) for one in (*sys.argv[1:], *("1000", "200")[len(sys.argv) - 1 :])))
