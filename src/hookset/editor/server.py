"""A language server over standard input and output: the map checked as it is typed.

Source: Language Server Protocol 3.17. How it is sent and received is pygls's concern, what is answered `answers.py`'s.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import TypeVar
from urllib.parse import unquote, urlparse
from urllib.request import url2pathname

from lsprotocol import types as lsp
from pygls.exceptions import JsonRpcInvalidRequest
from pygls.lsp.server import LanguageServer

from hookset import __version__
from hookset.checks.watched import watched
from hookset.editor.answers import Completion, Place, completions, definitions, mends, renamed, shown, uses
from hookset.editor.opened import OpenedMap, edited
from hookset.editor.positions import Units, offset_of, position_of
from hookset.model import Finding, HooksetError, RefusedError, Severity
from hookset.project import MapProject, find_root, open_project
from hookset.symbols import FactsCache

__all__ = ["serve"]

T = TypeVar("T")

_QUIET = 0.08
"""Seconds without a further key, after which what is typed is judged."""
_LEVELS = {
    Severity.ERROR: lsp.DiagnosticSeverity.Error,
    Severity.WARNING: lsp.DiagnosticSeverity.Warning,
    Severity.NOTE: lsp.DiagnosticSeverity.Information,
}
_UNITS: dict[lsp.PositionEncodingKind | str, Units] = {
    lsp.PositionEncodingKind.Utf8: "utf-8",
    lsp.PositionEncodingKind.Utf16: "utf-16",
    lsp.PositionEncodingKind.Utf32: "utf-32",
}


@dataclass
class _Session:
    """One editor at one map. The only thing here that changes: the protocol is a conversation."""

    server: LanguageServer
    cache_of: Callable[[MapProject], FactsCache | None]
    opened: OpenedMap | None = None
    base: Path = Path()
    """The map's folder as the editor calls it, which may go through links."""
    typed: dict[str, str] = field(default_factory=dict)
    """What was typed since the map was judged last, by path."""
    closed: set[str] = field(default_factory=set)
    told: set[str] = field(default_factory=set)
    """Files of which findings are shown."""
    waiting: asyncio.TimerHandle | None = None

    @property
    def units(self) -> Units:
        """How the editor counts characters in a line."""
        return _UNITS.get(self.server.workspace.position_encoding or "utf-16", "utf-16")

    def begin(self, folder: Path) -> None:
        """Judge the map that a folder is in; where there is none, or it cannot be read, say so."""
        root = find_root(folder)
        if root is None:
            self._say(f"no map at {folder}: `hookset start` makes one of a folder", lsp.MessageType.Info)
            return
        try:
            project = open_project(root)
            self.opened, self.base = OpenedMap(watched(project, self.cache_of(project)), {}), root
        except HooksetError as error:
            self._say(f"{error} {error.remedy}", lsp.MessageType.Error)
            return
        self.show()

    def path_of(self, uri: str) -> str | None:
        """A file of the map, by its address."""
        if self.opened is None or urlparse(uri).scheme != "file":
            return None
        place = _place_of(uri)
        for root in (self.base, self.opened.project.root):
            if place.is_relative_to(root):
                return place.relative_to(root).as_posix()
        return None

    def uri_of(self, path: str) -> str:
        """The address of a file of the map."""
        return (self.base / path).as_uri()

    def type(self, uri: str, text: str) -> None:
        """Something was typed: it is judged once nothing more is for a moment."""
        path = self.path_of(uri)
        if path is None or self.opened is None or self.opened.project.layout.ignores(path):
            return
        self.typed[path] = text
        self.closed.discard(path)
        self._soon()

    def close(self, uri: str) -> None:
        """A file is as it is on the disk again."""
        path = self.path_of(uri)
        if path is not None:
            self.typed.pop(path, None)
            self.closed.add(path)
            self._soon()

    def changed(self, uris: Iterable[str]) -> None:
        """Other programs have written files."""
        paths = {path for uri in uris if (path := self.path_of(uri)) is not None}
        if self.opened is None:
            return
        if paths & {"hookset.toml", self.opened.project.file.map.layout}:
            # What is typed and not saved stays typed.
            unsaved = self.opened.unsaved
            self.begin(self.base)
            self.opened = edited(self.opened, unsaved)
            self.show()
            return
        self.closed |= {path for path in paths if path not in self.opened.unsaved and path not in self.typed}
        self._soon()

    def _soon(self) -> None:
        if self.waiting is not None:
            self.waiting.cancel()
        self.waiting = asyncio.get_event_loop().call_later(_QUIET, self.judge)

    def judge(self) -> None:
        """Judge what was typed, and show what is wrong."""
        if self.waiting is not None:
            self.waiting.cancel()
            self.waiting = None
        if self.opened is None or not (self.typed or self.closed):
            return
        typed, closed = self.typed, self.closed
        self.typed, self.closed = {}, set()
        try:
            data = {path: self._bytes(path, text) for path, text in typed.items()}
            self.opened = edited(self.opened, data, closed, self.cache_of(self.opened.project))
        except HooksetError as error:
            self._say(str(error), lsp.MessageType.Error)
            return
        self.show()

    def _bytes(self, path: str, text: str) -> bytes:
        """What is typed, in the encoding that the file has on the disk."""
        known = self.opened.text(path) if self.opened is not None else None
        try:
            return text.encode(known.encoding if known is not None else "utf-8")
        except UnicodeEncodeError:
            return text.encode("utf-8", "replace")

    def show(self) -> None:
        """Findings, file by file; those of files that have none any more go."""
        if self.opened is None:
            return
        by_path: dict[str, list[Finding]] = {}
        for finding in self.opened.findings:
            by_path.setdefault(finding.spot.path, []).append(finding)
        for path in sorted(self.told | by_path.keys()):
            shown_here = [self._diagnostic(one) for one in by_path.get(path, ())]
            self.server.text_document_publish_diagnostics(lsp.PublishDiagnosticsParams(self.uri_of(path), shown_here))
        self.told = {*by_path}

    def _diagnostic(self, finding: Finding) -> lsp.Diagnostic:
        advice = "".join(f"\n{word}" for word in (finding.why, finding.remedy) if word)
        return lsp.Diagnostic(
            range=self._range_of(finding),
            message=finding.message.replace("`", "'") + advice,
            severity=_LEVELS[finding.severity],
            code=finding.code,
            source="hookset",
        )

    def _range_of(self, finding: Finding) -> lsp.Range:
        """The name that a finding is about; else the rest of its line."""
        path, line = finding.spot.path, max(0, finding.spot.line - 1)
        text = self.opened.text(path) if self.opened is not None else None
        if text is None or self.opened is None:
            return lsp.Range(lsp.Position(line, 0), lsp.Position(line, 0))
        start = offset_of(text.string, line, max(0, finding.spot.column - 1), "utf-32")
        names = (one for one in self.opened.names(path) if finding.name in (one.name, one.written))
        name = next((one for one in names if text.string.count("\n", 0, one.start) == line), None)
        if name is not None:
            return self.range(text.string, name.start, name.end)
        end = text.string.find("\n", start)
        return self.range(text.string, start, end if end >= 0 else len(text.string))

    def range(self, text: str, start: int, end: int) -> lsp.Range:
        """Characters as the editor counts them."""
        first, last = position_of(text, start, self.units), position_of(text, end, self.units)
        return lsp.Range(lsp.Position(*first), lsp.Position(*last))

    def at(self, uri: str, position: lsp.Position, ask: Callable[[OpenedMap, str, int], T]) -> T | None:
        """What is asked about a place; what was typed just now is judged before."""
        self.judge()
        path = self.path_of(uri)
        text = self.opened.text(path) if self.opened is not None and path is not None else None
        if self.opened is None or path is None or text is None:
            return None
        return ask(self.opened, path, offset_of(text.string, position.line, position.character, self.units))

    def location(self, place: Place) -> lsp.Location:
        """A place as the editor has it."""
        text = self.opened.text(place.path) if self.opened is not None else None
        found = self.range(text.string, place.start, place.end) if text is not None else None
        nowhere = lsp.Range(lsp.Position(0, 0), lsp.Position(0, 0))
        return lsp.Location(self.uri_of(place.path), found if found is not None else nowhere)

    def _say(self, text: str, level: lsp.MessageType) -> None:
        self.server.window_log_message(lsp.LogMessageParams(level, text))


def serve(cache_of: Callable[[MapProject], FactsCache | None]) -> None:
    """Speak with an editor until it ends the conversation."""
    server = LanguageServer("hookset", __version__, text_document_sync_kind=lsp.TextDocumentSyncKind.Incremental)
    session = _Session(server, cache_of)
    _watching(server, session)
    _asking(server, session)
    _changing(server, session)
    server.start_io()


def _watching(server: LanguageServer, session: _Session) -> None:
    """What the editor tells."""

    @server.feature(lsp.INITIALIZED)
    def begin(_: lsp.InitializedParams) -> None:
        root = server.workspace.root_path
        if root is not None:
            session.begin(Path(root))
        _ask_to_be_told(server)

    @server.feature(lsp.TEXT_DOCUMENT_DID_OPEN)
    def opened(said: lsp.DidOpenTextDocumentParams) -> None:
        uri = said.text_document.uri
        if session.opened is None and urlparse(uri).scheme == "file":
            session.begin(_place_of(uri).parent)
        session.type(uri, said.text_document.text)

    @server.feature(lsp.TEXT_DOCUMENT_DID_CHANGE)
    def typed(said: lsp.DidChangeTextDocumentParams) -> None:
        session.type(said.text_document.uri, server.workspace.get_text_document(said.text_document.uri).source)

    @server.feature(lsp.TEXT_DOCUMENT_DID_CLOSE)
    def closed(said: lsp.DidCloseTextDocumentParams) -> None:
        session.close(said.text_document.uri)

    @server.feature(lsp.TEXT_DOCUMENT_DID_SAVE)
    def saved(_: lsp.DidSaveTextDocumentParams) -> None:
        session.judge()

    @server.feature(lsp.WORKSPACE_DID_CHANGE_WATCHED_FILES)
    def changed(said: lsp.DidChangeWatchedFilesParams) -> None:
        session.changed(one.uri for one in said.changes)


def _place_of(uri: str) -> Path:
    return Path(url2pathname(unquote(urlparse(uri).path)))


def _ask_to_be_told(server: LanguageServer) -> None:
    """Have the editor tell what other programs write, if it can."""
    can = server.client_capabilities.workspace
    if can is None or can.did_change_watched_files is None or not can.did_change_watched_files.dynamic_registration:
        return
    every = lsp.DidChangeWatchedFilesRegistrationOptions([lsp.FileSystemWatcher(glob_pattern="**/*")])
    wanted = lsp.Registration("files", lsp.WORKSPACE_DID_CHANGE_WATCHED_FILES, every)
    server.client_register_capability(lsp.RegistrationParams([wanted]))


def _asking(server: LanguageServer, session: _Session) -> None:
    """What the editor asks."""

    @server.feature(lsp.TEXT_DOCUMENT_DEFINITION)
    def defined(said: lsp.DefinitionParams) -> list[lsp.Location]:
        found = session.at(said.text_document.uri, said.position, definitions)
        return [session.location(one) for one in found or ()]

    @server.feature(lsp.TEXT_DOCUMENT_REFERENCES)
    def used(said: lsp.ReferenceParams) -> list[lsp.Location]:
        ask = partial(uses, defined=said.context.include_declaration)
        found = session.at(said.text_document.uri, said.position, ask)
        return [session.location(one) for one in found or ()]

    @server.feature(lsp.TEXT_DOCUMENT_HOVER)
    def pointed(said: lsp.HoverParams) -> lsp.Hover | None:
        found = session.at(said.text_document.uri, said.position, shown)
        path = session.path_of(said.text_document.uri)
        text = session.opened.text(path) if session.opened is not None and path is not None else None
        if found is None or text is None:
            return None
        name, words = found
        content = lsp.MarkupContent(lsp.MarkupKind.Markdown, words)
        return lsp.Hover(content, session.range(text.string, name.start, name.end))

    @server.feature(lsp.TEXT_DOCUMENT_COMPLETION, lsp.CompletionOptions(trigger_characters=['"', "'", "/", "."]))
    def offered(said: lsp.CompletionParams) -> list[lsp.CompletionItem]:
        found = session.at(said.text_document.uri, said.position, completions)
        path = session.path_of(said.text_document.uri)
        text = session.opened.text(path) if session.opened is not None and path is not None else None
        return [] if text is None else list(_items(session, text.string, found or ()))

    @server.feature(lsp.TEXT_DOCUMENT_DOCUMENT_SYMBOL)
    def outlined(said: lsp.DocumentSymbolParams) -> list[lsp.DocumentSymbol]:
        session.judge()
        path = session.path_of(said.text_document.uri)
        return list(_outline(session, path)) if path is not None else []

    @server.feature(lsp.TEXT_DOCUMENT_CODE_ACTION, lsp.CodeActionOptions([lsp.CodeActionKind.QuickFix]))
    def mended(said: lsp.CodeActionParams) -> list[lsp.CodeAction]:
        session.judge()
        path = session.path_of(said.text_document.uri)
        text = session.opened.text(path) if session.opened is not None and path is not None else None
        if session.opened is None or path is None or text is None:
            return []
        ends = (said.range.start, said.range.end)
        first, last = (offset_of(text.string, one.line, one.character, session.units) for one in ends)
        return [
            lsp.CodeAction(
                title=one.title,
                kind=lsp.CodeActionKind.QuickFix,
                edit=lsp.WorkspaceEdit(
                    {session.uri_of(one.path): [lsp.TextEdit(session.range(text.string, one.start, one.end), one.text)]}
                ),
            )
            for one in mends(session.opened, path, first, last)
        ]


def _changing(server: LanguageServer, session: _Session) -> None:
    """What the editor is to change."""

    @server.feature(lsp.TEXT_DOCUMENT_RENAME)
    def rename(said: lsp.RenameParams) -> lsp.WorkspaceEdit | None:
        try:
            found = session.at(said.text_document.uri, said.position, partial(renamed, new=said.new_name))
        except RefusedError as error:
            raise JsonRpcInvalidRequest("; ".join(filter(None, (error.what, error.why, error.remedy)))) from error
        edits: dict[str, list[lsp.TextEdit]] = {}
        for one in found or ():
            text = session.opened.text(one.path) if session.opened is not None else None
            if text is not None:
                place = session.range(text.string, one.start, one.end)
                edits.setdefault(session.uri_of(one.path), []).append(lsp.TextEdit(place, one.text))
        return lsp.WorkspaceEdit(edits) if found else None


def _items(session: _Session, text: str, found: Iterable[Completion]) -> Iterator[lsp.CompletionItem]:
    for number, one in enumerate(found):
        yield lsp.CompletionItem(
            label=one.text,
            kind=lsp.CompletionItemKind.Reference,
            detail=one.label if one.from_map else f"{one.label} of the base game",
            sort_text=f"{number:05}",
            text_edit=lsp.TextEdit(session.range(text, one.start, one.end), one.text),
        )


def _outline(session: _Session, path: str) -> Iterator[lsp.DocumentSymbol]:
    text = session.opened.text(path) if session.opened is not None else None
    if session.opened is None or text is None:
        return
    for one in session.opened.names(path):
        if one.defines:
            place = session.range(text.string, one.start, one.end)
            label = session.opened.project.layout.kinds[one.kind].label
            yield lsp.DocumentSymbol(one.name, lsp.SymbolKind.Object, place, place, label)
