"""What the editor says in the maps of every shipped layout is what the commands say."""

from __future__ import annotations

import functools
import re
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from lsprotocol import types as lsp
from pygls.exceptions import JsonRpcException

from tests.cli.test_editor import Editor, with_editor
from tests.conftest import run_hookset, snapshot
from tests.shipped import started

LAYOUTS = (
    "brackwater", "scene-graph", "type-table", "mirrored-folders", "numbered-marks", "paired-modules", "godot-3",
)  # fmt: skip
MOST = 8
"""Names of a map that are asked about."""

Spot = tuple[str, int, int]
"""Path, line and column, from one."""


@dataclass(frozen=True)
class Name:
    """A name of a map, as `trace` knows it."""

    kind: str
    name: str
    defined: frozenset[Spot]
    referred: frozenset[Spot]


def spots(told: list[dict[str, Any]]) -> frozenset[Spot]:
    return frozenset((one["path"], one["line"], one["column"]) for one in told)


def text_of(file: Path) -> str:
    """As an editor shows it: some maps have files in older encodings."""
    data = file.read_bytes()
    try:
        return data.decode()
    except UnicodeDecodeError:
        return data.decode("latin-1")


def place_of(root: Path, name: str, spot: Spot) -> int | None:
    """Before which character of its line the last part of a name stands: at that place, or as the key of the value
    there; None for a name that is written nowhere in it."""
    path, line, column = spot
    here = text_of(root / path).split("\n")[line - 1]
    last = re.escape(re.split(r"\W", name)[-1])
    if not last:
        return None
    if whole := re.match(rf"[\"']?{re.escape(name)}\b", here[column - 1 :]):
        return column - 1 + whole.end() - len(last)
    if found := re.search(rf"\b{last}(?=\W+$)", here[: column - 1]):
        return found.start()
    found = re.match(rf"[\"']?(?:[\w/.:-]*\W)?(?={last}\b)", here[column - 1 :])
    return column - 1 + found.end() if found else None


@functools.lru_cache(maxsize=2)
def names_in(layout: str) -> tuple[Name, ...]:
    """Names of a layout's map, as it is before anything is changed."""
    with tempfile.TemporaryDirectory() as folder:
        return tuple(names_of(started(layout, Path(folder))))


def names_of(root: Path) -> Iterator[Name]:
    """Names that are defined and used, of each kind some."""
    found = run_hookset(root, "stock", "find", "e", "--limit", "400", "--json").data["names"]
    told: dict[str, int] = {}
    for name in dict.fromkeys(one["name"] for one in found if one["from"] == "map" and one["kind"] != "file"):
        kinds = run_hookset(root, "trace", name, "--json").data["kinds"]
        # What is of several kinds is asked about by none of them.
        for one in kinds if len(kinds) == 1 else ():
            defined, referred = spots(one["defined"]), spots(one["referred"])
            # A name that a file has by being there, or by how it is called, stands nowhere in it.
            stands = all(place_of(root, name, spot) is not None for spot in defined | referred)
            if referred and defined and stands and told.get(one["kind"], 0) < 2:
                told[one["kind"]] = told.get(one["kind"], 0) + 1
                yield Name(one["kind"], name, defined, referred)
        if sum(told.values()) >= MOST:
            return


def asked(editor: Editor, spot: Spot, name: str) -> dict[str, Any]:
    at = place_of(editor.root, name, spot)
    assert at is not None, (name, spot)
    document = lsp.TextDocumentIdentifier(editor.uri(spot[0]))
    return {"text_document": document, "position": lsp.Position(spot[1] - 1, at + 1)}


def opened(editor: Editor, path: str) -> str:
    text = text_of(editor.root / path)
    item = lsp.TextDocumentItem(editor.uri(path), "text", 1, text)
    editor.client.text_document_did_open(lsp.DidOpenTextDocumentParams(item))
    return text


def lines_of(spots: frozenset[Spot]) -> set[tuple[str, int]]:
    return {(path, line) for path, line, _ in spots}


def told(editor: Editor, found: list[lsp.Location] | None) -> set[tuple[str, int]]:
    prefix = f"{editor.root.as_uri()}/"
    return {(one.uri.removeprefix(prefix), one.range.start.line + 1) for one in found or ()}


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_the_editor_goes_where_trace_goes(layout: str, tmp_path: Path) -> None:
    root = started(layout, tmp_path)
    names = names_in(layout)
    assert names
    before = snapshot(root)
    whole: list[str] = []

    async def work(editor: Editor) -> None:
        client = editor.client
        for path in sorted({spot[0] for one in names for spot in one.defined | one.referred}):
            opened(editor, path)
        for one in names:
            for spot in sorted(one.referred)[:3]:
                found = await client.text_document_definition_async(
                    lsp.DefinitionParams(**asked(editor, spot, one.name))
                )
                assert told(editor, found) == lines_of(one.defined), (one, spot)
                offered = await client.text_document_completion_async(
                    lsp.CompletionParams(**asked(editor, spot, one.name))
                )
                # A path through a scene is offered as it is written there; ways from one node to another are not.
                last = re.split(r"\W", one.name)[-1]
                relative = "::" in one.name or "../" in text_of(root / spot[0]).split("\n")[spot[1] - 1]
                assert any(last in each.label for each in offered) or relative, (one, spot, len(offered))
            (spot, *_) = sorted(one.defined)
            shown = await client.text_document_hover_async(lsp.HoverParams(**asked(editor, spot, one.name)))
            assert spot[0] in shown.contents.value
            # Where it is the last part of several names, one of the others may be meant.
            if f"`{one.name}`" in shown.contents.value:
                context = lsp.ReferenceContext(True)
                asking = lsp.ReferenceParams(context, **asked(editor, spot, one.name))
                every = await client.text_document_references_async(asking)
                assert told(editor, every) >= lines_of(one.defined | one.referred), one
                whole.append(one.name)
            outline = await client.text_document_document_symbol_async(
                lsp.DocumentSymbolParams(lsp.TextDocumentIdentifier(editor.uri(spot[0])))
            )
            assert one.name in {each.name for each in outline}

    with_editor(root, work)
    assert snapshot(root) == before and len(whole) * 2 >= len(names)


def applied(root: Path, edits: lsp.WorkspaceEdit) -> None:
    """What an editor does with an edit of many files, each saved as it was."""
    for uri, changes in (edits.changes or {}).items():
        file = root / uri.removeprefix(f"{root.as_uri()}/")
        text = text_of(file)
        encoding = "utf-8" if text.encode() == file.read_bytes() else "latin-1"
        lines = text.split("\n")
        for edit in sorted(changes, key=lambda one: (one.range.start.line, one.range.start.character), reverse=True):
            start, end = edit.range.start, edit.range.end
            assert start.line == end.line
            line = lines[start.line].encode("utf-16-le")
            new = line[: start.character * 2] + edit.new_text.encode("utf-16-le") + line[end.character * 2 :]
            lines[start.line] = new.decode("utf-16-le")
        file.write_bytes("\n".join(lines).encode(encoding))


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_renamed_name_is_used_where_the_old_one_was(layout: str, tmp_path: Path) -> None:
    root = started(layout, tmp_path)
    findings = run_hookset(root, "check", "--json").data["findings"]
    told: dict[str, Name] = {}
    for one in names_in(layout):
        told.setdefault(one.kind, one)
    done: list[Name] = []

    async def work(editor: Editor) -> None:
        for one in told.values():
            (spot, *_) = sorted(one.defined)
            opened(editor, spot[0])
            asking = lsp.RenameParams(new_name=f"{one.name}_2", **asked(editor, spot, one.name))
            try:
                edits = await editor.client.text_document_rename_async(asking)
            except JsonRpcException as refused:
                # What the file's format or a script would not take is told, and nothing is changed.
                assert "; " in str(refused), refused
                continue
            applied(root, edits)
            done.append(one)
            # Files that were changed under its hands are opened as they are now.
            changed = [lsp.FileEvent(uri, lsp.FileChangeType.Changed) for uri in edits.changes]
            editor.client.workspace_did_change_watched_files(lsp.DidChangeWatchedFilesParams(changed))
            for uri in edits.changes:
                path = uri.removeprefix(f"{root.as_uri()}/")
                editor.type(path, text_of(root / path))

    with_editor(root, work)
    assert done, told
    for one in done:
        left = run_hookset(root, "trace", one.name, "--json").data.get("kinds", [])
        assert one.kind not in {each["kind"] for each in left}
        (now,) = (
            each
            for each in run_hookset(root, "trace", f"{one.name}_2", "--json").data["kinds"]
            if each["kind"] == one.kind
        )
        assert lines_of(spots(now["defined"])) == lines_of(one.defined)
        assert lines_of(spots(now["referred"])) == lines_of(one.referred)
    after = run_hookset(root, "check", "--json").data["findings"]
    assert [(each["code"], each["path"]) for each in after] == [(each["code"], each["path"]) for each in findings]


@pytest.mark.no_cover
@pytest.mark.parametrize("layout", LAYOUTS)
def test_what_is_typed_wrong_is_told_where_it_is(layout: str, tmp_path: Path) -> None:
    root = started(layout, tmp_path)
    one = next(one for one in names_in(layout) if len(one.name) > 2)
    (path, line, column) = next(iter(sorted(one.referred)))
    before = run_hookset(root, "check", "--json").data["findings"]

    async def work(editor: Editor) -> None:
        text = opened(editor, path)
        lines = text.split("\n")
        at = lines[line - 1].index(one.name, max(column - 2, 0))
        lines[line - 1] = lines[line - 1][:at] + "zz_" + lines[line - 1][at:]
        editor.type(path, "\n".join(lines))
        await editor.until(lambda: bool(editor.shown.get(Path(path).name)))
        await editor.until(lambda: any(each.range.start.line == line - 1 for each in editor.shown[Path(path).name]))
        told = [each for each in editor.shown[Path(path).name] if each.range.start.line == line - 1]
        assert any(f"zz_{one.name}" in each.message for each in told), told
        editor.type(path, text)
        wanted = sum(each["path"] == path for each in before)
        await editor.until(lambda: len(editor.shown[Path(path).name]) == wanted)

    with_editor(root, work)
