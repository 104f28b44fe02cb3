"""Words in a text to be copied that the builder is to replace, and what for."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct

from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.words import words

__all__ = ["Hole", "holed"]


class Hole(Struct, frozen=True):
    """One word, with what stands in its place until it is known what it becomes."""

    word: str
    mark: str
    by: str
    """What the notes say replaces it; empty if they say nothing."""
    line: int
    """Of the notes, where that is said; 0 for none."""

    @property
    def wants(self) -> str:
        """`next`, `map-folder`, `map-name`, `free`, `id`, or empty."""
        # `<your folder>` says by itself what it stands for.
        lower = (self.by or self.word).lower()
        for name, source in words()["meaning"].items():
            if re.search(source, lower):
                return str(name)
        return ""

    @property
    def path(self) -> str:
        """A file that is named in the explanation."""
        found = re.search(r"[\w./-]+/[\w.-]+\.\w+|[\w-]+\.[a-z]{2,4}\b", self.by)
        return found.group() if found else ""


def holed(chunk: Chunk, text: str, everywhere: tuple[tuple[str, str, int], ...]) -> tuple[str, tuple[Hole, ...]]:
    """The text with a mark in place of each hole. `everywhere` is what is said of words anywhere in the notes."""
    said = list(replacements(((line.number, line.text) for line in (*chunk.far, *chunk.near)), chunk.after))
    asked: dict[str, tuple[str, int]] = {}
    for word, by, line in (*everywhere, *said):
        if re.search(_bounded(word), text):
            asked[word] = (by, line)
    for match in re.finditer(words()["replaced"]["holes"], text):
        asked.setdefault(match.group(), ("", 0))
    holes: list[Hole] = []
    for number, (word, (by, line)) in enumerate(sorted(asked.items(), key=lambda one: -len(one[0]))):
        mark = f"hole{number}hole"
        marked = re.sub(_bounded(word), mark, text)
        if marked != text:
            holes.append(Hole(word, mark, by, line))
            text = marked
    return text, tuple(holes)


def replacements(lines: Iterator[tuple[int, str]], after: str) -> Iterator[tuple[str, str, int]]:
    """(word, by what, line) for every "replace … with …" in some prose; sentences run on over the ends of lines."""
    rows = [*lines, (0, after)]
    text, starts = "", []
    for number, row in rows:
        starts.append((len(text), number))
        text += row.strip() + " "
    for source in words()["replaced"]["patterns"]:
        position = 0
        while (match := re.search(source, text[position:])) is not None:
            at = position + match.start()
            position += max(match.end("hole"), 1)
            line = next((number for start, number in reversed(starts) if start <= at), 0)
            for word in re.split(r"\s*(?:,|&|\band\b|\bund\b|\bet\b|\bor\b)\s*", match["hole"]):
                plain = word.strip(" \"'`“”„«».,:<>()") if not word.startswith("<") else word
                if _is_hole(plain):
                    yield plain, _explanation(match["by"]), line


def _is_hole(word: str) -> bool:
    """Whether a word is one that nobody would write but to have it replaced."""
    if not re.search(r"[^\W\d]", word) or len(word.split()) != 1:
        return False
    return word.upper() == word or "_" in word or word[0] in "<%$@#"


def _explanation(by: str) -> str:
    """What replaces a word, without what is said next."""
    return re.split(r":\s|:$|\s+(?:and|und)\s+[A-Z0-9_]{2,}\s+(?:by|with|durch|mit)\b|\s+ersetzen\b", by.strip())[
        0
    ].strip(" .,;")


def _bounded(word: str) -> str:
    before = r"(?<![A-Za-z0-9])" if word[0].isalnum() else ""
    behind = r"(?![A-Za-z0-9])" if word[-1].isalnum() else ""
    return before + re.escape(word) + behind
