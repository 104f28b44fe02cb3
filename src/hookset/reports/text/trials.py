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
    other = bool(of["game"]) and not any(text.startswith(("server: ", "client: ")) for text in of.texts("script"))
    if other:
        # Games of one side, or without any scripts.
        parts.append(section("scripts", _names(of.texts("script"))))
    for side in () if other else ("server", "client"):
        scripts = [text.partition(": ")[2] for text in of.texts("script") if text.startswith(f"{side}: ")]
        parts.append(section(side, Text("\n".join(scripts) or "no scripts", style="" if scripts else "error")))
    tied = [text.partition(" to ") for text in of.texts("tied")]
    if tied:
        rows = [(Text(key, style="name"), Text(call)) for key, _, call in tied]
        parts.append(section("tied", columns(rows, indent=0)))
    opened = [line.text for line in of["sound"] if not line.file]
    parts.append(section("sounds", _names(text.partition(": ")[0] for text in opened)))
    parts.append(section("pictures", _names(text.partition(": ")[0] for text in of.texts("texture"))))
    happened = {
        "fired": of.texts_with_count("fired"),
        "moved": of.texts_with_count("moved"),
        "played": [_times(text.partition(" plays ")[2], n) for text, n in of.counted("sound", told_by_script=True)],
        "said": of.texts_with_count("said"),
    }
    parts += [section(word, _names(told)) for word, told in happened.items() if told]
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

    def counted(self, what: str, told_by_script: bool = False) -> list[tuple[str, int]]:
        lines = [line for line in self[what] if line.file or not told_by_script]
        return list(Counter(line.text for line in lines).items())

    def texts_with_count(self, what: str) -> list[str]:
        return [_times(text, count) for text, count in self.counted(what)]


def _times(text: str, count: int) -> str:
    return f"{text} ({count}×)" if count > 1 else text


def _names(names: Iterable[str]) -> Text:
    return Text(", ".join(dict.fromkeys(names)) or "none", style="dim")
