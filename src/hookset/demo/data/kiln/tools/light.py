"""How bright each tile is, by the fires near it."""

import json
import pathlib
import xml.etree.ElementTree as ElementTree

scene = ElementTree.parse("scene/kiln.xml").getroot()
fires = [(tuple(map(float, one.attrib["at"].split())), float(one.attrib["heat"])) for one in scene.iter("Fire")]
light = {}
for tile in scene.iter("Tile"):
    x, y = map(float, tile.attrib["at"].split())
    bright = sum(heat / (1 + (x - fx) ** 2 + (y - fy) ** 2) for (fx, fy), heat in fires)
    light[tile.attrib["at"]] = round(bright / 100, 2)
pathlib.Path("light.json").write_text(json.dumps(light, indent=1) + "\n")
