"""Setting statements into a script: where they go, whether they are there, and how they are written."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterator
from typing import Literal

from msgspec import Struct
from tree_sitter import Node

from hookset.formats._script.script import Function, Script
from hookset.formats._script.tables import existing_items, put_items
from hookset.formats._writing import lead_of, written_lines
from hookset.formats.base import AlreadyThere, Body, Edit, Edits, ExistingEntry, NoSeat, Placement, WrongBody
from hookset.trees import Text

__all__ = ["ScriptSeat", "existing", "put"]


class ScriptSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A spot among the statements of the file, or of one function."""

    inside: str | None = None
    """`function NAME`: within it; otherwise among the statements of the file."""
    at: Literal["start", "end"] | None = None
    """First or last there; before a closing `return`."""
    after: Literal["first", "last"] | None = None
    """Below the first or last statement that makes the `call`, or that imports."""
    call: str | None = None
    """The function that is called there; without it, `after` goes by import statements."""
    otherwise: Literal["top", "refuse"] = "top"
    """Where there is none yet: under the opening comment, or not at all."""
    into: str | None = None
    """The way to a table, an object or a list, whose items entries become: `SOUNDS.bells`; `return.files` of what the
    file returns or exports; `declare().files` of what a call is given."""
    form: Literal["keys", "row"] = "keys"
    """Whether the keys of a record become items, or the record becomes one item."""

    def __post_init__(self) -> None:
        if self.into is not None and (self.inside is not None or self.after is not None or self.call is not None):
            raise ValueError("into goes with at and form only: an item stands first or last")
        if self.into is not None and "" in self.into.split("."):
            raise ValueError(f"{self.into!r} is no way to a table: a name, and keys with dots between them")
        if self.into is not None:
            return
        if (self.at is None) == (self.after is None):
            raise ValueError("one of at and after says where the entry goes")
        if self.call is not None and self.after is None:
            raise ValueError("after and call go together: after the last call of what?")
        if self.inside is not None and not self.inside.startswith("function "):
            raise ValueError('inside reads "function NAME"')


def put(script: Script, seat: ScriptSeat, body: Body) -> Placement:
    """How `body`'s statements, or items of a table, would be set at `seat`."""
    if seat.into is not None:
        return put_items(script, seat.into, seat.at or "end", seat.form, body)
    if body.text is None:
        return WrongBody(f"statements in {script.TITLE}")
    hook = type(script)(Text(body.text, "utf-8"))
    if not hook.parses or not hook.statements(hook.root):
        return WrongBody(f"statements in {script.TITLE}, which its text does not parse as")
    function: Function | None = None
    if seat.inside is not None:
        name = seat.inside.removeprefix("function ").strip()
        named = [f for f in script.functions if f.name == name]
        if len(named) != 1:
            lines = ", ".join(str(f.node.start_point[0] + 1) for f in named)
            often = f" (it is there {len(named)} times, in lines {lines})" if named else ""
            return NoSeat(f"one function named {name}{often}", tuple(f.name for f in script.functions))
        function = named[0]
    there = script.statements(script.root if function is None else script.body(function.node))
    if (found := _standing(script, there, hook)) is not None:
        return AlreadyThere(script.start(found))
    return _placed(script, seat, function, there, body.text)


def existing(script: Script, seat: ScriptSeat) -> Iterator[ExistingEntry]:
    """The statements that stand where the seat's own do: those that make its call or import; or all of a function's.
    Where there is no such function, those of the file, since a pasted text seldom shows the function around it. For a
    table its items."""
    if seat.into is not None:
        yield from existing_items(script, seat.into)
        return
    function = None
    if seat.inside is not None:
        name = seat.inside.removeprefix("function ").strip()
        function = next((f for f in script.functions if f.name == name), None)
    inside = script.root if function is None else script.body(function.node)
    for node in script.statements(inside):
        if seat.after is None or _is_landmark(script, node, seat):
            start, end = script.start(node), script.end(node)
            yield ExistingEntry(start, end, Body(text=_dedented(script.text.string, start, end)))


def _dedented(string: str, start: int, end: int) -> str:
    """A statement without the blanks that all of its lines begin with."""
    return textwrap.dedent(lead_of(string, start) + string[start:end]).strip()


def _standing(script: Script, there: list[Node], hook: Script) -> Node | None:
    """The first of the hook's statements where all of them stand in a row already."""
    wanted = [hook.tokens(node) for node in hook.statements(hook.root)]
    # One word distinguishes most statements, and is cheaper to look for than all their tokens.
    words = [max((token for token in tokens if token.isidentifier()), key=len, default="") for tokens in wanted]
    source = script.text.utf8
    for index in range(len(there) - len(wanted) + 1):
        row = there[index : index + len(wanted)]
        if (
            all(word.encode() in source[n.start_byte : n.end_byte] for word, n in zip(words, row, strict=True))
            and [script.tokens(node) for node in row] == wanted
        ):
            return there[index]
    return None


def _placed(script: Script, seat: ScriptSeat, function: Function | None, there: list[Node], text: str) -> Placement:
    if seat.after is not None:
        marks = [node for node in there if _is_landmark(script, node, seat)]
        if marks:
            return _below(script, marks[0] if seat.after == "first" else marks[-1], text)
        if seat.otherwise == "refuse":
            looked_for = f"a call of {seat.call}" if seat.call is not None else "an import"
            return NoSeat(looked_for, tuple(sorted(script.calls)))
        if function is None:
            return _under_opening_comment(script, text)
    if there and seat.at == "end":
        last = there[-1]
        return _above(script, last, text) if last.type == "return_statement" else _below(script, last, text)
    if there:
        return _above(script, there[0], text)
    return _alone(script, function, text)


def _is_landmark(script: Script, statement: Node, seat: ScriptSeat) -> bool:
    if seat.call is not None:
        return script.makes_call(statement, seat.call)
    return statement.type == script.IMPORT


def _below(script: Script, statement: Node, text: str) -> Edits:
    string = script.text.string
    end = script.end(statement)
    line_end = string.find("\n", end)
    line_end = len(string) if line_end < 0 else line_end
    rest = string[end:line_end].rstrip("\r")
    if rest.strip(" \t;") and not rest.strip(" \t;").startswith(("--", "//", "/*")):
        # Something else follows on this line: open one below the statement itself.
        lead = lead_of(string, script.start(statement))
        return _one(end, script.text.newline + written_lines(script.text, text, lead))
    at = end + len(rest)
    return _one(at, script.text.newline + written_lines(script.text, text, lead_of(string, script.start(statement))))


def _above(script: Script, statement: Node, text: str) -> Edits:
    string, start = script.text.string, script.start(statement)
    lead = lead_of(string, start)
    line_start = string.rfind("\n", 0, start) + 1
    if string[line_start:start].strip():
        return _one(start, written_lines(script.text, text, lead).lstrip(" \t") + script.text.newline + lead)
    return _one(line_start, written_lines(script.text, text, lead) + script.text.newline)


def _under_opening_comment(script: Script, text: str) -> Edits:
    string, newline = script.text.string, script.text.newline
    opening = re.match(script.OPENING, string)
    at = opening.end() if opening else 0
    new = written_lines(script.text, text, "")
    if at and string[at - 1] != "\n":
        return _one(at, newline + new + newline)
    return _one(at, new + newline)


def _alone(script: Script, function: Function | None, text: str) -> Edits:
    """Into a scope without any statement."""
    string, newline = script.text.string, script.text.newline
    if function is None:
        end = len(string)
        gap = "" if not string or string.endswith("\n") else newline
        return _one(end, gap + written_lines(script.text, text, "") + newline)
    closing = script.start(script.closing(function.node))
    lead = lead_of(string, script.start(function.node))
    new = written_lines(script.text, text, lead + script.text.indent)
    line_start = string.rfind("\n", 0, closing) + 1
    if not string[line_start:closing].strip():
        return _one(line_start, new + newline)
    start = closing - (len(string[:closing]) - len(string[:closing].rstrip(" \t")))
    return Edits((Edit(start, closing, newline + new + newline + lead),))


def _one(at: int, text: str) -> Edits:
    return Edits((Edit(at, at, text),))
