"""Going through learned rules at a terminal: which are right, which are not, and what their kinds are called."""

from __future__ import annotations

import sys

import click
from msgspec import Struct
from msgspec.structs import replace
from rich.text import Text

from hookset.cli.kind_names import kind_name
from hookset.cli.run import Run
from hookset.learning import Guess, Learned
from hookset.model import WrongUseError
from hookset.reports.text.learned import card_text
from hookset.reports.text.style import plural, stacked

__all__ = ["confirmed_by_hand", "need_terminal"]


class _Answers(Struct, frozen=True):
    """What somebody said so far."""

    right: frozenset[int] = frozenset()
    wrong: frozenset[int] = frozenset()
    names: tuple[tuple[str, str], ...] = ()
    """(what a kind is called, what it is to be called)"""


def need_terminal() -> None:
    """Raises WrongUseError where nobody can answer."""
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise WrongUseError(
            "no-terminal",
            "--ask asks at a terminal, and there is none",
            remedy="say it with --confirm NUMBER, --drop NUMBER and --call KIND=NAME",
        )


def confirmed_by_hand(run: Run, found: Learned) -> Learned:
    """The rules as somebody wants them: those that are sure in one go, the others one by one."""
    sure = [number for number, guess in enumerate(found.guesses, 1) if guess.band == "sure"]
    answers = _Answers()
    numbers = [number for number in range(1, len(found.guesses) + 1) if number not in sure]
    if sure:
        for number in sure:
            run.print(stacked(*card_text(found, number, found.guesses[number - 1])))
        said = _asked(run, f"{plural(len(sure), 'rule')} that are sure", "[y]es, all of them  [o]ne by one", "y")
        numbers = numbers if said == "y" else [*sure, *numbers]
    for place, number in enumerate(numbers, 1):
        guess = _named(found, answers).guesses[number - 1]
        run.print(stacked(*card_text(_named(found, answers), number, guess)))
        said, answers = _one(run, found, answers, number, f"{place} of {len(numbers)}")
        if said == "r":
            break
    return _named(found.confirmed(answers.right), answers).without(answers.wrong)


def _one(run: Run, found: Learned, answers: _Answers, number: int, title: str) -> tuple[str, _Answers]:
    """What becomes of a rule."""
    guess = found.guesses[number - 1]
    ways = "[y]es, it is right  [m]aybe: it warns  [n]o  [c]all its kind otherwise  [r]est as it is"
    while True:
        said = _asked(run, title, ways, "y" if guess.band == "sure" else "m")
        if said == "c":
            answers = _called(run, found, answers, guess)
            continue
        if said in ("y", "m", "n", "r"):
            right, wrong = answers.right - {number}, answers.wrong - {number}
            answers = replace(
                answers,
                right=right | {number} if said == "y" else right,
                wrong=wrong | {number} if said == "n" else wrong,
            )
            return said, answers


def _called(run: Run, found: Learned, answers: _Answers, guess: Guess) -> _Answers:
    """Another name for the kind of a rule."""
    now, renamed = found.kind_of[guess], dict(answers.names)
    if now not in {kind.name for kind in found.kinds if not kind.known}:
        run.print(Text(f"{now} is not a kind that was learned, and stays called so", style="warning"))
        return answers
    taken = [*(renamed.get(kind.name, kind.name) for kind in found.kinds if kind.name != now), *found.kinds_at_hand]
    said = click.prompt(f"what one of {now} is called", default=renamed.get(now, now))
    try:
        renamed[now] = kind_name(said, taken)
    except WrongUseError as error:
        run.print(Text(f"{error.what}: {error.remedy}", style="warning"))
    return replace(answers, names=tuple(renamed.items()))


def _named(found: Learned, answers: _Answers) -> Learned:
    return found.called(dict(answers.names))


def _asked(run: Run, title: str, ways: str, default: str) -> str:
    run.print(Text(f"{title}: {ways}", style="dim"))
    return str(click.prompt("", prompt_suffix="> ", default=default)).strip().lower()[:1]
