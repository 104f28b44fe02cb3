"""Makes the map project of docs/own-layout.md: a map for a made-up game whose files have forms of their own.

About 60 files, hand-edited over the years: nested blocks in an old Windows encoding, a script language of its own,
word lists in UTF-16, lists that include lists. A pack for it, and a little of the game that it is for.

    python tools/make_salt_fen.py FOLDER
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

from make_demo_assets import planks, png, steel, stones, wav, waves

MACHINES = ("windpump", "sluice", "bell_buoy", "capstan", "derrick", "tide_gate", "brine_pan", "rail_cart")
PLAIN = ("post", "reed", "lamp", "plank", "crate", "mooring", "net", "bollard", "ladder", "tarp", "barrel")
NOISES = (
    "pump_creak", "pump_bell", "sluice_rush", "buoy_toll", "capstan_click", "derrick_groan", "gate_grind",
    "brine_hiss", "cart_rattle", "reed_wind", "net_drip", "gull_far",
)  # fmt: skip

SHOWS = {"sluice": "    show spray at sluice_1\n", "brine_pan": "    show steam at brine_pan_1\n"}
EFFECTS = ("mist", "smoke", "sparks", "spray", "steam")


def dos(text: str, encoding: str = "cp1252") -> bytes:
    return text.replace("\n", "\r\n").encode(encoding)


def world() -> bytes:
    """Some hundred places. Nested blocks, tabs, Windows line ends, an old encoding."""
    blocks = ["// Salt Fen, the salt works north of the old dyke. Größe: 400 x 300 m", ""]
    for number, machine in enumerate(MACHINES, 1):
        link = MACHINES[number % len(MACHINES)]
        blocks.append(
            f"place {machine}_1 {{\n\tkind = {machine} ;\n\tat = {number * 12}.5 0 -{number} ;\n"
            f"\tshape = machines/{machine} ;\n\ton use = {machine}.use ;\n\tleads = {link}_1, lamp_{number} ;\n}}"
        )
    for number in range(1, 301):
        plain = PLAIN[number % len(PLAIN)]
        hum = "\thum = reed_wind ;\n" if plain == "reed" and number % 3 == 0 else ""
        index = (number - 1) // len(PLAIN) + 1
        blocks.append(
            f"place {plain}_{index} {{\n\tkind = {plain} ;\n\tat = {number % 37 * 4}.0 0 {number * 7 % 90} ;"
            f"\n\tshape = plain/{plain} ;\n{hum}}}"
        )
    blocks.append("// place ghost_1 { kind = ghost ; shape = plain/ghost ; }   taken out in version 5")
    return dos("\n".join(blocks) + "\n")


def rules() -> dict[str, bytes]:
    files = {
        "rules/begin.fen": dos(
            "rem Salt Fen begins here\n" + "".join(f"use machines/{m}\n" for m in MACHINES) + "use weather\n"
            "\nrules of fen\n\nwhen begin (\n    tell words.welcome\n    do weather.change\n)\n"
        ),
        "rules/weather.fen": (
            b'rem wind and tide\nrules of weather\nword WIND is "reed_wind"\nuse shared/clock\n\n'
            b'when change (\n\tnoise WIND\n\t(* noise "thunder" at lamp_1 *)\n\tdo time.strike\n\tdo settle\n)\n\n'
            b"when settle (\n\tshow mist at lamp_1\n)\n"
        ),
        "rules/shared/clock.fen": b'rules of time\n\nwhen strike (\n  noise "pump_bell" at windpump_1\n)\n',
    }
    for machine, noise in zip(MACHINES, (NOISES[0], *NOISES[2:9]), strict=True):
        text = (
            f'rem the {machine}\nword SOUND is "{noise}"\n\nwhen use (\n    noise SOUND at {machine}_1\n'
            f'    tell words.{machine}_used\n    rem noise "later"\n{SHOWS.get(machine, "")})\n'
        )
        files[f"rules/machines/{machine}.fen"] = dos(text) if len(machine) % 2 else text.encode()
    return files


def words() -> dict[str, bytes]:
    english = {"welcome": "Welcome to Salt Fen", "title": "Salt Fen"}
    english |= {f"{machine}_used": f"The {machine.replace('_', ' ')} moves" for machine in MACHINES}
    german = {"welcome": "Willkommen im Salzmoor", "title": "Salzmoor"}
    german |= {f"{machine}_used": f"Etwas bewegt sich ({machine})" for machine in MACHINES}

    def text(table: dict[str, str]) -> str:
        return "-- words of Salt Fen\n" + "".join(f'{key}: "{value}"\n' for key, value in table.items())

    return {
        "words/english.words": text(english).encode(),
        "words/german.words": b"\xff\xfe" + dos(text(german), "utf-16-le"),
    }


def salt_fen() -> dict[str, bytes]:
    """Every file of the map."""
    shapes = {f"machines/{m}": "steel" for m in MACHINES} | {f"plain/{p}": "planks" for p in PLAIN}
    files = rules() | words() | {"world/salt_fen.blk": world()}
    files["fen.ini"] = dos(
        "; Salt Fen\n[map]\nname = salt-fen\nversion = 7\ntitle = title\nworld = world/salt_fen.blk\n"
        "begin = rules/begin.fen\n"
    )
    rows = [f"{shape.split('/')[1]};{shape};{'yes' if shape.startswith('m') else 'no'}" for shape in shapes]
    files["kinds.csv"] = dos("# every kind of place\nkind;shape;moves\n" + "\n".join(rows) + "\n")
    for shape, skin in shapes.items():
        files[f"shapes/{shape}.shp"] = (
            f'shape {shape.split("/")[1]}\n{{\n  skin = "{skin}.png" ;\n  box = 1 1 1 ;\n'
            f'  part base {{ skin = "stones.png" ; }}\n}}\n'
        ).encode()
    for name, shade in (("planks", planks), ("stones", stones), ("steel", steel), ("water", waves)):
        files[f"pictures/{name}.png"] = png(shade, (40, 40, 40), (180, 170, 150))
    files["shapes/water.shp"] = b'shape water { skin = "water.png" ; }\n'
    files["kinds.csv"] += b"water;water;no\r\n"
    files["world/salt_fen.blk"] += dos("place water_1 {\n\tkind = water ;\n\tshape = water ;\n}\n")
    table = ["; noises of Salt Fen"]
    for number, noise in enumerate(NOISES):
        files[f"noise/{noise}.wav"] = wav([(200 + 90 * number, 40)], 60)
        loop = "loop = yes\nstop = weather.change\n" if noise == "reed_wind" else ""
        table += ["", f"[{noise}]", f"file = {noise}.wav", f"reach = {20 + number}", *loop.splitlines()]
    files["noise/noise.ini"] = ("\n".join(table) + "\n").encode()
    listed = sorted(path for path in files if path not in ("fen.ini",))
    noises = [path for path in listed if path.startswith("noise/")]
    files["ship/noise.list"] = ("-- what is heard\n" + "".join(map(row, noises))).encode()
    shown = [path for path in listed if path.startswith(("shapes/", "pictures/"))]
    files["ship/shapes.list"] = dos("-- what is seen\n" + "".join(map(row, shown)))
    rest = [path for path in listed if path not in noises and path not in shown]
    head = "-- what goes to the players\ninclude\tship/noise.list\ninclude\tship/shapes.list\n"
    effects = "".join(f"effect\t{effect}\n" for effect in ("mist", "spray", "steam"))
    files["ship.list"] = dos(head + "".join(map(row, rest)) + "-- of the game's own\n" + effects)
    return files


def row(path: str) -> str:
    """How a file is listed: its sort, and what it is called among its like."""
    sorts = {
        "noise": "noise",
        "pictures": "picture",
        "rules": "rules",
        "shapes": "shape",
        "words": "words",
        "world": "world",
    }
    folder, _, name = path.partition("/")
    if folder not in sorts:
        return f"table\t{path.partition('.')[0]}\n"
    return f"{sorts[folder]}\t{name if folder in ('noise', 'pictures') else name.partition('.')[0]}\n"


def game() -> dict[str, bytes]:
    """Of the game's own files, the one that says which effects there are."""
    return {"effects.ini": dos("; effects of the game\n" + "".join(f"[{name}]\nlasts = 2\n" for name in EFFECTS))}


SHEET = """\
[pack]
name = "heron"
version = "1.0"
title = "A heron that flies up"
authors = ["Salt & Sedge"]
license = "CC0-1.0"
layouts = ["salt-fen"]

[[files]]
from = "content/**"

[[hook]]
seat = "use"
text = "use packs/heron"

[[hook]]
seat = "begin"
text = "do heron.settle"

[[hook]]
seat = "noises"
text = '''
[heron_cry]
file = heron_cry.wav
reach = 50
'''

[[hook]]
seat = "words"
[hook.each.english]
heron_seen = "A heron flies up"
[hook.each.german]
heron_seen = "Ein Reiher fliegt auf"

[[hook]]
seat = "kinds"
record = { kind = "heron", shape = "plain/heron", moves = "yes" }

[[hook]]
seat = "places"
text = '''
place heron_1 {
  kind = heron ;
  shape = plain/heron ;
  on use = heron.startle ;
}
'''
"""


def heron() -> dict[str, bytes]:
    """A pack for it."""
    return {
        "hooksheet.toml": SHEET.encode(),
        "content/rules/packs/heron.fen": (
            b'rem heron\nwhen settle (\n    noise "heron_cry" at heron_1\n)\n\n'
            b"when startle (\n    show smoke at heron_1\n    tell words.heron_seen\n    do settle\n)\n"
        ),
        "content/shapes/plain/heron.shp": b'shape heron { skin = "planks.png" ; }\n',
        "content/noise/heron_cry.wav": wav([(900, 40), (1350, 20)], 90),
    }


def make(folder: Path) -> None:
    for top, files in (("salt-fen", salt_fen()), ("heron", heron()), ("game", game())):
        for path, data in files.items():
            target = folder / top / path
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(data)


if __name__ == "__main__":
    make(Path(sys.argv[1]))
