"""Writes the JSON Schema of each of our files, made of the same types that read them.

python tools/make_schemas.py [FOLDER]     default: src/hookset/schemas
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

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


_LISTED = {"type": "object", "required": ["list"], "properties": {"list": {"type": "string"}}}
"""What stands for the values of one of a layout's `[lists]`."""


def _with_lists(schema: Any) -> Any:
    """A layout's schema, with the name of a list wherever several texts can be."""
    if isinstance(schema, list):
        return [_with_lists(one) for one in schema]
    if not isinstance(schema, dict):
        return schema
    made = {key: _with_lists(one) for key, one in schema.items()}
    if schema.get("type") == "array" and schema.get("items") == {"type": "string"}:
        return {"anyOf": [made | {"items": {"anyOf": [{"type": "string"}, _LISTED]}}, _LISTED]}
    return made


def make(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, kind in FILES.items():
        schema = {"$schema": "https://json-schema.org/draft/2020-12/schema"} | msgspec.json.schema(kind)
        schema = _with_lists(schema) if name == "layout" else schema
        text = json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
        (folder / f"{name}.schema.json").write_text(text, encoding="utf-8")


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent.parent / "src/hookset/schemas")
