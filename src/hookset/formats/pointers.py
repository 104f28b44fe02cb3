"""Addresses of values in JSON-like data: JSON Pointers (RFC 6901)."""

from __future__ import annotations

__all__ = ["escaped", "pointer", "steps_of"]


def escaped(step: str) -> str:
    """One step of a JSON Pointer."""
    return step.replace("~", "~0").replace("/", "~1")


def pointer(steps: tuple[str | int, ...]) -> str:
    """A JSON Pointer from its steps."""
    return "".join(f"/{escaped(str(step))}" for step in steps)


def steps_of(address: str) -> tuple[str, ...]:
    """The steps of a JSON Pointer."""
    return tuple(step.replace("~1", "/").replace("~0", "~") for step in address.split("/")[1:])
