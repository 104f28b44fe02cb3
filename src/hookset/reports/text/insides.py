"""What a pack is made of: sorts of files, notes, licence, what to beware of."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, sized, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.authoring.draft import Inside
    from hookset.packs import Pack

__all__ = ["about_text", "made_of_text", "notes_section", "notes_text", "warnings_text"]

_NOTES = 5
"""Lines of notes that are shown unless all are asked for."""


def about_text(pack: Pack, look: Inside) -> Text:
    about = f"{pack.source.name}, {plural(look.files, 'file')}, {sized(look.size)}, sha256 {pack.sha256[:12]}…"
    return Text(about, style="dim")


def made_of_text(look: Inside) -> RenderableType:
    rows = []
    for word, count, forms in look.sorts:
        named = [form for form in forms if form]
        rows.append((Text(f"{count}"), Text(word), Text(", ".join(named), style="dim")))
    return columns(rows, indent=0)


def warnings_text(look: Inside) -> RenderableType:
    return Text("\n".join(look.warnings), style="warning")


def notes_section(look: Inside) -> RenderableType | None:
    """Where the notes are, and how they begin."""
    if not look.notes and not look.licences:
        return None
    rows = []
    for one in look.notes:
        first = [line.text.strip() for line in one.lines if line.text.strip()][:_NOTES]
        rows.append((Text(one.path, style="name"), Text("\n".join(first), style="dim")))
    for path, text in look.licences:
        rows.append((Text(path, style="name"), Text("\n".join(text.splitlines()[:2]), style="dim")))
    return section("notes", columns(rows, indent=0))


def notes_text(look: Inside) -> RenderableType:
    """All of the notes, with their lines numbered as messages cite them, and the licences."""
    parts: list[RenderableType | None] = []
    for one in look.notes:
        parts += [heading(one.path), blank()]
        rows = [
            (Text(f"{line.number}", style="dim"), Text(line.text, style="name" if line.code else ""))
            for line in one.lines
        ]
        parts += [columns(rows, indent=0), blank()]
        if one.cut:
            parts.append(Text("It goes on; notes are not so long.", style="warning"))
    for path, text in look.licences:
        parts += [heading(path), blank(), Text(text), blank()]
    if not parts:
        return Text("It came without notes and without a licence.", style="dim")
    return stacked(*parts)
