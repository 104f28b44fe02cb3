"""Characters that nobody sees: on a terminal they move the cursor, in a name they pretend to be another one.

Control characters (C0, DEL, C1), marks that turn the direction of text around (Unicode, UAX 9), characters without any
width, line separators, tags, and halves of surrogate pairs, which stand for bytes of a name that are no text.
"""

from __future__ import annotations

import re

__all__ = ["as_argument", "json_escaped", "toml_escaped", "visible"]

_HIDDEN = (
    "\x7f-\x9f\u00ad\u061c\u180e\u200b-\u200f\u2028-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb"
    "\ud800-\udfff\U000e0000-\U000e007f"
)
_IN_TEXT = re.compile(f"[\x00-\x08\x0b-\x1f{_HIDDEN}]")
_IN_JSON = re.compile(f"[{_HIDDEN}]")


def visible(text: str) -> str:
    """The text with such characters as escapes that can be seen; line feeds and tabs stay."""
    return _IN_TEXT.sub(lambda found: _escape(found[0]), text)


def _escape(character: str) -> str:
    code = ord(character)
    if 0xDC80 <= code <= 0xDCFF:
        # How Python keeps a byte of a file's name that is no UTF-8 (PEP 383).
        return f"\\x{code - 0xDC00:02x}"
    if code <= 0xFF:
        return f"\\x{code:02x}"
    return f"\\u{code:04x}" if code <= 0xFFFF else f"\\U{code:08x}"


def json_escaped(document: str) -> str:
    """A JSON document with such characters written as `\\uXXXX`, which mean the same."""
    return _IN_JSON.sub(lambda found: _unit_escapes(found[0]), document)


def _unit_escapes(character: str) -> str:
    code = ord(character)
    if code <= 0xFFFF:
        return f"\\u{code:04x}"
    code -= 0x10000
    return f"\\u{0xD800 + (code >> 10):04x}\\u{0xDC00 + (code & 0x3FF):04x}"


def toml_escaped(text: str) -> str:
    """A TOML text in double quotes with such characters written as `\\uXXXX` or `\\UXXXXXXXX`. TOML has no way to
    write half of a surrogate pair: it becomes the replacement character."""
    return _IN_JSON.sub(lambda found: _toml_escape(ord(found[0])), text)


def _toml_escape(code: int) -> str:
    if 0xD800 <= code <= 0xDFFF:
        return "\\ufffd"
    return f"\\u{code:04x}" if code <= 0xFFFF else f"\\U{code:08x}"


def as_argument(text: object) -> str:
    """A word of a command line that somebody is to type: in quotes where it has blanks."""
    words = str(text)
    return f'"{words}"' if any(one.isspace() for one in words) else words
