"""The pictures, by name."""

import json
import pathlib

names = sorted(file.name for file in pathlib.Path("textures").glob("*.png"))
pathlib.Path("textures/list.json").write_text(json.dumps(names) + "\n")
