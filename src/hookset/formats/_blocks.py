"""Reading nested block text: characters into tokens, tokens into entries."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from hookset.formats._block_entries import DEPTH, BlockEntry, BlockOptions, Token, Tokens
from hookset.formats._tagged import tagged_entries
from hookset.formats.base import Unreadable
from hookset.trees import Text

__all__ = ["read_entries"]

_NUMBER = r"[-+]?\d++(?:\.\d++)?+\s++"
_RUN = rf"(?:{_NUMBER}){{32}}(?:[\d\s]*\s|{_NUMBER})*+"
"""Many numbers in a row, with the blanks behind them; whole ones are taken many at a time."""


def read_entries(text: Text, options: BlockOptions) -> list[BlockEntry]:
    """Every entry of the outermost level, with what it holds. Raises Unreadable."""
    if options.tagged:
        return tagged_entries(text.string, options)
    tokens = list(_scan(text.string, options))
    if options.indented:
        return _indented(text.string, tokens)
    return _lists(tokens) if options.leading else _Reader(tokens, options).entries()


def _scan(string: str, options: BlockOptions) -> Iterator[Token]:
    comments = [re.escape(a) + r"[\s\S]*?" + re.escape(b) for a, b in options.block_comments]
    comments += [re.escape(mark) + r"[^\n]*" for mark in options.comments]
    marks = {"opens": options.opens, "closes": options.closes, "assign": options.assign, "ends": options.ends}
    if options.indented:
        marks = {"assign": options.assign, "ends": options.ends}
    special = re.escape("".join((*marks.values(), options.separators, options.quotes)))
    kinds = [("comment", "|".join(comments) or "(?!)"), ("string", "|".join(_quoted(options)) or "(?!)")]
    kinds += [(kind, re.escape(mark)) for kind, mark in marks.items() if mark]
    if options.leading and not options.separators:
        kinds += [("run", _RUN)]
    kinds += [("newline", r"\n"), ("skip", rf"(?:(?!\n)[\s{re.escape(options.separators)}])+")]
    kinds += [("word", rf"[^\s{special}]+"), ("stray", r".")]
    pattern = re.compile("|".join(f"(?P<{kind}>{source})" for kind, source in kinds))
    for match in pattern.finditer(string):
        kind = match.lastgroup or "stray"
        if kind == "stray":
            raise Unreadable(f"is no block text: {match.group()!r} does not fit here", match.start())
        if kind == "string":
            yield Token(match.group()[1:-1], match.start() + 1, match.end() - 1, kind)
        elif kind == "comment" and "\n" in match.group():
            yield Token("", match.start(), match.end(), "newline")
        elif kind not in ("comment", "skip"):
            yield Token(match.group(), match.start(), match.end(), kind)


def _quoted(options: BlockOptions) -> Iterator[str]:
    """Patterns of texts in quotes. Where lines make blocks, a text ends with its line, and a backslash is one."""
    for quote in map(re.escape, options.quotes):
        yield f"{quote}[^{quote}\n]*{quote}" if options.indented else rf"{quote}(?:\\.|[^{quote}\\])*{quote}"


def _indented(string: str, tokens: Iterable[Token]) -> list[BlockEntry]:
    """Lines into entries: what stands further in than the line above belongs to it. Each is a key and a block: whether
    anything stands below it says nothing of what it is."""
    outermost: list[BlockEntry] = []
    around: list[tuple[int, BlockEntry]] = []
    """The last line of each level, with how far in it stands."""
    for line in _lines(tokens):
        words = [token for token in line if token.kind in ("word", "string")]
        if not words:
            continue
        start = words[0].start - (words[0].kind == "string")
        depth = start - string.rfind("\n", 0, start) - 1
        while around and around[-1][0] >= depth:
            around.pop()
        if len(around) > DEPTH:
            raise Unreadable("is nested too deeply to be a file that somebody made", start)
        entry = BlockEntry(words[0], words[1:], [], end=words[-1].end)
        entry.opened = entry.closed = _line_end(string, words[-1].end)
        if not around:
            outermost.append(entry)
        for _, outer in around:
            outer.closed = outer.end = entry.closed
        if around and (inside := around[-1][1].inside) is not None:
            inside.append(entry)
        around.append((depth, entry))
    return outermost


def _line_end(string: str, at: int) -> int:
    """Behind the last thing that stands on a line."""
    end = string.find("\n", at)
    end = len(string) if end < 0 else end
    while string[end - 1].isspace():
        end -= 1
    return end


def _lists(tokens: Iterable[Token]) -> list[BlockEntry]:
    """Lists in brackets into entries, each of which is a key and a block. One that begins with another list has no
    word."""
    outermost: list[BlockEntry] = []
    around: list[tuple[BlockEntry, list[Token]]] = []
    for token in tokens:
        if token.kind == "opens":
            if len(around) > DEPTH:
                raise Unreadable("is nested too deeply to be a file that somebody made", token.start)
            values: list[Token] = []
            no_word = Token("", token.end, token.end, "word")
            entry = BlockEntry(no_word, Tokens(values), [], opened=token.end, begin=token.start)
            inside = around[-1][0].inside if around else outermost
            (outermost if inside is None else inside).append(entry)
            around.append((entry, values))
        elif token.kind == "closes" and around:
            entry, _ = around.pop()
            entry.closed, entry.end = token.start, token.end
        elif token.kind in ("word", "string", "run") and around:
            _take(*around[-1], token)
        elif token.kind != "newline":
            raise Unreadable(f"has {token.text or token.kind!r} where a list should begin", token.start)
    if around:
        raise Unreadable(f"does not close the list {around[-1][0].word.text!r} that it opens here", around[-1][0].begin)
    return outermost


def _take(entry: BlockEntry, values: list[Token], token: Token) -> None:
    if entry.word.text or entry.word.kind == "string" or entry.inside or values or token.kind == "run":
        values.append(token)
    else:
        entry.word = token
        entry.opened = token.end + (token.kind == "string")


def _lines(tokens: Iterable[Token]) -> Iterator[list[Token]]:
    line: list[Token] = []
    for token in tokens:
        if token.kind == "newline":
            yield line
            line = []
        else:
            line.append(token)
    yield line


class _Reader:
    """Tokens into entries."""

    def __init__(self, tokens: list[Token], options: BlockOptions) -> None:
        self.options = options
        self.tokens = tokens
        self.position = 0

    def entries(self) -> list[BlockEntry]:
        found = self._inside(0)
        if self.position < len(self.tokens):
            raise Unreadable(f"closes a block that it does not open, with {self.options.closes!r}", self._here().start)
        return found

    def _here(self) -> Token:
        return self.tokens[self.position]

    def _inside(self, depth: int) -> list[BlockEntry]:
        if depth > DEPTH:
            raise Unreadable("is nested too deeply to be a file that somebody made", self._here().start)
        found: list[BlockEntry] = []
        while self.position < len(self.tokens):
            token = self._here()
            if token.kind == "closes":
                break
            if token.kind in ("newline", "ends"):
                self.position += 1
            elif token.kind in ("word", "string"):
                found.append(self._entry(depth))
            elif token.kind == "opens" and self.options.nameless:
                found.append(self._block(BlockEntry(Token("", token.start, token.start, "word"), []), depth))
            else:
                raise Unreadable(f"has {token.text!r} where a word should begin an entry", token.start)
        return found

    def _entry(self, depth: int) -> BlockEntry:
        values: list[Token] = []
        entry = BlockEntry(self._here(), values)
        self.position += 1
        while self.position < len(self.tokens):
            token = self._here()
            if token.kind in ("word", "string"):
                if self.options.values and len(values) == self.options.values:
                    break
                values.append(token)
                self.position += 1
            elif token.kind == "assign":
                self.position += 1
            elif token.kind == "opens":
                return self._block(entry, depth)
            elif token.kind == "newline" and (self.options.ends or (self._opens_next() and not self.options.nameless)):
                self.position += 1
            else:
                break
        entry.end = values[-1].end if values else entry.word.end
        return entry

    def _opens_next(self) -> bool:
        """Whether the next thing on the lines below is an opening bracket."""
        ahead = next((t for t in self.tokens[self.position : self.position + 4] if t.kind != "newline"), None)
        return ahead is not None and ahead.kind == "opens"

    def _block(self, entry: BlockEntry, depth: int) -> BlockEntry:
        opening = self._here()
        self.position += 1
        entry.key = False
        entry.opened = opening.end
        entry.inside = self._inside(depth + 1)
        if self.position >= len(self.tokens):
            named = f" {entry.word.text!r}" if entry.word.text else ""
            raise Unreadable(f"does not close the block{named} that it opens here", entry.word.start)
        entry.closed = self._here().start
        entry.end = self._here().end
        self.position += 1
        return entry
