"""The words between the steps of the demo."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.rule import Rule
from rich.text import Text

from hookset.reports.text.style import blank, heading, section, stacked

if TYPE_CHECKING:
    from pathlib import Path

    from rich.console import RenderableType

    from hookset.demo import Fault, Step

__all__ = ["farewell_text", "mended_text", "opening_text", "step_text"]


def opening_text(folder: Path) -> RenderableType:
    return stacked(
        heading("Brackwater, a tidal harbour town with a canal"),
        Text(
            f"A map project and two packs are laid out in {folder}. The commands below run in {folder / 'brackwater'}."
        ),
    )


def step_text(number: int, step: Step) -> RenderableType:
    command = (
        Text("$ ", style="good").append(f"hookset {' '.join(step.command)}", style="title") if step.command else None
    )
    return stacked(blank(), Rule(f"{number}", style="dim", align="left"), Text(step.words), command, blank())


def mended_text(fault: Fault) -> RenderableType:
    text = Text(f"{fault.path}\n", style="title")
    text.append(f"-{fault.wrong}\n", style="removed")
    text.append(f"+{fault.right}", style="added")
    return text


def farewell_text(root: Path) -> RenderableType:
    return stacked(
        blank(),
        Rule(style="dim"),
        Text("That was the journey. Go on with it:"),
        section("go on", Text(f"cd {root}\nhookset undo --preview\nhookset --help", style="name")),
    )
