"""References that would resolve if they were spelled differently: letter case, characters, separators, endings."""

from __future__ import annotations

import posixpath
import unicodedata
from collections.abc import Iterable

from msgspec import structs

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.missing import in_words, missing_because, missing_finding
from hookset.model import Respell, Severity
from hookset.symbols import Miss, Resolution

__all__: list[str] = []


@check(
    code="wrong-case",
    title="A name is spelt in another letter case than its definition",
    severity=Severity.ERROR,
    loaded=True,
    why="it works on a machine that does not tell letter case apart, and fails on the server and for players",
    remedy="spell both alike",
    example=Example(
        fails={"things.csv": "name,deed,picture\ngate,open,Gate.png\n"},
        passes={"things.csv": "name,deed,picture\nGate,open,gate.png\n"},
    ),
)
def wrong_case(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.CASE):
        reference = resolution.reference
        right = _as_written(resolution) or resolution.spelling
        owned = case.kind(reference.kind).entry.owned
        message = (
            f"{in_words(case, reference)} is spelt `{right if owned else resolution.spelling}` where it is defined"
        )
        remedy = f"write `{right}` here, or rename the other"
        draft = missing_finding(case, resolution, message, remedy, why="", instead=(right,))
        yield structs.replace(draft, mend=_respelt(resolution))


@check(
    code="wrong-form",
    title="A name looks the same as its definition and is written in other characters",
    severity=Severity.ERROR,
    loaded=True,
    why="ö can be one character or an o with dots after it, and games compare what is stored, not what it looks like",
    remedy="save both in the same Unicode normal form (NFC)",
    example=Example(
        fails={
            "sounds.json": '[{ "name": "to\u0308n", "file": "creak.wav" }]',
            "server/gate.lua": 'on("open", function() play("t\u00f6n") end)\n',
        },
        passes={
            "sounds.json": '[{ "name": "t\u00f6n", "file": "creak.wav" }]',
            "server/gate.lua": 'on("open", function() play("t\u00f6n") end)\n',
        },
    ),
)
def wrong_form(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.FORM):
        label = case.kind(resolution.reference.kind).label
        message = f"{label} `{resolution.reference.name}` is written in other characters where it is defined"
        yield structs.replace(missing_finding(case, resolution, message, why=""), mend=_respelt(resolution))


def _respelt(resolution: Resolution) -> Respell | None:
    reference, right = resolution.reference, _as_written(resolution)
    return Respell(reference.path, reference.where, reference.written, right) if right else None


def _as_written(resolution: Resolution) -> str:
    """The true spelling in the form in which the reference writes it: its folder may not be part of that, nor its
    ending. Empty where that cannot be told."""
    written, name, spelling = resolution.reference.written, resolution.reference.name, resolution.spelling
    for form in ("NFC", "NFD"):
        if name != spelling and unicodedata.normalize(form, name) == spelling:
            return unicodedata.normalize(form, written)
    for ending in ("", posixpath.splitext(name)[1]):
        bare = name.removesuffix(ending)
        alike = len(posixpath.commonprefix([written[::-1], bare[::-1]]))
        if bare and alike >= len(posixpath.basename(written)):
            behind = len(name) - len(bare)
            return written[: len(written) - alike] + spelling[len(bare) - alike : len(spelling) - behind]
    return ""


@check(
    code="other-ending",
    title="A file is there, with another ending",
    severity=Severity.ERROR,
    loaded=True,
    why="the game looks for the file by its whole name",
    remedy="name the file that is there, or convert it to what is asked for",
    example=Example(
        fails={"things.csv": "name,deed,picture\ngate,open,gate.tga\n"},
        passes={
            "things.csv": "name,deed,picture\ngate,open,gate.tga\n",
            "pictures/gate.tga": "…",
            "manifest.txt": "sounds/creak.wav\npictures/gate.png\npictures/gate.tga\n",
        },
    ),
)
def other_ending(case: Case) -> Iterable[UnplacedFinding]:
    for resolution in missing_because(case, Miss.ENDING):
        name = resolution.reference.name
        message = f"the file `{name}` is not there, but `{resolution.spelling}` is"
        right = _as_written(resolution) or resolution.spelling
        remedy = f"write `{right}`, if that is what is meant"
        yield missing_finding(case, resolution, message, remedy, instead=(right,))


@check(
    code="backslash",
    title="A path is written with the wrong separators",
    severity=Severity.ERROR,
    loaded=True,
    why="it works on Windows only: elsewhere a backslash is a letter like any other, and the file is not found",
    remedy="write / between folders",
    example=Example(
        fails={"sounds.json": '[{ "name": "creak", "file": "..\\\\sounds\\\\creak.wav" }]'},
        passes={"sounds.json": '[{ "name": "creak", "file": "../sounds/creak.wav" }]'},
    ),
)
def backslash(case: Case) -> Iterable[UnplacedFinding]:
    kinds = [kind for kind in case.layout.kinds.values() if kind.entry.path]
    for right_one, wrong, word, why in (
        ("/", "\\", "backslashes", ""),
        ("\\", "/", "slashes", "this game knows backslashes only"),
    ):
        names = {kind.name for kind in kinds if kind.entry.separators == right_one}
        for reference in case.resolutions.written_with(wrong, names):
            right = reference.written.replace(wrong, right_one)
            yield UnplacedFinding(
                path=reference.path,
                where=reference.where,
                message=f"the path `{reference.written}` is written with {word}",
                why=why,
                remedy=f"write `{right}`",
                kind=reference.kind,
                name=reference.name,
                mend=Respell(reference.path, reference.where, reference.written, right),
                instead=(right,),
            )
