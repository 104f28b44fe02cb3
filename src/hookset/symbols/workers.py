"""Many files at once: on more than one core, where that is worth the trouble."""

from __future__ import annotations

import hashlib
import os
import pickle
import signal
import sys
import threading
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, BinaryIO, Literal

import msgspec

from hookset.config.layouts import Layout
from hookset.symbols.cache import UNREAD, Read
from hookset.symbols.facts import FileFacts
from hookset.symbols.reading import read_file
from hookset.trees import Tree

if TYPE_CHECKING:
    from concurrent.futures import Future

__all__ = ["StartMethod", "read_files"]

StartMethod = Literal["fork", "spawn"]

_WORTH = {"fork": 0.8, "spawn": 3.0}
"""By how a process is started: seconds of reading below which a second one would cost more than it saves."""
_PER_FILE = 0.0002
_PER_BYTE = {"lua": 4e-7, "ecmascript": 6e-7, "xml": 4e-8, "yaml": 3e-6, "toml": 1e-6, "text": 2e-7}
"""Seconds, as measured: only their proportion counts."""


def read_files(
    tree: Tree, paths: Sequence[str], layout: Layout, words: Mapping[str, str], start: StartMethod | None = None
) -> list[Read]:
    """Read files. In what order they are read, and by which process, makes no difference to what they say."""
    costs = {path: _cost(tree, path, layout) for path in paths}
    shares = _shares(costs, min(os.cpu_count() or 1, 4))
    if len(shares) < 2 or (start is None and sum(costs.values()) < min(_WORTH.values())):
        return [_read(tree, path, layout, words) for path in paths]
    method = start or _start_method()
    if start is None and sum(costs.values()) < _WORTH[method]:
        return [_read(tree, path, layout, words) for path in paths]
    # Packed here: the pool would do so in a thread of its own, while what is read below changes what is known of the
    # tree and the layout.
    work = [(share, _packed(tree, share, layout, words)) for share in shares[1:]]
    if any(packed is None for _, packed in work):
        return [_read(tree, path, layout, words) for path in paths]
    # Imported here: most maps are read by one process, and would wait for it.
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor

    with ProcessPoolExecutor(len(shares) - 1, multiprocessing.get_context(method), initializer=_left_alone) as pool:
        others = [(share, pool.submit(_work, packed)) for share, packed in work if packed is not None]
        found = [_read(tree, path, layout, words) for path in shares[0]]
        for share, future in others:
            found += _received(future) or [_read(tree, path, layout, words) for path in share]
    return found


def _start_method() -> StartMethod:
    """Copies of this process where the system has them and no other thread could hold a lock in one for ever."""
    import multiprocessing

    can_fork = "fork" in multiprocessing.get_all_start_methods() and sys.platform != "darwin"
    return "fork" if can_fork and threading.active_count() == 1 else "spawn"


def _left_alone() -> None:
    """Ctrl-C is for the process that somebody has started: it ends the others."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def _cost(tree: Tree, path: str, layout: Layout) -> float:
    formats = {rule.format for rule in layout.reads if rule.format != "any" and rule.match(path) is not None}
    return _PER_FILE + sum(tree.size(path) * _PER_BYTE.get(name, 2e-8) for name in formats)


def _shares(costs: Mapping[str, float], count: int) -> list[list[str]]:
    """Balance by cost: largest first, to the least loaded worker."""
    shares: list[list[str]] = [[] for _ in range(count)]
    sums = [0.0] * count
    for path in sorted(costs, key=lambda path: (-costs[path], path)):
        least = sums.index(min(sums))
        shares[least].append(path)
        sums[least] += costs[path]
    return [share for share in shares if share]


def _packed(tree: Tree, paths: Sequence[str], layout: Layout, words: Mapping[str, str]) -> bytes | None:
    """What another process has to know to read these files; None for a tree that cannot be handed over: an archive is
    an open file."""
    try:
        return pickle.dumps((tree, paths, layout, words))
    except (pickle.PicklingError, TypeError, AttributeError):
        return None


def _work(packed: bytes) -> bytes:
    """What files say, packed: objects by the ten thousand would take longer to hand over than to read."""
    tree, paths, layout, words = pickle.loads(packed)
    rows = [(one.facts, one.sha) for one in (_read(tree, path, layout, words) for path in paths)]
    return msgspec.msgpack.encode(rows)


def _received(future: Future[bytes]) -> list[Read]:
    """Nothing where the process died, or could not be given its work: its files are read here then."""
    from concurrent.futures import BrokenExecutor

    try:
        data = future.result()
    except (BrokenExecutor, OSError):
        return []
    rows = msgspec.msgpack.decode(data, type=list[tuple[FileFacts, bytes]])
    return [Read(facts, sha) for facts, sha in rows]


def _read(tree: Tree, path: str, layout: Layout, words: Mapping[str, str]) -> Read:
    noting = _Noting(tree)
    facts = read_file(noting, path, layout, words)
    return Read(facts, noting.sha)


class _Noting:
    """A tree that notes what the bytes were which somebody read."""

    def __init__(self, tree: Tree) -> None:
        self._tree = tree
        self.sha = b""

    @property
    def links(self) -> tuple[str, ...]:
        return self._tree.links

    def paths(self) -> tuple[str, ...]:
        return self._tree.paths()

    def has(self, path: str) -> bool:
        return self._tree.has(path)

    def size(self, path: str) -> int:
        return self._tree.size(path)

    def stamp(self, path: str) -> bytes:
        return self._tree.stamp(path)

    def read(self, path: str) -> bytes:
        # Should reading fail, it stays so.
        self.sha = UNREAD
        data = self._tree.read(path)
        self.sha = hashlib.sha256(data).digest()
        return data

    def open(self, path: str) -> BinaryIO:
        return self._tree.open(path)
