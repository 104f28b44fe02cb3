"""A map's files in memory, and the naive ways in which these games open them."""

from __future__ import annotations

import io
import json
import posixpath
import wave
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

from PIL import Image

from hookset.standin.log import Line, Log

__all__ = ["Packed"]


@dataclass
class Packed:
    """What was in the archive."""

    files: dict[str, bytes]
    base: dict[str, Any]
    """What the game has of its own, by sort."""
    log: Log

    def text(self, path: str) -> str:
        data = self.files[path]
        try:
            return data.decode("utf-8-sig")
        except UnicodeDecodeError:
            return data.decode("cp1252", "replace")

    def line(self, path: str, text: str, after: str = "") -> int:
        """The line in which `text` first stands (behind another one): the game can only look for it."""
        whole = self.text(path) if path in self.files else ""
        start = whole.find(after) + len(after) if after in whole else 0
        position = whole.find(text, start)
        return whole.count("\n", 0, position) + 1 if position >= 0 else 0

    def error(self, what: str, path: str, text: str = "", after: str = "") -> None:
        self.log.error(what, path, self.line(path, text, after) if text else 0)

    def json(self, path: str) -> Any:
        try:
            return json.loads(self.text(path))
        except KeyError:
            self.log.error("is not there", path)
        except json.JSONDecodeError as error:
            self.log.error(f"cannot be read: {error.msg}", path, error.lineno)
        return None

    def wanted(self, target: str, path: str, text: str, after: str = "") -> bool:
        """Whether a file is there; `path` and `text` are where it is asked for."""
        if target in self.files:
            return True
        self.error(f"no file {target!r}", path, text, after)
        return False

    def model(self, target: str, path: str, text: str) -> None:
        if not self.wanted(target, path, text):
            return
        document = self.json(target)
        for part in ("images", "buffers"):
            for entry in (document or {}).get(part, []):
                uri = str(entry.get("uri", ""))
                file = posixpath.normpath(posixpath.join(posixpath.dirname(target), unquote(uri)))
                if self.wanted(file, target, uri) and part == "images":
                    self._picture(file)

    def _picture(self, path: str) -> None:
        try:
            with Image.open(io.BytesIO(self.files[path])) as picture:
                picture.load()
                self.log.add(Line("texture", f"{path}: {picture.size[0]} x {picture.size[1]}", name=path))
        except Exception as error:  # noqa: BLE001 - decoders of damaged pictures raise anything at all
            self.log.error(f"the picture cannot be shown: {error}", path)

    def sound(self, target: str, path: str, text: str) -> None:
        if not self.wanted(target, path, text):
            return
        try:
            with wave.open(io.BytesIO(self.files[target])) as sound:
                sound.readframes(sound.getnframes())
                self.log.add(Line("sound", f"{posixpath.basename(target)}: {target}", name=posixpath.basename(target)))
        except (wave.Error, EOFError) as error:
            self.log.error(f"the sound cannot be played: {error}", target)
