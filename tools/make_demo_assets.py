"""Makes the demo's models, pictures and sounds: the same bytes on every machine, each time.

Whole-number arithmetic only, and no compression whose output depends on a library's version.

    python tools/make_demo_assets.py [FOLDER]     default: the demo data in the source tree
"""

from __future__ import annotations

import json
import struct
import sys
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

DATA = Path(__file__).parent.parent / "src" / "hookset" / "demo" / "data"
RATE = 11025

Vector = tuple[float, float, float]
Colour = tuple[int, int, int]


def png(shade: Callable[[int, int], int], dark: Colour, light: Colour, size: int = 32) -> bytes:
    """A picture of eight shades between two colours. PNG 1.2, indexed, its pixels stored uncompressed."""
    palette = bytes(dark[c] + (light[c] - dark[c]) * step // 7 for step in range(8) for c in range(3))
    rows = b"".join(b"\0" + bytes(shade(x, y) % 8 for x in range(size)) for y in range(size))

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", size, size, 8, 3, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"PLTE", palette)
        + chunk(b"IDAT", zlib.compress(rows, 0))
        + chunk(b"IEND", b"")
    )


def wav(tones: list[tuple[int, int]], milliseconds: int, hiss: int = 0) -> bytes:
    """A fading sound: triangle waves of (hertz, loudness 0..100), and noise. RIFF, 16 bit, one channel."""
    count = RATE * milliseconds // 1000
    noise = 12345
    samples = []
    for index in range(count):
        noise = (noise * 1103515245 + 12345) % (1 << 31)
        value = (noise >> 16) % 2001 * hiss // 100 - 10 * hiss
        for hertz, loudness in tones:
            phase = index * hertz * 4 * 1000 // RATE % 4000
            value += (phase - 1000 if phase < 2000 else 3000 - phase) * loudness // 10
        samples.append(max(-32000, min(32000, value * (count - index) // count)))
    data = struct.pack(f"<{count}h", *samples)
    head = struct.pack("<4sIHHIIHH", b"fmt ", 16, 1, 1, RATE, RATE * 2, 2, 16)
    return (
        b"RIFF"
        + struct.pack("<I", 4 + len(head) + 8 + len(data))
        + b"WAVE"
        + head
        + struct.pack("<4sI", b"data", len(data))
        + data
    )


class Model:
    """Boxes with one material each, as glTF 2.0 with its buffer and pictures beside it."""

    def __init__(self, name: str, picture_folder: str) -> None:
        self.name = name
        self.pictures = picture_folder
        self.buffer = b""
        self.document: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Brackwater asset script"},
            "scene": 0,
            "scenes": [{"name": name, "nodes": []}],
            "nodes": [],
            "meshes": [],
            "materials": [],
            "textures": [],
            "images": [],
            "accessors": [],
            "bufferViews": [],
            "buffers": [],
        }

    def material(self, picture: str) -> int:
        document = self.document
        document["images"].append({"uri": f"{self.pictures}/{picture}"})
        document["textures"].append({"source": len(document["images"]) - 1})
        document["materials"].append(
            {
                "name": picture.removesuffix(".png"),
                "pbrMetallicRoughness": {
                    "baseColorTexture": {"index": len(document["textures"]) - 1},
                    "metallicFactor": 0.0,
                },
            }
        )
        return len(document["materials"]) - 1

    def box(self, size: Vector, material: int) -> int:
        """A mesh: a box on the ground, its eight corners shared."""
        w, h, d = size
        corners = [(x, y, z) for x in (-w / 2, w / 2) for y in (0.0, h) for z in (-d / 2, d / 2)]
        uvs = [(float(i & 1), float(i >> 1 & 1)) for i in range(8)]
        faces = [
            0,
            1,
            3,
            0,
            3,
            2,
            4,
            6,
            7,
            4,
            7,
            5,
            0,
            4,
            5,
            0,
            5,
            1,
            2,
            3,
            7,
            2,
            7,
            6,
            0,
            2,
            6,
            0,
            6,
            4,
            1,
            5,
            7,
            1,
            7,
            3,
        ]
        low, high = (
            [min(c[i] for c in corners) for i in range(3)],
            [max(c[i] for c in corners) for i in range(3)],
        )
        position = self._accessor(
            struct.pack("<24f", *(v for c in corners for v in c)),
            5126,
            "VEC3",
            8,
            34962,
            {"min": low, "max": high},
        )
        uv = self._accessor(struct.pack("<16f", *(v for c in uvs for v in c)), 5126, "VEC2", 8, 34962, {})
        index = self._accessor(struct.pack("<36H", *faces), 5123, "SCALAR", 36, 34963, {})
        self.document["meshes"].append(
            {
                "primitives": [
                    {
                        "attributes": {"POSITION": position, "TEXCOORD_0": uv},
                        "indices": index,
                        "material": material,
                    }
                ]
            }
        )
        return len(self.document["meshes"]) - 1

    def _accessor(self, data: bytes, kind: int, shape: str, count: int, target: int, more: dict[str, Any]) -> int:
        document = self.document
        document["bufferViews"].append(
            {"buffer": 0, "byteOffset": len(self.buffer), "byteLength": len(data), "target": target}
        )
        self.buffer += data + b"\0" * (-len(data) % 4)
        view = len(document["bufferViews"]) - 1
        document["accessors"].append({"bufferView": view, "componentType": kind, "type": shape, "count": count} | more)
        return len(document["accessors"]) - 1

    def node(self, name: str, at: Vector, mesh: int | None = None, **extras: Any) -> None:
        """A node; `class_` stands for the attribute `class`."""
        node: dict[str, Any] = {"name": name, "translation": list(at)}
        if mesh is not None:
            node["mesh"] = mesh
        if extras:
            node["extras"] = {key.rstrip("_"): value for key, value in extras.items()}
        self.document["scenes"][0]["nodes"].append(len(self.document["nodes"]))
        self.document["nodes"].append(node)

    def files(self, path: str) -> dict[str, bytes]:
        self.document["buffers"] = [{"uri": f"{Path(path).stem}.bin", "byteLength": len(self.buffer)}]
        text = json.dumps(self.document, indent=2, ensure_ascii=False) + "\n"
        return {path: text.encode(), path.replace(".gltf", ".bin"): self.buffer}


def planks(x: int, y: int) -> int:
    return 6 - (x % 8 == 0) * 4 - (y % 16 == (x // 8 * 5) % 16) * 3


def stones(x: int, y: int) -> int:
    return 5 - (y % 8 == 0) * 3 - ((x + y // 8 * 4) % 12 == 0) * 3 + (x * 7 + y * 13) % 3


def waves(x: int, y: int) -> int:
    return 3 + ((x + y * 3) % 16 < 4) * 2 + (x * 5 + y * 11) % 2


def steel(x: int, y: int) -> int:
    return 4 + (abs(x - y) < 2) * 2 - ((x + y) % 31 < 2) * 3


def sign(x: int, y: int) -> int:
    return 7 if abs(y - 20) < 2 or (abs(x - 16) + 20 - y < 9 and y < 20) else 1


def single(name: str, size: Vector, picture: str, pictures: str, path: str) -> dict[str, bytes]:
    model = Model(name, pictures)
    model.node(name, (0.0, 0.0, 0.0), model.box(size, model.material(picture)))
    return model.files(path)


def brackwater() -> dict[str, bytes]:
    top = "brackwater/"
    files = {
        f"{top}textures/quay_stone.png": png(stones, (52, 50, 47), (168, 160, 146)),
        f"{top}textures/canal_water.png": png(waves, (18, 48, 58), (92, 138, 142)),
        f"{top}textures/planks.png": png(planks, (58, 38, 24), (164, 122, 82)),
        f"{top}textures/iron.png": png(steel, (28, 30, 34), (120, 124, 130)),
        f"{top}sounds/harbour/quay_bell.wav": wav([(660, 60), (1320, 25), (1870, 10)], 450),
        f"{top}sounds/harbour/gull_1.wav": wav([(1450, 40), (1510, 30)], 160, 4),
        f"{top}sounds/harbour/gull_2.wav": wav([(1300, 45), (1370, 25)], 190, 4),
        f"{top}sounds/harbour/gull_3.wav": wav([(1580, 40), (1490, 30)], 130, 4),
        f"{top}sounds/harbour/gate_open.wav": wav([(95, 40), (143, 25)], 300, 12),
        f"{top}sounds/harbour/gate_shut.wav": wav([(80, 50), (121, 25)], 260, 12),
        f"{top}sounds/harbour/tide_wash.wav": wav([], 500, 30),
    }
    files |= single("bell post", (0.3, 2.4, 0.3), "iron.png", "../textures", f"{top}models/bell_post.gltf")
    files |= single("winch house", (4.0, 3.2, 3.0), "planks.png", "../textures", f"{top}models/winch_house.gltf")
    files |= single("lock gate", (6.0, 4.0, 0.5), "planks.png", "../textures", f"{top}models/lock_gate.gltf")
    scene = Model("Brackwater", "../textures")
    stone, water = scene.material("quay_stone.png"), scene.material("canal_water.png")
    scene.node("quay, north side", (0.0, 0.0, -16.0), scene.box((80.0, 1.0, 16.0), stone))
    scene.node("quay, south side", (0.0, 0.0, 16.0), scene.box((80.0, 1.0, 16.0), stone))
    scene.node("canal", (0.0, -1.5, 0.0), scene.box((80.0, 1.2, 16.0), water))
    scene.node(
        "bell post",
        (-6.0, 1.0, -9.0),
        key="bell_post",
        class_="post",
        model="models/bell_post.gltf",
        label="harbour.bell",
        server_call="harbour.ring",
    )
    scene.node(
        "gull rock",
        (-28.0, 0.4, 3.0),
        key="gull_rock",
        class_="trigger",
        reach=6.0,
        server_call="harbour.gulls",
    )
    scene.node(
        "lock gate",
        (24.0, -1.0, 0.0),
        key="lock_gate",
        class_="moving-part",
        model="models/lock_gate.gltf",
        label="lock.gate",
    )
    scene.node(
        "lock wheel",
        (24.0, 1.0, -9.0),
        key="lock_wheel",
        class_="lever",
        target="lock_gate",
        label="lock.gate",
        server_call="harbour.lock",
    )
    scene.node(
        "winch house",
        (16.0, 1.0, -12.0),
        key="winch_house_1",
        class_="winch-house",
        model="models/winch_house.gltf",
    )
    scene.node(
        "water",
        (0.0, 0.0, 0.0),
        key="water_1",
        class_="sound-source",
        sound="water_lap",
        reach=40.0,
    )
    for number, x in enumerate((-12.0, -8.0, -4.0, 0.0), 1):
        scene.node(f"landing {number}", (x, 1.0, -14.0), key=f"landing_{number}", class_="landing")
    for number in range(1, 9):
        scene.node(f"lamp {number}", (-36.0 + 9.0 * number, 1.0, 8.5), key=f"lamp_{number}", class_="lamp")
    files |= scene.files(f"{top}scene/brackwater.gltf")
    return files


def lift_bridge() -> dict[str, bytes]:
    top = "packs/lift-bridge/"
    return {
        f"{top}preview.png": png(sign, (24, 60, 84), (220, 228, 230)),
        f"{top}content/textures/lift_bridge/steel.png": png(steel, (40, 46, 52), (150, 158, 166)),
        f"{top}content/textures/lift_bridge/sign.png": png(sign, (30, 40, 90), (240, 240, 220)),
        f"{top}content/sounds/bridge/horn.wav": wav([(233, 50), (311, 35)], 600),
        f"{top}content/sounds/bridge/chain.wav": wav([(180, 20)], 220, 20),
    } | span(f"{top}content/models/lift_bridge/span.gltf")


def span(path: str) -> dict[str, bytes]:
    model = Model("lift bridge span", "../../textures/lift_bridge")
    deck, board = model.material("steel.png"), model.material("sign.png")
    model.node("span", (0.0, 0.0, 0.0), model.box((12.0, 0.6, 5.0), deck))
    model.node("sign", (5.5, 0.6, 2.4), model.box((1.0, 1.0, 0.1), board))
    return model.files(path)


def other_packs() -> dict[str, bytes]:
    """What the other packs of the demo bring."""
    wood, iron = png(planks, (58, 38, 24), (164, 122, 82)), png(steel, (28, 30, 34), (120, 124, 130))
    files = {
        "packs/cable-ferry/content/textures/cable_ferry/planks.png": wood,
        "packs/cable-ferry/content/sounds/ferry/bell.wav": wav([(880, 55), (1760, 20)], 380),
        "packs/market-stall/content/textures/market_stall/planks.png": wood,
        "packs/heronry/content/shapes/feather.png": png(waves, (70, 78, 86), (196, 202, 206)),
        "packs/heronry/content/sounds/heron.wav": wav([(310, 45), (402, 30)], 220, 14),
        "packs/silt/content/assets/mud.png": png(stones, (44, 36, 28), (112, 96, 78)),
        "market/sign.png": png(sign, (90, 40, 30), (244, 226, 180)),
        "market/jingle.wav": wav([(523, 40), (659, 35), (784, 30)], 500),
    }
    hiss = wav([(2900, 6)], 240, 22)
    for version in ("1.0.0", "2.0.0"):
        files[f"packs/lamp-row-{version}/content/sounds/lamps/hiss.wav"] = hiss
    files["packs/lamp-row-2.0.0/content/textures/lamp_row/iron.png"] = iron
    top = "packs/lamp-row-2.0.0/content/models/lamp_row/post.gltf"
    files |= single("lamp post", (0.2, 3.2, 0.2), "iron.png", "../../textures/lamp_row", top)
    top = "packs/cable-ferry/content/models/cable_ferry/pontoon.gltf"
    files |= single("ferry pontoon", (6.0, 0.5, 4.0), "planks.png", "../../textures/cable_ferry", top)
    top = "packs/market-stall/content/models/market_stall/stall.gltf"
    stall = Model("market stall", "../../textures/market_stall")
    stall.node("table", (0.0, 0.0, 0.0), stall.box((2.4, 1.0, 1.2), stall.material("planks.png")))
    stall.node("sign", (0.0, 2.0, 0.6), stall.box((1.2, 0.8, 0.1), stall.material("sign.png")))
    files |= stall.files(top)
    files |= single("heron", (0.3, 1.0, 0.5), "feather.png", ".", "packs/heronry/content/shapes/heron.gltf")
    return files | single("silt bank", (9.0, 1.0, 7.0), "mud.png", ".", "packs/silt/content/assets/silt_bank.gltf")


def paired_modules() -> dict[str, bytes]:
    """The canal once more, as a map of the layout of that name."""
    top = "paired-modules/media/"
    files = {
        f"{top}iron.png": png(steel, (28, 30, 34), (120, 124, 130)),
        f"{top}planks.png": png(planks, (58, 38, 24), (164, 122, 82)),
        f"{top}quay_bell.wav": wav([(660, 60), (1320, 25), (1870, 10)], 450),
        f"{top}gate_open.wav": wav([(95, 40), (143, 25)], 300, 12),
    }
    files |= single("bell post", (0.3, 2.4, 0.3), "iron.png", ".", f"{top}bell_post.gltf")
    return files | single("lock gate", (6.0, 4.0, 0.5), "planks.png", ".", f"{top}lock_gate.gltf")


def scene_graph() -> dict[str, bytes]:
    """The basin, as a map of the layout of that name."""
    top = "scene-graph/assets/"
    files = {
        f"{top}planks.png": png(planks, (58, 38, 24), (164, 122, 82)),
        f"{top}iron.png": png(steel, (28, 30, 34), (120, 124, 130)),
        f"{top}gate_groan.wav": wav([(70, 45), (104, 25)], 320, 14),
    }
    files |= single("tide gate", (5.0, 4.0, 0.4), "planks.png", ".", f"{top}tide_gate.gltf")
    return files | single("wheel", (1.0, 1.0, 0.2), "iron.png", ".", f"{top}wheel.gltf")


def type_table() -> dict[str, bytes]:
    """The shore, as a map of the layout of that name."""
    top = "type-table/"
    files = {
        f"{top}shapes/planks.png": png(planks, (58, 38, 24), (164, 122, 82)),
        f"{top}sounds/gull.wav": wav([(1450, 40), (1510, 30)], 160, 4),
    }
    for name, size in (("shed", (4.0, 3.0, 3.0)), ("gull", (0.4, 0.3, 0.6)), ("post", (0.2, 1.5, 0.2))):
        files |= single(name, size, "planks.png", ".", f"{top}shapes/{name}.gltf")
    return files


def mirrored_folders() -> dict[str, bytes]:
    """The ropewalk, as a map of the layout of that name."""
    top = "mirrored-folders/"
    files = {
        f"{top}noises/creak.wav": wav([(220, 30), (233, 22)], 200, 6),
        f"{top}noises/hum.wav": wav([(98, 34), (147, 16)], 320, 5),
    }
    for folder, name, size in (
        ("quay/posts", "oak_post", (0.3, 1.4, 0.3)),
        ("quay/sheds", "rope_shed", (4.0, 3.0, 6.0)),
        ("craft/boats", "ferry", (2.4, 1.1, 6.5)),
    ):
        files[f"{top}{folder}/planks.png"] = png(planks, (58, 38, 24), (164, 122, 82))
        files |= single(name.replace("_", " "), size, "planks.png", ".", f"{top}{folder}/{name}.gltf")
    return files


def numbered_marks() -> dict[str, bytes]:
    """The regatta, as a map of the layout of that name."""
    top = "numbered-marks/"
    files = {
        f"{top}shapes/red.png": png(steel, (96, 18, 16), (196, 52, 40)),
        f"{top}sounds/horn.wav": wav([(185, 60), (277, 40)], 320, 8),
    }
    return files | single("buoy", (0.8, 1.2, 0.8), "red.png", ".", f"{top}shapes/buoy.gltf")


def manifest(folder: Path) -> bytes:
    """Every file of the map that a build ships, by folder."""
    rows = ["# What a build of Brackwater ships, one path a line."]
    for part in ("scripts", "scene", "models", "textures", "sounds", "texts"):
        paths = sorted(p.relative_to(folder).as_posix() for p in (folder / part).rglob("*") if p.is_file())
        rows += ["", f"# {part}", *paths]
    rows += ["", "# where players can be, and what is water", "zones.toml"]
    return ("\n".join(rows) + "\n").encode()


def make(folder: Path) -> None:
    makers = (
        brackwater,
        lift_bridge,
        other_packs,
        paired_modules,
        scene_graph,
        type_table,
        mirrored_folders,
        numbered_marks,
    )
    for path, data in {path: data for maker in makers for path, data in maker().items()}.items():
        target = folder / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(data)
    (folder / "brackwater" / "manifest.txt").write_bytes(manifest(folder / "brackwater"))


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else DATA)
