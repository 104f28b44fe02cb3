"""Texts of which one is set: "either … or …", "pick one of these", option A and option B, "never both"."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.found.seating import Seated, lines_of
from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.words import words
from hookset.packs.hooksheet import SettingEntry, WhenEntry

__all__ = ["Choice", "choices_in"]

_TOKEN = re.compile(r"[A-Za-z_]\w*|\d+(?:\.\d+)?")
_SHORT = 70
"""Characters of a line that only says for whom the next text is."""
_AHEAD, _BEHIND = 3, 2
"""Lines with words in front of texts, and behind them, that say that one is taken."""
_WORDS = 2
"""Of a line that says more than "or"."""
_NAMED = 3
"""Letters of a word by which a choice is called."""


class Choice(Struct, frozen=True):
    """A setting that chooses one of several texts."""

    name: str
    options: Mapping[str, tuple[Seated, ...]]
    """The entries for each; what the notes show first is the default."""
    why: Why
    says: str

    @property
    def setting(self) -> SettingEntry:
        """The row of the sheet."""
        names = tuple(self.options)
        return SettingEntry(name=self.name, type="text", default=names[0], choices=names, says=self.says)

    @property
    def doubt(self) -> str:
        """What the builder is asked."""
        first, *others = self.options
        return f"the notes leave the choice to you: {first} is taken, or {' or '.join(others)} by --set {self.name}=…"

    def when(self, entry: Seated) -> WhenEntry | None:
        """For which choice an entry is; None for one that is for all."""
        for option, entries in self.options.items():
            if any(one is entry for one in entries):
                return WhenEntry(setting=self.name, equals=option)
        return None


class _Said(Struct, frozen=True):
    """The lines of notes between and around entries."""

    notes: Notes
    entries: tuple[Seated, ...]

    def between(self, one: Seated, other: Seated) -> tuple[Line, ...]:
        """What is said behind an entry and in front of the next, in the same sentence or on lines of their own."""
        first, last = max(lines_of(one)), min(lines_of(other))
        text = "\n".join(line.text for line in self.notes.lines if first <= line.number <= last)
        if one.chunk.inline or other.chunk.inline:
            start = text.find(one.chunk.text) + len(one.chunk.text) if one.chunk.inline else text.find("\n") + 1
            end = text.find(other.chunk.text, start) if other.chunk.inline else text.rfind("\n")
            pieces = text[start : max(start, end)].split("\n")
            return tuple(Line(first + number, piece) for number, piece in enumerate(pieces) if _spoken(piece))
        return tuple(line for line in self.notes.lines if first < line.number < last and _spoken(line.text))

    def ahead(self, one: Seated) -> tuple[Line, ...]:
        """What is said in front of an entry, up to what is to be copied before."""
        first = min(lines_of(one))
        if one.chunk.inline:
            text = next(line.text for line in self.notes.lines if line.number == first)
            before = text.partition(one.chunk.text)[0]
            if _spoken(before):
                return (Line(first, before),)
        used = {number: other for other in self.entries for number in lines_of(other)}
        found: list[Line] = []
        for line in reversed([line for line in self.notes.lines if line.number < first]):
            if line.number in used:
                chunk = used[line.number].chunk
                behind = line.text.rpartition(chunk.text)[2] if chunk.inline else ""
                return (Line(line.number, behind), *found) if _spoken(behind) else tuple(found)
            if len(found) == _AHEAD:
                break
            if _spoken(line.text):
                found.insert(0, line)
        return tuple(found)

    def behind(self, one: Seated) -> tuple[Line, ...]:
        """What is said right behind an entry, before anything else is to be copied."""
        last = max(lines_of(one))
        later = [line for line in self.notes.lines if line.number > last and _spoken(line.text)]
        if one.chunk.inline:
            text = next(line.text for line in self.notes.lines if line.number == last)
            later.insert(0, Line(last, text.rpartition(one.chunk.text)[2]))
        used = {number for other in self.entries for number in lines_of(other)}
        found: list[Line] = []
        for line in later[:_BEHIND]:
            if line.number in used and line.number != last:
                break
            found.append(line)
        return tuple(found)


def choices_in(notes: Sequence[Notes], entries: Sequence[Seated]) -> Iterator[Choice]:
    """Each group of entries of which the notes say that one is set. `entries` are in their order, without those that
    depend on another pack."""
    taken: set[str] = set()
    for one in notes:
        said = _Said(one, tuple(entry for entry in entries if entry.chunk.notes == one.path))
        at = 0
        while at < len(said.entries):
            options, cites = _options(said, at)
            if len(options) > 1:
                choice = _named(options, cites, one.path, taken)
                taken.add(choice.name)
                yield choice
            at += max(1, sum(len(option) for option in options) if len(options) > 1 else 1)


def _options(said: _Said, at: int) -> tuple[list[list[Seated]], list[Line]]:
    """The options that begin with an entry, and the lines that say so."""
    first = said.entries[at]
    ahead = said.ahead(first)
    cues = [line for line in ahead if _has("one-of", line.text)]
    label = next((found for line in reversed(ahead) if (found := _label(line.text))), "")
    options, cites = [[first]], [*cues, *(line for line in ahead if label and _label(line.text))]
    joined = False
    for number in range(at + 1, len(said.entries)):
        before, entry = said.entries[number - 1], said.entries[number]
        between = said.between(before, entry)
        alike = any(entry.seat_file is other.seat_file for other in options[0])
        labelled = next((line for line in between if label and _label(line.text) == label), None)
        if labelled is not None or (alike and _is_or(between)):
            options.append([entry])
            cites += [line for line in between if line is labelled or _has("or", line.text)]
            joined = True
        elif cues and not label and alike and _is_next(options, entry, between):
            options.append([entry])
            joined = True
        elif label and _belongs(entry, options):
            options[-1].append(entry)
        elif not joined and number == at + 1 and alike and not between and entry.chunk is before.chunk:
            # Whether one of them is taken is said behind them, if at all.
            options.append([entry])
        else:
            break
    if not joined and len(options) == 1 and at + 1 < len(said.entries):
        other = said.entries[at + 1]
        if other.seat_file is first.seat_file and len(said.between(first, other)) <= 1:
            options.append([other])
    after = [line for line in said.behind(options[-1][-1]) if _has("not-both", line.text)]
    return (options, cites + after) if joined or after else ([], [])


def _belongs(entry: Seated, options: Sequence[Sequence[Seated]]) -> bool:
    """Whether an entry is a further one of the last option: of those behind the first, what the first has, too."""
    if len(options) == 1:
        return True
    seats = [other.seat_file for other in options[0]]
    return seats.count(entry.seat_file) > [other.seat_file for other in options[-1]].count(entry.seat_file)


def _is_next(options: Sequence[Sequence[Seated]], entry: Seated, between: Sequence[Line]) -> bool:
    """Whether an entry is the next of those of which one is to be set, rather than a step of its own."""
    same = entry.chunk is options[0][0].chunk
    if same or len(options) == 1 or options[0][0].chunk is not options[1][0].chunk:
        goes_on = rf"\W*(?:{words()['parts']['goes-on']})\b"
        return all(
            len(line.text.strip()) <= _SHORT and re.match(goes_on, line.text, re.IGNORECASE) is None for line in between
        )
    return False


def _spoken(text: str) -> bool:
    return any(letter.isalpha() for letter in text)


def _has(what: str, text: str) -> bool:
    return re.search(rf"(?<![\w-])(?:{words()['choices'][what]})(?![\w-])", text, re.IGNORECASE) is not None


def _label(text: str) -> str:
    """The word by which options are numbered, at the start of a line: `Option A - for slow barges:`."""
    match = re.match(rf"\W*(?P<word>{words()['choices']['label']})\s+(?:[a-z]|\d|[iv]+)\b", text, re.IGNORECASE)
    return match["word"].casefold() if match is not None else ""


def _is_or(between: Sequence[Line]) -> bool:
    """Whether all that is said between two entries is that the second one is for those who do not take the first."""
    said = " ".join(line.text.strip() for line in between)
    return len(said) <= 2 * _SHORT and (
        re.match(rf"\W*(?:{words()['choices']['or']})(?!\w)", said, re.IGNORECASE) is not None
        or re.search(rf"(?<!\w)(?:{words()['choices']['instead']})(?!\w)", said, re.IGNORECASE) is not None
    )


def _named(options: Sequence[Sequence[Seated]], cites: Sequence[Line], path: str, taken: set[str]) -> Choice:
    tokens = [_tokens(option) for option in options]
    names: list[str] = []
    for number, mine in enumerate(tokens):
        others = {token for other in tokens[:number] + tokens[number + 1 :] for token in other}
        name = next((kebab(token) for token in mine if token not in others), "")
        names.append(name if name and name not in names else f"option-{number + 1}")
    common = [token for token in tokens[0] if all(token in other for other in tokens)]
    name = next((kebab(token) for token in common if len(token) >= _NAMED and not token.isdigit()), "") or "choice"
    while name in taken:
        name += "-too"
    numbers = dict.fromkeys(line.number for line in cites)
    entries = {name: tuple(option) for name, option in zip(names, options, strict=True)}
    said = next((line.text.strip(" -*|.:,#`") for line in cites if len(line.text.split()) > _WORDS), "")
    return Choice(name, entries, Why(tuple((path, number) for number in numbers)), said[:120])


def _tokens(option: Sequence[Seated]) -> list[str]:
    """The words of what an option sets, in their order, without the keys of a record."""
    said = (
        str(value)
        for one in option
        for value in (one.body.record.values() if one.body.record is not None else (one.body.text,))
    )
    return list(dict.fromkeys(token for text in said for token in _TOKEN.findall(text)))
