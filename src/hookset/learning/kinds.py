"""Kinds of names: vocabularies that the same place refers to hold names of one kind, which is called after what defines
it or what asks for it."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.guess import Guess
from hookset.learning.place import Place
from hookset.learning.vocabulary import NAMING, Vocabulary

__all__ = ["FILE", "ROW", "LearnedKind", "free_name", "kept_apart", "kinds_of"]

FILE, ROW = "file", "row"
_EMPTY_WORDS = frozenset(
    [
        "extras",
        "extra",
        "item",
        "items",
        "entry",
        "entries",
        "data",
        "value",
        "values",
        "list",
        "lists",
        "on",
        "id",
        "key",
        "name",
        "object",
        "objects",
        "record",
        "records",
        "root",
        "element",
        "elements",
        "return",
        "section",
        "sections",
        "field",
        "fields",
        "attribute",
        "attributes",
        "param",
        "property",
        "properties",
        "array",
        "map",
        "table",
    ]
)
_TRANSLATED = 0.9
"""Of the names in all languages: those that are there, where each language has to have them."""
_PLAIN = NAMING | {"value"}
"""Words that say no more of what is called so than that it is called something."""


_MAKING = re.compile(
    r"^(?:[a-z0-9]+-)?(?:new|registers?|defines?|def|declares?|adds?|creates?|makes?)-(?=[a-z])"
    r"|-(?:type|def|definition|class|id|name)$"
)
"""What calls are called besides what they make, perhaps with the part of the game that has them before it."""
_MOSTLY = 0.8
"""Of the names in sections: how many are in files that are called alike, where those are called after them."""
_IDS = 5
"""Numbers that name things, before those are ids of which there is a next one."""
_OTHERWISE = 2
"""Different names that are written in another letter case, before that is no mistake."""


class LearnedKind(Struct, frozen=True):
    """A kind of name."""

    name: str
    vocabularies: tuple[Vocabulary, ...]
    once: bool
    """Whether each name is defined once."""
    by_language: bool
    folded: bool = False
    """Whether letter case does not count."""
    known: bool = False
    """Whether a layout at hand has it."""
    first: int | None = None
    """The least number that can be one, where names are numbers that each thing is given once."""


def kinds_of(
    guesses: Sequence[Guess], weak: Sequence[Guess] = (), others: Collection[str] = ()
) -> tuple[LearnedKind, ...]:
    """The kinds of what is referred to, without files, which are a kind by themselves. What weak guesses call them
    counts, too. `others` are names that are taken."""
    groups = _groups(guesses)
    asked: dict[Vocabulary, Counter[str]] = {}
    for guess in (*guesses, *(one for one in weak if one.evidence.hits * 4 >= one.evidence.texts * 3)):
        if int(guess.place.asked.get("arg", 1)) > 1:
            # The first argument of a call is what it is about; the others are anything.
            continue
        for target in guess.targets:
            asked.setdefault(target, Counter())[_asking(guess.place, target)] += guess.evidence.hits
    found: list[LearnedKind] = []
    taken = {FILE, ROW, *others}
    for group in {id(group): group for group in groups.values()}.values():
        words = sum((asked.get(one, Counter[str]()) for one in group), Counter[str]())
        most = max(group, key=lambda one: len(one.names))
        name = _known_as(group) or free_name(_called(most, words), taken)
        taken.add(name)
        by_language = any(_in_each_language(one) for one in group)
        folded, known = _folded(group, guesses), bool(_known_as(group))
        once = _once(group)
        found.append(LearnedKind(name, tuple(group), once, by_language, folded, known, _first(group) if once else None))
    return tuple(found)


def _groups(guesses: Iterable[Guess]) -> dict[Vocabulary, list[Vocabulary]]:
    """What is of one kind with each vocabulary."""
    groups: dict[Vocabulary, list[Vocabulary]] = {}
    for guess in guesses:
        for target in guess.targets:
            groups.setdefault(target, [target])
        first = groups[guess.targets[0]] if guess.targets else []
        for other in guess.targets[1:]:
            if groups[other] is not first and not (_known_as(groups[other]) and _known_as(first)):
                first += groups[other]
                for one in groups[other]:
                    groups[one] = first
    return groups


def kept_apart(guesses: Sequence[Guess]) -> tuple[Guess, ...]:
    """The guesses, of which those are weak that are only likely, look at a part of a place, and would make one kind of
    names that sure ones keep apart."""
    groups = _groups(guess for guess in guesses if guess.evidence.band == "sure")
    return tuple(
        replace(guess, evidence=replace(guess.evidence, band="weak"))
        if guess.evidence.band == "likely"
        and guess.place.general is not None
        and "only" in guess.place.asked
        and len({id(groups[one]) for one in guess.targets if one in groups}) > 1
        else guess
        for guess in guesses
    )


def _asking(place: Place, target: Vocabulary) -> str:
    """What a place calls that which it refers to: of `<move-skill value="…"/>` it is the element."""
    word = _clean(place.word)
    if word == _clean(target.place.around):
        return word
    plain = word in _EMPTY_WORDS or place.word.lower() in _PLAIN
    return (_clean(place.around) or word) if plain else word


def _known_as(group: Sequence[Vocabulary]) -> str:
    """The kind of a layout at hand that holds names of a group; empty where there is none."""
    return next((one.kind for one in group if one.kind), "")


def _called(vocabulary: Vocabulary, asked: Mapping[str, int]) -> str:
    """What most of those that refer to it call it, if it is called nothing by itself."""
    place = vocabulary.place
    own = place.word if place.form in ("name", "call") or place.word.lower() not in _PLAIN else place.around
    if place.form == "module":
        return "script"
    if place.form in ("thing", "folder"):
        return _clean(place.word) or "thing"
    if place.form == "function":
        return "function"
    sort = _clean(next(iter(place.when.values()), ""))
    if sort and sort not in _EMPTY_WORDS:
        # Records of one sort are called after it.
        return sort
    if place.form == "name" and place.word == "section":
        stems = Counter(posixpath.splitext(posixpath.basename(path))[0] for path in place.said.paths)
        stem, often = stems.most_common(1)[0]
        # Where a file has one sort of records, it is called after them.
        own = stem if often >= _MOSTLY * stems.total() else own
    if place.form == "key":
        own = place.around or _folder(place.sort.paths)
    own = _made(_clean(own)) if "call" in place.asked else _clean(own)
    if own and (own not in _EMPTY_WORDS or asked.get(own)):
        return own
    whole = sum(asked.values())
    best = [word for word, often in asked.items() if word and word not in _EMPTY_WORDS and often * 5 > whole * 2]
    if best:
        return max(best, key=lambda word: asked[word])
    # What is asked for by `move-skill`, `stop-skill` and others is a skill.
    ends: Counter[str] = Counter()
    for word, often in asked.items():
        ends[word.rpartition("-")[2]] += often
    end, often = max(ends.items(), key=lambda one: one[1], default=("", 0))
    if end and end not in _EMPTY_WORDS and often * 5 > whole * 4:
        return end
    return own or _clean(_folder(place.sort.paths)) or _clean(place.word) or "name"


def _made(word: str) -> str:
    """What a call makes that is called so: of `new-ware-type` and `market-add-ware` it is a ware."""
    return _MAKING.sub("", word) or word


def _folder(paths: Sequence[str]) -> str:
    """What files have in common: their folder, or what they are called."""
    stems = {posixpath.splitext(posixpath.basename(path))[0] for path in paths}
    common = posixpath.basename(posixpath.commonpath(paths)) if len(paths) > 1 else ""
    return common or (stems.pop() if len(stems) == 1 else posixpath.splitext(paths[0])[1].lstrip("."))


def _clean(word: str) -> str:
    found = re.sub(r"[^a-z0-9]+", "-", re.sub(r"(?<=[a-z])(?=[A-Z])", "-", word).lower()).strip("-")
    if len(found) > 5 and found.endswith("ies"):
        found = f"{found[:-3]}y"
    elif len(found) > 3 and found.endswith("s") and not found.endswith(("ss", "us", "is")):
        found = found[:-1]
    return found if found and found[0].isalpha() else ""


def free_name(name: str, taken: Iterable[str]) -> str:
    """A name, with a number where it is taken."""
    known = {*taken}
    if name not in known:
        return name
    return next(f"{name}-{number}" for number in range(2, 10_000) if f"{name}-{number}" not in known)


def _once(group: Sequence[Vocabulary]) -> bool:
    """Whether no name is there twice, in a language."""
    names: set[str] = set()
    for vocabulary in group:
        languages = _by_language(vocabulary)
        counts = vocabulary.names
        if not languages and max(counts.values()) > 1:
            return False
        if names & counts.keys():
            return False
        names |= counts.keys()
    return len(names) > 2


def _first(group: Sequence[Vocabulary]) -> int | None:
    """The least number that can be a name, where all of many are numbers as they are counted."""
    names = [name for vocabulary in group for name in vocabulary.names]
    counted = all(name.isdecimal() and (name == "0" or not name.startswith("0")) for name in names)
    return min(1, *map(int, names)) if counted and len(names) >= _IDS else None


def _folded(group: Sequence[Vocabulary], guesses: Sequence[Guess]) -> bool:
    """Whether what refers to them writes several in other letter case than they are defined in: one is a mistake."""
    low = {name.lower() for vocabulary in group for name in vocabulary.names}
    if len(low) < len({name for vocabulary in group for name in vocabulary.names}):
        return False
    mine = [guess for guess in guesses if guess.targets and guess.targets[0] in group]
    return len({one.text for guess in mine for one in guess.evidence.misfits if one.text.lower() in low}) >= _OTHERWISE


def _in_each_language(vocabulary: Vocabulary) -> bool:
    """Whether there is a file for each language, and nearly every name in each: what is translated in part only is
    taken from another language where it is missing."""
    languages = vocabulary.place.sort.languages
    if not languages:
        return False
    said = vocabulary.place.said
    by_path = {path: number for number, files in enumerate(languages.values()) for path, _ in files}
    pairs = {(by_path[path], text) for path, text in zip(said.paths, said.texts, strict=True)}
    return len(pairs) >= _TRANSLATED * len(languages) * len(vocabulary.place.counts)


def _by_language(vocabulary: Vocabulary) -> bool:
    return bool(vocabulary.place.sort.languages)
