"""A large map of the layout scene-graph, the same each time: 5,000 files, of which 2,000 are Lua, a scene of 400,000
objects in 37 MB of XML, 200,000 references. `scale` makes it smaller or larger.

    python benchmarks/big_map.py FOLDER [SCALE]
"""

from __future__ import annotations

import io
import random
import sys
import wave
from pathlib import Path

from PIL import Image

SCRIPTS, PICTURES, MODELS, SOUNDS, OBJECTS = 2_000, 1_500, 1_000, 498, 400_000
CALLS, LINKS, SHAPES = 30_000, 20_000, 100_000
"""How many objects call a function, are linked to another, have a shape."""
FAULTS = 3
"""Links that lead nowhere: a map that somebody works on has findings, and each is told with its line."""

BODY = """
-- what happens at place {number}
include("s{before:05}")
P{number} = {{ steps = 0, open = false, names = {{ "first", "second", "third" }} }}

local function settle(value, low, high)
  if value < low then return low elseif value > high then return high end
  return value
end
"""
FUNCTION = """
function P{number}.f{index}(who, amount)
  local one = node("n{a:06}")
  local other = node("n{b:06}")
  P{number}.steps = settle(P{number}.steps + (amount or 1), 0, {top})
  if P{number}.steps % 2 == 0 then
    one:move(0, P{number}.steps * 0.5, 0)
    write_text("t{text:04}")
  else
    other:turn(who, {{ x = 1, y = 2, z = P{number}.steps }})
  end
end
"""


def script(number: int, objects: int, rng: random.Random) -> str:
    parts = [BODY.format(number=number, before=max(number - 1, 0))]
    parts += [
        FUNCTION.format(
            number=number,
            index=index,
            a=rng.randrange(objects),
            b=rng.randrange(objects),
            top=rng.randrange(10, 90),
            text=rng.randrange(1000),
        )
        for index in range(8)
    ]
    return "".join(parts)


def scene(scripts: int, models: int, sounds: int, objects: int, scale: float, rng: random.Random) -> str:
    lines = ['<?xml version="1.0" encoding="utf-8"?>', "<Basin>", "  <Sources>"]
    paths = [f"assets/m{n:05}.gltf" for n in range(models)]
    paths += [f"assets/s{n:05}.wav" for n in range(sounds)] + [f"code/s{n:05}.lua" for n in range(scripts)]
    lines += [f'    <Source no="{number}" from="{path}"/>' for number, path in enumerate(paths, 1)]
    lines += ["  </Sources>", "  <Runs>", f'    <Run source="{len(paths)}"/>', "  </Runs>", "  <Things>"]
    calls, links, shapes = (int(count * scale) for count in (CALLS, LINKS, SHAPES))

    def linked(link: int) -> str:
        return "gone" if link < FAULTS else f"n{rng.randrange(objects):06}"

    for number in range(objects):
        x, y, z = (rng.randrange(-400_000, 400_000) / 100 for _ in range(3))
        shape = f' form="{rng.randrange(models) + 1}"' if number < shapes else ""
        if number < calls + links:
            attribute = (
                f'<call key="onUse" is="P{rng.randrange(scripts)}.f{rng.randrange(8)}"/>'
                if number < calls
                else f'<link key="opens" is="{linked(number - calls)}"/>'
            )
            lines.append(
                f'    <Thing key="n{number:06}"{shape} at="{x} {y} {z}" turn="0 {number % 360} 0">{attribute}</Thing>'
            )
        else:
            lines.append(
                f'    <Thing key="n{number:06}"{shape} at="{x} {y} {z}" turn="0 {number % 360}.50 0" scale="1 1 1"/>'
            )
    lines += ["  </Things>", "</Basin>", ""]
    return "\n".join(lines)


def picture(number: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (16, 16), (number % 256, number // 7 % 256, 90)).save(out, "PNG")
    return out.getvalue()


def sound(number: int) -> bytes:
    out = io.BytesIO()
    with wave.open(out, "wb") as opened:
        opened.setnchannels(1)
        opened.setsampwidth(1)
        opened.setframerate(8000)
        opened.writeframes(bytes([number % 256]) * 400)
    return out.getvalue()


def make(folder: Path, scale: float = 1.0) -> None:
    """Write the map. The numbers of everything follow `scale`."""
    rng = random.Random(20)
    scripts, pictures, models, sounds, objects = (
        max(int(count * scale), 2) for count in (SCRIPTS, PICTURES, MODELS, SOUNDS, OBJECTS)
    )
    for part in ("code", "assets", "scene", "texts"):
        (folder / part).mkdir(parents=True, exist_ok=True)
    for number in range(scripts):
        (folder / f"code/s{number:05}.lua").write_text(script(number, objects, rng))
    for number in range(pictures):
        (folder / f"assets/p{number:05}.png").write_bytes(picture(number))
    for number in range(models):
        uri = f"p{number % pictures:05}.png"
        other = f"p{(number + models) % pictures:05}.png"
        (folder / f"assets/m{number:05}.gltf").write_text(
            f'{{"asset": {{"version": "2.0"}}, "images": [{{"uri": "{uri}"}}, {{"uri": "{other}"}}]}}\n'
        )
    for number in range(sounds):
        (folder / f"assets/s{number:05}.wav").write_bytes(sound(number))
    texts = "".join(f'  <Text key="t{n:04}">words {n}</Text>\n' for n in range(1000))
    (folder / "texts/en.xml").write_text(f'<Texts>\n  <Text key="title">Big</Text>\n{texts}</Texts>\n')
    (folder / "world.json").write_text('{"name": "big", "revision": 1, "scene": "scene/big.xml", "title": "title"}\n')
    (folder / "scene/big.xml").write_text(scene(scripts, models, sounds, objects, scale, rng))
    (folder / "hookset.toml").write_text('[map]\nname = "big"\nlayout = "scene-graph"\n')


if __name__ == "__main__":
    make(Path(sys.argv[1]), float(sys.argv[2]) if len(sys.argv) > 2 else 1.0)
