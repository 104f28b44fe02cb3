"""What a picture, a sound or a model is, as data. Only reports make words of it."""

from __future__ import annotations

from msgspec import Struct

__all__ = ["MediaFacts", "in_words"]


class MediaFacts(Struct, frozen=True, kw_only=True):
    """What the file itself tells; None where it does not, or where that is nothing such a file has."""

    kind: str = ""
    """The form of a picture (PNG) or the codec of a sound (vorbis)."""
    width: int | None = None
    """Pixels."""
    height: int | None = None
    seconds: float | None = None
    channels: int | None = None
    rate: int | None = None
    """Samples a second."""
    nodes: int = 0
    materials: int = 0
    extent: tuple[float, float, float] | None = None
    """What a model's positions span along each axis, in metres."""


def in_words(facts: MediaFacts | None) -> tuple[str, ...]:
    """For people: the kind, then every fact with its unit."""
    if facts is None:
        return ()
    told = [facts.kind] if facts.kind else []
    if facts.width is not None:
        told.append(f"{facts.width} x {facts.height}")
    if facts.seconds is not None:
        told.append(f"{facts.seconds:.2f} s")
    if facts.channels is not None:
        told.append(f"{facts.channels} channel{'s' if facts.channels != 1 else ''}")
    if facts.rate is not None:
        told.append(f"{facts.rate} Hz")
    counts = ((facts.nodes, "node"), (facts.materials, "material"))
    told += (f"{count} {part}{'s' if count != 1 else ''}" for count, part in counts if count)
    if facts.extent is not None:
        told.append(" x ".join(f"{length:.3g}" for length in facts.extent) + " m")
    return tuple(told)
