"""Opening what a map is made of: descriptor, manifest, texts, sounds, scene, models, pictures."""

from __future__ import annotations

import io
import json
import posixpath
import tomllib
import wave
import zipfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from PIL import Image

from hookset.standin.log import Line, Log

__all__ = ["BaseGame", "Map", "load_map", "open_archive"]


class BaseGame:
    """What the game has of its own."""

    def __init__(self) -> None:
        data = json.loads(Path(__file__).with_name("base_game.json").read_text(encoding="utf-8"))
        self.classes: list[str] = data["class"]
        self.sounds: list[str] = data["sound"]
        self.scripts: dict[str, list[str]] = data["script"]
        self.texts: list[str] = data["text"]


@dataclass
class Map:
    """A map in memory. Only what the manifest lists is there."""

    log: Log
    base: BaseGame
    files: dict[str, bytes] = field(default_factory=dict)
    languages: dict[str, dict[str, str]] = field(default_factory=dict)
    sounds: dict[str, str] = field(default_factory=dict)
    objects: dict[str, dict[str, Any]] = field(default_factory=dict)
    nodes: list[dict[str, Any]] = field(default_factory=list)
    scene: str = ""

    def line_of(self, path: str, text: str) -> int:
        """The line that `text` first stands in: the game, too, can only look for it."""
        data = self.files.get(path, b"").decode("utf-8", "replace")
        position = data.find(f'"{text}"')
        return data.count("\n", 0, position) + 1 if position >= 0 else 0

    def text(self, key: str, path: str, line: int) -> None:
        for language, texts in self.languages.items():
            if key not in texts and key not in self.base.texts:
                self.log.error(f"no text {key!r} in {language!r}", path, line)

    def sound(self, alias: str, path: str, line: int) -> bool:
        if alias in self.sounds or alias in self.base.sounds:
            return True
        self.log.error(f"no sound alias {alias!r}", path, line)
        return False


def open_archive(archive: Path, log: Log) -> dict[str, bytes] | None:
    """All that a built map holds; None when it cannot be opened."""
    try:
        with zipfile.ZipFile(archive) as opened:
            return {name: opened.read(name) for name in opened.namelist() if not name.endswith("/")}
    except (OSError, zipfile.BadZipFile) as error:
        log.error(f"the archive cannot be opened: {error}")
        return None


def load_map(name: str, packed: dict[str, bytes], log: Log) -> Map | None:
    """Load what was packed; None when there is nothing to play."""
    loaded = Map(log, BaseGame())
    if "map.toml" not in packed:
        log.error("no map.toml at the top of the archive")
        return None
    loaded.files = {"map.toml": packed["map.toml"]}
    for number, row in enumerate(packed.get("manifest.txt", b"").decode("utf-8", "replace").splitlines(), 1):
        path = row.strip()
        if path and not path.startswith("#"):
            if path in packed:
                loaded.files[path] = packed[path]
            else:
                log.error(f"the manifest lists {path!r}, which is not in the archive", "manifest.txt", number)
    log.add(Line("opened", f"{name}: {len(loaded.files)} files", name=name))
    descriptor = (_toml(loaded, "map.toml") or {}).get("map", {})
    for key in ("name", "version"):
        if not str(descriptor.get(key, "")).strip():
            loaded.log.error(f"the map has no {key}: it cannot be listed", "map.toml")
    _load_texts(loaded, descriptor)
    _load_sounds(loaded)
    loaded.scene = str(descriptor.get("scene", ""))
    _load_scene(loaded)
    return loaded


def _toml(loaded: Map, path: str) -> dict[str, Any] | None:
    try:
        return tomllib.loads(loaded.files[path].decode("utf-8-sig"))
    except (KeyError, UnicodeDecodeError, tomllib.TOMLDecodeError) as error:
        loaded.log.error(f"cannot be read: {error}", path)
        return None


def _load_texts(loaded: Map, descriptor: dict[str, Any]) -> None:
    for language in descriptor.get("languages", []):
        path = f"texts/{language}.toml"
        if path not in loaded.files:
            loaded.log.error(f"no texts for {language!r}", "map.toml", loaded.line_of("map.toml", language))
            continue
        loaded.languages[language] = _flat(_toml(loaded, path) or {})
    loaded.text(str(descriptor.get("title")), "map.toml", loaded.line_of("map.toml", str(descriptor.get("title"))))


def _flat(table: dict[str, Any], front: str = "") -> dict[str, str]:
    flat: dict[str, str] = {}
    for key, value in table.items():
        flat.update(_flat(value, f"{front}{key}.") if isinstance(value, dict) else {front + key: str(value)})
    return flat


def _load_sounds(loaded: Map) -> None:
    for path in sorted(loaded.files):
        if posixpath.dirname(path) != "sounds" or not path.endswith(".toml"):
            continue
        for record in (_toml(loaded, path) or {}).get("sound", []):
            alias, file = str(record.get("alias")), f"sounds/{record.get('file')}"
            line = loaded.line_of(path, alias)
            if alias in loaded.sounds:
                loaded.log.error(f"the sound alias {alias!r} is there twice", path, line)
            if record.get("repeat") == 0 and "ends" not in record:
                loaded.log.error(f"{alias!r} plays for ever and says not when it ends", path, line)
            if not record.get("reach", 0) > 0:
                loaded.log.error(f"{alias!r} is heard nowhere: its reach is {record.get('reach')!r}", path, line)
            loaded.sounds[alias] = file
            if file not in loaded.files:
                loaded.log.error(
                    f"no file {file!r} for the sound {alias!r}",
                    path,
                    loaded.line_of(path, record.get("file", "")),
                )
            else:
                _open_sound(loaded, alias, file)


def _open_sound(loaded: Map, alias: str, file: str) -> None:
    data = loaded.files[file]
    if data.startswith(b"OggS"):
        loaded.log.add(Line("sound", f"{alias}: {file}", name=alias))
        return
    try:
        with wave.open(io.BytesIO(data)) as sound:
            frames = sound.readframes(sound.getnframes())
            whole = len(frames) == sound.getnframes() * sound.getnchannels() * sound.getsampwidth()
        if not whole:
            raise EOFError("it is cut off")
    except (wave.Error, EOFError) as error:
        loaded.log.error(f"the sound cannot be played: {error}", file)
        return
    loaded.log.add(Line("sound", f"{alias}: {file}", name=alias))


def _load_scene(loaded: Map) -> None:
    path = loaded.scene
    document = _gltf(loaded, path, "map.toml", loaded.line_of("map.toml", path))
    if document is None:
        return
    loaded.nodes = [node for node in document.get("nodes", []) if "extras" in node]
    for node in loaded.nodes:
        extras = node["extras"]
        key = str(extras.get("key", ""))
        if key and key in loaded.objects:
            loaded.log.error(f"two objects have the key {key!r}", path, loaded.line_of(path, key))
        if key:
            loaded.objects[key] = node
    for node in loaded.nodes:
        _place(loaded, path, node["extras"])


def _place(loaded: Map, path: str, extras: dict[str, Any]) -> None:
    def line(name: str) -> int:
        return loaded.line_of(path, str(extras[name]))

    if "class" in extras and extras["class"] not in loaded.base.classes:
        loaded.log.error(f"no object class {extras['class']!r}", path, line("class"))
    if "target" in extras and extras["target"] not in loaded.objects:
        loaded.log.error(f"the target {extras['target']!r} is not there", path, line("target"))
    if "model" in extras:
        _gltf(loaded, extras["model"], path, line("model"))
    if "sound" in extras and loaded.sound(extras["sound"], path, line("sound")):
        loaded.log.add(Line("sound", f"{extras['sound']}: at {extras.get('key')}", name=str(extras["sound"])))
    if "label" in extras:
        loaded.text(extras["label"], path, line("label"))


def _gltf(loaded: Map, path: str, asked_by: str, line: int) -> dict[str, Any] | None:
    if path not in loaded.files:
        loaded.log.error(f"no file {path!r}", asked_by, line)
        return None
    try:
        document: dict[str, Any] = json.loads(loaded.files[path])
    except (UnicodeDecodeError, json.JSONDecodeError) as error:
        loaded.log.error(f"cannot be read: {error}", path)
        return None
    for image in document.get("images", []):
        _open_picture(loaded, path, str(image.get("uri", "")))
    for buffer in document.get("buffers", []):
        target = _beside(path, str(buffer.get("uri", "")))
        if target not in loaded.files:
            loaded.log.error(f"no file {target!r}", path, loaded.line_of(path, str(buffer.get("uri"))))
        elif len(loaded.files[target]) < int(buffer.get("byteLength", 0)):
            loaded.log.error(f"{target!r} ends too early", path, loaded.line_of(path, str(buffer.get("uri"))))
    return document


def _beside(path: str, uri: str) -> str:
    return posixpath.normpath(posixpath.join(posixpath.dirname(path), unquote(uri)))


def _open_picture(loaded: Map, path: str, uri: str) -> None:
    target = _beside(path, uri)
    if target not in loaded.files:
        loaded.log.error(f"no file {target!r}", path, loaded.line_of(path, uri))
        return
    try:
        with Image.open(io.BytesIO(loaded.files[target])) as picture:
            size = picture.size
            picture.load()
    except Exception as error:  # noqa: BLE001 - decoders of damaged pictures raise anything at all
        loaded.log.error(f"the picture cannot be shown: {error}", target)
        return
    loaded.log.add(Line("texture", f"{target}: {size[0]} x {size[1]}", name=target))
