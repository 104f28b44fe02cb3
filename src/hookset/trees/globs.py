"""Patterns over paths: `*` within one folder, `**` over any depth, `{word}` a part that is kept, `{one,other}` one of
several."""

from __future__ import annotations

import functools
import re
from functools import cached_property

from msgspec import Struct, field

from hookset.model import CouldNotError
from hookset.trees.patterns import Pattern, pattern_of

__all__ = ["Glob", "GlobMatch", "Globs"]

_WORD = r"\{([A-Za-z_]\w*)\}"
_CHOICE = r"\{([^{}/]*,[^{}/]*)\}"
_TOKEN = re.compile(rf"\*\*/|\*\*|\*|\?|{_WORD}|{_CHOICE}|[^*?{{]+|\{{")
_WILD = re.compile(rf"\*\*/|\*\*|\*|{_WORD}|{_CHOICE}")
_FEW = 2
"""Wildcards of a pattern that takes no time, whatever path it is matched with."""
_LONGEST = 1_000
"""Characters of a pattern; paths that a system takes are not much longer."""


class GlobMatch(Struct, frozen=True):
    """What the pattern kept of the path."""

    inner: str
    """The path below the pattern's fixed front: `packs/lift.lua` for `scripts/server/**/*.lua`."""
    words: dict[str, str] = field(default_factory=dict)


class Glob(Struct, frozen=True):
    """One pattern. `{word}` matches within a folder name and keeps what it matched; the same word once more matches
    the same. `match` and `matches` raise SlowPatternError, or CouldNotError for a pattern that is too long."""

    pattern: str

    def match(self, path: str) -> GlobMatch | None:
        """Match a path; None if it does not fit."""
        found = _compiled(self.pattern).fullmatch(path)
        if found is None:
            return None
        words = {key: value for key, value in found.groupdict().items() if key != "_inner"}
        return GlobMatch(inner=found["_inner"], words=words)

    def matches(self, path: str) -> bool:
        """Whether a path fits."""
        return _compiled(self.pattern).fullmatch(path) is not None

    @property
    def mistake(self) -> str:
        """What of the pattern means nothing, in words; empty where all of it does."""
        rest = re.sub(rf"{_WORD}|{_CHOICE}", "", self.pattern)
        if "{" in rest or "}" in rest:
            return "a brace without its like: `{word}` keeps a part, `{one,other}` is one of several"
        return "`//` is no path" if "//" in self.pattern else ""

    @property
    def words(self) -> tuple[str, ...]:
        """The names between braces."""
        return tuple(dict.fromkeys(re.findall(_WORD, self.pattern)))

    def filled(self, words: dict[str, str]) -> str:
        """The pattern with its `{word}` parts filled in."""
        return re.sub(_WORD, lambda m: words.get(m[1], m[0]), self.pattern)


class Globs(Struct, frozen=True, dict=True):
    """Several patterns, of which one has to fit. Those that are short and keep no words are looked for at once."""

    globs: tuple[Glob, ...] = ()

    def matches(self, path: str) -> bool:
        """Whether a path fits any of them. Raises as `Glob` does."""
        together, others = self._parted
        return together.fullmatch(path) is not None or (bool(others) and any(glob.matches(path) for glob in others))

    @cached_property
    def _parted(self) -> tuple[re.Pattern[str], tuple[Glob, ...]]:
        easy = [glob for glob in self.globs if not glob.words and _is_quick(glob.pattern)]
        sources = [_source(glob.pattern).replace("(?P<_inner>", "(?:") for glob in easy]
        together = re.compile("|".join(f"(?:{source})" for source in sources) if sources else r"(?!)", re.DOTALL)
        return together, tuple(glob for glob in self.globs if glob not in easy)


def _is_quick(pattern: str) -> bool:
    return len(pattern) <= _LONGEST and len(_WILD.findall(pattern)) <= _FEW


@functools.lru_cache(maxsize=1024)
def _compiled(pattern: str) -> re.Pattern[str] | Pattern:
    if len(pattern) > _LONGEST:
        raise CouldNotError(
            "slow-pattern",
            f"the pattern `{pattern[:60]}…` has {len(pattern):,} characters",
            why=f"{_LONGEST:,} are the most: no path is so long",
            remedy="correct the pattern in the layout, the hook sheet or hookset.toml",
        )
    source = _source(pattern)
    return re.compile(source, re.DOTALL) if _is_quick(pattern) else pattern_of(source, re.DOTALL)


def _source(pattern: str) -> str:
    """The pattern as a regular expression, whose group `_inner` is the path below the fixed front."""
    pieces: list[str] = []
    known: set[str] = set()
    fixed = True
    tokens = list(_TOKEN.finditer(pattern))
    # The fixed front is every whole folder before the first wildcard. A {word} folder belongs to it: a rule for
    # `scripts/{side}/**` names its modules from below the side's folder.
    wild = re.search(rf"[*?]|{_CHOICE}", pattern)
    front = pattern.rfind("/", 0, wild.start()) + 1 if wild else pattern.rfind("/") + 1
    for token in tokens:
        if fixed and token.start() >= front:
            pieces.append("(?P<_inner>")
            fixed = False
        text = token.group()
        if token[1]:
            pieces.append(f"(?P={token[1]})" if token[1] in known else f"(?P<{token[1]}>[^/]+)")
            known.add(token[1])
        elif token[2]:
            ways = (re.escape(way).replace(r"\*", "[^/]*") for way in token[2].split(","))
            pieces.append(f"(?:{'|'.join(ways)})")
        elif text == "**/":
            pieces.append("(?:[^/]+/)*")
        elif text == "**":
            pieces.append(".*")
        elif text == "*":
            pieces.append("[^/]*")
        elif text == "?":
            pieces.append("[^/]")
        elif fixed and token.end() > front:
            cut = front - token.start()
            pieces.append(re.escape(text[:cut]) + "(?P<_inner>" + re.escape(text[cut:]))
            fixed = False
        else:
            pieces.append(re.escape(text))
    if fixed:
        pieces.append("(?P<_inner>")
    pieces.append(")")
    return "".join(pieces)
