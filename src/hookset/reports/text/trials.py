"""What the game said when it loaded and ran the map."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, stacked
from hookset.reports.trial import TrialLine

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from rich.console import RenderableType

__all__ = ["trial_text"]


def trial_text(archive: str, lines: Sequence[TrialLine]) -> RenderableType:
    """By what it is about: loaded, tied, opened, happened; errors last, where the eye ends up."""
    of = _Grouped(lines)
    errors = of["error"]
    parts: list[RenderableType | None] = [heading(archive, "in the stand-in game"), blank()]
    other = bool(of["game"]) and not any(line.side for line in of["script"])
    if other:
        # Games of one side, or without any scripts.
        parts.append(section("scripts", _names(line.name for line in of["script"])))
    for side in () if other else ("server", "client"):
        scripts = dict.fromkeys(line.name for line in of["script"] if line.side == side)
        parts.append(section(side, Text("\n".join(scripts) or "no scripts", style="" if scripts else "error")))
    if tied := dict.fromkeys(of["tied"]):
        rows = [(Text(line.name, style="name"), Text(f"{line.to} on the {line.side}")) for line in tied]
        parts.append(section("tied", columns(rows, indent=0)))
    parts.append(section("sounds", _names(line.name for line in of["sound"])))
    parts.append(section("pictures", _names(line.name for line in of["texture"])))
    happened = {
        "fired": of.texts_with_count("fired"),
        "worked": of.texts_with_count("worked"),
        "moved": of.texts_with_count("moved"),
        "played": [_times(name, count) for name, count in Counter(line.name for line in of["played"]).items()],
        "said": of.texts_with_count("said"),
    }
    parts += [section(word, _names(told)) for word, told in happened.items() if told]
    if landed := of.texts("landed"):
        parts.append(section("landed", _names(landed)))
    if heard := of.texts_with_count("heard"):
        parts.append(section("heard", _names(heard)))
    if placed := of.texts("placed"):
        parts.append(section("placed", Text(plural(len(placed), "thing"), style="dim")))
    if not any(happened.values()) and not of["game"]:
        parts.append(section("happened", Text("nothing: no object has a callback, and no script did anything")))
    parts.append(blank())
    if errors:
        rows2 = [
            (Text(f"{e.file}:{e.line}" if e.line else e.file or "map", style="title"), Text(e.text)) for e in errors
        ]
        parts += [Text(plural(len(errors), "error"), style="error"), columns(rows2)]
    else:
        parts.append(Text("No errors: everything that was asked for was there.", style="good"))
    return stacked(*parts)


class _Grouped(dict[str, list[TrialLine]]):
    def __init__(self, lines: Sequence[TrialLine]) -> None:
        super().__init__()
        for line in lines:
            self.setdefault(line.what, []).append(line)

    def __missing__(self, _: str) -> list[TrialLine]:
        return []

    def texts(self, what: str) -> list[str]:
        return list(dict.fromkeys(line.text for line in self[what]))

    def texts_with_count(self, what: str) -> list[str]:
        return [_times(text, count) for text, count in Counter(line.text for line in self[what]).items()]


def _times(text: str, count: int) -> str:
    return f"{text} ({count}×)" if count > 1 else text


def _names(names: Iterable[str]) -> Text:
    return Text(", ".join(dict.fromkeys(names)) or "none", style="dim")
