"""A language server over standard input and output: the map checked as it is typed.

Source: Language Server Protocol 3.17. How it is sent and received is pygls's concern, what is answered `answers.py`'s.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from pathlib import Path
from urllib.parse import urlparse

from lsprotocol import types as lsp
from pygls.exceptions import JsonRpcInvalidRequest
from pygls.lsp.server import LanguageServer

from hookset import __version__
from hookset.editor.answers import definitions, mends, renamed, shown, uses
from hookset.editor.completion import Completion, completions
from hookset.editor.positions import offset_of
from hookset.editor.session import Session, place_of
from hookset.model import RefusedError
from hookset.project import MapProject
from hookset.symbols import FactsCache

__all__ = ["serve"]


def serve(cache_of: Callable[[MapProject], FactsCache | None], root_cache: Callable[[Path], FactsCache | None]) -> None:
    """Speak with an editor until it ends the conversation."""
    server = LanguageServer("hookset", __version__, text_document_sync_kind=lsp.TextDocumentSyncKind.Incremental)
    session = Session(server, cache_of, root_cache)
    _watching(server, session)
    _asking(server, session)
    _changing(server, session)
    server.start_io()


def _watching(server: LanguageServer, session: Session) -> None:
    """What the editor tells."""

    @server.feature(lsp.INITIALIZED)
    async def begin(_: lsp.InitializedParams) -> None:
        root = server.workspace.root_path
        if root is not None:
            await session.start(Path(root))
        _ask_to_be_told(server, session)

    @server.feature(lsp.TEXT_DOCUMENT_DID_OPEN)
    async def opened(said: lsp.DidOpenTextDocumentParams) -> None:
        uri = said.text_document.uri
        if session.opened is None and urlparse(uri).scheme == "file":
            await session.start(place_of(uri).parent)
        session.type(uri, said.text_document.text)

    @server.feature(lsp.TEXT_DOCUMENT_DID_CHANGE)
    def typed(said: lsp.DidChangeTextDocumentParams) -> None:
        session.type(said.text_document.uri, server.workspace.get_text_document(said.text_document.uri).source)

    @server.feature(lsp.TEXT_DOCUMENT_DID_CLOSE)
    def closed(said: lsp.DidCloseTextDocumentParams) -> None:
        session.close(said.text_document.uri)

    @server.feature(lsp.TEXT_DOCUMENT_DID_SAVE)
    def saved(said: lsp.DidSaveTextDocumentParams) -> None:
        session.begin_at_last(said.text_document.uri)
        session.look_outside()
        session.judge()

    @server.feature(lsp.WORKSPACE_DID_CHANGE_WATCHED_FILES)
    def changed(said: lsp.DidChangeWatchedFilesParams) -> None:
        session.changed(one.uri for one in said.changes)


def _ask_to_be_told(server: LanguageServer, session: Session) -> None:
    """Have the editor tell what other programs write, if it can."""
    can = server.client_capabilities.workspace
    files = can.did_change_watched_files if can is not None else None
    if files is None or not files.dynamic_registration:
        return
    watchers = [lsp.FileSystemWatcher(glob_pattern="**/*")]
    if files.relative_pattern_support:
        folders = session.opened.project.folders_outside if session.opened is not None else ()
        patterns = [lsp.RelativePattern(place.parent.as_uri(), place.name) for place in session.outside]
        patterns += (lsp.RelativePattern(folder.as_uri(), "**/*") for folder in folders)
        watchers += (lsp.FileSystemWatcher(glob_pattern=pattern) for pattern in patterns)
    every = lsp.DidChangeWatchedFilesRegistrationOptions(watchers)
    wanted = lsp.Registration("files", lsp.WORKSPACE_DID_CHANGE_WATCHED_FILES, every)
    server.client_register_capability(lsp.RegistrationParams([wanted]))


def _asking(server: LanguageServer, session: Session) -> None:
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


def _changing(server: LanguageServer, session: Session) -> None:
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


def _items(session: Session, text: str, found: Iterable[Completion]) -> Iterator[lsp.CompletionItem]:
    for number, one in enumerate(found):
        yield lsp.CompletionItem(
            label=one.text,
            kind=lsp.CompletionItemKind.Reference,
            detail=one.label if one.from_map else f"{one.label} of the base game",
            sort_text=f"{number:05}",
            text_edit=lsp.TextEdit(session.range(text, one.start, one.end), one.text),
        )


def _outline(session: Session, path: str) -> Iterator[lsp.DocumentSymbol]:
    text = session.opened.text(path) if session.opened is not None else None
    if session.opened is None or text is None:
        return
    for one in session.opened.names(path):
        if one.defines:
            place = session.range(text.string, one.start, one.end)
            label = session.opened.project.layout.kinds[one.kind].label
            yield lsp.DocumentSymbol(one.name, lsp.SymbolKind.Object, place, place, label)
