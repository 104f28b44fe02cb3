"""Writes docs/layout-language.md: each row of docs/layout-language, with its layout, its files and what a check tells.

python tools/make_language_page.py [FILE]
"""

from __future__ import annotations

import json
import sys
import tomllib
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parent.parent
HEAD = """# What layouts can say, by example

Each part shows a piece of a layout, files of a map, and what `hookset check` tells of them; all else in them is right.
[All that a layout can say](layouts.md) is the whole list. This page is made of the files in
`docs/layout-language` by `tools/make_language_page.py`; a test runs each of them.
"""


def block(text: str, language: str = "") -> str:
    return f"```{language}\n{text.strip()}\n```\n"


def part(row: dict[str, Any]) -> str:
    said = [f"## {row['title']}\n", f"{row['says'].strip()}\n", block(row["layout"], "toml")]
    for path, text in row["files"].items():
        said += [f"`{path}`\n", block(text)]
    if stock := row.get("stock"):
        said.append(
            "The stock has " + ", ".join(f"{kind}: {', '.join(names)}" for kind, names in stock.items()) + ".\n"
        )
    if project := row.get("project"):
        said += ["In hookset.toml:\n", block(project, "toml")]
    if hook := row.get("hook"):
        (after,) = row["after"].items()
        shown = ", ".join(f"{key} = {json.dumps(value)}" for key, value in hook.items() if key != "path")
        said += [f"With a hook `{shown}`, `{after[0]}` is\n", block(after[1])]
    told = [f"* `{line}`" for line in row["findings"]] + [f"* `{line}`: not checkable" for line in row.get("open", [])]
    said.append("Told:\n\n" + "\n".join(told) + "\n" if told else "Nothing is told.\n")
    return "\n".join(said)


def page() -> str:
    files = sorted((ROOT / "docs/layout-language").glob("*.toml"))
    rows = [tomllib.loads(file.read_text(encoding="utf-8")) for file in files]
    return "\n".join((HEAD, *(part(row) for row in sorted(rows, key=lambda row: str(row["title"])))))


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs/layout-language.md"
    target.write_text(page(), encoding="utf-8")
