"""What a check tells of the data of thirty-eight open games that nobody here made: fetched as packages of the system,
read by layouts in benchmarks/open_games, every finding judged by hand. Writes docs/open-games.md.

    python benchmarks/open_games.py [FOLDER_WITH_PACKAGES]
"""

from __future__ import annotations

import fnmatch
import json
import shutil
import subprocess
import sys
import tempfile
import tomllib
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

from timing import Took, timed

HERE = Path(__file__).parent / "open_games"
PAGE = Path(__file__).parent.parent / "docs/open-games.md"
HOOKSET = (sys.executable, "-m", "hookset")


@dataclass(frozen=True)
class Game:
    """A package, and which of its folders make a map."""

    name: str
    package: str
    folder: str
    parts: tuple[str, ...] = ()
    """Folders and files that are taken; all, where none is named."""
    further: tuple[tuple[str, str, tuple[str, ...]], ...] = ()
    """What other packages have of it: the name of each, its folder, and the files that are taken."""
    archives: tuple[str, ...] = ()
    """Those of the parts that are archives: each becomes a folder, called like it."""
    merged: tuple[str, ...] = ()
    """Those that the game takes for one folder."""
    within: str = ""
    """The folder of these that is the map, where not all are."""


_UFOAI = "usr/share/games/ufoai/base"
GAMES = (
    Game("boswars", "boswars-data", "usr/share/games/boswars"),
    Game("cataclysm", "cataclysm-dda-data", "usr/share/games/cataclysm-dda", ("json", "mods")),
    Game("flare", "flare-game", "usr/share/games/flare/mods"),
    Game("enigma", "enigma-data", "usr/share/games/enigma"),
    Game("megaglest", "megaglest-data", "usr/share/games/megaglest"),
    Game("freeciv", "freeciv-data", "usr/share/games/freeciv"),
    Game(
        "crossfire",
        "crossfire-maps",
        "usr/share/games/crossfire",
        (
            *(f"maps/{part}" for part in ("scorn", "quests", "dungeons", "lake_country", "euthville", "python")),
            "maps/regions.reg",
        ),
        (
            (
                "crossfire-common",
                "usr/share/games/crossfire",
                ("archetypes", "faces", "bmaps.paths", "animations", "treasures", "materials", "smooth"),
            ),
        ),
    ),
    Game("scorched", "scorched3d-data", "usr/share/games/scorched3d/data/globalmods/none"),
    Game("warzone", "warzone2100-data", "usr/share/games/warzone2100", archives=("base.wz", "mp.wz")),
    Game("horizons", "unknown-horizons", "usr/share/unknown-horizons"),
    Game(
        "widelands",
        "widelands-data",
        "usr/share/games/widelands/data",
        ("campaigns", "images", "maps", "music", "scripting", "sound", "templates", "tribes", "txts", "world", "ai"),
    ),
    Game("warmux", "warmux-data", "usr/share/games/warmux"),
    Game("hedgewars", "hedgewars-data", "usr/share/games/hedgewars/Data"),
    Game("trigger", "trigger-rally-data", "usr/share/games/trigger-rally", archives=("data.zip",), within="data"),
    Game("torcs", "torcs-data", "usr/share/games/torcs"),
    Game("freedroid", "freedroidrpg-data", "usr/share/freedroidrpg/data"),
    Game("endless", "endless-sky-data", "usr/share/games/endless-sky"),
    Game("pingus", "pingus-data", "usr/share/games/pingus/data"),
    Game("freecol", "freecol", "usr/share/games/freecol"),
    Game("colobot", "colobot-common", "usr/share/games/colobot"),
    Game("freeorion", "freeorion-data", "usr/share/games/freeorion/default"),
    Game("btanks", "btanks-data", "usr/share/games/btanks/data"),
    Game("supertux", "supertux-data", "usr/share/games/supertux2"),
    Game("fillets", "fillets-ng-data", "usr/share/games/fillets-ng"),
    Game("etr", "extremetuxracer-data", "usr/share/games/etr"),
    Game("singularity", "singularity", "usr/lib/python3/dist-packages/singularity/data"),
    Game("caveexpress", "caveexpress-data", "usr/share/games/caveexpress"),
    Game("freedink", "freedink-data", "usr/share/games/dink/dink"),
    Game("paxbritannica", "pax-britannica-data", "usr/share/pax-britannica"),
    Game("trackballs", "trackballs-data", "usr/share/games/trackballs"),
    Game("rescue", "searchandrescue-data", "usr/share/games/searchandrescue"),
    Game("opencity", "opencity-data", "."),
    Game("granatier", "granatier", "usr/share/granatier"),
    Game("dustracing", "dustracing2d-data", "usr/share/games/dustracing2d"),
    Game("blobandconquer", "blobandconquer-data", "usr/share/games/blobAndConquer"),
    Game("cuyo", "cuyo-data", "usr/share/games/cuyo"),
    Game("lincity", "lincity-ng-data", "usr/share/games/lincity-ng"),
    Game(
        "ufoai",
        "ufoai-common",
        _UFOAI,
        ("0base.pk3", "0ufos.pk3"),
        (
            ("ufoai-data", _UFOAI, ("0materials.pk3", "0models.pk3", "0pics.pk3", "0shaders.pk3")),
            ("ufoai-sound", _UFOAI, ("0snd.pk3",)),
        ),
        merged=tuple(f"0{part}.pk3" for part in ("base", "ufos", "materials", "models", "pics", "shaders", "snd")),
    ),
)


def fetched(package: str, packages: Path) -> Path:
    """The package, from the system's own archive unless it is there already."""
    if not list(packages.glob(f"{package}_*.deb")):
        subprocess.run(["apt-get", "download", "-q", package], cwd=packages, check=True, stdout=subprocess.DEVNULL)
    return next(packages.glob(f"{package}_*.deb"))


def laid_out(game: Game, packages: Path, folder: Path) -> Path:
    """The game's data as a map."""
    root = folder / game.name
    _copy(game.package, game.folder, game.archives or game.parts or ("",), packages, root)
    for further in game.further:
        _copy(*further, packages, root)
    for archive in (*game.archives, *game.merged):
        shutil.unpack_archive(root / archive, root if archive in game.merged else root / Path(archive).stem, "zip")
        (root / archive).unlink()
    root = root / game.within
    shutil.copy(HERE / f"{game.name}.toml", root.parent)
    project = f'[map]\nname = "{game.name}"\nversion = "1"\nlayout = "../{game.name}.toml"\n'
    (root / "hookset.toml").write_text(project, encoding="utf-8")
    return root


def _copy(package: str, inside: str, parts: Iterable[str], packages: Path, root: Path) -> None:
    """Some of what a package holds."""
    with tempfile.TemporaryDirectory() as whole:
        subprocess.run(["dpkg-deb", "-x", str(fetched(package, packages)), whole], check=True)
        for part in parts:
            source, target = Path(whole, inside, part), root / part
            target.parent.mkdir(parents=True, exist_ok=True)
            if source.is_dir():
                shutil.copytree(source, target, dirs_exist_ok=True, ignore=_dangling)
            else:
                shutil.copy(source, target)


def _dangling(folder: str, names: list[str]) -> list[str]:
    """Links that lead nowhere: of a package alone, some do."""
    return [name for name in names if not Path(folder, name).exists()]


@dataclass(frozen=True)
class Judged:
    """What came of one game."""

    game: Game
    references: int
    took: Took
    genuine: tuple[str, ...]
    false: tuple[str, ...]
    unjudged: tuple[str, ...]
    notes: int
    first: str


def judged(game: Game, packages: Path, folder: Path) -> Judged:
    root = laid_out(game, packages, folder)
    took = timed(*HOOKSET, "--no-cache", "check", folder=root, cache=folder / "cache")
    ran = subprocess.run([*HOOKSET, "--no-cache", "check", "--json"], cwd=root, capture_output=True, check=False)
    data = json.loads(ran.stdout)
    verdicts = tomllib.loads((HERE / "judged.toml").read_text(encoding="utf-8"))[game.name]
    told = [finding for finding in data["findings"] if finding["severity"] != "note"]
    sorts: dict[str, Counter[str]] = {"genuine": Counter(), "false": Counter(), "unjudged": Counter()}
    for finding in told:
        sort, why = _verdict(finding, verdicts["findings"])
        sorts[sort][f"`{finding['code']}` about `{finding['name']}`: {why}"] += 1
    listed = {sort: tuple(f"{count} × {text}" for text, count in found.items()) for sort, found in sorts.items()}
    notes = len(data["findings"]) - len(told)
    counts = data["counts"]["references"]
    return Judged(
        game, counts, took, listed["genuine"], listed["false"], listed["unjudged"], notes, str(verdicts["first"])
    )


def _verdict(finding: dict[str, Any], verdicts: list[dict[str, Any]]) -> tuple[str, str]:
    for one in verdicts:
        if one["code"] == finding["code"] and fnmatch.fnmatchcase(finding["name"], one["name"]):
            return ("genuine" if one["genuine"] else "false"), str(one["why"])
    return "unjudged", str(finding["message"])


def _many(lines: tuple[str, ...]) -> int:
    return sum(int(line.split(" ")[0]) for line in lines)


def page(results: list[Judged]) -> str:
    text = """# Real data that nobody here made

Written by `python benchmarks/open_games.py`, which fetches packages of thirty-eight open games from Debian, reads them
by the layouts in `benchmarks/open_games`, and compares each finding with what a person has found out about it. Nothing
of the games is kept here. *False in 1,000* counts false findings in 1,000 references; notes are no findings here.

| package | references | genuine | false | false in 1,000 | not yet judged | notes | seconds |
|---|---|---|---|---|---|---|---|
"""
    for one in results:
        false = _many(one.false)
        text += (
            f"| {one.game.package} | {one.references:,} | {_many(one.genuine)} | {false}"
            f" | {false / one.references * 1000:.2f} | {_many(one.unjudged)} | {one.notes} | {one.took.seconds:.1f} |\n"
        )
    for one in results:
        text += f"\n## {one.game.package}\n\nFirst figures, with the layout as it was first written: {one.first}.\n"
        for title, lines in (("Genuine", one.genuine), ("False", one.false), ("Not yet judged", one.unjudged)):
            if lines:
                text += f"\n{title}:\n\n" + "".join(f"* {line}\n" for line in lines)
    return text


def main(packages: Path | None) -> None:
    with tempfile.TemporaryDirectory() as place:
        results = [judged(game, packages or Path(place), Path(place)) for game in GAMES]
    PAGE.write_text(page(results), encoding="utf-8")
    print(page(results))


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
