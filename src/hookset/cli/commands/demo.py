"""hookset demo"""

from __future__ import annotations

import contextlib
import io
from pathlib import Path

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.demo import FAULT, Step, lay_out, steps
from hookset.model import CouldNotError
from hookset.reports.text.demos import farewell_text, mended_text, opening_text, step_text

__all__ = ["command"]


@click.command("demo", short_help="Lay out a demo map and its packs, and play the whole journey.")
@click.argument("folder", required=False, default="hookset-demo", type=click.Path(path_type=Path))
@click.option("--files", "only_files", is_flag=True, help="Lay the files out and play nothing.")
@json_option
@pass_run
def command(run: Run, folder: Path, only_files: bool, as_json: bool) -> None:
    """Lay out the demo map Brackwater and its packs in FOLDER (default: hookset-demo), and play the whole journey:
    find a fault, mend it, look into a pack, set it in, build the map and try it.

    The folder stays, to go on with; it has ten packs, three more that came with only notes, and six further
    maps.

    \b
    Example:
        hookset demo
    """
    lay_out(folder)
    root = folder / "brackwater"
    if only_files:
        if as_json:
            run.show_json("demo", True, {"folder": str(folder), "steps": []})
        else:
            run.print(f"The demo's maps and packs are in {folder}. Begin with: cd {root}; hookset start")
        return
    _rewrite(root, FAULT.right, FAULT.wrong)
    if not as_json:
        run.print(opening_text(folder))
    played = []
    for number, step in enumerate(steps(), 1):
        if not as_json:
            run.print(step_text(number, step))
        if step.command:
            code = _played(run, root, step, quiet=as_json)
            played.append({"command": " ".join(("hookset", *step.command)), "exit": code})
        else:
            _rewrite(root, FAULT.wrong, FAULT.right)
            if not as_json:
                run.print(mended_text(FAULT))
    if as_json:
        run.show_json("demo", True, {"folder": str(folder), "steps": played})
    else:
        run.print(farewell_text(root))


def _rewrite(root: Path, old: str, new: str) -> None:
    file = root / FAULT.path
    file.write_bytes(file.read_bytes().replace(old.encode(), new.encode()))


def _played(run: Run, root: Path, step: Step, quiet: bool) -> int:
    """The command as a user would run it, but for being started: half of what a short command takes. Another exit code
    than the step's own ends the demo."""
    with contextlib.chdir(root), contextlib.redirect_stdout(io.StringIO()) if quiet else contextlib.nullcontext():
        code = run.program(list(step.command))
    if code != step.expect:
        raise CouldNotError(
            "program-failed",
            f"the demo's step `hookset {' '.join(step.command)}` ended with exit code {code}, not {step.expect}",
            where=str(root),
            remedy="run that command in this folder to see why",
        )
    return code
