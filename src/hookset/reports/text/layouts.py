"""Layouts, and what they see."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from rich.console import RenderableType

    from hookset.config.layouts import Kind, Layout, ReadRule
    from hookset.symbols import Explained, LeftOut, SeenName

_NAMES = 500
"""Names of one file that are all shown, though not all of them are asked for."""
_EACH = 12
"""Names that are shown of each rule and kind where there are more."""
_WORDS = 12
"""Words that a game knows of a kind that are shown."""
_FEW = 5
"""Names that a key of a rule leaves out, of each."""

__all__ = ["explained_text", "layout_text", "layouts_text"]


def layouts_text(layouts: Iterable[Layout]) -> RenderableType:
    return columns([(Text(one.name, style="name"), Text(one.title)) for one in layouts], indent=0)


def layout_text(layout: Layout) -> RenderableType:
    """Kinds, rules and seats."""
    kinds = [
        (Text(name, style="name"), Text(kind.label), Text(_kind(kind), style="dim"))
        for name, kind in layout.kinds.items()
    ]
    rules = [
        (
            Text(f"{number}", style="dim"),
            Text(_files(rule), style="name"),
            Text(rule.format),
            Text(_rule(rule), style="dim"),
        )
        for number, rule in enumerate(layout.reads, 1)
    ]
    seats = [
        (Text(name, style="name"), Text(seat.file.pattern), Text(seat.title, style="dim"))
        for name, seat in layout.seats.items()
    ]
    roots = ", ".join(root.pattern for root in layout.roots) or "every file"
    return stacked(
        heading(layout.name, layout.title),
        blank(),
        section("kinds", columns(kinds, indent=0)),
        section("reads", columns(rules, indent=0)),
        section("loaded", Text(f"{roots}, and what they use")),
        section("must fit", Text("\n".join(fits))) if (fits := list(_fits(layout))) else None,
        section("seats", columns(seats, indent=0)),
    )


def _fits(layout: Layout) -> Iterator[str]:
    """What the layout asks for over and above every reference being met."""
    label = {name: kind.label for name, kind in layout.kinds.items()}
    yield from (f"{rule.title}: {rule.equal.source if rule.equal else 'the same everywhere'}" for rule in layout.agree)
    for count in layout.counts:
        least, most = (_bound(one) for one in (count.entry.least, count.entry.most))
        yield f"{label[count.entry.kind]}: at least {least}" + (f", at most {most}" if most else "")
    yield from (rule.entry.title for rule in layout.bounds)
    yield from (f"{rule.entry.title}: in order" for rule in layout.orders)
    yield from (f"{rule.files.pattern}: called {rule.name.source}" for rule in layout.called)
    yield from (f"{rule.entry.title}: the same for each key" for rule in layout.paired)
    for series in layout.series:
        owned = f", owned by {', '.join(series.entry.owners)}" if series.entry.owners else ""
        yield f"{label[series.entry.kind]}: numbered without a gap{owned}"
    yield from (f"{label[mirror.kind]}: as in the base game" for mirror in layout.mirrors)
    yield from (ground.entry.title for ground in layout.grounds)


def _bound(bound: object) -> str:
    """A bound as it is shown; empty where there is none."""
    if bound is None:
        return ""
    file = getattr(bound, "file", None)
    return f"what {file} says" if file is not None else "one per player" if bound == "players" else str(bound)


def _known(words: Sequence[str]) -> str:
    """Some layouts have hundreds, which nobody reads here."""
    if len(words) <= _WORDS + 1:
        return f"the game knows {', '.join(words)}" if words else ""
    return f"the game knows {', '.join(words[:_WORDS])} and {len(words) - _WORDS} more"


def _kind(kind: Kind) -> str:
    entry = kind.entry
    words = [
        "a path" if entry.path else "",
        "single" if entry.unique else "",
        "per side" if entry.sided else "",
        f"once per {entry.each}" if entry.each else "",
        "counts where loaded" if entry.reached else "",
        "letter case does not count" if entry.case == "folded" else "",
        f"one of {len(entry.pool)} values" if entry.pool else "",
        _known(entry.vocabulary),
        "with / or \\" if entry.separators == "either" else "with \\" if entry.separators == "\\" else "",
        f"numbers from {entry.numbers.first}" if entry.numbers is not None else "",
    ]
    return ", ".join(word for word in words if word)


def _files(rule: ReadRule) -> str:
    return ", ".join(glob.pattern for glob in rule.files)


def _rule(rule: ReadRule) -> str:
    defines = ", ".join(dict.fromkeys(one.kind for one in rule.defines))
    refers = ", ".join(dict.fromkeys(one.kind for one in rule.refers))
    return "; ".join(
        words for words in (f"defines {defines}" if defines else "", f"refers to {refers}" if refers else "") if words
    )


def explained_text(explained: Explained, most: int | None) -> RenderableType:
    """Name by name, then what no rule saw: so many lines of it, or all."""
    parts: list[RenderableType | None] = [heading(explained.path), blank()]
    rules = [
        (Text(f"{number}", style="dim"), Text(_files(rule), style="name"), Text(f"as {rule.format}", style="dim"))
        for number, rule in explained.rules
    ]
    parts.append(
        section("rules", columns(rules, indent=0) if rules else Text("none matches this file", style="warning"))
    )
    for line, what in explained.problems:
        parts.append(section("problem", Text(f"{line}: {what}" if line else what, style="error")))
    if explained.seen:
        whole = most is None or len(explained.seen) <= _NAMES
        rows = [_seen(one) for one in explained.seen] if whole else list(_first_of_each(explained.seen))
        parts.append(section("sees", columns(rows, indent=0)))
        if not whole:
            parts.append(section("", Text("`--all` or `--json` shows all of them", style="dim")))
    if explained.left_out:
        rows = [_left_out(one, most is None) for one in explained.left_out]
        parts.append(section("left out", columns(rows, indent=0)))
    if explained.unseen:
        shown = [(Text(f"{number}", style="dim"), Text(text, style="dim")) for number, text in explained.unseen[:most]]
        parts.append(section("unseen", columns(shown, indent=0, clip=True)))
        if len(shown) < len(explained.unseen):
            more = plural(len(explained.unseen) - len(shown), "line")
            parts.append(section("", Text(f"… and {more} more: `--all` shows them", style="dim")))
    names = sum(one.verb not in ("judges", "places") for one in explained.seen)
    told = f"{plural(names, 'name')} seen; {plural(len(explained.unseen), 'line')} in which no rule saw any"
    return stacked(*parts, blank(), Text(told, style="dim"))


def _first_of_each(seen: Iterable[SeenName]) -> Iterator[tuple[Text, ...]]:
    """Of what each rule sees of a kind the first names, and how many more there are: in a large file, all that stands
    first would be of one rule."""
    sorts: dict[tuple[int, str, str], list[SeenName]] = {}
    for one in seen:
        sorts.setdefault((one.rule, one.verb, one.kind), []).append(one)
    for (rule, verb, kind), alike in sorts.items():
        yield from map(_seen, alike[:_EACH])
        if (more := len(alike) - _EACH) > 0:
            told = f"… and {more:,} more"
            style = "good" if verb == "defines" else ""
            yield (
                Text(),
                Text(verb, style=style),
                Text(kind),
                Text(told, style="dim"),
                Text(f"rule {rule}", style="dim"),
            )


def _left_out(one: LeftOut, whole: bool) -> tuple[Text, ...]:
    names = one.names if whole else one.names[:_FEW]
    more = f" and {len(one.names) - len(names)} more" if len(names) < len(one.names) else ""
    what = f"{one.verb} {one.kind}, by `{one.key}`"
    return Text(what), Text(", ".join(names) + more, style="name"), Text(f"rule {one.rule}", style="dim")


def _seen(one: SeenName) -> tuple[Text, ...]:
    place = f"{one.line}:{one.column}" if one.line else "path"
    tags = ", ".join(tag for tag in (one.side, one.variant, "built at run time" if one.pattern else "") if tag)
    return (
        Text(place, style="dim"),
        Text(one.verb, style="good" if one.verb == "defines" else ""),
        Text(one.kind),
        Text(one.name, style="name"),
        Text(f"{tags + '  ' if tags else ''}rule {one.rule}", style="dim"),
    )
