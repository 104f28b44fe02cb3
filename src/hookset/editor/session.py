"""One editor at one map: what it has told, and what it is shown."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar
from urllib.parse import unquote, urlparse
from urllib.request import url2pathname

from lsprotocol import types as lsp
from pygls.lsp.server import LanguageServer

from hookset.checks.watched import watched
from hookset.editor.answers import Place
from hookset.editor.opened import OpenedMap, edited
from hookset.editor.positions import Units, offset_of, position_of
from hookset.editor.progress import begun, ended
from hookset.model import Finding, HooksetError, Severity
from hookset.project import PROJECT_FILE, MapProject, find_root, open_project
from hookset.symbols import FactsCache, rooted
from hookset.trees.stamps import states_of

__all__ = ["Session", "place_of"]

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
class Session:
    """One editor at one map. The only thing here that changes: the protocol is a conversation."""

    server: LanguageServer
    cache_of: Callable[[MapProject], FactsCache | None]
    root_cache: Callable[[Path], FactsCache | None]
    """Where it is remembered what the files of a content root say."""
    opened: OpenedMap | None = None
    base: Path = Path()
    """The map's folder as the editor calls it, which may go through links."""
    typed: dict[str, str] = field(default_factory=dict)
    """What was typed since the map was judged last, by path."""
    closed: set[str] = field(default_factory=set)
    told: set[str] = field(default_factory=set)
    """Files of which findings are shown."""
    waiting: asyncio.TimerHandle | None = None
    beginning: bool = False
    """Whether the map is about to be judged from nothing."""
    early: dict[str, str] = field(default_factory=dict)
    """What was opened or typed before that was done, by address."""
    outside: Mapping[Path, object] = field(default_factory=dict)
    """How the files were, when the map was judged from nothing, that it rests on and that may lie elsewhere."""

    @property
    def units(self) -> Units:
        """How the editor counts characters in a line."""
        return _UNITS.get(self.server.workspace.position_encoding or "utf-16", "utf-16")

    async def start(self, folder: Path) -> None:
        """Judge the map that a folder is in, and have the editor show that it is being done."""
        if self.beginning:
            return
        self.beginning, shown = True, ""
        try:
            shown = await begun(self.server, "reading the map")
            self.begin(folder)
        finally:
            self.beginning = False
            ended(self.server, shown)
        early, self.early = self.early, {}
        for uri, text in early.items():
            self.type(uri, text)

    def begin(self, folder: Path) -> None:
        """Judge the map that a folder is in; where there is none, or it cannot be read, say so."""
        root = find_root(folder)
        if root is None:
            self._say(f"no map at {folder}: `hookset start` makes one of a folder", lsp.MessageType.Info)
            return
        try:
            project = rooted(open_project(root), self.root_cache)
            self.outside = states_of(project.outside)
            self.opened, self.base = OpenedMap(watched(project, self.cache_of(project)), {}), root
        except HooksetError as error:
            self._say(f"{error} {error.remedy}", lsp.MessageType.Error)
            return
        self.show()

    def begin_again(self) -> None:
        """Judge all of the map once more. What is typed and not saved stays typed."""
        if self.opened is None:
            return
        unsaved = self.opened.unsaved
        self.begin(self.base)
        self.opened = edited(self.opened, unsaved)
        self.show()

    def begin_at_last(self, uri: str) -> None:
        """Judge the map that a file is in, if it could not be opened before."""
        folder = place_of(uri).parent if urlparse(uri).scheme == "file" else None
        if self.opened is None and not self.beginning and folder is not None and find_root(folder) is not None:
            self.begin(folder)

    def look_outside(self) -> None:
        """Judge all of the map once more where its layout or a stock list is not as it was."""
        if self.opened is None:
            return
        now = states_of(self.outside)
        if now != self.outside:
            self.outside = now
            self.begin_again()

    def path_of(self, uri: str) -> str | None:
        """A file of the map, by its address."""
        if self.opened is None or urlparse(uri).scheme != "file":
            return None
        place = place_of(uri)
        for root in (self.base, self.opened.project.root):
            if place.is_relative_to(root):
                return place.relative_to(root).as_posix()
        return None

    def uri_of(self, path: str) -> str:
        """The address of a file of the map."""
        return (self.base / path).as_uri()

    def type(self, uri: str, text: str) -> None:
        """Something was typed: it is judged once nothing more is for a moment."""
        if self.beginning:
            self.early[uri] = text
        path = self.path_of(uri)
        if path is None or self.opened is None or self.opened.project.layout.ignores(path):
            return
        self.typed[path] = text
        self.closed.discard(path)
        self._soon()

    def close(self, uri: str) -> None:
        """A file is as it is on the disk again."""
        self.early.pop(uri, None)
        path = self.path_of(uri)
        if path is not None:
            self.typed.pop(path, None)
            self.closed.add(path)
            self._soon()

    def changed(self, uris: Iterable[str]) -> None:
        """Other programs have written files."""
        told = tuple(uris)
        for uri in told:
            if uri.endswith(".toml"):
                self.begin_at_last(uri)
        paths = {path for uri in told if (path := self.path_of(uri)) is not None}
        if self.opened is None:
            return
        if PROJECT_FILE in paths or any(map(self._is_in_a_root, told)):
            self.begin_again()
            return
        self.look_outside()
        self.closed |= {path for path in paths if path not in self.opened.unsaved and path not in self.typed}
        self._soon()

    def _is_in_a_root(self, uri: str) -> bool:
        """Whether a file lies in one of the folders outside of the map that the game looks into as well."""
        if self.opened is None or urlparse(uri).scheme != "file" or self.path_of(uri) is not None:
            return False
        return any(place_of(uri).is_relative_to(folder) for folder in self.opened.project.folders_outside)

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


def place_of(uri: str) -> Path:
    """The file that an address names."""
    return Path(url2pathname(unquote(urlparse(uri).path)))
