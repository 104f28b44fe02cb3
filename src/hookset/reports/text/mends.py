"""What a check has mended, or would."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.findings import findings_text, summary
from hookset.reports.text.plans import diffs_text
from hookset.reports.text.style import blank, columns, heading, marked, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import RenderableType

    from hookset.planning import FileDiff, MendPlan

__all__ = ["mend_text"]


def mend_text(title: str, plan: MendPlan, diffs: Sequence[FileDiff], written: bool) -> RenderableType:
    """Each mend, the files as they become, and what is left to the builder."""
    done = "mended" if written else "to mend"
    parts: list[RenderableType | None] = [heading(title, "check --mend"), blank()]
    if not plan.mended:
        parts.append(Text("There is nothing that can be mended without a choice of yours."))
    else:
        rows = [(Text(str(one.spot), style="name"), marked(one.message)) for one in plan.mended]
        parts.append(section(done, columns(rows, indent=0)))
        shown = diffs_text(diffs)
        if shown is not None:
            shown.rstrip()
        parts += [blank(), shown]
    if plan.after.findings:
        left = f"{plural(len(plan.after.findings), 'finding')} left to you:"
        parts += [blank(), Text(left, style="title"), blank(), findings_text(plan.after.findings)]
    parts += [blank(), summary(plan.after.findings)]
    if plan.mended:
        hint = "`hookset undo` takes it back." if written else "Nothing was written: this was a preview."
        parts.append(marked(hint))
    return stacked(*parts)
