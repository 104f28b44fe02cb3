"""Notes in Markdown and plain text, line by line."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.authoring.draft.notes.line import LONGEST_LINE, MOST_LINES, Line
from hookset.authoring.draft.notes.markdown import lines_of
from hookset.authoring.draft.notes.reading import read_notes
from hookset.trees import EmptyTree, Inline, Overlay

PIECES = st.sampled_from([
    "```", "~~~", "```lua", "# Install", "## Files ##", "===", "---", "***", "- copy it", "  - into `code`", "1. first",
    "> quoted", "    indented()", "", "Copy the folder.", "a | b", "<div>", "[link]: x", "\tTab", "* * *", "`tick",
])  # fmt: skip


def read(text: str) -> list[Line]:
    return list(lines_of(text))


@pytest.mark.no_cover
@given(st.lists(PIECES | st.text(max_size=20), max_size=30))
def test_every_line_is_accounted_for(pieces: list[str]) -> None:
    text = "\n".join(pieces)
    lines = read(text)
    given_lines = text.splitlines()
    assert [line.number for line in lines] == list(range(1, len(given_lines) + 1))
    for line, said in zip(lines, given_lines, strict=True):
        if line.code:
            assert line.text == said and not line.heading
        elif line.text and not line.heading:
            assert line.text == said


@pytest.mark.parametrize(
    ("text", "code"),
    [
        pytest.param("Add:\n```lua\nload('a')\n```\nDone\n", ["load('a')"], id="a-fence"),
        pytest.param("1. Add:\n   ```\n   load('a')\n   ```\n2. Save\n", ["   load('a')"], id="in-a-list"),
        pytest.param("Add:\n~~~\na\n```\nb\n", ["a", "```", "b"], id="never-closed"),
        pytest.param("````\n```\n````\n", ["```"], id="a-longer-fence"),
        pytest.param("Do this:\n\n    not marked as code\n", [], id="indented"),
        pytest.param("`load('a')` goes below\n", [], id="within-a-line"),
    ],
)
def test_what_is_fenced_is_to_be_copied(text: str, code: list[str]) -> None:
    assert [line.text for line in read(text) if line.code] == code


@pytest.mark.parametrize(
    ("text", "headings"),
    [
        pytest.param("# Install\ntext\n", ["Install"], id="marked"),
        pytest.param("## The files ##\n", ["The files"], id="marked-at-both-ends"),
        pytest.param("Install\n=======\ntext\n", ["Install"], id="underlined"),
        pytest.param("Copy it.\nOpen the list.\n---\n", [], id="a-line-below-several"),
        pytest.param("#include <a>\n", [], id="no-blank-behind-the-mark"),
        pytest.param("```\n# comment\n```\n", [], id="in-code"),
    ],
)
def test_headings(text: str, headings: list[str]) -> None:
    assert [line.text for line in read(text) if line.heading] == headings


def test_what_nobody_wrote_is_not_read_to_its_end() -> None:
    assert len(read("copy\n" * 3 * MOST_LINES)) == MOST_LINES + 1
    (line,) = read("# " + "a #" * 100_000)
    assert len(line.text) <= LONGEST_LINE


@pytest.mark.parametrize(
    ("data", "lines"),
    [
        pytest.param("Füge hinzu\n".encode("cp1252"), ["Füge hinzu"], id="windows"),
        pytest.param("Füge hinzu\n".encode("utf-16"), ["Füge hinzu"], id="utf-16"),
        pytest.param("\ufeffCopy\r\nit\r\n".encode(), ["Copy", "it"], id="a-mark-and-carriage-returns"),
        pytest.param(b"[b]Copy[/b] it\n[code]load()[/code]\n", ["Copy  it", "", "load()", ""], id="a-post"),
        pytest.param("Füge hinzu, überall\n".encode("cp850"), ["Füge hinzu, überall"], id="dos"),
        pytest.param(
            "┌─[ install ]────┐\n│ Copy it\tand   │\n└────────────────┘\n".encode("cp437"),
            ["install", "Copy it\tand", ""],
            id="a-frame-of-dos",
        ),
        pytest.param(b"********\n* Copy *\n* it   *\n* all  *\n********\n", ["", "Copy", "it", "all", ""], id="stars"),
        pytest.param(b"| a | b |\n|---|---|\n| c | d |\n", ["| a | b |", "|---|---|", "| c | d |"], id="a-table"),
        pytest.param(
            b"0:10 copy it\n[0:45] - open the list\n1:02:30 save\n",
            ["- copy it", "- open the list", "- save"],
            id="moments-of-a-film",
        ),
        pytest.param(
            b"at 0:10 copy it\n06:30 the ferry leaves\n", ["at 0:10 copy it", "06:30 the ferry leaves"], id="a-clock"
        ),
        pytest.param(
            b"gate.open();    <- in start()\n", ["in start():", "gate.open();"], id="a-remark-behind-an-arrow"
        ),
        pytest.param(b"<html><p>Copy <b>it</b></p><pre>load()</pre>", ["Copy it", "", "load()", ""], id="a-page"),
    ],
)
def test_notes_in_every_form(data: bytes, lines: list[str]) -> None:
    tree = Overlay(EmptyTree(), {"readme.txt": Inline(data)})
    (notes,) = read_notes(tree, ("readme.txt",))
    assert [line.text.strip() for line in notes.lines] == [line.strip() for line in lines]
    assert not notes.cut


def said(text: str, path: str = "readme.txt") -> list[tuple[str, str]]:
    """The lines of some notes that say something: the mark of each (`>` for what is to be copied), and its text."""
    (notes,) = read_notes(Overlay(EmptyTree(), {path: Inline(text.encode())}), (path,))
    return [(line.sign or (">" if line.code else ""), line.text.strip()) for line in notes.lines if line.text.strip()]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        pytest.param(
            "$ cp -r code/*.lua ~/pack/x.wav sounds/\n", [("", "copy code/*.lua, pack/x.wav -> sounds/")], id="cp"
        ),
        pytest.param("```\nxcopy /s code\\gate.lua code\n```\n", [("", "copy code/gate.lua -> code")], id="xcopy"),
        pytest.param("copy the files\n", [("", "copy the files")], id="a-sentence"),
        pytest.param("```sh\nmkdir -p sounds\ncp a/b sounds\n```\n", [("", "copy a/b -> sounds")], id="a-folder"),
        pytest.param(
            "```\ncat >> list.txt <<'END'\ngate.lua\nEND\n```\nDone.\n",
            [("", "add to list.txt:"), (">", "gate.lua"), ("", "Done.")],
            id="a-text-at-the-end-of-a-file",
        ),
        pytest.param(
            "$ echo 'use gate;' >> main.scr\n", [("", "add to main.scr:"), (">", "use gate;")], id="a-line-at-the-end"
        ),
        pytest.param(
            "```\ncat >> list.txt <<END\ngate.lua\n```\n",
            [(">", "cat >> list.txt <<END"), (">", "gate.lua")],
            id="never-ended",
        ),
        pytest.param("```\ncopy(gate)\n```\n", [(">", "copy(gate)")], id="a-call"),
        pytest.param("$ patch -p1 < main.patch\n", [("", "by main.patch")], id="a-patch"),
    ],
)
def test_commands_are_said_in_words(text: str, told: list[tuple[str, str]]) -> None:
    assert said(text) == told


@pytest.mark.parametrize(
    ("text", "told"),
    [
        pytest.param(
            "--- a/code/main.lua\t2031\n+++ b/code/main.lua\t2031\n@@ -1,3 +1,3 @@\n load()\n--- gone\n+open()\n\nThat is all.\n",
            [("", "code/main.lua:"), (" ", "load()"), ("-", "-- gone"), ("+", "open()"), ("", "That is all.")],
            id="a-whole-one",
        ),
        pytest.param("```\n a()\n+b()\n```\n", [(" ", "a()"), ("+", "b()")], id="some-lines"),
        pytest.param("```\n+b()\n```\n", [("+", "b()")], id="new-lines-only"),
        pytest.param("```\n- a: 1\n  b: 2\n```\n", [(">", "- a: 1"), (">", "b: 2")], id="a-list-of-yaml"),
        pytest.param("- copy\n+ save\n", [("", "- copy"), ("", "+ save")], id="a-list"),
    ],
)
def test_listings_of_changes(text: str, told: list[tuple[str, str]]) -> None:
    assert said(text) == told


@given(
    st.lists(
        st.sampled_from(["+a", "-a", " a", "@@ -1 +1 @@", "--- a", "+++ b", "| x |", "│ x │", "```", "$ cp a b", ""])
    )
)
def test_whatever_is_drawn_or_listed_has_its_number(pieces: list[str]) -> None:
    (notes,) = read_notes(Overlay(EmptyTree(), {"a.txt": Inline("\n".join(pieces).encode())}), ("a.txt",))
    numbers = [line.number for line in notes.lines]
    assert numbers == sorted(numbers)
    assert set(numbers) == set(range(1, len("\n".join(pieces).splitlines()) + 1))
