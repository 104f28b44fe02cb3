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
        pytest.param(b"<html><p>Copy <b>it</b></p><pre>load()</pre>", ["Copy it", "", "load()", ""], id="a-page"),
    ],
)
def test_notes_in_every_form(data: bytes, lines: list[str]) -> None:
    tree = Overlay(EmptyTree(), {"readme.txt": Inline(data)})
    (notes,) = read_notes(tree, ("readme.txt",))
    assert [line.text.strip() for line in notes.lines] == [line.strip() for line in lines]
    assert not notes.cut
