"""Writes the JSON Schema of each of our files, made of the same types that read them.

python tools/make_schemas.py [FOLDER]     default: src/hookset/schemas
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import msgspec

from hookset.config.layouts.schema import LayoutFile
from hookset.packs import HookSheet
from hookset.project import Ledger, ProjectFile
from hookset.project.stocks import StockFile

FILES: dict[str, type] = {
    "hookset": ProjectFile,
    "layout": LayoutFile,
    "hooksheet": HookSheet,
    "stock": StockFile,
    "ledger": Ledger,
}


def make(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, kind in FILES.items():
        schema = {"$schema": "https://json-schema.org/draft/2020-12/schema"} | msgspec.json.schema(kind)
        text = json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
        (folder / f"{name}.schema.json").write_text(text, encoding="utf-8")


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent.parent / "src/hookset/schemas")
