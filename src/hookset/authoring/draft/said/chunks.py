"""Notes cut into what is said and what is to be copied."""

from __future__ import annotations

import re
from collections.abc import Container, Iterator, Sequence

from msgspec import Struct

from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.said.listings import Gap, stretches_in
from hookset.authoring.draft.words import words
from hookset.trees import Pattern

__all__ = ["Chunk", "chunks_of", "is_statement", "looks_like_code"]

_BULLET = re.compile(r"^\s*(?:[-*•+>]|[A-Z][.)]|[(\[]?\d{1,2}[.):\]]|[a-z]\))\s+")
_CODE = (
    re.compile(r"</?[A-Za-z_!?].*>"),
    re.compile(r"[{}\[\]][,;]?"),
    re.compile(r"[{\[].*[}\]],?;?|[{\[].*,|.*[}\]]\s*[}\]],?"),
    re.compile(r"\[{1,2}/?[\w .:-]+\]{1,2}"),
    re.compile(r"(?:local |const |let |var |my )?[\w.\"'\[\]$-]+(?:,[\w.$-]+)*\s*=\s*\S.*"),
    re.compile(r"[\w.:$]+\(.*\)\s*;?|[\w.:$]+\(.*[,{(]|\}?\)\s*;?"),
    re.compile(
        r"(?:local |function |import |export |require|include|#include|using |from |return\b|end\b)\s?.*[\"'();].*"
    ),
    re.compile(r"msg(?:id|str|ctxt)\b.*|\"[^\"]*\""),
    re.compile(r"- [{\[].*[}\]],?"),
    re.compile(r"- [\w\"'-]+:(?: .*)?|[a-z_]\w*: *[\[\"'{\w.-].*"),
    re.compile(r"[\"']?[\w.-]+[\"']?\s*:\s*[\"'\[{\d].*,?"),
    re.compile(r"[\w.-]+(?:/[\w.-]+)+\.\w+"),
    re.compile(r"[\w]+ +\".*\"(?: *\{)?|end\b.*"),
    # A row of a table: `winch;machines/winch;yes`
    re.compile(r"[\w./+-]+(?:;[\w./+-]*){2,}|[\w./+-]+(?:,[\w./+-]*){2,}"),
    # The head of a block: `place winch_1 {`
    re.compile(r"[A-Za-z_]\w*(?:[ \t]+[\w.:\"'-]+){1,3}\s*\{"),
    # A statement of a word and a name: `use rail::points;`
    # The head of a function: `fn told(who) {`
    re.compile(r"[a-z]\w* +[\w.:]+\([\w, &*$]*\)\s*\{?"),
    re.compile(r"[a-z]\w* +[\w./\\\"'-]+(?:::[\w.]+)*;|[a-z]\w* +\w+(?:::\w+)+;?"),
)
_BEHIND = re.compile(r"\s+(?:--|//|#)\s.*$")
"""A remark behind a statement."""
_ROW = re.compile(r"(?:[^,;|\t]*[;|\t,]){3,}[^;|,]*")
_CUT = re.compile(r"[;|\t,]")
_CELL = 4
"""Words of a cell: a sentence has commas, too."""
_STEP = re.compile(r"\s*(?:[(\[]?\d{1,2}[.):\]]|[A-Z][.)])\s")
_FEW = 5
"""Words of a statement with a number in front, outside of quotes."""
_SECTION = re.compile(r"\[{1,2}[\w .:-]+\]{1,2}")
_GIVEN = re.compile(r"[\w.-]+\s*[:=]\s*\S.*")
_NAMED = re.compile(r"[\w./\\:-]+")
_BLOCK = 60
"""Lines of a block in braces, or between tags."""
_TAG = re.compile(r"\s*\[(?P<word>[\w.:-]+)\]")
_MARKED = re.compile(r"[\"'{}=<>\[\]]")
_PATH = re.compile(r"[\w.-]+(?:/[\w.-]+)+\.\w+:?")
_WORD = re.compile(r"[A-Za-zÀ-ÿ]{2,}")
_TICKED = re.compile(r"`([^`\n]{3,200})`")
_WHOLE = re.compile(
    r"<(?P<tag>(?!(?:a|p|td|div|font|span|table)\b)[A-Za-z][\w:-]{0,60})(?:\s+[\w:-]+=\"[^\"<>]*\"){1,40}\s*>"
    r"\s*<[^\n]{0,400}?</(?P=tag)>"
    r"|<[A-Za-z][\w:-]*(?:\s+[\w:-]+=\"[^\"<>]*\")+\s*/>"
    r"|\bimport\s+[^'\"\n;]{1,80}\s+from\s+(?P<quote>['\"])[^'\"\n]+(?P=quote);?"
    r"|(?:\blocal\s+\w+\s*=\s*)?\b(?:require|include)\s*(?:\(\s*)?[\"'][^\"'\n]+[\"'](?:\s*\))?"
)
"""What is to be copied even where nothing marks it: an element, or what brings another file in."""
_QUOTED = re.compile(r"[\"“„](?P<text>[^\"“”„]{3,120})[\"”“](?=[.,;]?(?:\s|$))")
_STATEMENT = re.compile(r"[a-z]\w* +[\w./\\'-]+(?:::[\w.]+)*;|[a-z]\w* +\w+(?:::\w+)+;?|[\w.:]+\([^()]*\);")
"""What nobody writes in prose but to be copied."""
_CELLS = re.compile(r"\s*\|?[^|\n]*\|[^|\n]*\|")
"""A row of a table, with words or not."""
_KEYED = re.compile(r"\s+[a-z_]\w*(?:\s*[:=]\s*|\s+)[\w./\\\"'-]+\s*")
_PAIR = re.compile(r"\s+[a-z_]\w*(?:\s*[:=]\s*|\t\s*|\s{2,})[\w./\\\"'-]+\s*")
"""A key and its value, in columns."""
_LABELLED = re.compile(
    r"\s*[A-Za-zÀ-ÿ][\w ]{1,20}:\s+"
    r"(?:(?:local\s+\w+\s*=\s*)?\b(?:require|include)\b.*|[\w.:]+\([^()]*\);?\s*|import\s.+)"
)
"""A word for a place, and a statement that goes there."""
_TAIL = re.compile(r"[:：]\s+(?P<code>\S.*)$")
_FRONT = re.compile(
    r"\s*(?:\[{1,2}[\w .:-]+\]{1,2}|[\w./\\-]+\.[a-z]\w{1,4})"
    r"(?P<gap>\s{2,}|\t\s*|\s+(?:gets?|bekommt|kriegt|erhält|reçoit)\s+)(?P<code>\S.*)$"
)
"""A section or a file, and in the next column what goes there; or that it gets it."""
_OF_FILE = re.compile(r"\s*(?:(?:[-*•+]|[(\[]?\d{1,2}[.):\]])\s+)?[\w./\\-]+\.[a-z]\w{1,4}:\s+\S")
"""A file, and behind a colon what goes there: `2) places.csv: heron;3;0`."""
_CALLED = re.compile(r"\w\([^()]*\)?")
_NEAR = 5
"""Lines of prose in front of a text that are about it."""


class Chunk(Struct, frozen=True, kw_only=True):
    """A text that is to be copied somewhere, with what is said about it."""

    notes: str
    """The file."""
    lines: tuple[Line, ...]
    near: tuple[Line, ...]
    """Said just before it, or in the same line."""
    far: tuple[Line, ...]
    """Said earlier in the same part of the notes, its heading first."""
    after: str = ""
    """The line below."""
    inline: bool = False
    """A few words within a sentence."""
    gap: Gap | None = None
    tabled: bool = False
    """A row of a table, whose titles are its keys."""

    @property
    def text(self) -> str:
        """The lines of the chunk as one text."""
        return "\n".join(line.text for line in self.lines)

    @property
    def first(self) -> int:
        """The number of its first line in the notes."""
        return self.lines[0].number

    @property
    def said(self) -> str:
        """The sentence that introduces it."""
        return "\n".join(line.text for line in self.near)

    @property
    def around(self) -> str:
        """The lines before and after it."""
        return "\n".join(line.text for line in self.far)


def is_statement(text: str) -> bool:
    """Whether a text is a statement that nobody writes in prose but to be copied: `use gate::opening;`."""
    return _STATEMENT.fullmatch(text.strip()) is not None


def looks_like_code(text: str) -> bool:
    """Whether a line of plain text is more likely to be copied than to be read."""
    body = _BEHIND.sub("", text.strip())
    if not body or ("->" in body and "(" not in body):
        return False
    if not any(pattern.fullmatch(body) for pattern in _CODE):
        return _ROW.fullmatch(body) is not None and _are_cells(body)
    outside = re.sub(r"\"[^\"]*\"|'[^']*'|“[^”]*”|<[^<>]*>|>[^<]*<", " ", body)
    words = _WORD.findall(outside)
    marks = sum(outside.count(mark) for mark in "=(){}[];,_./:|")
    return len(words) <= 5 or marks * 2 >= len(words)


def _are_cells(body: str) -> bool:
    """Whether what stands between separators are cells of a table: a sentence has commas, too, with a blank behind."""
    cells = _CUT.split(body)
    apart = "|" in body or "\t" in body or re.search(r"[;,](?!\s|$)", body) is not None
    spoken = any(len(_WORD.findall(cell)) > _CELL // 2 and not _MARKED.search(cell) for cell in cells)
    return max(len(cell.split()) for cell in cells) <= _CELL and (apart or not spoken)


def chunks_of(notes: Notes, openings: Container[str] = (), heads: Sequence[Pattern] = ()) -> Iterator[Chunk]:
    """Every text that may be meant to be copied, in file order. `openings` are words that entries of the map begin
    with, `heads` are for the first lines of entries that go on as prose does."""
    # What the file is called counts as said: `add to scene nodes.txt`.
    called = Line(0, re.sub(r"[_\W]+", " ", notes.path.rpartition("/")[2].rpartition(".")[0]) + ":")
    near: list[Line] = [called]
    far: list[Line] = []
    held: list[Line] = []
    listed: list[Line] = []
    fresh = True
    lines = (*notes.lines, Line(0, "", heading=True))
    for index, line in enumerate(lines):
        if line.sign:
            listed.append(line)
            continue
        if listed:
            for rows, gap in stretches_in(listed):
                yield Chunk(notes=notes.path, lines=rows, near=tuple(near), far=tuple(far[-8:]), gap=gap)
            far += [said for said in near if said not in far[-_NEAR:]]
            listed, fresh = [], False
        code = _is_code(lines, index, held) or _opens(line.text, openings) or _is_below_head(lines, index, heads)
        if line.number and code:
            held.append(line)
            continue
        if not line.text.strip() and line.number:
            if held:
                held.append(line)
            continue
        if held:
            yield _chunk(notes, held, near, far, line.text)
            far += near
            held, fresh = [], False
            if _ends(line.text):
                far.append(line)
                continue
        if line.heading:
            near, far, fresh = [line], far[-2:] if line.number else [], True
            continue
        if not fresh:
            # Under `after:` it is about the same as under `before:`.
            near, fresh = (near if _is_label(line.text) else []), True
        # A row of a table is by itself, and what is said below it is not of it.
        most = 0 if any(_CELLS.match(one.text) for one in (*near[-1:], line)) else _NEAR - 1
        far += near[: len(near) - most] if len(near) > most else []
        near = [*(near[-most:] if most else []), line]
        yield from _inline(notes, line, near, far, openings)


def _opens(text: str, openings: Container[str]) -> bool:
    """Whether a line is a word that entries of the map begin with, and names behind it: `use machines/winch`."""
    first, *rest = text.strip().rstrip(";.,").split() or [""]
    return (
        first in openings
        and 0 < len(rest) < _CELL
        and all(_NAMED.fullmatch(word) for word in rest)
        and any(re.search(r"[\d_./\\:]", word) for word in rest)
    )


def _is_below_head(lines: Sequence[Line], index: int, heads: Sequence[Pattern]) -> bool:
    """Whether a line is the first one of an entry, with a text below it, or stands in the text below such a one."""
    for at in range(index, max(index - _BLOCK, -1), -1):
        line = lines[at]
        if not line.text.strip() or line.heading:
            return False
        if any(head.search(line.text) for head in heads):
            return at < index or bool(lines[at + 1].text.strip())
    return False


def _is_open(held: Sequence[Line]) -> bool:
    """Whether a text that is being read has a brace that is not closed yet."""
    text = "".join(line.text for line in held)
    return len(held) < _BLOCK and text.count("{") > text.count("}")


def _is_tagged(lines: Sequence[Line], index: int, held: Sequence[Line]) -> bool:
    """Whether a text that is being read began with a tag which a line that follows ends: `[door]` … `[/door]`."""
    tag = _TAG.match(held[0].text)
    end = "" if tag is None else f"[/{tag['word']}]"
    return bool(end) and any(line.text.strip() == end for line in lines[index : index + _BLOCK])


def _is_code(lines: Sequence[Line], index: int, held: list[Line]) -> bool:
    line = lines[index]
    if line.code:
        return bool(line.text.strip()) or bool(held)
    if held and line.text.strip() and (_is_open(held) or _is_tagged(lines, index, held)):
        return True
    if _STEP.match(line.text) and len(_WORD.findall(_QUOTED.sub(" ", line.text))) > _FEW:
        # A numbered step with quotations in it is a sentence.
        return False
    if line.heading or not line.text.strip() or (_CELLS.match(line.text) and "`" in line.text) or _last_cell(line):
        return False
    front = _FRONT.match(line.text)
    if (front is not None and front["gap"].strip()) or _OF_FILE.match(line.text):
        return False
    text = _BULLET.sub("", line.text) if not line.text.lstrip().startswith("- ") else line.text
    if _PATH.fullmatch(text.strip()):
        # Alone, the path of a file says what the lines below it are for; in a list, it is a row of one.
        return any(_PATH.fullmatch(lines[n].text.strip()) for n in (index - 1, index + 1) if 0 <= n < len(lines))
    if _LABELLED.fullmatch(text) or _is_label(text):
        # `start: gate.open(3)` says where it goes, `before:` what it was.
        return False
    if looks_like_code(text) or _is_keyed(lines, index):
        return True
    # A key with nothing behind it is one only where what lies below it is indented further.
    below = next((one for one in lines[index + 1 : index + 3] if one.text.strip()), None)
    return (
        bool(re.fullmatch(r"\s*[\w\"'-]+:\s*", line.text))
        and below is not None
        and looks_like_code(below.text)
        # Where the indentation was lost, only a name that nobody would write in prose.
        and ("_" in line.text or (_lead(below.text) > _lead(line.text) > 0))
        and _lead(below.text) >= _lead(line.text)
    )


def _last_cell(line: Line) -> str:
    """What is to be copied in a row of a table of prose: `| main.lua | imports | require("gate") |`; the cells in front
    of it say where. Empty for any other line."""
    text = line.text.strip()
    if not (text.startswith("|") and text.endswith("|")) or "`" in text:
        return ""
    *ahead, last = [cell.strip() for cell in text.strip("|").split("|")]
    said = any(_WORD.search(cell) for cell in ahead)
    return last if said and looks_like_code(last) and _CALLED.search(last) is not None else ""


def _is_label(text: str) -> bool:
    source = "|".join(words()["becomes"][key] for key in ("old", "new", "wrong", "right"))
    return re.fullmatch(rf"\W*(?:{source})\W*:\s*", text, re.IGNORECASE) is not None


def _ends(text: str) -> bool:
    """Whether a line below a text to be copied ends the sentence that the text stands in: "as the first line." """
    body = text.strip()
    copied = "`" in body or _WHOLE.search(body) or _TAIL.search(body)
    return body[:1].islower() and body.endswith((".", "!")) and not copied


def _is_keyed(lines: Sequence[Line], index: int) -> bool:
    """Whether a line is one of several keys with their values, in columns."""
    if not _KEYED.fullmatch(lines[index].text):
        return False
    start = end = index
    while start and _KEYED.fullmatch(lines[start - 1].text):
        start -= 1
    while end < len(lines) and _KEYED.fullmatch(lines[end].text):
        end += 1
    return sum(_PAIR.fullmatch(line.text) is not None for line in lines[start:end]) > 1


def _lead(text: str) -> int:
    return len(text.expandtabs(4)) - len(text.expandtabs(4).lstrip())


def _chunk(notes: Notes, held: list[Line], near: list[Line], far: list[Line], after: str) -> Chunk:
    while held and not held[-1].text.strip():
        held.pop()
    return Chunk(notes=notes.path, lines=tuple(held), near=tuple(near), far=tuple(far[-8:]), after=after)


def _inline(notes: Notes, line: Line, near: list[Line], far: list[Line], openings: Container[str]) -> Iterator[Chunk]:
    """What is to be copied within a sentence."""
    found = [match[1] for match in _TICKED.finditer(line.text)]
    found += [match.group() for match in _WHOLE.finditer(line.text) if not any(match.group() in one for one in found)]
    # `it wants "use gate::opening;" below the other imports`
    quoted = [match["text"] for match in _QUOTED.finditer(line.text) if is_statement(match["text"])]
    found += [text for text in quoted if not any(text in one or one in text for one in found)]
    given = re.finditer(
        rf"(?<![\w-])(?:{words()['parts']['gives']})\s+(?P<call>[\w.:]+\([^()\n]*\);?)", line.text, re.I
    )
    found += [match["call"] for match in given if not any(match["call"] in one for one in found)]
    found += [cell for cell in (_last_cell(line),) if cell and not found]
    tail = _FRONT.match(line.text) or _TAIL.search(line.text)
    code = tail["code"] if tail is not None and not found else ""
    whole = _QUOTED.fullmatch(code.rstrip(".,; "))
    if whole is not None:
        # `one row in your list: "script gate.lua"`
        code = whole["text"]
    if code and (whole is not None or looks_like_code(code) or _opens(code, openings)):
        found.append(code)
    if _FRONT.match(line.text) is not None and found == [code]:
        # What stands in front is said of this one alone.
        near, far = [line], [*far, *(one for one in near if one is not line)]
    for text in _with_sections(line.text, found):
        if text.endswith(("/", "\\")):
            # A folder is where something lies, and nothing to be copied.
            continue
        code = tuple(Line(line.number, row) for row in text.split("\n"))
        yield Chunk(notes=notes.path, lines=code, near=tuple(near), far=tuple(far[-8:]), inline=True)


def _with_sections(said: str, found: Sequence[str]) -> Iterator[str]:
    """The texts in a sentence; a new section with its keys is one: "a section `[crane]` with `file = crane.gltf`"."""
    held: list[str] = []
    for text in found:
        before = said.partition(f"`{text}`")[0]
        joined = re.search(rf"`\W*(?:{words()['in']['with']})?\W*$", before, re.IGNORECASE) is not None
        if held and joined and _GIVEN.fullmatch(text):
            held.append(text)
            continue
        if held:
            yield "\n".join(held)
            held = []
        if _SECTION.fullmatch(text) and re.search(rf"(?:{words()['in']['section']})\W*$", before, re.IGNORECASE):
            held = [text]
        else:
            yield text
    if held:
        yield "\n".join(held)
