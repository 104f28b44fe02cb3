"""Reading blocks that stand between tags: `[door]`, a key with its value on a line, `[/door]`."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator

from msgspec import Struct

from hookset.formats._block_entries import DEPTH, BlockEntry, BlockOptions, Token
from hookset.formats.base import Unreadable

__all__ = ["tagged_entries"]


def tagged_entries(string: str, options: BlockOptions) -> list[BlockEntry]:
    """Every entry of the outermost level, with what it holds. Tags and keys begin a line, or stand right behind a tag.
    Where keys have a mark behind them, the value is all that follows on the line; a line without one is a key with
    each of its further words as a value, and `{RING bell 3}` a key `RING` with two. Raises Unreadable."""
    reading = _Reading(string, _signs_of(options))
    at = 0
    while (at := reading.past_blanks(at)) < len(string):
        at = reading.entry(at)
    return reading.ended()


class _Signs(Struct, frozen=True):
    """What begins and ends the parts of a file."""

    blank: re.Pattern[str]
    """Blanks and comments between entries."""
    closing: re.Pattern[str]
    opening: re.Pattern[str]
    key: re.Pattern[str]
    """A key with the mark behind it, if keys have one."""
    call: re.Pattern[str]
    """Something in braces, which stands for other text."""
    argument: re.Pattern[str]
    """What is said to it: a word, or several in parentheses."""
    text: re.Pattern[str]
    """In quotes."""
    plain: re.Pattern[str]
    """A value without quotes, to the end of the line."""
    word: re.Pattern[str]
    """One of several on a line."""
    gap: re.Pattern[str]
    """Between the values of a line, with a comment at its end."""
    joined: re.Pattern[str]
    """What a value in quotes goes on behind."""
    separators: str
    """What is no value by itself."""


@functools.lru_cache(maxsize=64)
def _signs_of(options: BlockOptions) -> _Signs:
    begins, ends = re.escape(options.opens), re.escape(options.closes)
    marks = "|".join(re.escape(mark) for mark in options.comments) or "(?!)"
    comment = "|".join(
        [*(rf"{re.escape(a)}[\s\S]*?{re.escape(b)}" for a, b in options.block_comments), rf"(?:{marks})[^\n]*"]
    )
    quotes = re.escape(options.quotes)
    texts = "|".join(rf"{quote}(?:[^{quote}]|{quote}{quote})*+{quote}" for quote in map(re.escape, options.quotes))
    assign = re.escape(options.assign)
    inner, edge = rf"[^\n{quotes}{assign}]", rf"[^\s{quotes}{assign}]"
    name = rf"[^\s{ends}{begins}]"
    return _Signs(
        blank=re.compile(rf"(?:\s|{comment})*+"),
        closing=re.compile(rf"{begins}/(?P<word>{name}+)[ \t]*{ends}"),
        opening=re.compile(rf"{begins}(?P<word>(?!/){name}+)(?P<names>[^{ends}\n]*){ends}"),
        key=re.compile(rf"(?P<word>{edge}(?:{inner}*{edge})?)[ \t]*{assign}" if assign else "(?!)"),
        call=re.compile(r"\{(?P<word>[^\s{}()\"=]+)(?P<said>(?:[^{}\n]|\{[^{}\n]*\})*+)\}(?=[\s{]|\Z)"),
        argument=re.compile(r"\((?P<several>(?:[^()\n]|\([^()\n]*\))*+)\)|(?:\{[^{}\n]*\}|[^\s(){}])++"),
        text=re.compile(texts or "(?!)"),
        plain=re.compile(rf"(?:(?![ \t](?:{marks}))[^\n{quotes}])++"),
        word=re.compile(rf"(?:(?![ \t](?:{marks}))[^\s{quotes}])++"),
        gap=re.compile(rf"[ \t\r]*+(?:(?<!\S)(?:{marks})[^\n]*)?"),
        joined=re.compile(rf"\s*+\+\s*+(?=(?:\w+[ \t]*+)?[{quotes}])" if quotes else "(?!)"),
        separators=f"{options.separators} \t",
    )


class _Reading:
    """One file, from its beginning to its end."""

    def __init__(self, string: str, signs: _Signs) -> None:
        self.string = string
        self.signs = signs
        self.outermost: list[BlockEntry] = []
        self.around: list[BlockEntry] = []

    def past_blanks(self, at: int) -> int:
        found = self.signs.blank.match(self.string, at)
        return found.end() if found is not None else at

    def entry(self, at: int) -> int:
        """Read what begins here; gives where it ends."""
        if (found := self.signs.closing.match(self.string, at)) is not None:
            return self._close(found)
        if (found := self.signs.opening.match(self.string, at)) is not None:
            return self._open(found)
        if (found := self.signs.call.match(self.string, at)) is not None:
            return self._call(found)
        return self._key(at)

    def ended(self) -> list[BlockEntry]:
        if self.around:
            word = self.around[-1].word
            raise Unreadable(f"does not end the block {word.text!r} that it begins here", word.start)
        return self.outermost

    def _add(self, entry: BlockEntry) -> None:
        inside = self.around[-1].inside if self.around else self.outermost
        (self.outermost if inside is None else inside).append(entry)

    def _open(self, found: re.Match[str]) -> int:
        if len(self.around) > DEPTH:
            raise Unreadable("is nested too deeply to be a file that somebody made", found.start())
        word = Token(found["word"], *found.span("word"), "word")
        names = list(self._words(*found.span("names")))
        entry = BlockEntry(word, names, [], opened=found.end(), key=False, begin=found.start())
        self._add(entry)
        self.around.append(entry)
        return found.end()

    def _close(self, found: re.Match[str]) -> int:
        if not self.around:
            raise Unreadable(f"ends a block {found['word']!r} that it does not begin", found.start())
        entry = self.around.pop()
        if found["word"].removeprefix("+") != entry.word.text.removeprefix("+"):
            raise Unreadable(f"ends the block {entry.word.text!r} as {found['word']!r}", found.start())
        entry.closed, entry.end = found.span()
        return found.end()

    def _call(self, found: re.Match[str]) -> int:
        word = Token(found["word"], *found.span("word"), "word")
        said = self.signs.argument.finditer(self.string, *found.span("said"))
        spans = (one.span("several" if one["several"] is not None else 0) for one in said)
        values = [Token(self.string[start:end], start, end, "word") for start, end in spans]
        self._add(BlockEntry(word, values, end=found.end(), begin=found.start()))
        return found.end()

    def _key(self, at: int) -> int:
        found = self.signs.key.match(self.string, at)
        if found is None:
            line = self.string.find("\n", at)
            words = list(self._words(at, len(self.string) if line < 0 else line))
            return self._keep(words[0], words[1:]) if words else self._unread(at)
        return self._keep(Token(found["word"], *found.span("word"), "word"), list(self._values(found.end())))

    def _keep(self, word: Token, values: list[Token]) -> int:
        last = values[-1] if values else word
        self._add(BlockEntry(word, values, end=last.end))
        at = last.end + (last.kind == "string")
        line = self.string.find("\n", at)
        return len(self.string) if line < 0 else line

    def _values(self, at: int) -> Iterator[Token]:
        """What a key is set to: texts in quotes, and what stands without them on its line."""
        while True:
            at = self._past_gap(at)
            if self.string.startswith("\n", at) or at >= len(self.string):
                return
            if (text := self.signs.text.match(self.string, at)) is not None:
                yield Token(text[0][1:-1], at + 1, text.end() - 1, "string")
                more = self.signs.joined.match(self.string, text.end())
                at = more.end() if more is not None else text.end()
            elif (plain := self.signs.plain.match(self.string, at)) is not None:
                said = plain[0].rstrip()
                if said.strip(self.signs.separators):
                    yield Token(said, at, at + len(said), "word")
                at = plain.end()
            else:
                self._unread(at)

    def _words(self, at: int, end: int) -> Iterator[Token]:
        while (at := self._past_gap(at)) < end:
            if (text := self.signs.text.match(self.string, at)) is not None:
                yield Token(text[0][1:-1], at + 1, text.end() - 1, "string")
                at = text.end()
            elif (word := self.signs.word.match(self.string, at, end)) is not None:
                yield Token(word[0], at, word.end(), "word")
                at = word.end()
            else:
                self._unread(at)

    def _past_gap(self, at: int) -> int:
        found = self.signs.gap.match(self.string, at)
        return found.end() if found is not None else at

    def _unread(self, at: int) -> int:
        raise Unreadable("begins a text in quotes that does not end", at)
