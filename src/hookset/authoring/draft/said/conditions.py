"""Conditions in prose: "only if you have …"."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator, Sequence

from msgspec import Struct

from hookset.authoring.draft.words import words

__all__ = ["Condition", "condition_of", "instead", "kebab", "of_folder", "said_both_ways", "since_always", "unlabelled"]

_VERSION = re.compile(
    r"\s+(?:v(?:ersion)?\.? ?)?(?P<number>\d+(?:\.\d+)*)"
    r"(?P<more>\s*(?:\+|or (?:newer|later|higher|above)|oder (?:neuer|höher)))?\s*$",
    re.IGNORECASE,
)
_NEXT = re.compile(
    r"\s+(?:installed|then|instead|too|as well|in your|on your|also|add|use|put|you|and|dann|auch)\b", re.I
)
_FOLDER = re.compile(r"(?P<word>with|without|no|mit|ohne|avec|sans)[ _.-]+(?P<what>\w[\w .-]*)", re.IGNORECASE)
_PART = re.compile(
    r"\s*(?:part|variant|case|option|section|teil|fall|variante|partie)\s+[A-Z0-9]{1,3}\s*[:.)–-]\s*", re.IGNORECASE
)
_CALLED = re.compile(r"[\"`«“„][^\"`«»“”„]+[\"`»”“]|\b(?:pack|mod|add-?on)\b", re.IGNORECASE)
"""What makes a word of the language the name of a pack."""
_NOISE = re.compile(
    r"^(?:my|our|the|a|an|den|die|das|meine?n?|pack|mod)\s+"
    r"|\s+(?:pack|mod|installed|too|as well|also|there|in your map|on your map|on it|instead)$",
    re.IGNORECASE,
)


class Condition(Struct, frozen=True):
    """That another pack is there, or is not."""

    pack: str
    without: bool
    version: str = ""
    known: bool = False
    """The pack is one that we know of."""
    said: str = ""


def kebab(words_said: str) -> str:
    """As packs are called: `Lift Bridge` → `lift-bridge`, `Sirène` → `sirene`."""
    plain = unicodedata.normalize("NFKD", words_said.casefold())
    return re.sub(r"[^a-z0-9]+", "-", re.sub(r"[\u0300-\u036f]", "", plain)).strip("-")


def condition_of(near: str, known: Sequence[str], before: Condition | None) -> Condition | None:
    """What the words just before a text say it depends on. `known` are packs that are installed or at hand, `before` is
    the condition of the text above it."""
    flat = since_always(" ".join(near.split()))
    table = words()["conditions"]
    found: list[tuple[int, Condition]] = []
    for without, key in ((True, "without"), (False, "with")):
        for source in table[key]:
            for match in re.finditer(source, flat, re.IGNORECASE):
                if (made := _made(match["what"], without, known, match.group())) is not None:
                    found.append((match.start(), made))
    if found:
        # Of two that begin at the same place, the one that denies is the longer reading.
        last = max(start for start, _ in found)
        return next(made for start, made in found if start == last)
    if before is not None and any(re.search(source, flat, re.IGNORECASE) for source in table["otherwise"]):
        return Condition(before.pack, not before.without, "", before.known, flat)
    return None


def since_always(said: str) -> str:
    """What is said behind the last word by which something goes into every map: "if you have … . Needed: …"."""
    found = list(re.finditer(rf"[.!?:;]\W+(?:{words()['conditions']['always']})(?=\W)", said, re.IGNORECASE))
    return said[found[-1].end() :] if found else said


def unlabelled(line: str) -> str:
    """A heading without what it is called: `PART B: `."""
    return _PART.sub("", line)


def said_both_ways(lines: Iterable[str]) -> frozenset[str]:
    """Packs that notes name both as there and as not there: of those it is sure that they are packs."""
    found: tuple[set[str], set[str]] = (set(), set())
    for line in lines:
        for without, name in _all_said(f"if {unlabelled(line).strip()}"):
            found[without].add(name)
    return frozenset(found[0] & found[1])


def _all_said(text: str) -> Iterator[tuple[bool, str]]:
    for without, key in ((True, "without"), (False, "with")):
        for source in words()["conditions"][key]:
            for match in re.finditer(source, text, re.IGNORECASE):
                if name := _name(match["what"])[0]:
                    yield without, name


def of_folder(path: str) -> Condition | None:
    """What a file depends on by its folder: `without lanterns/scripts/gate.lua`."""
    for part in path.split("/")[:-1]:
        match = _FOLDER.fullmatch(part.strip())
        if match is not None:
            without = match["word"].casefold() in ("without", "no", "ohne", "sans")
            return Condition(kebab(match["what"]), without, "", True, part)
    return None


def instead(near: str) -> bool:
    """Whether a text is to take the place of the one above it."""
    return (
        re.search(r"\b(?:instead|in place of|rather than|stattdessen|anstelle|statt|au lieu)\b", near, re.I) is not None
    )


def _name(what: str) -> tuple[str, re.Match[str] | None]:
    """The pack that some words mean, and the version that they ask for."""
    what = _NEXT.split(what, maxsplit=1)[0]
    version = _VERSION.search(what)
    name = _VERSION.sub("", what).strip(" \"'`*_“”„«»\u00a0")
    while (shorter := _NOISE.sub("", name)) != name:
        name = shorter.strip(" \"'`*_“”„«»\u00a0")
    return name, version


def _made(what: str, without: bool, known: Sequence[str], said: str) -> Condition | None:
    name, version = _name(what)
    asked = kebab(name)
    if not asked or len(name.split()) > 4:
        return None
    same = next((one for one in known if kebab(one) == asked), None)
    called = name[:1].isupper() or "-" in name or "_" in name or _CALLED.search(what) is not None
    if same is None and not called:
        # A word of the language rather than a name.
        return None
    spec = f">={version['number']}" if version is not None and not without else ""
    return Condition(same or asked, without, spec, same is not None, said)
