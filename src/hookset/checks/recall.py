"""A verdict on the very same map, by the very same terms, is the very same verdict."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from types import MappingProxyType

import msgspec
from msgspec import Struct

from hookset import __version__
from hookset.checks.judge import Summary, Verdict
from hookset.model import CouldNotError
from hookset.project import LEDGER, PROJECT_FILE, MapProject
from hookset.symbols import FactsCache
from hookset.symbols.cache import KeptVerdict, Read, code_state
from hookset.trees import Tree

_JUDGING = ("checks", "config", "edits", "formats", "model", "packs", "project", "scene", "space", "symbols", "trees")
"""The packages that a verdict depends on."""

__all__ = ["Ground", "ground_of", "ground_then", "recall", "remember", "remember_facts"]

_FileState = tuple[bytes, bytes]
"""(stamp, SHA-256 of its bytes), each empty where it is not known"""


class Ground(Struct, frozen=True, dict=True):
    """What a verdict rests on."""

    rest: str
    """Of all but the files of the map. Empty where something cannot be told without reading it."""
    tree: Tree

    @cached_property
    def stamps(self) -> Mapping[str, bytes]:
        """Of the files, by path."""
        return {path: self.tree.stamp(path) for path in self.tree.paths()}

    @cached_property
    def key(self) -> str:
        """The same key, the same verdict. Empty where a file has no stamp."""
        if not self.rest or not all(self.stamps.values()):
            return ""
        digest = hashlib.sha256(self.rest.encode())
        for path, stamp in self.stamps.items():
            digest.update(path.encode("utf-8", "surrogatepass") + b"\0" + stamp + b"\0")
        return digest.hexdigest()


def ground_of(project: MapProject, tree: Tree) -> Ground:
    """What a verdict on a map as it lies there rests on."""
    place = project.root / LEDGER
    return Ground(_rest(project, tree, place.read_bytes() if place.is_file() else None), tree)


def ground_then(project: MapProject, tree: Tree, ledger: bytes | None) -> Ground:
    """The same of the map as a change has left it that was judged before it was written: `tree` lies over what was
    there, with this ledger."""
    return Ground("" if project.file.map.file else _rest(project, tree, ledger), tree)


def recall(ground: Ground, cache: FactsCache) -> Summary | None:
    """What was told of the very same map, if it is kept."""
    if not ground.rest:
        return None
    if ground.key and (said := cache.recalled(ground.key)) is not None:
        return _told(said)
    decode = msgspec.msgpack.Decoder(dict[str, _FileState]).decode
    for kept in cache.verdicts(ground.rest):
        try:
            states = decode(kept.files)
        except msgspec.MsgspecError:
            continue
        if _same_files(ground, states):
            summary = _told(kept.said)
            if summary is not None and ground.key:
                # By their stamps they are known at once the next time.
                digests = {path: sha for path, (_, sha) in states.items()}
                cache.remember(KeptVerdict(ground.key, ground.rest, _states(ground, digests), kept.said))
            return summary
    return None


def remember(
    ground: Ground, cache: FactsCache, verdict: Verdict, digests: Mapping[str, bytes] = MappingProxyType({})
) -> None:
    """For the next time. `digests` are further ones of what files are, by path."""
    if not ground.rest:
        return
    try:
        said = msgspec.msgpack.encode(verdict.summary)
        states = _states(ground, {**verdict.case.web.digests, **digests})
    except UnicodeEncodeError:
        # A file's name that is no text cannot be kept as one: such a map is judged each time.
        return
    cache.remember(KeptVerdict(ground.key, ground.rest, states, said))


def remember_facts(verdict: Verdict, changed: frozenset[str], cache: FactsCache) -> None:
    """What a plan made of files is what they say once it is written."""
    web = verdict.case.web
    fresh = [Read(facts, web.digests[facts.path]) for facts in web.files if facts.path in changed]
    cache.keep(web.tree, web.layout, web.words, fresh)


def _told(said: bytes) -> Summary | None:
    try:
        return msgspec.msgpack.decode(said, type=Summary)
    except msgspec.MsgspecError:
        return None


def _states(ground: Ground, digests: Mapping[str, bytes]) -> bytes:
    return msgspec.msgpack.encode({path: (stamp, digests.get(path, b"")) for path, stamp in ground.stamps.items()})


def _same_files(ground: Ground, states: Mapping[str, _FileState]) -> bool:
    """Whether these are the files: by their stamps, and where those differ, by their bytes."""
    if ground.stamps.keys() != states.keys():
        return False
    touched = [path for path, stamp in ground.stamps.items() if not stamp or stamp != states[path][0]]
    return all(states[path][1] for path in touched) and all(
        _digest(ground.tree, path) == states[path][1] for path in touched
    )


def _digest(tree: Tree, path: str) -> bytes:
    try:
        return hashlib.sha256(tree.read(path)).digest()
    except CouldNotError:
        return b""


def _rest(project: MapProject, tree: Tree, ledger: bytes | None) -> str:
    if not project.layout.fingerprint or project.file.content.roots:
        return ""
    # The judging code itself is among it: what an earlier version told may be told otherwise now.
    packages = Path(__file__).parent.parent
    code = "".join(code_state(str(packages / name)) for name in _JUDGING)
    digest = hashlib.sha256(repr((__version__, project.layout.fingerprint, tree.links, code)).encode())
    place = project.root / PROJECT_FILE
    for data in (place.read_bytes() if place.is_file() else None, ledger):
        digest.update(b"none" if data is None else hashlib.sha256(data).digest())
    for name in project.file.content.stock:
        state = (project.root / name).stat()
        digest.update(f"{name} {state.st_size} {state.st_mtime_ns} {state.st_ctime_ns} {state.st_ino}".encode())
    return digest.hexdigest()
