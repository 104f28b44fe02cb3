"""Writes docs/checks.md: every check as it is declared, with its examples.

python tools/make_checks_page.py [FILE]
"""

from __future__ import annotations

import sys
from collections.abc import Mapping
from itertools import groupby
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.core.test_check_examples import findings

from hookset.checks import Check, all_checks
from hookset.checks.examples import FILES, LAYOUT

ROOT = Path(__file__).parent.parent
HEAD = """# The checks

{count} checks, in families. Each has a code, by which `hookset.toml` can speak of it ([how](project-file.md)):
make it graver or milder, turn it off, or accept a finding. An *error* refuses a build; a *warning* makes
`hookset check` fail; a *note* never does. What `hookset check --mend` can mend without a choice of yours is marked.

The examples are changes to one small map, which is at [the end](#the-map-of-the-examples). This page is made of the
checks themselves by `tools/make_checks_page.py`; a test tries every example.
"""
FAMILIES = {
    "beginning": "Is there what the game begins with?",
    "references": "Is everything there that is referred to?",
    "spelling": "Is it called what it is called?",
    "definitions": "Is everything defined once and whole?",
    "values": "Do values agree, come from their set, and suffice?",
    "numbers": "Do numbers keep to their range, their order, their owner?",
    "order": "Does it stand before what it must, and is it called after the map?",
    "places": "Is it in its folder, and on the ground?",
    "standing": "Does it stand where it should?",
    "prefabs": "Are the files there for which things stand, and is there an end to them?",
    "files": "Are files what their names say?",
    "manifest": "Is what is used shipped, and what is shipped used?",
    "units": "Do units say what they need?",
    "unloaded": "What is in files that the game never loads?",
    "entries": "Does what packs have set still stand?",
    "exclusions": "Do packs stand beside what they exclude?",
    "idle": "Does all of your layout mean something?",
    "terms": "Does hookset.toml still mean something?",
}


def shown(files: Mapping[str, str | None]) -> str:
    parts = []
    for path, text in files.items():
        if text is None:
            continue
        body = text.rstrip("\n") or "(empty)"
        parts.append(f"`{path}`\n\n```\n{body}\n```\n")
    return "\n".join(parts)


def entry(one: Check) -> str:
    example = one.example
    found = findings(one, example.fails, example.project, example.links)
    mended = ", mended by `--mend`" if any(f.mend for f in found if f.code == one.code) else ""
    text = f"### `{one.code}` ({one.severity.word}{mended})\n\n**{one.title}.** Why it matters: {one.why}.\n"
    text += f"What to do: {one.remedy}.\n\n"
    if example.project:
        text += f"Fails with this in `hookset.toml`:\n\n```toml\n{example.project.strip()}\n```\n"
    if example.links:
        text += f"Fails when `{example.links[0]}` is a link to a folder.\n"
    if len(example.fails) > len(FILES):
        text += "Fails in a folder in which there is nothing of such a map.\n"
    elif example.fails:
        text += "Fails:\n\n" + shown(example.fails)
    if example.passes:
        text += "\nPasses:\n\n" + shown(example.passes)
    if example.layout:
        text += f"\nThe layout says:\n\n```toml\n{example.layout.strip()}\n```\n"
    if example.stock:
        names = "; ".join(f"{kind}: {', '.join(names)}" for kind, names in example.stock.items())
        text += f"\nThe base game has: {names}.\n"
    return text


def page() -> str:
    checks = sorted(all_checks(), key=lambda one: (list(FAMILIES).index(one.family), one.code))
    text = HEAD.format(count=len(checks))
    for family, members in groupby(checks, key=lambda one: one.family):
        text += f"\n## {FAMILIES[family]}\n\n" + "\n".join(entry(one) for one in members)
    text += "\n## The map of the examples\n\n" + shown(FILES) + f"\nIts layout:\n\n```toml\n{LAYOUT.strip()}\n```\n"
    return text


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs/checks.md"
    target.write_text(page(), encoding="utf-8")
