"""What became of the references of a map when it was last judged, kept in its cache."""

from __future__ import annotations

import msgspec

from hookset.symbols.cache import FactsCache, facts_key
from hookset.symbols.collect import Web
from hookset.symbols.settled import Settled

__all__ = ["keep_settled", "kept_settled"]


def kept_settled(web: Web, cache: FactsCache) -> Settled | None:
    """What is kept for this map, by the same layout and stock."""
    key = _key(web)
    said = cache.settled.said(key) if key else None
    try:
        return msgspec.msgpack.decode(said, type=Settled) if said is not None else None
    except msgspec.MsgspecError:
        return None


def keep_settled(web: Web, settled: Settled, cache: FactsCache) -> None:
    """Keep it for the next time, instead of what was kept earlier."""
    key = _key(web)
    if not key:
        return
    try:
        said = msgspec.msgpack.encode(settled)
    except UnicodeEncodeError:
        # A file's name that is no text cannot be kept as one: such a map is judged each time.
        return
    cache.settled.keep(key, said)


def _key(web: Web) -> str:
    """Of all that it rests on but the files; empty where that cannot be told."""
    read = facts_key(web.layout, web.words)
    return f"{read}\n{web.stock.state}" if read and web.stock.state else ""
