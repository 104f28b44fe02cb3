"""What a pack is called, who made it, and under which licence: from its notes, its licence file and its own name."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace
from packaging.version import InvalidVersion, Version

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.said.credit import credit_said
from hookset.authoring.draft.words import words

__all__ = ["About", "about", "name_of"]

_VERSION_IN_NAME = re.compile(
    r"[-_ .]*\bv?(?P<version>\d+(?:[. ]\d+){1,3}|(?<=v)\d+)(?:[-_ ]?(?:final|fixed?|release|beta|alpha|rc\d*))*\b"
    r"|[-_ ]+v(?P<only>\d+)\b",
    re.IGNORECASE,
)
_NOISE_IN_NAME = re.compile(r"[-_ ]*(?:\(\d+\)|\b(?:final|fixed?|new|copy|release|master|main)\b)", re.IGNORECASE)
_HOME = re.compile(r"https?://[^\s<>\"')\]]+")
_ANY_NAME = frozenset(
    ["pack", "mod", "map", "content", "files", "download", "archive", "new-folder", "data", "release", "src"]
)
_BEHIND = re.compile(
    r"\s+[-–—|/·•]\s*|,\s+\d|,?\s+(?:licen[cs]e|lizenz|under|cc[ -0]|mit\b|version|v\d)|[.!]\s|[.!]$", re.IGNORECASE
)
"""What is said behind the name of an author."""
_COPYRIGHT = re.compile(r"^\W*(?:\(c\)|©|copyright\b)\s*(?:\d{4})?\s*", re.IGNORECASE)
_FIRST = 30
"""Lines at the top of notes in which their author tells of himself."""

# What licences call themselves, by their SPDX identifier: the longer names first.
_LICENCES = (
    (r"cc[ -]?by[ -]nc[ -]sa[ -]?(\d\.\d)", "CC-BY-NC-SA-{}"),
    (r"cc[ -]?by[ -]nc[ -]nd[ -]?(\d\.\d)", "CC-BY-NC-ND-{}"),
    (r"cc[ -]?by[ -]nc[ -]?(\d\.\d)", "CC-BY-NC-{}"),
    (r"cc[ -]?by[ -]sa[ -]?(\d\.\d)", "CC-BY-SA-{}"),
    (r"cc[ -]?by[ -]nd[ -]?(\d\.\d)", "CC-BY-ND-{}"),
    (r"cc[ -]?by[ -]?(\d\.\d)", "CC-BY-{}"),
    (r"attribution-noncommercial-sharealike (\d\.\d)", "CC-BY-NC-SA-{}"),
    (r"attribution-noncommercial (\d\.\d)", "CC-BY-NC-{}"),
    (r"attribution-sharealike (\d\.\d)", "CC-BY-SA-{}"),
    (r"attribution (\d\.\d) international", "CC-BY-{}"),
    (r"\bcc[ -]?0\b|creative commons zero", "CC0-1.0"),
    (r"\bgnu lesser general public licen[cs]e,? *(?:version|v\.?) *(\d)(?:\.0)?", "LGPL-{}.0-or-later"),
    (r"\bgnu affero general public licen[cs]e,? *(?:version|v\.?) *(\d)(?:\.0)?", "AGPL-{}.0-or-later"),
    (r"\bgpl-(\d)\.0-or-later", "GPL-{}.0-or-later"),
    (r"\bgpl-(\d)\.0-only", "GPL-{}.0-only"),
    (r"\bgnu general public licen[cs]e,? *(?:version|v\.?) *(\d)(?:\.0)?", "GPL-{}.0-or-later"),
    (r"\bgpl[ -]*(?:v|version )?\.?(\d)(?:\.0)?(?:\+| or later)", "GPL-{}.0-or-later"),
    (r"\bgpl[ -]*(?:v|version )?\.?(\d)(?:\.0)?\b", "GPL-{}.0-only"),
    (r"\bapache(?: licen[cs]e)?,?[ -]*(?:version|v\.?)?[ -]*2(?:\.0)?", "Apache-2.0"),
    (r"\bmozilla public licen[cs]e|\bmpl[ -]?2", "MPL-2.0"),
    (r"\bmit\b(?! (?:dem|der|den|einem))[ -]?(?:licen[cs]e|lizenz)?", "MIT"),
    (r"\bbsd[ -]?3|3-clause bsd", "BSD-3-Clause"),
    (r"\bbsd[ -]?2|2-clause bsd", "BSD-2-Clause"),
    (r"\bisc licen[cs]e", "ISC"),
    (r"\bzlib\b", "Zlib"),
    (r"\bunlicense\b", "Unlicense"),
    (r"\bwtfpl\b", "WTFPL"),
)


_FREE = re.compile(r"\bpublic domain\b|\bgemeinfrei\b|\bdomaine public\b", re.IGNORECASE)
"""A licence that has no identifier: its author gives up all rights, where that can be done."""


class About(Struct, frozen=True):
    """Each with where it stands, empty where it was nowhere said."""

    name: str
    version: str
    title: str
    authors: tuple[str, ...]
    license: str
    home: str
    credit: str
    whys: dict[str, Why]


def _unaddressed(line: Line) -> Line:
    """The subject of a letter, where a line is one: `Subject: Re: softer rope`."""
    return replace(line, text=re.sub(rf"^\W*(?:{words()['about']['subject']})+", "", line.text, flags=re.IGNORECASE))


def name_of(stem: str) -> tuple[str, str]:
    """Name and version in the name of an archive: `Lift_Bridge_v1.2-final(3)` → lift-bridge, 1.2."""
    stem = stem.replace("_", " ")
    found = _VERSION_IN_NAME.search(stem)
    version = (found["version"] or found["only"]).replace(" ", ".") if found else ""
    bare = _NOISE_IN_NAME.sub(" ", stem[: found.start()] + " " + stem[found.end() :] if found else stem)
    return kebab(re.sub(r"(?<=[a-z])(?=[A-Z])", "-", bare)) or "pack", version


def about(stem: str, notes: Sequence[Notes], licences: Sequence[tuple[str, str]]) -> About:
    """`stem` is what the pack's file or folder is called; `licences` are its licence files with their text."""
    whys: dict[str, Why] = {}
    name, version = name_of(stem)
    title = ""
    top = [(one.path, line) for one in notes for line in one.lines if not line.code and line.text.strip()]
    head = [pair for pair in top if pair[1].number <= _FIRST or pair in top[:_FIRST]]
    if head:
        title = _title(_unaddressed(head[0][1]))
        name = kebab(title) if name in _ANY_NAME and title else name
        whys["title"] = _at(*head[0])
    for path, line in top:
        match = re.search(words()["about"]["version"], line.text, re.IGNORECASE)
        if match is not None and "version" not in whys and (path, line) in head:
            version, whys["version"] = match["version"], _at(path, line)
    for path, line in head[:3]:
        if "version" not in whys and (
            match := re.search(r"(?<![\w.-])(\d+\.\d+(?:\.\d+)?)(?![\w.]*\d)", _unlicensed(line.text))
        ):
            version, whys["version"] = match[1], _at(path, line)
    authors, credit, named = _named(head, top)
    whys |= named
    found = _licence(top, licences)
    if found is not None:
        whys["license"] = found[1]
    links = ((match.group(), path, line) for path, line in top if (match := _HOME.search(line.text)) is not None)
    home = next((one for one in links if "creativecommons" not in one[0]), None)
    if home is not None:
        whys["home"] = _at(*home[1:])
    link = home[0].rstrip(".,") if home is not None else ""
    return About(name, _valid(version), title, authors, found[0] if found else "", link, credit, whys)


def _named(
    head: Sequence[tuple[str, Line]], top: Sequence[tuple[str, Line]]
) -> tuple[tuple[str, ...], str, dict[str, Why]]:
    """(authors, how they ask to be named, where that is said)."""
    if not head:
        return (), "", {}
    whys: dict[str, Why] = {}
    asked = credit_said(top)
    if asked is not None:
        whys["credit"] = _at(*asked[1])
    places = [head[0], *(pair for pair in (*head, *top[::-1][:10]) if asked is None or pair != asked[1])]
    found = [tuple(_in_first_line(head[0][1].text)), *(tuple(_authors(line.text)) for _, line in places[1:])]
    authors, place = next(((who, at) for who, at in zip(found, places, strict=True) if who), ((), None))
    if not authors and asked is not None:
        authors, place = tuple(_authors(asked[0])), asked[1]
    if authors and place is not None:
        whys["authors"] = _at(*place)
    return authors, asked[0] if asked is not None else "", whys


def _at(path: str, line: Line) -> Why:
    return at_line(path, line.number)


def _valid(version: str) -> str:
    try:
        Version(version)
    except InvalidVersion:
        return ""
    return version


def _title(line: Line) -> str:
    """The first line of notes, without its version and its author."""
    # What stands far to the right is of another kind.
    text = re.split(r"(?<=\S)\s{4,}", re.sub(r"[*_#=`~]+", " ", line.text))[0]
    text = re.sub(r"\s*[(\[]([^()\[\]]*)[)\]]", lambda match: "" if _ids(match[1]) else match[0], text)
    text = re.sub(r"\s*\((?:release|version|rev\.?|v\.?)?\s*\d[\d.]*\)", " ", text, flags=re.IGNORECASE)
    text = re.split(r"\s[-–—|]\s+(?:by|von)?\s*|\s*\(c\)|\s*,\s|\s+by\s+|\s+von\s+", text.strip(), maxsplit=1)[0]
    text = re.sub(r"\s*[(\[]?\b(?:v|version|ver\.?)?\s*\d+(?:\.\d+)+[)\]]?|\s*\bv\d+\b", " ", text, flags=re.IGNORECASE)
    return " ".join(text.split()).strip(" -–:.!")[:80]


def _unlicensed(text: str) -> str:
    """A line without the licences in it, which have versions of their own."""
    return re.sub(
        r"\b(?:cc[ -]?by(?:[ -](?:nc|nd|sa))*|cc[ -]?0|gpl|lgpl|apache|mpl)[ -]?v?\d?(?:\.\d)?", " ", text, flags=re.I
    )


def _in_first_line(text: str) -> Iterator[str]:
    """`Oyster bed - v0.9 - Iduna Marsh - CC-BY-4.0`: what is neither title, version nor licence."""
    plain = re.sub(r"[*_`#]+", "", text)
    first, *parts = re.split(r"\s+[-–—|/]\s+", plain)
    if not parts and re.match(r"[^,]*\d[^,]*,", plain):
        # `CALM SEA 1.0, Bram, public domain`
        first, *parts = re.split(r",\s+", plain)
    # `Crew flags 1.4 - Gadwall - MIT`: a single word is a name between a version and a licence.
    fewest = 1 if len(parts) == 2 and re.search(r"\d", first) and (_ids(parts[1]) or _FREE.search(parts[1])) else 2
    for part in parts:
        words = part.strip().split()
        called = fewest <= len(words) <= 4 and all(
            word[0].isupper() or word in ("of", "the", "&", "and", "von") for word in words
        )
        if (
            called
            and not re.search(r"\d", part)
            and not _ids(part)
            and not _FREE.search(part)
            and not re.match(r"(?i)by\b|von\b|par\b|made\b", part)
        ):
            yield part.strip()
            return


def _authors(text: str) -> Iterator[str]:
    plain = re.sub(r"[*_`#]+", "", text)
    # `Ropewalk Fans, CC-BY-4.0`: a name and a licence, and nothing else.
    bare = re.sub(r"^\W*(?:version|v|fassung)?\.?\s*\d+(?:\.\d+)*\s*,\s*", "", plain, flags=re.IGNORECASE)
    name, comma, behind = bare.partition(",")
    licensed = re.fullmatch(r"[\s(]*[A-Z][\w. -]{1,16}[\s).]*", behind) is not None and bool(_ids(behind))
    called = re.search(r"\d|\b(?:by|von|par|licen[cs]e|lizenz)\b", name, re.IGNORECASE) is None
    if comma and licensed and called and len(name.split()) <= 5:
        yield _COPYRIGHT.sub("", name).strip()
        return
    for source in words()["about"]["author"]:
        match = re.search(source, plain, re.IGNORECASE if "[:=]" in source or "copyright" in source else 0)
        if match is None:
            continue
        who = _BEHIND.split(match["who"], maxsplit=1)[0]
        who = _COPYRIGHT.sub("", who)
        names = [name.strip(" .,;-=*~#") for name in re.split(r"\s*,\s*|\s+(?:and|und|et)\s+", who)]
        kept = [
            name for name in names if name and len(name.split()) <= 6 and not re.match(r"(?i)the game|hand\b", name)
        ]
        if kept:
            yield from kept
            return


def _licence(top: Sequence[tuple[str, Line]], files: Sequence[tuple[str, str]]) -> tuple[str, Why] | None:
    """(SPDX expression, where it is said). A licence file counts before what notes say."""
    for path, line in top:
        if (spdx := _spdx(line.text)) is not None:
            return spdx, _at(path, line)
    said = [(path, line) for path, line in top if (ids := _ids(line.text))]
    if said:
        path, line = said[0]
        either = re.search(r"\bor\b|\boder\b", line.text, re.IGNORECASE)
        return " OR ".join(_ids(line.text)) if either else _ids(line.text)[0], _at(path, line)
    for path, text in files:
        if ids := _ids(text[:3000]):
            return ids[0], at_line(path, 1)
    return None


def _spdx(text: str) -> str | None:
    """An SPDX expression as it stands, if there is one with an operator."""
    match = re.search(r"\b[A-Z][\w.+-]+(?:\s+(?:OR|AND|WITH)\s+[A-Z][\w.+-]+)+", text)
    if match is None:
        return None
    # Imported here: its list of licences takes a tenth of a second to read.
    from license_expression import ExpressionError, get_spdx_licensing

    try:
        get_spdx_licensing().parse(match.group(), validate=True, strict=True)
    except ExpressionError:
        return None
    return str(match.group())


def _ids(text: str) -> list[str]:
    """The licences that a text names, by their SPDX identifiers, in order."""
    lower = " ".join(text.lower().split())
    found: list[tuple[int, str]] = []
    taken: list[tuple[int, int]] = []
    for source, name in _LICENCES:
        for match in re.finditer(source, lower):
            if source.startswith(r"\bmit") and not re.search(r"licen[cs]e|lizenz|\bMIT\b", text):
                continue
            if not any(start < match.end() and match.start() < end for start, end in taken):
                taken.append(match.span())
                found.append((match.start(), name.format(match[1]) if "{}" in name else name))
    return list(dict.fromkeys(name for _, name in sorted(found)))
