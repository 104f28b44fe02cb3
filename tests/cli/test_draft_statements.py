"""Drafts for scripts that are read by regular expressions: statements in quotes, functions, and what goes beside a line."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

import pytest

from hookset.authoring.draft.decided import decided_of
from hookset.authoring.draft.decisions import read_walk
from hookset.authoring.draft.notes import read_notes
from hookset.authoring.draft.said.chunks import looks_like_code
from hookset.packs import open_pack
from hookset.trees import FolderTree
from tests.conftest import run_hookset

LAYOUT = """
[layout]
name = "own"
title = "Two scripts"
sides = ["server", "client"]
may_be_empty = true
[kinds.script]
label = "script"
sided = true
[kinds.hook]
label = "hook"
""" + "".join(
    f"""
[[read]]
files = "**/*.{ending}"
format = "text"
side = "{side}"
defines = [{{ kind = "hook", match = '^fn (?P<value>\\w+)' }}]
refers = [{{ kind = "script", match = '^use (?P<value>[\\w:]+);' }}]
[[read]]
files = "packs/*.{ending}"
format = "any"
side = "{side}"
defines = [{{ kind = "script", name = "packs::{{stem}}" }}]
[[seat]]
name = "{side}-import"
title = "under the last import of the {side}'s script"
file = "town.{ending}"
put = {{ after = '^[ \\t]*use ' }}
[[seat]]
name = "{side}-start"
title = "at the end of the {side}'s start function"
file = "town.{ending}"
put = {{ inside = '^fn start', at = "end" }}
[[seat]]
name = "{side}-start-after"
title = "in the {side}'s start function, directly after the start of a module"
file = "town.{ending}"
put = {{ after = '^[ \\t]*{{module}}::start\\(' }}
[[seat]]
name = "{side}-end"
title = "at the very end of the {side}'s script"
file = "town.{ending}"
put = {{ at = "end" }}
"""
    for side, ending in (("server", "srv"), ("client", "cli"))
)
TOWN = "use core::tide;\n\nfn start() {\n    tide::start();\n    gulls::start();\n}\n"


@pytest.fixture
def town(tmp_path: Path) -> Path:
    root = tmp_path / "town"
    root.mkdir()
    (root / "own.toml").write_text(LAYOUT)
    (root / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "own.toml"\n')
    for ending in ("srv", "cli"):
        (root / f"town.{ending}").write_text(TOWN)
    return root


def hooks(town: Path, notes: str, *endings: str) -> list[dict[str, Any]]:
    """The hooks of a draft for a pack with a script for these sides."""
    pack = town.parent / "bell"
    (pack / "packs").mkdir(parents=True)
    (pack / "readme.txt").write_text(notes)
    for ending in endings:
        (pack / "packs" / f"bell.{ending}").write_text("fn start() {\n}\n")
    sheet = run_hookset(town, "draft", str(pack), "--show", "--json").data["sheet"]
    return [
        {key: hook[key] for key in ("seat", "at", "text") if key in hook}
        for hook in tomllib.loads(sheet).get("hook", ())
    ]


def test_a_statement_in_quotes_within_a_sentence_is_set(town: Path) -> None:
    notes = 'Copy packs into your map; it wants "use packs::bell;" below the other imports of the server script.\n'
    assert hooks(town, notes, "srv") == [{"seat": "server-import", "text": "use packs::bell;"}]


def test_what_stands_between_scissors_is_one_thing(town: Path) -> None:
    notes = (
        "Server script, at the very end:\n-----8<-----\nfn bell_told(who) {\n    hint(who);\n}\n----->8-----\n"
        "That is all of it, have fun with it, and tell me how it goes.\n"
    )
    assert hooks(town, notes) == [{"seat": "server-end", "text": "fn bell_told(who) {\n    hint(who);\n}"}]


def test_what_scissors_enclose_is_to_be_copied_whatever_it_looks_like(tmp_path: Path) -> None:
    cut = "Put this in:\n---8<---\nThe gate is open\n--- >8 ---\nThank you\n---8<---\nnever closed\n"
    (tmp_path / "readme.txt").write_text(cut)
    (notes,) = read_notes(FolderTree(tmp_path), ("readme.txt",))
    assert [line.text for line in notes.lines if line.code] == ["The gate is open"]
    assert notes.lines[-1].text == "never closed"


@pytest.mark.parametrize(
    ("line", "copied"),
    [
        ("in start(), right after tide::start(); (not before, not at the end)", False),
        ("under the gate, behind the lamps, before the bell, at the end", False),
        ("3,event,bell,", True),
        ('{ "type": "tern", "shape": "tern", "rank": "bird", "reach": 25', True),
    ],
)
def test_prose_with_commas_is_no_row_of_a_table(line: str, copied: bool) -> None:
    assert looks_like_code(line) is copied


def test_scissors_that_are_opened_only_mean_nothing(town: Path) -> None:
    assert hooks(town, "-----8<-----\nThanks to all who have helped me with this.\n") == []


def test_right_after_a_call_is_a_place_of_its_own(town: Path) -> None:
    notes = "Server script: in start(), right after tide::start(); comes\n\n    bell::start();\n"
    assert hooks(town, notes) == [{"seat": "server-start-after", "at": {"module": "tide"}, "text": "bell::start();"}]


def test_without_such_words_nothing_goes_beside_a_call(town: Path) -> None:
    notes = "Server script, in the start function at the end; the tide must be there already:\n\n    bell::start();\n"
    assert hooks(town, notes, "srv") == [{"seat": "server-start", "text": "bell::start();"}]


def test_the_other_side_has_it_at_the_same_place(town: Path) -> None:
    notes = "Server script: in start(), right after tide::start(); comes\n\n    bell::start();\n"
    found = hooks(town, notes, "srv", "cli")
    beside = [one for one in found if one["text"] == "bell::start();"]
    assert [(one["seat"], one["at"]) for one in beside] == [
        ("server-start-after", {"module": "tide"}),
        ("client-start-after", {"module": "tide"}),
    ]


def test_prose_with_commas_is_no_row(town: Path) -> None:
    notes = "In the server's start function, after the tide; not before, not at the end.\n"
    assert hooks(town, notes) == []


def test_what_stands_there_already_is_not_set_once_more(town: Path) -> None:
    notes = 'As in version 1: the import "use core::tide;" in the start of the server script stays as it was.\n'
    assert hooks(town, notes) == []


def test_a_file_is_there_under_two_names_as_decided(town: Path) -> None:
    pack = town.parent / "bell"
    (pack / "packs").mkdir(parents=True)
    (pack / "readme.txt").write_text("Need more bells? Copy bell.srv and call it bell_b.srv.\n")
    (pack / "packs/bell.srv").write_text("fn start() {\n}\n")
    walk = town.parent / "walk.toml"
    walk.write_text(
        '[[step]]\nlines = "readme.txt:1"\n'
        '[[step.files]]\nfrom = "packs/bell.srv"\nto = "packs"\n'
        '[[step.files]]\nfrom = "packs/bell.srv"\nto = "packs/bell_b.srv"\n'
    )
    assert run_hookset(town, "draft", str(pack), "--answers", str(walk), "--json").data["not_understood"] == 0
    opened = open_pack(pack)
    notes = read_notes(opened.tree, ("readme.txt",))
    decided = decided_of(read_walk(walk.read_bytes(), "walk.toml"), notes, opened)
    assert decided.given == {"packs/bell.srv": ("packs/bell.srv", "packs/bell_b.srv")}
    assert run_hookset(town, "install", str(pack)).code == 0
    assert sorted(path.name for path in (town / "packs").iterdir()) == ["bell.srv", "bell_b.srv"]


def test_a_statement_that_is_lost_leaves_its_line_open(town: Path) -> None:
    pack = town.parent / "bell"
    (pack / "packs").mkdir(parents=True)
    (pack / "readme.txt").write_text(
        'Copy packs into your map, and let your own clock call "bell::strike(3);" each hour.\n'
    )
    (pack / "packs/bell.srv").write_text("fn strike(times) {\n}\n")
    drafted = run_hookset(town, "draft", str(pack), "--show", "--json")
    assert (drafted.code, drafted.data["not_understood"], drafted.data["complete"]) == (1, 1, False)
