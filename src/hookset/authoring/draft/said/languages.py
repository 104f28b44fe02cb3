"""Texts that a sentence gives in several languages: `"Open" (en)`, `"Open" in English`, `auf Deutsch „Offen“`."""

from __future__ import annotations

import itertools
import re

from hookset.authoring.draft.words import languages_said

__all__ = ["by_language", "unquoted_by_language"]

_TEXT = r"(?:\"[^\"\n]+\"|“[^“”\n]+[”\"“]|„[^„“”\n]+[“”]|«[^«»\n]+»|`[^`\n]+`)"
_WORD = r"[^\W\d_]{2,12}"
_IN = r"(?:in|auf|en)\s+(?:the\s+)?"
_BEHIND = re.compile(rf"(?P<text>{_TEXT})\s*(?:\(\s*(?P<one>{_WORD})\s*\)|,?\s*{_IN}(?P<other>{_WORD}))", re.IGNORECASE)
_AHEAD = re.compile(
    rf"(?:{_IN}(?P<one>{_WORD})\s*[:,=]?|(?<![\w/.])(?P<other>{_WORD})\s*[:=])\s*(?P<text>{_TEXT})", re.IGNORECASE
)
_PLAIN = re.compile(rf"\(\s*(?P<one>{_WORD})(?P<other>)\s*:\s*(?P<text>[^()\"“„«`\n]+)\)", re.IGNORECASE)
"""`(German: Kran)`"""
_QUOTES = '"“”„«»` '


def by_language(said: str) -> dict[str, str]:
    """By the code of each language: the text in it. The first one tells whether languages stand in front of their
    texts or behind them."""
    found = {pattern: _texts(pattern, said) for pattern in (_AHEAD, _BEHIND, _PLAIN)}
    first = min(found, key=lambda pattern: min((at for at, _, _ in found[pattern]), default=len(said)))
    return {language: text for _, language, text in found[first]}


def unquoted_by_language(said: str) -> dict[str, str]:
    """The same for texts without quotes, each behind its language: `de: Laterne anzünden   en: Light the lantern`.
    Nothing where a word in front is no language, or one comes twice."""
    labels = list(re.finditer(rf"(?:^|(?<=[\s|;/,]))(?P<one>{_WORD})\s*[:=]\s*", said))
    if not labels or labels[0].start():
        return {}
    found: dict[str, str] = {}
    for label, after in itertools.zip_longest(labels, labels[1:]):
        languages = languages_said(f"{label['one']}:")
        if len(languages) != 1 or languages[0] in found:
            return {}
        found[languages[0]] = said[label.end() : after.start() if after is not None else None].strip(" \t|;/,")
    return found


def _texts(pattern: re.Pattern[str], said: str) -> list[tuple[int, str, str]]:
    texts = []
    for match in pattern.finditer(said):
        languages = languages_said(f"{match['one'] or match['other']}:")
        if len(languages) == 1:
            texts.append((match.start(), languages[0], match["text"].strip(_QUOTES)))
    return texts
