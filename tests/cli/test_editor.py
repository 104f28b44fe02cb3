"""`hookset editor` with a real client at the other end of the pipe."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

import pytest
from lsprotocol import types as lsp
from pygls.exceptions import JsonRpcException, JsonRpcInvalidRequest
from pygls.lsp.client import LanguageClient

from hookset.project import MapProject
from tests.conftest import run_hookset, snapshot
from tests.program import command_line

PATIENCE = 40.0
MAIN = "scripts/server/main.lua"


class Editor:
    """A client with one map open. It changes files in its own memory only."""

    def __init__(
        self,
        root: Path,
        units: lsp.PositionEncodingKind | None = None,
        can: lsp.ClientCapabilities | None = None,
        shows: bool = True,
    ) -> None:
        self.root, self.versions = root, 1
        self.units = units
        self.can_do = can or lsp.ClientCapabilities()
        self.progress: list[str] = []
        self.asked: list[lsp.Registration] = []
        self.client: Any = LanguageClient("test", "1")
        self.shown: dict[str, list[lsp.Diagnostic]] = {}
        self.said: list[str] = []
        self.times = 0

        def show(told: lsp.PublishDiagnosticsParams) -> None:
            self.shown[Path(told.uri).name] = list(told.diagnostics)
            self.times += 1

        def say(told: lsp.LogMessageParams) -> None:
            self.said.append(told.message)

        self.client.feature(lsp.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)(show)

        def made(_: lsp.WorkDoneProgressCreateParams) -> None:
            self.progress.append("made" if shows else "refused")
            if not shows:
                raise JsonRpcInvalidRequest("not now")

        def went_on(told: lsp.ProgressParams) -> None:
            value: Any = told.value
            self.progress.append(value["kind"] if isinstance(value, dict) else value.kind)

        def register(wanted: lsp.RegistrationParams) -> None:
            self.asked += wanted.registrations

        self.client.feature(lsp.WINDOW_LOG_MESSAGE)(say)
        self.client.feature(lsp.WINDOW_WORK_DONE_PROGRESS_CREATE)(made)
        self.client.feature(lsp.PROGRESS)(went_on)
        self.client.feature(lsp.CLIENT_REGISTER_CAPABILITY)(register)

    async def __aenter__(self) -> Editor:
        await self.client.start_io(*command_line("editor"))
        if self.units:
            self.can_do.general = lsp.GeneralClientCapabilities(position_encodings=[self.units])
        asked = lsp.InitializeParams(self.can_do, root_uri=self.root.as_uri())
        self.can = (await self.client.initialize_async(asked)).capabilities
        self.client.initialized(lsp.InitializedParams())
        return self

    async def __aexit__(self, *_: object) -> None:
        await self.client.shutdown_async(None)
        self.client.exit(None)
        # It ends by itself when it is told to.
        assert await asyncio.wait_for(self.client._server.wait(), PATIENCE) == 0
        await self.client.stop()

    def uri(self, path: str) -> str:
        return (self.root / path).as_uri()

    def open(self, path: str) -> str:
        text = (self.root / path).read_bytes().decode()
        self.client.text_document_did_open(
            lsp.DidOpenTextDocumentParams(lsp.TextDocumentItem(self.uri(path), "text", 1, text))
        )
        return text

    def type(self, path: str, text: str) -> None:
        self.versions += 1
        document = lsp.VersionedTextDocumentIdentifier(self.versions, self.uri(path))
        change = lsp.TextDocumentContentChangeWholeDocument(text)
        self.client.text_document_did_change(lsp.DidChangeTextDocumentParams(document, [change]))

    def at(self, path: str, text: str, word: str, more: int = 1) -> dict[str, Any]:
        """The place behind the first characters of a word."""
        offset = text.index(word) + more
        line = text.count("\n", 0, offset)
        before = text[text.rfind("\n", 0, offset) + 1 : offset]
        column = len(before) if self.units else len(before.encode("utf-16-le")) // 2
        return {"text_document": lsp.TextDocumentIdentifier(self.uri(path)), "position": lsp.Position(line, column)}

    async def until(self, done: Callable[[], bool]) -> None:
        for _ in range(int(PATIENCE / 0.02)):
            if done():
                return
            await asyncio.sleep(0.02)
        raise AssertionError((self.shown, self.said))


def with_editor(root: Path, work: Callable[[Editor], Awaitable[None]], **more: Any) -> None:
    async def run() -> None:
        async with Editor(root, **more) as editor:
            await asyncio.wait_for(work(editor), PATIENCE)

    asyncio.run(run())


def test_findings_come_and_go_as_one_types(demo: Path) -> None:
    before = snapshot(demo)

    async def work(editor: Editor) -> None:
        text = editor.open(MAIN)
        editor.type(MAIN, text.replace('"tide"', '"tid"'))
        await editor.until(lambda: bool(editor.shown.get("main.lua")))
        (told,) = editor.shown["main.lua"]
        line = text[: text.index('"tide"')].count("\n")
        column = text.splitlines()[line].index('"tide"') + 1
        assert (told.range.start, told.range.end) == (lsp.Position(line, column), lsp.Position(line, column + 3))
        assert (told.code, told.severity) == ("missing-name", lsp.DiagnosticSeverity.Error)
        editor.type(MAIN, text)
        await editor.until(lambda: not editor.shown["main.lua"])
        # A name that is taken out of one file is missing in another, which nobody has open.
        sounds = editor.open("sounds/aliases.toml")
        editor.type("sounds/aliases.toml", sounds.replace('"quay_bell"', '"quay_bel"'))
        await editor.until(lambda: bool(editor.shown.get("harbour.lua")))
        # What is closed without being saved is as it was.
        editor.client.text_document_did_close(
            lsp.DidCloseTextDocumentParams(lsp.TextDocumentIdentifier(editor.uri("sounds/aliases.toml")))
        )
        await editor.until(lambda: not editor.shown["harbour.lua"])

    with_editor(demo, work)
    assert snapshot(demo) == before


def test_places_lead_to_each_other(packed: MapProject) -> None:
    async def work(editor: Editor) -> None:
        client, table = editor.client, "sounds/aliases.toml"
        bridge = "scripts/server/packs/lift_bridge.lua"
        text, sounds = editor.open(bridge), editor.open(table)
        (found,) = await client.text_document_definition_async(
            lsp.DefinitionParams(**editor.at(bridge, text, '"bridge_horn"', 4))
        )
        line = sounds[: sounds.index("bridge_horn")].count("\n")
        assert (found.uri, found.range.start.line) == (editor.uri(table), line)
        asked = editor.at(table, sounds, "bridge_horn", 0)
        every = await client.text_document_references_async(lsp.ReferenceParams(lsp.ReferenceContext(True), **asked))
        used = await client.text_document_references_async(lsp.ReferenceParams(lsp.ReferenceContext(False), **asked))
        assert {one.uri for one in every} == {editor.uri(bridge), editor.uri(table)}
        assert {one.uri for one in used} == {editor.uri(bridge)}
        shown = await client.text_document_hover_async(lsp.HoverParams(**asked))
        assert "bridge_horn" in shown.contents.value and table in shown.contents.value
        sound = await client.text_document_hover_async(
            lsp.HoverParams(**editor.at(table, sounds, "harbour/gull_1.wav", 9))
        )
        assert " s" in sound.contents.value.splitlines()[-1]
        outline = await client.text_document_document_symbol_async(
            lsp.DocumentSymbolParams(lsp.TextDocumentIdentifier(editor.uri(table)))
        )
        assert {"quay_bell", "bridge_horn"} <= {one.name for one in outline}
        blank = await client.text_document_definition_async(lsp.DefinitionParams(**editor.at(bridge, text, "--", 0)))
        assert not blank
        picture = "models/lock_gate.gltf"
        model = editor.open(picture)
        shown = await client.text_document_hover_async(lsp.HoverParams(**editor.at(picture, model, "planks.png", 2)))
        assert "×" in shown.contents.value and "planks.png)" in shown.contents.value

    with_editor(packed.root, work)


def test_what_could_be_written_is_offered(demo: Path) -> None:
    async def work(editor: Editor) -> None:
        client = editor.client
        text = editor.open(MAIN)
        more = text + '\nlocal other = require("")\n'
        editor.type(MAIN, more)
        offered = await client.text_document_completion_async(
            lsp.CompletionParams(**editor.at(MAIN, more, 'require("")', 9))
        )
        labels = [one.label for one in sorted(offered, key=lambda one: one.sort_text)]
        assert {"tide", "harbour", "clock"} <= {*labels} and labels.index("tide") < labels.index("clock")
        wrong = text.replace('"tide"', '"tid"')
        editor.type(MAIN, wrong)
        place = editor.at(MAIN, wrong, '"tid"', 2)
        span = lsp.Range(place["position"], place["position"])
        (action,) = await client.text_document_code_action_async(
            lsp.CodeActionParams(place["text_document"], span, lsp.CodeActionContext([]))
        )
        ((uri, (edit,)),) = action.edit.changes.items()
        assert (uri, edit.new_text, edit.range.end.character - edit.range.start.character) == (
            editor.uri(MAIN),
            "tide",
            3,
        )
        model = "models/lock_gate.gltf"
        shown = editor.open(model)
        offered = await client.text_document_completion_async(
            lsp.CompletionParams(**editor.at(model, shown, "../textures/planks.png", 3))
        )
        # Written as it has to be there, and so where nothing is written yet.
        assert "../textures/iron.png" in [one.label for one in offered]
        empty = shown.replace("../textures/planks.png", "")
        editor.type(model, empty)
        offered = await client.text_document_completion_async(
            lsp.CompletionParams(**editor.at(model, empty, '"uri": ""', 8))
        )
        assert "../textures/iron.png" in [one.label for one in offered]

    with_editor(demo, work)


SCENE = """[gd_scene load_steps=2 format=2]

[ext_resource path="res://quay.gd" type="Script" id=1]

[node name="Quay" type="Node"]
script = ExtResource( 1 )

[node name="Gate" type="Timer" parent="."]

[node name="Lamp" type="Node2D" parent="Gate"]
light_mask = NodePath("")

[connection signal="timeout" from="Gate" to="." method=""]
"""


def test_what_is_offered_is_what_the_thing_has_by_the_way_from_there(tmp_path: Path) -> None:
    (tmp_path / "project.godot").write_text("config_version=4\n")
    (tmp_path / "quay.tscn").write_text(SCENE)
    (tmp_path / "quay.gd").write_text('extends "res://tide.gd"\nfunc open_gate():\n\tpass\n')
    (tmp_path / "tide.gd").write_text("extends Node\nfunc rise():\n\tpass\n")
    (tmp_path / "shed.gd").write_text("extends Node\nfunc creak():\n\tpass\n")
    assert run_hookset(tmp_path, "start").code == 0

    async def work(editor: Editor) -> None:
        scene = editor.open("quay.tscn")

        async def offered(word: str, more: int) -> set[str]:
            place = lsp.CompletionParams(**editor.at("quay.tscn", scene, word, more))
            return {one.label for one in await editor.client.text_document_completion_async(place)}

        methods = await offered('method=""', 8)
        assert {"open_gate", "rise"} <= methods and "creak" not in methods
        assert await offered('NodePath("")', 10) == {".", "..", "../.."}

    with_editor(tmp_path, work)


def test_a_name_is_changed_everywhere_or_not_at_all(packed: MapProject) -> None:
    async def work(editor: Editor) -> None:
        client, table = editor.client, "sounds/aliases.toml"
        sounds = editor.open(table)
        asked = editor.at(table, sounds, "bridge_horn", 0)
        done = await client.text_document_rename_async(lsp.RenameParams(new_name="deep_horn", **asked))
        for uri, edits in done.changes.items():
            file = Path(uri.removeprefix("file://"))
            lines = file.read_bytes().decode().split("\n")
            for edit in edits:
                line = lines[edit.range.start.line]
                lines[edit.range.start.line] = (
                    line[: edit.range.start.character] + edit.new_text + line[edit.range.end.character :]
                )
            file.write_bytes("\n".join(lines).encode())
        told = run_hookset(packed.root, "check", "--json").data["findings"]
        assert not [one for one in told if one["severity"] == "error"]
        assert "bridge_horn" not in (packed.root / table).read_text()
        for taken in ("quay_bell", "gull_1"):
            with pytest.raises(JsonRpcException, match="broken"):
                await client.text_document_rename_async(lsp.RenameParams(new_name=taken, **asked))
        texts = editor.at(MAIN, editor.open(MAIN), '"tide"', 2)
        with pytest.raises(JsonRpcException):
            await client.text_document_rename_async(lsp.RenameParams(new_name="flood", **texts))

    with_editor(packed.root, work)


def test_files_that_other_programs_write_are_seen(demo: Path) -> None:
    async def work(editor: Editor) -> None:
        editor.open(MAIN)
        (demo / "sounds/harbour/gull_1.wav").unlink()
        change = lsp.FileEvent(editor.uri("sounds/harbour/gull_1.wav"), lsp.FileChangeType.Deleted)
        editor.client.workspace_did_change_watched_files(lsp.DidChangeWatchedFilesParams([change]))
        await editor.until(lambda: bool(editor.shown.get("aliases.toml")))
        project = demo / "hookset.toml"
        project.write_text(project.read_text() + '\n[check.severity]\nmissing-file = "off"\nrow-without-file = "off"\n')
        change = lsp.FileEvent(editor.uri("hookset.toml"), lsp.FileChangeType.Changed)
        editor.client.workspace_did_change_watched_files(lsp.DidChangeWatchedFilesParams([change]))
        await editor.until(lambda: not editor.shown["aliases.toml"])
        # What is typed and not saved stays typed when all of the map is read once more.
        typed = (demo / MAIN).read_text().replace('"tide"', '"tid"')
        editor.type(MAIN, typed)
        await editor.until(lambda: bool(editor.shown.get("main.lua")))
        editor.shown["main.lua"], seen = [], editor.times
        editor.client.workspace_did_change_watched_files(lsp.DidChangeWatchedFilesParams([change]))
        await editor.until(lambda: editor.times > seen and bool(editor.shown["main.lua"]))

    with_editor(demo, work)


def test_the_first_check_is_shown_as_it_goes_on_and_ends(demo: Path) -> None:
    async def work(editor: Editor) -> None:
        wrong = editor.open(MAIN).replace('"tide"', '"tid"')
        editor.type(MAIN, wrong)
        # What is typed before the map has been read is judged once it is.
        await editor.until(lambda: bool(editor.shown.get("main.lua")))
        assert editor.progress == ["made", "begin", "end"]

    with_editor(demo, work, can=lsp.ClientCapabilities(window=lsp.WindowClientCapabilities(work_done_progress=True)))


def test_a_stock_list_outside_of_the_map_is_seen_when_it_changes(demo: Path) -> None:
    stock = demo.parent / "base.stock.json"
    whole = stock.read_text()

    async def work(editor: Editor) -> None:
        uri = editor.uri(MAIN)
        await editor.until(lambda: bool(editor.asked))
        options: Any = editor.asked[0].register_options
        patterns = [one["globPattern"] for one in options["watchers"]]
        assert {"baseUri": demo.parent.as_uri(), "pattern": stock.name} in patterns
        assert not any(editor.shown.values())
        stock.write_text(whole.replace("water_lap", "rain"))
        change = lsp.FileEvent(stock.as_uri(), lsp.FileChangeType.Changed)
        editor.client.workspace_did_change_watched_files(lsp.DidChangeWatchedFilesParams([change]))
        await editor.until(lambda: any(editor.shown.values()))
        # An editor that tells of no files outside has at least saved one.
        stock.write_text(whole)
        editor.client.text_document_did_save(lsp.DidSaveTextDocumentParams(lsp.TextDocumentIdentifier(uri)))
        await editor.until(lambda: not any(editor.shown.values()))

    can = lsp.DidChangeWatchedFilesClientCapabilities(dynamic_registration=True, relative_pattern_support=True)
    with_editor(
        demo, work, can=lsp.ClientCapabilities(workspace=lsp.WorkspaceClientCapabilities(did_change_watched_files=can))
    )


def test_what_is_in_a_content_root_is_seen_when_it_changes(demo: Path) -> None:
    project, library = demo / "hookset.toml", demo.parent / "library/sounds/coots.toml"
    project.write_text(project.read_text().replace("[content]\n", '[content]\nroots = ["../library"]\n'))
    (demo / MAIN).write_text((demo / MAIN).read_text() + '\nplay_sound("coot_cry", "lock_gate")\n')
    library.parent.mkdir(parents=True)
    library.write_text("")

    async def work(editor: Editor) -> None:
        def missing() -> bool:
            return any("coot_cry" in one.message for one in editor.shown.get("main.lua", ()))

        await editor.until(lambda: bool(editor.asked) and missing())
        options: Any = editor.asked[0].register_options
        watched = {"baseUri": library.parent.parent.as_uri(), "pattern": "**/*"}
        assert watched in [one["globPattern"] for one in options["watchers"]]
        library.write_text('[[sound]]\nalias = "coot_cry"\nfile = "coot.wav"\n')
        change = lsp.FileEvent(library.as_uri(), lsp.FileChangeType.Changed)
        editor.client.workspace_did_change_watched_files(lsp.DidChangeWatchedFilesParams([change]))
        await editor.until(lambda: not missing())

    can = lsp.DidChangeWatchedFilesClientCapabilities(dynamic_registration=True, relative_pattern_support=True)
    with_editor(
        demo, work, can=lsp.ClientCapabilities(workspace=lsp.WorkspaceClientCapabilities(did_change_watched_files=can))
    )


def test_a_map_that_could_not_be_opened_is_once_that_is_mended(demo: Path) -> None:
    project = demo / "hookset.toml"
    good = project.read_text()
    project.write_text(good.replace('layout = "split-lua"', 'layout = "split-lau"'))
    (demo / MAIN).write_text((demo / MAIN).read_text().replace('"tide"', '"tid"'))

    async def work(editor: Editor) -> None:
        await editor.until(lambda: bool(editor.said))
        project.write_text(good)
        saved = lsp.DidSaveTextDocumentParams(lsp.TextDocumentIdentifier(editor.uri("hookset.toml")))
        editor.client.text_document_did_save(saved)
        await editor.until(lambda: bool(editor.shown.get("main.lua")))

    with_editor(demo, work)


def test_an_editor_may_not_want_to_show_what_goes_on(demo: Path) -> None:
    (demo / MAIN).write_text((demo / MAIN).read_text().replace('"tide"', '"tid"'))

    async def work(editor: Editor) -> None:
        await editor.until(lambda: bool(editor.shown.get("main.lua")))
        assert editor.progress == ["refused"]

    can = lsp.ClientCapabilities(window=lsp.WindowClientCapabilities(work_done_progress=True))
    with_editor(demo, work, can=can, shows=False)


def test_a_map_that_is_opened_through_a_link_is_called_as_the_editor_calls_it(demo: Path) -> None:
    link = demo.parent / "link"
    link.symlink_to(demo)

    async def work(editor: Editor) -> None:
        text = editor.open(MAIN)
        (found,) = await editor.client.text_document_definition_async(
            lsp.DefinitionParams(**editor.at(MAIN, text, '"tide"', 2))
        )
        assert found.uri == editor.uri("scripts/shared/tide.lua")
        editor.type(MAIN, text.replace('"tide"', '"tid"'))
        await editor.until(lambda: bool(editor.shown.get("main.lua")))

    with_editor(link, work)


@pytest.mark.no_cover
def test_two_hundred_keys_a_second_are_a_few_judgements(demo: Path) -> None:
    async def work(editor: Editor) -> None:
        text = editor.open(MAIN)
        await asyncio.sleep(0.5)
        before = editor.times
        for number in range(400):
            editor.type(MAIN, text + f'require("x{number}")\n')
            await asyncio.sleep(0.005)
        await editor.until(lambda: any("'x399'" in one.message for one in editor.shown.get("main.lua", ())))
        assert editor.times - before < 100

    with_editor(demo, work)


@pytest.mark.no_cover
@pytest.mark.parametrize("units", [lsp.PositionEncodingKind.Utf8, lsp.PositionEncodingKind.Utf32])
def test_what_stands_behind_other_alphabets_is_found(units: lsp.PositionEncodingKind, demo: Path) -> None:
    async def work(editor: Editor) -> None:
        text = editor.open(MAIN)
        typed = text.replace('local tide = require("tide")', 'local tide = --[[ 𝄞 ä ]] require("tide")')
        editor.type(MAIN, typed)
        offset = typed.index('require("tide")') + 10
        before = typed[typed.rfind("\n", 0, offset) + 1 : offset]
        column = len(before.encode()) if units is lsp.PositionEncodingKind.Utf8 else len(before)
        place = lsp.Position(typed.count("\n", 0, offset), column)
        (found,) = await editor.client.text_document_definition_async(
            lsp.DefinitionParams(lsp.TextDocumentIdentifier(editor.uri(MAIN)), place)
        )
        assert found.uri.endswith("tide.lua")

    with_editor(demo, work, units=units)


def test_where_there_is_no_map_it_says_so_and_goes_on(tmp_path: Path) -> None:
    (tmp_path / "a.lua").write_text('require("b")\n')

    async def work(editor: Editor) -> None:
        await editor.until(lambda: bool(editor.said))
        assert "hookset start" in editor.said[0]
        text = editor.open("a.lua")
        assert not await editor.client.text_document_definition_async(
            lsp.DefinitionParams(**editor.at("a.lua", text, "b"))
        )

    with_editor(tmp_path, work)


@pytest.mark.no_cover
def test_what_is_no_message_ends_nothing(demo: Path) -> None:
    async def work(editor: Editor) -> None:
        stream = editor.client._server.stdin
        body = b'{"jsonrpc": "2.0", "id": 7, "method": "textDocument/definition", "params": {"x": 1}}'
        for data in (body, b'{"jsonrpc": "2.0", "method": "nobody/knows", "params": null}'):
            stream.write(b"Content-Length: %d\r\n\r\n%b" % (len(data), data))
        text = editor.open(MAIN)
        (found,) = await editor.client.text_document_definition_async(
            lsp.DefinitionParams(**editor.at(MAIN, text, '"tide"', 2))
        )
        assert found.uri.endswith("tide.lua")

    with_editor(demo, work)
