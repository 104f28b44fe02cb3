"""hookset recover"""

from __future__ import annotations

import click

from hookset.applying import Disk, Ending, Interrupted, Recovery, interrupted, locked, recover
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.reports.recoveries import interrupted_data, recovery_data
from hookset.reports.text.recoveries import interrupted_text, recovery_text

__all__ = ["command"]


@click.command("recover", short_help="Show an interrupted change, and end it as you say.")
@click.option("--finish", is_flag=True, help="Write the rest of it.")
@click.option("--take-back", is_flag=True, help="Put back what was there before it.")
@click.option("--give-up", is_flag=True, help="Leave every file as it is; what the change had in hand is kept aside.")
@json_option
@pass_run
def command(run: Run, finish: bool, take_back: bool, give_up: bool, as_json: bool) -> int:
    """A change that was killed half way is ended by the next command by itself, if you began it on this machine. This
    command is for the others: a change in a map that somebody else has passed on, or one that cannot be ended since a
    folder cannot be written to. Files that somebody has edited since are left as they are.

    Without an option it only shows what there is. Exit code 1 when there is one.

    \b
    Example, in the demo's map:
        hookset recover
    """
    if finish + take_back + give_up > 1:
        raise WrongUseError(
            "conflicting-options", "--finish, --take-back and --give-up exclude each other", remedy="give one of them"
        )
    root = run.root()
    ending = Ending.FINISH if finish else Ending.TAKE_BACK if take_back else Ending.GIVE_UP if give_up else None
    if ending is None:
        found = interrupted(root)
        _show(run, found, None, as_json)
        return 0 if found is None else 1
    with locked(root):
        ended = recover(root, Disk(), ending, asked=True)
    _show(run, None, ended, as_json)
    return 0


def _show(run: Run, found: Interrupted | None, ended: Recovery | None, as_json: bool) -> None:
    if as_json:
        run.show_json("recover", found is None, {**interrupted_data(found), **recovery_data(ended)})
    elif found is not None:
        run.print(interrupted_text(found))
    else:
        run.print(recovery_text(ended) if ended is not None else "No change was interrupted in this map.")
