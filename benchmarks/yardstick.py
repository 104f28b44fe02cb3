"""Only reads a map's files and parses them, each with the parser that a check uses, on one core.

python benchmarks/yardstick.py FOLDER
"""

from __future__ import annotations

import io
import json
import sys
import wave
from pathlib import Path

import tree_sitter_lua
from lxml import etree
from PIL import Image
from tree_sitter import Language, Parser


def main() -> None:
    lua = Parser(Language(tree_sitter_lua.language()))
    for file in sorted(Path(sys.argv[1]).rglob("*")):
        if not file.is_file():
            continue
        data = file.read_bytes()
        if file.suffix == ".xml":
            etree.fromstring(data, etree.XMLParser(resolve_entities=False, huge_tree=True))
        elif file.suffix == ".lua":
            lua.parse(data)
        elif file.suffix in (".json", ".gltf"):
            json.loads(data)
        elif file.suffix == ".png":
            with Image.open(io.BytesIO(data)) as picture:
                picture.load()
        elif file.suffix == ".wav":
            with wave.open(io.BytesIO(data)) as sound:
                sound.readframes(sound.getnframes())


if __name__ == "__main__":
    main()
