"""hookset editor"""

from __future__ import annotations

import click

from hookset.cli.run import Run, pass_run
from hookset.model import CouldNotError

__all__ = ["command"]


@click.command("editor", short_help="Serve an editor: findings as you type, definitions, names to choose from.")
@pass_run
def command(run: Run) -> None:
    """Speak the Language Server Protocol over standard input and output, for an editor that starts this command:
    findings while a file is typed, go to definition, find references, what a name is, names that could be written, an
    outline, and what to write instead. docs/editors.md says how editors are told.

    \b
    Example, as an editor starts it:
        hookset editor
    """
    try:
        from hookset.editor.server import serve
    except ImportError as error:
        raise CouldNotError(
            "package-missing",
            "the package that speaks with editors is not installed",
            why="it is needed by this command only",
            remedy="install it into the same environment: pip install 'hookset[editor]'",
        ) from error
    serve(run.cache, run.root_cache)
