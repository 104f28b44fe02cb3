"""Every reference has its definition: the right name, letter case, side and language, loaded by the game."""

from __future__ import annotations

import posixpath
import unicodedata
from collections.abc import Iterable, Iterator

from hookset.core.checks.declare import Case, Draft, check
from hookset.core.model import Mend, Respell, Severity
from hookset.core.web import Miss, Outcome, Resolution

__all__: list[str] = []


def _missed(case: Case, miss: Miss) -> Iterator[Resolution]:
    for resolution in case.resolutions:
        if resolution.outcome is Outcome.MISSING and resolution.miss is miss:
            yield resolution


def _draft(
    case: Case,
    resolution: Resolution,
    message: str,
    remedy: str = "",
    *,
    side: str = "",
    why: str | None = None,
    mend: Mend | None = None,
) -> Draft:
    """A finding on a reference; its kind knows best why it matters, unless `why` is given."""
    reference = resolution.reference
    return Draft(
        path=reference.path,
        where=reference.where,
        message=message,
        why=case.kind(reference.kind).entry.why if why is None else why,
        remedy=remedy,
        kind=reference.kind,
        name=reference.name,
        side=side or reference.side,
        mend=mend,
    )


def _near(case: Case, resolution: Resolution) -> str:
    """The likeliest things that were meant."""
    reference = resolution.reference
    names = [f"`{name}`" for name in case.index.near(reference.kind, reference.name)]
    if not names:
        return ""
    return f"did you mean {' or '.join(filter(None, (', '.join(names[:-1]), names[-1])))}?"


def _on(side: str) -> str:
    return f" on the {side} side" if side else ""


@check(
    code="missing-name",
    title="A name that is used is defined nowhere",
    severity=Severity.ERROR,
    why="what uses it does not work in the game",
    remedy="define it, correct the spelling, or take out what uses it; a name of the base game belongs in a stock list",
)
def missing_name(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.ABSENT):
        reference = resolution.reference
        kind = case.kind(reference.kind)
        if not kind.entry.path:
            others = case.index.other_kinds(reference.kind, reference.name)
            another = f"; there is a {' and a '.join(others)} of that name" if others else ""
            yield _draft(
                case,
                resolution,
                f"{kind.label} `{reference.name}` is defined nowhere{_on(reference.side if kind.entry.sided else '')}:"
                f" not in the map, not in the stock{another}",
                _near(case, resolution),
            )


@check(
    code="missing-file",
    title="A file that is used is not there",
    severity=Severity.ERROR,
    why="what should show it or play it shows or plays nothing",
    remedy="put the file there, correct the path, or take out what uses it",
)
def missing_file(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.ABSENT):
        reference = resolution.reference
        if case.kind(reference.kind).entry.path and reference.use:
            yield _draft(case, resolution, f"the file `{reference.name}` is not there", _near(case, resolution))


@check(
    code="row-without-file",
    title="The manifest lists a file that is not there",
    severity=Severity.ERROR,
    why="the build stops at this row or ships without it",
    remedy="put the file there, correct the row, or take it out",
)
def row_without_file(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.ABSENT):
        reference = resolution.reference
        if case.kind(reference.kind).entry.path and not reference.use:
            message = f"this row lists `{reference.name}`, which is not there"
            yield _draft(case, resolution, message, _near(case, resolution), why="")


@check(
    code="wrong-case",
    title="A name is spelt in another letter case than its definition",
    severity=Severity.ERROR,
    why="it works on a machine that does not tell letter case apart, and fails on the server and for players",
    remedy="spell both alike",
)
def wrong_case(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.CASE):
        reference = resolution.reference
        label = case.kind(reference.kind).label
        yield _draft(
            case,
            resolution,
            f"{label} `{reference.name}` is spelt `{resolution.spelling}` where it is defined",
            f"write `{_as_written(resolution) or resolution.spelling}` here, or rename the other",
            why="",
            mend=_respelt(resolution),
        )


@check(
    code="wrong-form",
    title="A name looks the same as its definition and is written in other characters",
    severity=Severity.ERROR,
    why="ö can be one character or an o with dots after it, and games compare what is stored, not what it looks like",
    remedy="save both in the same Unicode normal form (NFC)",
)
def wrong_form(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.FORM):
        label = case.kind(resolution.reference.kind).label
        message = f"{label} `{resolution.reference.name}` is written in other characters where it is defined"
        yield _draft(case, resolution, message, why="", mend=_respelt(resolution))


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
    code="wrong-side",
    title="A name is there, but not on the side that uses it",
    severity=Severity.ERROR,
    why="works alone in the editor and breaks for players, since each side knows only its own half",
    remedy="define it on that side as well, or move it to where both sides load it",
)
def wrong_side(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.SIDE):
        reference = resolution.reference
        sides = " and ".join(resolution.lacking)
        there = sorted({f"{d.path} ({d.side or 'both sides'})" for d in resolution.hits})
        yield _draft(
            case,
            resolution,
            f"{case.kind(reference.kind).label} `{reference.name}` is not there on the {sides} side"
            + (f", only in {', '.join(there)}" if there else ""),
            side=resolution.lacking[0],
        )


@check(
    code="not-loaded",
    title="A name is defined in a file that the game never loads on that side",
    severity=Severity.ERROR,
    why="a script that nobody loads registers nothing",
    remedy="import that file from one that is loaded there: a pack's import line may be missing",
)
def not_loaded(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.UNLOADED):
        reference = resolution.reference
        files = sorted({d.path for d in resolution.hits})
        yield _draft(
            case,
            resolution,
            f"{case.kind(reference.kind).label} `{reference.name}` is registered in {', '.join(files)},"
            f" which nothing loads on the {' and '.join(s or 'map' for s in resolution.lacking)} side",
            f"import {files[0]} there: a pack's import line may be missing",
            side=resolution.lacking[0],
        )


@check(
    code="missing-in-language",
    title="A text is not there in every language",
    severity=Severity.ERROR,
    why="players with that language see the raw key instead of words",
    remedy="add the key to each language's texts, untranslated if need be",
)
def missing_in_language(case: Case) -> Iterable[Draft]:
    told: set[tuple[str, str, str]] = set()
    for resolution in _missed(case, Miss.VARIANT):
        reference = resolution.reference
        kind = case.kind(reference.kind)
        for variant in resolution.lacking:
            if (reference.kind, reference.name, variant) not in told:
                told.add((reference.kind, reference.name, variant))
                yield _draft(
                    case,
                    resolution,
                    f"{kind.label} `{reference.name}` is lacking in the {kind.entry.each} `{variant}`;"
                    f" it is there in {', '.join(sorted(d.variant for d in resolution.hits))}",
                    side=variant,
                )


@check(
    code="outside-map",
    title="A path leads out of the map",
    severity=Severity.ERROR,
    why="it exists on this machine at best: players have the map's own files and the game's, nothing else",
    remedy="copy the file into the map and name it there",
)
def outside_map(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.OUTSIDE):
        yield _draft(case, resolution, f"the path `{resolution.reference.written}` leads out of the map")


@check(
    code="other-ending",
    title="A file is there, with another ending",
    severity=Severity.ERROR,
    why="the game looks for the file by its whole name",
    remedy="name the file that is there, or convert it to what is asked for",
)
def other_ending(case: Case) -> Iterable[Draft]:
    for resolution in _missed(case, Miss.ENDING):
        name = resolution.reference.name
        message = f"the file `{name}` is not there, but `{resolution.spelling}` is"
        yield _draft(
            case,
            resolution,
            message,
            f"write `{_as_written(resolution) or resolution.spelling}`, if that is what is meant",
        )


@check(
    code="backslash",
    title="A path is written with the wrong separators",
    severity=Severity.ERROR,
    why="it works on Windows only: elsewhere a backslash is a letter like any other, and the file is not found",
    remedy="write / between folders",
)
def backslash(case: Case) -> Iterable[Draft]:
    for resolution in case.resolutions:
        reference = resolution.reference
        entry = case.kind(reference.kind).entry
        wrong = {"/": "\\", "\\": "/", "either": ""}[entry.separators]
        if entry.path and wrong and wrong in reference.written:
            right = reference.written.replace(wrong, entry.separators)
            word, why = ("backslashes", "") if wrong == "\\" else ("slashes", "this game knows backslashes only")
            yield Draft(
                path=reference.path,
                where=reference.where,
                message=f"the path `{reference.written}` is written with {word}",
                why=why,
                remedy=f"write `{right}`",
                kind=reference.kind,
                name=reference.name,
                mend=Respell(reference.path, reference.where, reference.written, right),
            )


@check(
    code="matches-nothing",
    title="A name built at run time has a fixed part that fits nothing",
    severity=Severity.WARNING,
    why="whatever the game adds to the fixed part, no such name is defined",
    remedy="correct the fixed part, or define the names that it should lead to",
)
def matches_nothing(case: Case) -> Iterable[Draft]:
    for resolution in case.resolutions:
        reference = resolution.reference
        if resolution.outcome is not Outcome.OPEN or not reference.pattern or reference.kind in case.index.unknowable:
            continue
        fixed = reference.name.replace("*", "")
        if fixed and not case.index.matching(reference.kind, reference.name):
            label = case.kind(reference.kind).label
            yield _draft(case, resolution, f"no {label} fits `{reference.name}`, which is built at run time")
