"""Commands for a shell of Unix or Windows that notes would have people type: what they copy, and what they add to which
file, is said in words like in any other note. Nothing of it runs."""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from hookset.authoring.draft.notes.line import Line

__all__ = ["in_words"]

_PROMPT = re.compile(r"\s*(?:\$|PS [^>\n]*>|[A-Za-z]:[\\/][^>\n]*>)\s*(?=\w)")
_COPY = re.compile(r"(?:sudo\s+)?(?P<tool>cp|xcopy|robocopy|rsync|mv|copy|move)\s+(?P<rest>\S.*)")
_PLAIN = frozenset(["copy", "move"])
"""Words of English as well."""
_SILENT = re.compile(r"(?:mkdir|md|cd|pushd|popd)\s+\S.*|(?:unzip|tar|7z)\s+\S.*|#!.*")
_PATCH = re.compile(r"(?:patch\b[^<\n]*<\s*|git\s+apply\s+(?:-\S+\s+)*)(?P<file>\S+)")
_FILE = r"(?P<file>\"[^\"\n]+\"|'[^'\n]+'|[^\s<>|;&]+)"
_END = r"<<-?\s*[\"'\\]?(?P<end>\w+)[\"']?"
_BLOCKS = tuple(
    re.compile(source)
    for source in (rf"cat\s+>>\s*{_FILE}\s*{_END}", rf"cat\s+{_END}\s*>>\s*{_FILE}", rf"tee\s+-a\s+{_FILE}\s*{_END}")
)
_ECHO = re.compile(rf"echo\s+(?:-\w\s+)?(?P<text>\S.*?)\s*>>\s*{_FILE}")
_JOIN = re.compile(rf"(?:cat|type)\s+(?P<what>[^\s<>|;&]+)\s*>>\s*{_FILE}")
_REMARK = re.compile(r"#+\s+(?P<text>\S.*)|(?:rem|::)\s+(?P<said>\S.*)", re.IGNORECASE)


def in_words(lines: Iterable[Line]) -> Iterator[Line]:
    """The lines, with commands in words: `copy … -> …`, `add to …:` above what is added."""
    every = list(lines)
    within = _shells(every)
    end = ""
    for number, line in enumerate(every):
        text = line.text.strip()
        if end:
            if text == end:
                end = ""
                yield replace(line, text="", code=False)
            else:
                yield replace(line, code=True, heading=False)
            continue
        typed = _PROMPT.sub("", line.text).strip()
        prompted = typed != text
        block = next((match for pattern in _BLOCKS if (match := pattern.fullmatch(typed))), None)
        if block is not None and any(other.text.strip() == block["end"] for other in every[number + 1 :]):
            end = block["end"]
            yield replace(line, text=f"add to {_plain(block['file'])}:", code=False, heading=False)
        else:
            yield from _said(line, typed, (line.code and number in within) or prompted)


def _shells(lines: list[Line]) -> set[int]:
    """The lines of texts to be copied in which some line can only be a command."""
    found: set[int] = set()
    start = 0
    while start < len(lines):
        end = start
        while end < len(lines) and lines[end].code:
            end += 1
        typed = [_PROMPT.sub("", line.text).strip() for line in lines[start:end]]
        if any(_is_command(text, certain=False) for text in typed):
            found |= set(range(start, end))
        start = max(end, start + 1)
    return found


def _is_command(text: str, certain: bool) -> bool:
    copied = _COPY.fullmatch(text)
    if copied is not None:
        names = _named(copied["rest"])
        # In a sentence there are words between the paths.
        plain = certain and copied["tool"] in _PLAIN
        return bool(names) and not (plain and not all(re.search(r"[/.*]", name) for name in names))
    return any(pattern.fullmatch(text) for pattern in (*_BLOCKS, _ECHO, _JOIN, _PATCH))


def _said(line: Line, typed: str, shell: bool) -> Iterator[Line]:
    """What a line tells to do, where it is a command."""
    words = replace(line, code=False, heading=False)
    if not shell and not _is_command(typed, certain=True):
        yield line
        return
    copied, echo, join, patch = (pattern.fullmatch(typed) for pattern in (_COPY, _ECHO, _JOIN, _PATCH))
    names = _named(copied["rest"]) if copied is not None else []
    remark = _REMARK.fullmatch(typed)
    if names:
        yield replace(words, text=f"copy {', '.join(names[:-1])} -> {names[-1]}")
    elif echo is not None:
        yield replace(words, text=f"add to {_plain(echo['file'])}:")
        yield Line(line.number, _plain(echo["text"]), code=True)
    elif join is not None:
        yield replace(words, text=f"add {_plain(join['what'])} to {_plain(join['file'])}")
    elif patch is not None:
        yield replace(words, text=f"by {_plain(patch['file'])}")
    elif _SILENT.fullmatch(typed):
        yield replace(words, text="")
    elif shell and remark is not None:
        yield replace(words, text=remark["text"] or remark["said"])
    else:
        yield line


def _named(rest: str) -> list[str]:
    """The files of a command that copies: those that it copies, and where they go. Of paths with somebody's own
    download folder in front, what is behind that."""
    try:
        pieces = shlex.split(rest.replace("\\", "/"))
    except ValueError:
        return []
    names = [one for one in pieces if not one.startswith("-") and not re.fullmatch(r"/[A-Za-z](?::\S*)?", one)]
    if len(names) < 2 or not all(re.fullmatch(r"[~\w./*%$+:-]+", one) for one in names):
        return []
    told = any(mark in one for one in names for mark in "/.*")
    return [re.sub(r"^(?:~|\$HOME|%\w+%|\.)/", "", one) for one in names] if told else []


def _plain(text: str) -> str:
    """Without the quotes around it, and without a way to the folder that it is typed in."""
    bare = text[1:-1] if len(text) > 1 and text[0] == text[-1] and text[0] in "\"'" else text
    return re.sub(r"^\./", "", bare)
