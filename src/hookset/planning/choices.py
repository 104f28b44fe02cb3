"""What the builder decides: beforehand by options or a file of answers, or when asked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

import msgspec
from msgspec import Struct

__all__ = ["WAYS", "Answers", "Choices", "Question", "SavedAnswers", "answered", "answers_of"]

WAYS = ("mine", "theirs", "both")
"""What can be done about a file that is there with other content, beside giving the pack's another path."""


class Answers(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """What was decided about one pack. A file of answers has one for each."""

    version: str = ""
    """The version that they were given for; for people."""
    parts: tuple[str, ...] = ()
    settings: dict[str, Any] = {}
    claims: dict[str, str] = {}
    """By kind."""
    blanks: dict[str, str] = {}
    """A file for each, or a value."""
    renamed: dict[str, str] = {}
    """`KIND:NAME` → what it is called in this map."""
    moved: dict[str, str] = {}
    """Folder of the pack → folder of the map."""
    placed: dict[str, str] = {}
    """By place: `X,Y,Z`, with `@DEGREES` behind it where it is turned; several with blanks between them."""
    files: dict[str, str] = {}
    """For files that are there with other content: `mine`, `theirs`, `both`, or the path that the pack's is to have
    beside it."""


class Choices(Struct, frozen=True, kw_only=True):
    """All of it."""

    other_bytes: Literal["stop", "mine", "theirs", "both"] = "stop"
    """For any file that is there with other content: stop, keep the map's, take the pack's, or keep both."""
    by_hand: Literal["stop", "keep", "drop"] = "stop"
    """For what the builder has changed since it was set and is to go: stop, keep the change, or drop it."""
    both_jobs: bool = False
    """Packs may do the same job."""
    control_files: bool = False
    """Packs may bring files that other programs obey."""
    packs: dict[str, Answers] = {}
    words: dict[str, dict[str, str]] = {}
    """By kind: words that packs use and the map does not know → the map's own."""

    def of(self, name: str) -> Answers:
        """Return the answers for a pack; empty ones if there are none."""
        return self.packs.get(name, Answers())


class SavedAnswers(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A file of answers. Somebody else may have written it: what lets a pack do more than others is not in it."""

    packs: dict[str, Answers] = {}
    words: dict[str, dict[str, str]] = {}


class Question(Struct, frozen=True, kw_only=True):
    """What could be asked at a terminal."""

    key: tuple[str, ...]
    """What it is about: `answered` makes a choice of it."""
    text: str
    options: tuple[tuple[str, str], ...] = ()
    """(answer, what it means); none where anything can be typed."""
    diff: tuple[str, ...] = ()
    """What it is about, as a unified diff."""
    default: str = ""
    """The answer of somebody who has no other; empty where only they can say."""


def answered(choices: Choices, key: tuple[str, ...], answer: str) -> Choices:
    """The choices with one question answered."""
    about, name, *rest = key
    if about == "word":
        words = {**choices.words, name: {**choices.words.get(name, {}), rest[0]: answer}}
        return msgspec.structs.replace(choices, words=words)
    if about == "by-hand":
        return msgspec.structs.replace(choices, by_hand=answer)
    if about == "control-files":
        return msgspec.structs.replace(choices, control_files=answer == "take")
    if about == "both-jobs":
        return msgspec.structs.replace(choices, both_jobs=answer == "both")
    field = {
        "file": "files",
        "claim": "claims",
        "name": "renamed",
        "blank": "blanks",
        "place": "placed",
        "setting": "settings",
    }[about]
    one = choices.of(name)
    changed = msgspec.structs.replace(one, **{field: {**getattr(one, field), rest[0]: answer}})
    return msgspec.structs.replace(choices, packs={**choices.packs, name: changed})


def answers_of(choices: Mapping[str, Answers], words: Mapping[str, Mapping[str, str]]) -> dict[str, Any]:
    """As data for a file of answers."""
    packs = {name: msgspec.to_builtins(one) for name, one in sorted(choices.items())}
    return {"packs": packs} | ({"words": {kind: dict(known) for kind, known in words.items()}} if words else {})
