"""Options by which a builder decides beforehand what a change would otherwise ask or stop at."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, TypeVar

import click
import msgspec
from msgspec import Struct

from hookset.config.sheets import read_sheet, typed
from hookset.model import WrongUseError
from hookset.planning import Answers, Choices
from hookset.planning.answers import answers_in
from hookset.planning.choices import SavedAnswers
from hookset.project import open_project, read_ledger
from hookset.trees import read_regular

__all__ = ["by_hand_options", "choices_of", "choosing_options"]

F = TypeVar("F", bound=Callable[..., Any])

_OPTIONS = (
    click.option("--part", "parts", multiple=True, metavar="NAME", help="Take this part of a pack and what it needs."),
    click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="The value of a setting."),
    click.option(
        "--claim", "claims", multiple=True, metavar="KIND=VALUE", help="Which of the free values it is to have."
    ),
    click.option(
        "--blank", "blanks", multiple=True, metavar="NAME=FILE", help="What fills a blank: a file, or a text."
    ),
    click.option(
        "--word", "words", multiple=True, metavar="KIND:WORD=OWN", help="The map's own word for one of a pack's."
    ),
    click.option("--call", "renamed", multiple=True, metavar="KIND:NAME=NEW", help="Rename something of a pack."),
    click.option("--move", "moved", multiple=True, metavar="FOLDER=FOLDER", help="Put a folder of a pack elsewhere."),
    click.option(
        "--at",
        "placed",
        multiple=True,
        metavar="PLACE=X,Y,Z",
        help="Where a thing of a pack goes; @DEGREES turns it.",
    ),
    click.option("--keep-mine", "bytes_", flag_value="mine", help="Where a file is there with other content: keep it."),
    click.option("--take-theirs", "bytes_", flag_value="theirs", help="The same: take the pack's instead."),
    click.option("--keep-both", "bytes_", flag_value="both", help="The same: have both, the pack's under a new name."),
    click.option("--beside", "beside", multiple=True, metavar="PATH=NEW", help="The same for one file: its new name."),
    click.option("--control-files", is_flag=True, help="Have files that other programs obey: hidden ones, Makefiles …"),
    click.option("--both-jobs", is_flag=True, help="Have packs that say they do the same job."),
    click.option("--like", type=click.Path(path_type=Path), help="Decide as in this other map."),
    click.option(
        "--answers", type=click.Path(path_type=Path), help="Decide as this file says; `list --answers` writes it."
    ),
)
_BY_HAND = (
    click.option("--keep-changed", "by_hand", flag_value="keep", help="What you changed since it was set: keep it."),
    click.option("--drop-changed", "by_hand", flag_value="drop", help="The same: let it go with the rest."),
)


def choosing_options(function: F) -> F:
    """All options about what is installed, given to the command as `chosen`, by name."""
    return _together(function, _OPTIONS)


def by_hand_options(function: F) -> F:
    """What to do with what the builder has changed."""
    return _together(function, _BY_HAND)


def _together(function: F, options: Sequence[Callable[[F], F]]) -> F:
    for option in reversed(options):
        function = option(function)
    return function


class Given(Struct, frozen=True, kw_only=True):
    """What the options say, by their names."""

    parts: Sequence[str] = ()
    settings: Sequence[str] = ()
    claims: Sequence[str] = ()
    blanks: Sequence[str] = ()
    words: Sequence[str] = ()
    renamed: Sequence[str] = ()
    moved: Sequence[str] = ()
    placed: Sequence[str] = ()
    beside: Sequence[str] = ()
    bytes_: str | None = None
    both_jobs: bool = False
    control_files: bool = False
    by_hand: str | None = None
    like: Path | None = None
    answers: Path | None = None


def choices_of(names: Sequence[str], **chosen: Any) -> Choices:
    """What the options say about packs of these names; `chosen` are the fields of Given. Raises WrongUseError for one
    that cannot be understood."""
    said = Given(**chosen)
    base = _saved(said.like, said.answers)
    given: dict[str, dict[str, Any]] = {name: {} for name in names}
    for option, field, entries in (
        ("--set", "settings", said.settings),
        ("--claim", "claims", said.claims),
        ("--blank", "blanks", said.blanks),
        ("--call", "renamed", said.renamed),
        ("--move", "moved", said.moved),
        ("--beside", "files", said.beside),
    ):
        for entry in entries:
            key, value = _pair(option, entry)
            for name in _meant(names, key):
                given[name].setdefault(field, {})[key.removeprefix(f"{name}.")] = value
    for entry in said.placed:
        key, value = _pair("--at", entry)
        for name in _meant(names, key):
            at = given[name].setdefault("placed", {})
            place = key.removeprefix(f"{name}.")
            at[place] = f"{at[place]} {value}" if place in at else value
    packs = dict(base.packs)
    for name in names:
        one = packs.get(name, Answers())
        fields = {field: {**getattr(one, field), **values} for field, values in given[name].items()}
        packs[name] = msgspec.structs.replace(one, **fields, **({"parts": tuple(said.parts)} if said.parts else {}))
    known = {kind: dict(one) for kind, one in base.words.items()}
    for entry in said.words:
        key, value = _pair("--word", entry)
        kind, colon, word = key.partition(":")
        if not colon:
            raise WrongUseError(
                "incomplete-option", f"--word {entry} does not say of which kind", remedy="write --word KIND:WORD=OWN"
            )
        known.setdefault(kind, {})[word] = value
    return msgspec.structs.replace(
        base,
        other_bytes=said.bytes_ or base.other_bytes,
        by_hand=said.by_hand or base.by_hand,
        both_jobs=said.both_jobs or base.both_jobs,
        control_files=said.control_files,
        packs=packs,
        words=known,
    )


def _pair(option: str, entry: str) -> tuple[str, str]:
    key, equals, value = entry.partition("=")
    if not equals or not key:
        raise WrongUseError("incomplete-option", f"{option} {entry} says no value", remedy=f"write {option} NAME=VALUE")
    return key.strip(), value.strip()


def _meant(names: Sequence[str], key: str) -> Sequence[str]:
    """The packs that an option is about: the one it names in front of a dot, or the only one."""
    named = [name for name in names if key.startswith(f"{name}.")]
    if named:
        return named
    if len(names) > 1:
        raise WrongUseError(
            "incomplete-option",
            f"`{key}` does not say of which pack",
            remedy=f"write the pack's name in front of it: {names[0]}.{key}=…",
        )
    return names


def _saved(like: Path | None, answers: Path | None) -> Choices:
    if like is not None and answers is not None:
        raise WrongUseError(
            "conflicting-options", "--like and --answers both say how to decide", remedy="give one of them"
        )
    if like is not None:
        return answers_in(read_ledger(open_project(like).root), open_project(like).root)
    if answers is None:
        return Choices()
    remedy = "`hookset list --answers FILE` writes one, which can be changed"
    sheet = read_sheet(read_regular(answers, 1 << 20, remedy=remedy), str(answers))
    saved = typed(sheet.data, SavedAnswers)
    if isinstance(saved, list):
        raise sheet.error(saved, remedy)
    return Choices(packs=saved.packs, words=saved.words)
