"""Many files at once: on more than one core, where that is worth the trouble."""

from __future__ import annotations

import hashlib
import multiprocessing
import os
import threading
from collections.abc import Mapping, Sequence
from multiprocessing.connection import Connection
from typing import BinaryIO

import msgspec

from hookset.config.layouts import Layout
from hookset.symbols.cache import Read
from hookset.symbols.facts import FileFacts
from hookset.symbols.reading import read_file
from hookset.trees import Tree

__all__ = ["read_files"]

_WORTH = 0.8
"""Seconds of reading below which a second process would cost more than it saves."""
_PER_FILE = 0.0002
_PER_BYTE = {"lua": 4e-7, "ecmascript": 6e-7, "xml": 9e-8, "yaml": 3e-6, "toml": 1e-6, "text": 2e-7}
"""Seconds, as measured: only their proportion counts."""


def read_files(tree: Tree, paths: Sequence[str], layout: Layout, words: Mapping[str, str]) -> list[Read]:
    """Read files. In what order they are read makes no difference to what they say."""
    costs = {path: _cost(tree, path, layout) for path in paths}
    if sum(costs.values()) < _WORTH or not _can_fork():
        return [_read(tree, path, layout, words) for path in paths]
    shares = _shares(costs, min(os.cpu_count() or 1, 4))
    context = multiprocessing.get_context("fork")
    others = []
    for share in shares[1:]:
        receiving, sending = context.Pipe(duplex=False)
        process = context.Process(target=_work, args=(sending, tree, share, layout, words))
        process.start()
        sending.close()
        others.append((process, receiving, share))
    found = [_read(tree, path, layout, words) for path in shares[0]]
    for process, receiving, share in others:
        found += _received(receiving) or [_read(tree, path, layout, words) for path in share]
        process.join()
    return found


def _can_fork() -> bool:
    """Where the system can, and no other thread could hold a lock in the copy for ever."""
    return "fork" in multiprocessing.get_all_start_methods() and os.name == "posix" and threading.active_count() == 1


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


def _work(sending: Connection, tree: Tree, paths: Sequence[str], layout: Layout, words: Mapping[str, str]) -> None:
    rows = [(one.facts, one.sha) for one in (_read(tree, path, layout, words) for path in paths)]
    sending.send_bytes(msgspec.msgpack.encode(rows))
    sending.close()


def _received(receiving: Connection) -> list[Read]:
    """Nothing where the process died: its files are read here then."""
    try:
        data = receiving.recv_bytes()
    except (EOFError, OSError):
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
        # Should reading fail, the file is read again next time.
        self.sha = b"unread"
        data = self._tree.read(path)
        self.sha = hashlib.sha256(data).digest()
        return data

    def open(self, path: str) -> BinaryIO:
        return self._tree.open(path)
