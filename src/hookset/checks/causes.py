"""The cause first: what follows from a file that cannot be read is folded under the finding that tells so."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from msgspec import structs

from hookset.checks.declare import Case, Check, UnplacedFinding
from hookset.model import CouldNotError

__all__ = ["with_causes"]

Found = tuple[Check, UnplacedFinding]

_FOLLOWING = frozenset(
    {"missing-name", "wrong-side", "not-loaded", "missing-in-language", "name-not-in-manifest", "not-in-manifest"}
)
"""Codes of what is told of a name whose definition was not read."""
_WORD = re.compile(r"""[^\s"'<>=,;(){}\[\]]+""")
_LARGEST = 64 << 20


def with_causes(case: Case, found: Sequence[Found]) -> list[Found]:
    """The findings without those about names that stand in a file that cannot be read, and with how many those are at
    the finding on that file."""
    damaged = dict.fromkeys(draft.path for one, draft in found if one.code == "unreadable")
    words = {path: _words(case, path) for path in damaged}
    kinds = {path: _kinds(case, path) for path in damaged}
    causes = {
        number: _cause(draft, words, kinds) for number, (one, draft) in enumerate(found) if one.code in _FOLLOWING
    }
    counts: dict[str, set[str]] = {}
    for number, path in causes.items():
        if path:
            counts.setdefault(path, set()).add(found[number][1].name)
    kept = [one for number, one in enumerate(found) if not causes.get(number)]
    told: set[str] = set()
    result: list[Found] = []
    for one, draft in kept:
        if one.code == "unreadable" and draft.path in counts and draft.path not in told:
            told.add(draft.path)
            draft = _with_following(draft, len(counts[draft.path]))
        result.append((one, draft))
    return result


def _with_following(draft: UnplacedFinding, many: int) -> UnplacedFinding:
    names = f"{many:,} names that stand in it are" if many > 1 else "one name that stands in it is"
    message = f"{draft.message}; {names} asked for, and cannot be checked before it reads"
    return structs.replace(draft, message=message, follows=many)


def _words(case: Case, path: str) -> frozenset[str]:
    """What stands in a file, whatever it is."""
    try:
        if case.web.tree.size(path) > _LARGEST:
            return frozenset()
        return frozenset(_WORD.findall(case.web.tree.read(path).decode("utf-8", "replace")))
    except (CouldNotError, KeyError, OSError):
        return frozenset()


def _kinds(case: Case, path: str) -> frozenset[str]:
    """The kinds of which a file would define names if it could be read."""
    rules = (rule for rule in case.layout.reads if rule.format != "any" and rule.match(path) is not None)
    return frozenset(define.kind for rule in rules for define in rule.defines)


def _cause(draft: UnplacedFinding, words: Mapping[str, frozenset[str]], kinds: Mapping[str, frozenset[str]]) -> str:
    """The damaged file that would define what is missing; empty where none would."""
    for path, those in words.items():
        if draft.kind in kinds[path] and all(_stands(word, those) for word in draft.name.split()):
            return path
    return ""


def _stands(word: str, words: frozenset[str]) -> bool:
    """Whether a name stands among these words: whole, or as the last part of what it is made of."""
    last = re.split(r"[/:.]", word)[-1]
    return word in words or word.rpartition("/")[2] in words or word.rpartition(":")[2] in words or last in words
