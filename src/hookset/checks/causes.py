"""The cause first: what follows from a file that cannot be read, or is not there, is folded under that finding."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from functools import partial

from msgspec import Struct, structs

from hookset.checks.declare import Case, Check, UnplacedFinding
from hookset.config.layouts import ReadRule
from hookset.model import CouldNotError

__all__ = ["with_causes"]

Found = tuple[Check, UnplacedFinding]

_FOLLOWING = frozenset(
    {"missing-name", "wrong-side", "not-loaded", "missing-in-language", "name-not-in-manifest", "not-in-manifest"}
)
"""Codes of what is told of a name whose definition was not read."""
_WORD = re.compile(r"""[^\s"'<>=,;(){}\[\]]+""")
_NOT_THERE = frozenset({"no-beginning", "no-defining-file"})
_BETWEEN = frozenset(":./_-")
"""What stands between the name of a unit and what of it is meant."""
_LARGEST = 64 << 20


class _Cause(Struct, frozen=True):
    """A finding from which others follow."""

    number: int
    """Which of the findings it is."""
    explains: Callable[[UnplacedFinding], bool]
    words: str
    """What is said of the names that follow, behind how many they are."""


def with_causes(case: Case, found: Sequence[Found]) -> list[Found]:
    """The findings without those that follow from another one (a file that cannot be read or is not there, a unit that
    is missing), and with how many names those are at that one."""
    causes = [*_damaged(case, found), *_gone(case, found), *_units(case, found)]
    if not causes:
        return list(found)
    follows: dict[int, int] = {}
    for number, (one, draft) in enumerate(found):
        if one.code in _FOLLOWING:
            cause = next((c for c in causes if c.number != number and c.explains(draft)), None)
            if cause is not None and cause.number not in follows:
                follows[number] = cause.number
    names: dict[int, set[str]] = {}
    for number, head in follows.items():
        names.setdefault(head, set()).add(found[number][1].name)
    words = {cause.number: cause.words for cause in causes}
    return [
        (one, _with_following(draft, len(names[number]), words[number]) if number in names else draft)
        for number, (one, draft) in enumerate(found)
        if number not in follows
    ]


def _with_following(draft: UnplacedFinding, many: int, words: str) -> UnplacedFinding:
    said = f"{many:,} names that {words} are" if many > 1 else f"one name that {words.replace('are ', 'is ')} is"
    message = f"{draft.message}; {said} asked for, and cannot be checked before"
    return structs.replace(draft, message=message, follows=many)


def _damaged(case: Case, found: Sequence[Found]) -> Iterator[_Cause]:
    """Files that cannot be read, each told once, and the names that stand in them."""
    told: set[str] = set()
    for number, (one, draft) in enumerate(found):
        if one.code == "unreadable" and draft.path not in told:
            told.add(draft.path)
            words, kinds = _words(case, draft.path), _kinds(case, draft.path)
            yield _Cause(number, partial(_in_file, words, kinds), "are written in it")


def _gone(case: Case, found: Sequence[Found]) -> Iterator[_Cause]:
    """Files that are not there, and the kinds that only they would define."""
    gone = [(number, draft) for number, (one, draft) in enumerate(found) if one.code in _NOT_THERE]
    if not gone:
        return
    there = [rule for rule in case.layout.reads if any(rule.match(file.path) for file in case.web.files)]
    defined = {define.kind for rule in there for define in rule.defines}
    for number, draft in gone:
        rules = (rule for rule in case.layout.reads if _means(rule, draft.name))
        kinds = frozenset(define.kind for rule in rules for define in rule.defines if rule.format != "any")
        yield _Cause(number, partial(_of_kinds, kinds - defined), "it would define")


def _means(rule: ReadRule, name: str) -> bool:
    """Whether a rule is about a file, or about the files of a pattern."""
    return rule.match(name) is not None or name in [glob.pattern for glob in rule.files]


def _units(case: Case, found: Sequence[Found]) -> Iterator[_Cause]:
    """Units that are not there, and names that begin with theirs in the units that need them."""
    entry = case.layout.units
    for number, (one, draft) in enumerate(found):
        if entry is not None and one.code == "missing-name" and draft.kind == entry.kind:
            yield _Cause(number, partial(_of_unit, case, draft.name), "may be of it")


def _in_file(words: frozenset[str], kinds: frozenset[str], draft: UnplacedFinding) -> bool:
    return draft.kind in kinds and all(_stands(word, words) for word in draft.name.split())


def _of_kinds(kinds: frozenset[str], draft: UnplacedFinding) -> bool:
    return draft.kind in kinds


def _of_unit(case: Case, name: str, draft: UnplacedFinding) -> bool:
    unit = case.units.of_file.get(draft.path)
    begins = draft.name.startswith(name) and draft.name[len(name) : len(name) + 1] in _BETWEEN
    return unit is not None and begins and draft.name != name and name in (*unit.needs, *unit.may_use)


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


def _stands(word: str, words: frozenset[str]) -> bool:
    """Whether a name stands among these words: whole, or as the last part of what it is made of."""
    last = re.split(r"[/:.]", word)[-1]
    return word in words or word.rpartition("/")[2] in words or word.rpartition(":")[2] in words or last in words
