"""A pack that was derived: what became of what, what was left alone, what is left to do."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.text import Text

from hookset.authoring.derive import words_of
from hookset.reports.text.style import blank, columns, heading, marked, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.authoring.derive import Derived
    from hookset.packs import Pack

__all__ = ["derived_data", "derived_text"]

_MANY = 10


def derived_text(made: Derived, pack: Pack) -> RenderableType:
    rows = [
        (
            Text(one.form.old, style="name"),
            Text("→"),
            Text(one.form.new, style="name"),
            Text(_counted(one.places, one.in_names, len(one.files)), style="dim"),
        )
        for one in made.table
    ]
    parts: list[RenderableType | None] = [
        heading(made.name, f"derived from {pack.name}{f' {pack.sheet.pack.version}' if pack.sheet else ''}"),
        blank(),
        section("becomes", columns(rows, indent=0) if rows else Text("nothing: its name is nowhere in it")),
    ]
    if made.left_alone:
        words = ", ".join(f"{word} ({count})" for word, count in made.left_alone)
        parts.append(section("left alone", Text(f"{words}: other words", style="dim")))
    if made.shared:
        what = [marked(f"{kind} `{name}` is the template's, too") for kind, name in made.shared[:_MANY]]
        remedies = dict.fromkeys(_remedy(made, pack, name) for _, name in made.shared)
        parts.append(section("shared", stacked(*what, marked(f"rename it as well: `{' '.join(remedies)}`"))))
    if made.still:
        parts.append(section("still", Text("\n".join(made.still[:_MANY]), style="warning")))
    if made.claims:
        parts.append(section("claims", Text(f"a free {', a free '.join(made.claims)}, when it is set into a map")))
    if made.blanks:
        parts.append(section("blanks", Text(f"yours to fill: {', '.join(made.blanks)}")))
    return stacked(*parts)


def _counted(places: int, in_names: int, files: int) -> str:
    told = [f"{plural(places, 'place')} in {plural(files, 'file')}"] if places else []
    told += [f"{plural(in_names, 'file name')}"] if in_names else []
    return ", ".join(told)


def _remedy(made: Derived, pack: Pack, name: str) -> str:
    """The option that would rename it: by the word of the template's name that is in it, or as a whole."""
    old, new = words_of(pack.name), words_of(made.name)
    for number, word in enumerate(old):
        if word in words_of(name):
            return f"--also {word}={new[min(number, len(new) - 1)]}"
    stem = name.rpartition("/")[2].partition(".")[0]
    return f"--also {stem}={'_'.join(new)}_{stem}"


def derived_data(made: Derived, written: Path | None) -> dict[str, Any]:
    return {
        "name": made.name,
        "written": str(written) if written is not None else None,
        "files": list(made.files),
        "renamed": [
            {
                "old": one.form.old,
                "new": one.form.new,
                "places": one.places,
                "file_names": one.in_names,
                "files": list(one.files),
            }
            for one in made.table
        ],
        "left_alone": [{"word": word, "often": count} for word, count in made.left_alone],
        "shared": [{"kind": kind, "name": name} for kind, name in made.shared],
        "still": list(made.still),
        "claims": list(made.claims),
        "blanks": list(made.blanks),
    }
