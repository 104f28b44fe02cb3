"""What is said around a text of notes: that it goes, becomes another, is wrong, optional, only told of, or was once so."""

from __future__ import annotations

import pytest

from hookset.authoring.draft.notes import Notes, read_notes
from hookset.authoring.draft.said import Chunk, chunks_of
from hookset.authoring.draft.said.becoming import became, is_wrong
from hookset.authoring.draft.said.history import superseded
from hookset.authoring.draft.said.parts import headings_in, is_mentioned, is_optional, is_usage
from hookset.authoring.draft.said.removals import goes
from hookset.authoring.draft.said.sides import for_both
from hookset.trees import EmptyTree, Inline, Overlay

OPEN = "gate.open(3)"


def read(text: str) -> Notes:
    (notes,) = read_notes(Overlay(EmptyTree(), {"readme.txt": Inline(text.encode())}), ("readme.txt",))
    return notes


def last(text: str) -> tuple[Chunk, Chunk | None]:
    """The last text to be copied, and the one above it."""
    chunks = list(chunks_of(read(text)))
    return chunks[-1], chunks[-2] if len(chunks) > 1 else None


@pytest.mark.parametrize(
    ("text", "out"),
    [
        (f"Then delete the line\n\n    {OPEN}\n", True),
        (f"In main.lua remove this:\n\n    {OPEN}\n", True),
        (f"Take out `{OPEN}` first.\n", True),
        (f"Die Zeile `{OPEN}` bitte löschen.\n", True),
        (f"Supprimez la ligne\n\n    {OPEN}\n", True),
        (f"The line\n\n    {OPEN}\n\ngoes out, the others stay.\n", True),
        (f"Delete the old one and add\n\n    {OPEN}\n", False),
        (f"Every lamp wants a new look, delete the old one:\n\n    {OPEN}\n", False),
        (f"Remove the pump from the scene. Then put this into start:\n\n    {OPEN}\n", False),
        (f"Add `{OPEN}`; you can remove it later.\n", False),
    ],
)
def test_what_is_to_be_taken_out(text: str, out: bool) -> None:
    assert goes(last(text)[0]) is out


@pytest.mark.parametrize(
    ("text", "old"),
    [
        (f"Change `gate.open(1)` to `{OPEN}`.\n", "gate.open(1)"),
        (f"Ersetze `gate.open(1)` durch `{OPEN}`.\n", "gate.open(1)"),
        (f"Replace\n\n    gate.open(1)\n\nwith\n\n    {OPEN}\n", "gate.open(1)"),
        (f"BEFORE:\n\n    gate.open(1)\n\nAFTER:\n\n    {OPEN}\n", "gate.open(1)"),
        (f"Change `open` to `{OPEN}`.\n", None),
        (f"Add `gate.shut()` and `{OPEN}`.\n", None),
        (f"Add\n\n    gate.shut()\n\nand\n\n    {OPEN}\n", None),
    ],
)
def test_what_becomes_something_else(text: str, old: str | None) -> None:
    assert became(*last(text)) == old


def test_where_something_only_comes_to_it_the_rest_is_no_change() -> None:
    notes = read(f"Before:\n\n    gate.shut()\n\nAfter:\n\n    {OPEN}\n    gate.shut()\n")
    assert [(line.sign, line.text.strip()) for line in notes.lines if line.sign] == [
        (" ", "gate.shut()"),
        ("+", OPEN),
        (" ", "gate.shut()"),
    ]
    (chunk,) = chunks_of(notes)
    assert chunk.gap is not None
    assert (chunk.text.strip(), chunk.gap.below.strip()) == (OPEN, "gate.shut()")


@pytest.mark.parametrize(
    ("text", "wrong"),
    [
        (f"WRONG:\n\n    {OPEN}\n", True),
        (f"In main.lua, not like this:\n\n    {OPEN}\n", True),
        (f"So nicht:\n\n    {OPEN}\n", True),
        (f"RIGHT:\n\n    {OPEN}\n", False),
        (f"If something goes wrong, add:\n\n    {OPEN}\n", False),
    ],
)
def test_what_is_shown_as_wrong(text: str, wrong: bool) -> None:
    assert is_wrong(last(text)[0]) is wrong


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (f"To open it call `{OPEN}`.\n", True),
        (f"You can use `{OPEN}` in your own scripts.\n", True),
        (f"Call `{OPEN}` in start().\n", False),
        (f"In start() add `{OPEN}`.\n", False),
    ],
)
def test_what_is_only_told_of(text: str, told: bool) -> None:
    assert is_mentioned(next(one for one in chunks_of(read(text)) if one.text == OPEN)) is told


def test_parts_by_their_headings() -> None:
    notes = read(f"# Install\n\n{OPEN}\n\n# Usage\n\n{OPEN}\n\n# Optional\n\n{OPEN}\n")
    headings = headings_in([notes])
    chunks = [(one, headings[one.notes, one.first]) for one in chunks_of(notes)]
    assert [(is_usage(heading), is_optional(one, heading)) for one, heading in chunks] == [
        (False, False),
        (True, False),
        (False, True),
    ]


def test_what_an_earlier_version_was_like() -> None:
    notes = read(
        "1.1 Copy it.\n1.2 Open it.\n\n# Changes\n\n1.10 now a lamp\nand a bell\n1.9 was a post\n1.2 first\n\n# Thanks\n"
    )
    assert sorted(superseded([notes])) == [("readme.txt", 8), ("readme.txt", 9), ("readme.txt", 10)]


@pytest.mark.parametrize(
    ("said", "both"),
    [
        ("In both main.lua files, add:", True),
        ("On each side, below the imports:", True),
        ("In beiden Dateien unten:", True),
        ("In main.lua, below both imports:", False),
        ("On the server:", False),
    ],
)
def test_what_goes_to_both_sides(said: str, both: bool) -> None:
    assert for_both(last(f"{said}\n\n    {OPEN}\n")[0], "main.lua") is both
