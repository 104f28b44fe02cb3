"""`hookset`: finds the command, runs it, and turns what goes wrong into words and an exit code."""

from __future__ import annotations

import gc
import importlib
import os
import sys
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import click

from hookset import __version__
from hookset.cli.exits import Exit, exit_of
from hookset.cli.groups import SuggestingGroup

if TYPE_CHECKING:
    from hookset.cli.run import Run
    from hookset.model import HooksetError

__all__ = ["cli", "main", "run"]

_LONGEST_NAME = 200
_GROUPS = ("layout", "shelf", "stock")
"""Commands of which the next word is a part."""
_ORDER = (
    "demo", "start", "inspect", "draft", "install", "check", "watch", "trace", "status", "tune", "upgrade", "remove",
    "undo", "recover", "where", "draw", "place", "move", "take", "swap",
    "rename", "list", "credits", "build", "deliver", "look-for", "trial", "log", "derive", "lift",
    "shelf", "layout", "stock", "editor",
)  # fmt: skip


class _Commands(SuggestingGroup):
    """Commands by module name, imported when they are run: each brings in what it needs and nothing else."""

    def list_commands(self, ctx: click.Context) -> list[str]:  # noqa: ARG002
        # Imported here: what asks for the version alone needs neither.
        import pkgutil

        import hookset.cli.commands as package

        names = [module.name.replace("_", "-") for module in pkgutil.iter_modules(package.__path__)]
        return sorted(names, key=lambda name: (_ORDER.index(name) if name in _ORDER else len(_ORDER), name))

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in self.list_commands(ctx):
            return None
        command: click.Command = importlib.import_module(f"hookset.cli.commands.{cmd_name.replace('-', '_')}").command
        return command


@click.group(
    cls=_Commands,
    context_settings={"help_option_names": ["-h", "--help"]},
    epilog="Begin with `hookset demo`. Exit codes: 0 done and clean, 1 findings or refused, 2 wrong use, 3 could not.",
)
@click.option(
    "--map",
    "folder",
    type=click.Path(path_type=Path),
    default=Path(),
    help="The map's folder, if it is not this one or one above it.",
)
@click.option("-v", "--verbose", is_flag=True, help="Say what is being done, and keep it in a log file.")
@click.option("--no-cache", is_flag=True, help="Read every file again, and remember nothing.")
@click.version_option(__version__, prog_name="hookset", message="%(prog)s %(version)s")
@click.pass_context
def cli(ctx: click.Context, folder: Path, verbose: bool, no_cache: bool) -> None:
    """Sets scripted prefabs into a map project, and checks that every reference is there before the map is built."""
    from hookset.cli.logfile import Notes
    from hookset.cli.run import Run

    runs: list[Run] = ctx.obj
    runs.append(Run(folder, Notes(verbose), main, not no_cache))
    ctx.obj = runs[0]


def main(arguments: list[str]) -> int:
    """Run one command line; gives the exit code. Nothing gets out of here but that."""
    try:
        return _ran(arguments)
    except BrokenPipeError:
        # Whoever read our output has gone: there is nobody to tell.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return Exit.COULD_NOT


def _ran(arguments: list[str]) -> int:
    runs: list[Run] = []
    # Documents of a large map are hundreds of thousands of objects that live as long as the run: to look through all of
    # them again and again for circles takes a tenth of the time.
    gc.set_threshold(200_000, 50, 50)
    try:
        code = cli.main(arguments, prog_name="hookset", standalone_mode=False, obj=runs)
        return code if isinstance(code, int) else Exit.CLEAN
    except click.exceptions.Exit as leaving:
        return leaving.exit_code
    except click.ClickException as wrong:
        return _usage(wrong, arguments)
    except (click.Abort, KeyboardInterrupt):
        click.echo("stopped", err=True)
        return Exit.COULD_NOT
    except BrokenPipeError:
        raise
    except (OSError, MemoryError) as error:
        return _told(_of_the_machine(error), arguments, runs)
    except Exception as error:  # noqa: BLE001 - the one place where errors end: ours told as ours, bugs as bugs
        return _told(error, arguments, runs)


def _usage(wrong: click.ClickException, arguments: list[str]) -> int:
    """What Click says of a command line that is none."""
    if "--json" not in arguments:
        wrong.show()
        return Exit.WRONG_USE
    from hookset.model import WrongUseError

    path = wrong.ctx.command_path if isinstance(wrong, click.UsageError) and wrong.ctx else "hookset"
    error = WrongUseError("wrong-usage", wrong.format_message(), remedy=f"see `{path} --help`")
    _show_error(error, "error", arguments)
    return Exit.WRONG_USE


def _of_the_machine(error: OSError | MemoryError) -> HooksetError:
    """What no part of the program foresaw of the disk, or of a name that the system does not take."""
    from hookset.model import CouldNotError

    if isinstance(error, MemoryError):
        return CouldNotError(
            "out-of-memory",
            "there is not enough memory for this",
            why="nothing was changed",
            remedy="end other programs; smaller maps and packs need less",
        )
    name = os.fsdecode(error.filename) if isinstance(error.filename, str | bytes) else ""
    shown = name if len(name) <= _LONGEST_NAME else f"{name[:_LONGEST_NAME]}…"
    remedy = "check the name, its folder's permissions and the room on the disk"
    return CouldNotError(
        "system-refused", f"{error.strerror or 'the system does not let us'}", where=shown, remedy=remedy
    )


def _told(error: Exception, arguments: list[str], runs: list[Run]) -> int:
    # Imported here: a run without an error need not know how errors are told.
    from hookset.model import HooksetError
    from hookset.trees import SlowPatternError

    if isinstance(error, SlowPatternError) and runs and not error.where:
        error.place(runs[0].place_of(error.source))
    if not isinstance(error, HooksetError):
        return _show_bug(error, arguments)
    code = exit_of(error)
    _show_error(error, "refused" if code == Exit.FINDINGS else "error", arguments)
    return code


def _show_error(error: HooksetError, word: str, arguments: list[str]) -> None:
    from hookset.reports.data import enveloped, error_data
    from hookset.reports.text.errors import error_text
    from hookset.reports.text.style import show

    if "--json" in arguments:
        click.echo(enveloped(_command_in(arguments), False, error_data(error)))
    else:
        show(error_text(error, word), sys.stderr)


def _command_in(arguments: list[str]) -> str:
    """The command of a command line, as far as it has one."""
    words = [word for before, word in pairwise(["", *arguments]) if before != "--map" and not word.startswith("-")]
    return " ".join(words[: 2 if words[:1] and words[0] in _GROUPS else 1])


def _show_bug(bug: Exception, arguments: list[str]) -> int:
    from hookset.cli.logfile import write_bug
    from hookset.model import CouldNotError
    from hookset.model.visible import visible

    file = write_bug(bug, arguments)
    click.echo(visible(f"This is a bug in Hook Set, not a fault of yours: {type(bug).__name__}: {bug}"), err=True)
    click.echo("Nothing is half done: a change that had begun is ended by the next command.", err=True)
    if "--json" in arguments:
        _show_error(
            CouldNotError("bug", f"{type(bug).__name__}: {bug}", remedy="send us what is in the file that is named"),
            "error",
            arguments,
        )
    if file is not None:
        click.echo(f"What we need to mend it is in {file}", err=True)
    return Exit.BUG


def run() -> NoReturn:
    """The program."""
    for stream in (sys.stdout, sys.stderr):
        # A name in a map may hold anything; a console that cannot show it must not stop the work.
        stream.reconfigure(errors="backslashreplace")  # type: ignore[union-attr]
    # A run is short and makes little that goes in circles; looking for it over and over takes a tenth of a large check.
    gc.set_threshold(200_000, 20, 20)
    code = main(sys.argv[1:])
    try:
        for stream in (sys.stdout, sys.stderr):
            # Who speaks with an editor closes what it speaks through.
            if not stream.closed:
                stream.flush()
    except OSError:
        # Whoever read our output has gone, or its disk is full; all else is written by now.
        code = code or Exit.COULD_NOT
    # Not sys.exit: taking the names of a large map apart one by one takes another tenth of a check.
    os._exit(code)
