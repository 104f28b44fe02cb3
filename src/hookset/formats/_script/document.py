"""A script as a document: what a layout can ask of it, whatever its language."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import chain
from typing import Any, Literal

from msgspec import Struct, structs
from tree_sitter import Node

from hookset.formats._script.globals import OWN, global_names
from hookset.formats._script.guards import guarded_parts
from hookset.formats._script.queries import Captured
from hookset.formats._script.script import RETURNED, Script
from hookset.formats._script.seats import ScriptSeat, existing, put
from hookset.formats._script.tables import keys_written, pair, put_into
from hookset.formats._values import as_words, reads_as_number
from hookset.formats._wildcards import ByName, meant
from hookset.formats.base import Body, Edit, Edits, ExistingEntry, Placement, Unreadable, Value
from hookset.formats.document import Editable, HasGuards, HasIndex, HasParts, HasRows, Preparable
from hookset.formats.parts import Part, Parts, PartTable
from hookset.model import Where
from hookset.trees import Text

__all__ = ["ScriptDocument", "ScriptSelector", "opened"]

_WIDEST = 10_000
"""Statements that a file which does not parse may have and still be looked into."""


class ScriptSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """One of the ways to name values in a script."""

    call: str | None = None
    """The function that is called, as it is written: `require`, `audio.play`, `scene:find`; `*.play` for any owner."""
    arg: int = 1
    """Which argument of the call, from one."""
    words: bool = False
    """With `call` or `query`: names that are given rather than texts, as they are written: `SOUNDS.bell`."""
    field: str = ""
    """With `call` or `assign`: the way to a value in the table that is given or set: `Sounds.ready`, `files.*`,
    `*.name`. Items of lists have numbers, as the language counts them."""
    keys: bool = False
    """With `call` or `assign`: the keys of the table there, rather than what it is."""
    assign: str | None = None
    """What this name is set to; `SOUNDS.*` for all that is in a table or an object, `return` for what the file gives to
    those that load it."""
    members: str | None = None
    """The names of what is in this table or object, with its own: `SOUNDS.bell`."""
    function: Literal["*"] | None = None
    """The names of the functions that the script defines, but for those that no other file can call."""
    imports: bool = False
    """What import statements name, in languages that have them."""
    strings: bool = False
    """Every text in the script, for rules that say by `only` which of them they mean: `[.]png$`."""
    query: str | None = None
    """A tree-sitter query that captures `@value`."""
    globals: Literal["set", "used"] | None = None
    """In Lua: the names that the script sets without `local`, or those that it counts on and that are neither local nor
    Lua's own."""
    rest: bool = False
    """With `call`: that argument and all behind it."""

    def meant(self, given: Sequence[Node]) -> Sequence[Node]:
        """Those of the arguments of a call that are asked for."""
        return given[self.arg - 1 :] if self.rest else given[self.arg - 1 : self.arg]

    def __post_init__(self) -> None:
        ways = (self.call, self.assign, self.members, self.function, self.query, self.globals)
        if sum(way is not None for way in ways) + self.imports + self.strings != 1:
            known = "call, assign, members, function, imports, strings, globals and query"
            raise ValueError(f"one of {known} says which values are meant")
        if "" in ways:
            raise ValueError("is empty: name what is called, set, looked into or asked for")
        if self.arg < 1:
            raise ValueError("arg counts from one")
        if self.rest and self.call is None:
            raise ValueError("rest goes with call")
        if self.words and self.call is None and self.query is None:
            raise ValueError("words goes with call or query")
        if self.field and self.call is None and self.assign is None:
            raise ValueError("field goes with call or assign")
        if self.keys and (self.words or (self.call is None and self.assign is None)):
            raise ValueError("keys goes with call or assign, without words")
        if self.field and "" in self.field.split("."):
            raise ValueError(f"{self.field!r} is no way to a value: keys with dots between them, and * for any")


def opened(script: Script) -> ScriptDocument:
    """Raises Unreadable for what is so far from the language that looking into it would take minutes."""
    error = script.first_error()
    if error is not None and script.root.child_count > _WIDEST:
        # Queries over so flat a tree take time that grows with its square.
        raise Unreadable(f"does not parse as {script.TITLE} from here on", script.start(error))
    return ScriptDocument(script)


_NAMED = ("true", "false")
_JOINS = ("..", "+")
"""What puts texts together, in one language or another."""


@dataclass(frozen=True)
class ScriptDocument(Preparable, HasIndex, HasRows, HasGuards, HasParts, Editable):
    script: Script
    queries: tuple[str, ...] = ()
    """Queries that will be asked for, each once."""

    def prepared(self, selectors: Iterable[ScriptSelector]) -> ScriptDocument:
        return replace(self, queries=tuple(dict.fromkeys(one.query for one in selectors if one.query)))

    def may_match(self, selectors: Sequence[ScriptSelector]) -> Collection[int]:
        return frozenset(number for number, one in enumerate(selectors) if self._may_name(one))

    def _may_name(self, selector: ScriptSelector) -> bool:
        """Whether the file has such a call, or sets such a name."""
        if selector.call:
            return bool(self._callees(selector.call))
        return not selector.assign or selector.assign == RETURNED or selector.assign in self._bound

    @cached_property
    def _found(self) -> dict[str, list[Captured]]:
        return self.script.queries(self.queries)

    @property
    def text(self) -> Text:
        """The file as it is written."""
        return self.script.text

    @property
    def problems(self) -> tuple[tuple[str, Where], ...]:
        error = self.script.first_error()
        if error is None:
            return ()
        near = self.script.string_of(error).split("\n")[0].strip()[:40]
        what = f"a missing {error.type}" if error.is_missing else f"near `{near}`" if near else "at its end"
        return ((f"does not parse as {self.script.TITLE}, {what}{self.script.hint}", self.script.start(error)),)

    def select(self, selector: ScriptSelector) -> Iterator[Value]:
        for name, found in _WAYS.items():
            if getattr(selector, name):
                yield from found(self, selector)
                return

    def _arguments(self, selector: ScriptSelector) -> Iterator[Value]:
        script = self.script
        for node in self._calls(selector.call or ""):
            for argument in selector.meant(script.arguments(node)):
                if selector.field or selector.keys:
                    yield from (value for value, _ in self._in_table(argument, selector))
                elif not selector.words:
                    yield from self._values(argument)
                elif argument.type in script.NAMES:
                    yield Value(script.string_of(argument), script.start(argument))

    def _assigned(self, selector: ScriptSelector) -> Iterator[Value]:
        for value in self._set_to(selector.assign or ""):
            if selector.field or selector.keys:
                yield from (said for said, _ in self._in_table(value, selector))
            else:
                yield from self._values(value)

    def _set_to(self, name: str) -> Iterator[Node]:
        """What names are set to, or what the file gives to those that load it."""
        if name == RETURNED:
            yield from self.script.returned()
            return
        yield from self._bound.of(name)

    @cached_property
    def _bound(self) -> ByName[Node]:
        return ByName(self.script.bindings)

    def _in_table(self, node: Node, selector: ScriptSelector) -> Iterator[tuple[Value, Node]]:
        """What a selector means in a table, each with the table that says what stands beside it: for keys, the one
        around theirs."""
        if not selector.keys:
            found = self._fields(node, selector.field)
            yield from ((value, owner) for one, owner in found for value in self._values(one))
            return
        for table, owner in self._fields(node, selector.field) if selector.field else [(node, node)]:
            for piece in self.script.scopes.pieces(table) or []:
                if isinstance(piece, Node) and self.script.unwrapped(piece).type in self.script.LISTS:
                    for key in self.script.keys(piece):
                        yield from ((value, owner) for value in self._key(key))

    def _key(self, key: Node) -> Iterator[Value]:
        if self.script.is_bare_key(key):
            yield Value(self.script.string_of(key), self.script.start(key))
        else:
            yield from self._values(key)

    def _fields(self, node: Node, way: str) -> Iterator[tuple[Node, Node]]:
        """The values that a way leads to in a table, each with the table that it stands in."""
        owners: list[Node] = [node]
        *steps, last = way.split(".")
        for step in steps:
            owners = [value for _, value in self._items(owners, step)]
        yield from ((value, owner) for owner, value in self._items(owners, last))

    def _items(self, owners: Iterable[Node], step: str) -> Iterator[tuple[Node, Node]]:
        """Table and item of each that a step means. Tables that are set elsewhere are followed."""
        is_meant = meant(step)
        for owner in owners:
            for piece in self.script.scopes.pieces(owner) or []:
                if isinstance(piece, Node):
                    yield from ((piece, value) for key, value in self.script.items(piece) if is_meant(key))

    def _members(self, selector: ScriptSelector) -> Iterator[Value]:
        for name, value in self.script.bindings:
            if name.startswith(f"{selector.members}."):
                yield Value(name, self.script.start(value))

    def _functions(self, _: ScriptSelector) -> Iterator[Value]:
        for function in self.script.functions:
            if not self.script.local(function):
                yield Value(function.name, self.script.start(function.node))

    def _imports(self, _: ScriptSelector) -> Iterator[Value]:
        for node in self.script.query(f"({self.script.IMPORT}) @value") if self.script.IMPORT else ():
            source = node.child_by_field_name("source")
            if source is not None:
                yield from self._values(source)

    def _strings(self, _: ScriptSelector) -> Iterator[Value]:
        script = self.script
        nodes = (node for kind in script.STRING for node in script.query(f"({kind}) @value"))
        whole = {text.id: text for text in (_whole(script, node) for node in nodes)}
        for node in sorted(whole.values(), key=lambda node: node.start_byte):
            yield from self._values(node)

    def _globals(self, selector: ScriptSelector) -> Iterator[Value]:
        found = ((node, self.script.string_of(node), is_set) for node, is_set in global_names(self.script))
        if selector.globals == "used":
            yield from (
                Value(name, self.script.start(node)) for node, name, is_set in found if not is_set and name not in OWN
            )
            return
        first = {name: node for node, name, is_set in reversed(list(found)) if is_set}
        for name, node in sorted(first.items(), key=lambda one: one[1].start_byte):
            yield Value(name, self.script.start(node))

    def _queried(self, selector: ScriptSelector) -> Iterator[Value]:
        for node, _ in self._captured(selector):
            yield from self._of_node(selector, node)

    def _of_node(self, selector: ScriptSelector, node: Node) -> Iterator[Value]:
        """What a captured node is, or its name."""
        if not selector.words:
            yield from self._values(node)
        elif node.type in self.script.NAMES:
            yield Value(self.script.string_of(node), self.script.start(node))

    def _as_row(self, node: Node) -> str:
        """What a node says beside another one: a name as it is written, what it is where that is known."""
        said = self._only(node)
        return self.script.string_of(node) if "*" in said and node.type in self.script.NAMES else said

    def _captured(self, selector: ScriptSelector) -> list[Captured]:
        query = selector.query or ""
        return self._found[query] if query in self.queries else self.script.queries([query])[query]

    def guarded(self, selector: ScriptSelector | None) -> Iterator[tuple[str, int, int]]:
        if selector is None:
            return ((part.name, part.start, part.end) for part in guarded_parts(self.script, self._tested))
        calls = {node.id: node for node in self._calls(selector.call or "")}

        def asked(node: Node) -> str | None:
            given = selector.meant(self.script.arguments(node)) if node.id in calls else []
            texts = {text for one in given for text, _ in self.script.meanings(one) if "*" not in text}
            return next(iter(texts)) if len(texts) == 1 else None

        return ((part.name, part.start, part.end) for part in guarded_parts(self.script, asked))

    def _tested(self, node: Node) -> str | None:
        """A name of another file that stands as a condition by itself."""
        plain = node.type == "identifier" and not self.script.scopes.local(node)
        return self.script.string_of(node) if plain else None

    def rows(self, selector: ScriptSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """Arguments of calls, with all arguments of the same call by their numbers; what stands in a table, with the
        other items of it by their keys."""
        if selector.field or selector.keys:
            yield from self._rows_of_fields(selector)
            return
        if selector.query is not None:
            for captured, others in self._captured(selector):
                row = {name: self._as_row(other) for name, other in others.items()}
                yield from ((value, row) for value in self._of_node(selector, captured))
            return
        if selector.call is None:
            yield from ((value, {}) for value in self.select(selector))
            return
        for node in self._calls(selector.call):
            given = self.script.arguments(node)
            row = {str(number): self._only(one) for number, one in enumerate(given, 1)}
            for at, one in enumerate(selector.meant(given), selector.arg):
                unknown = any("*" in text for number, text in row.items() if number != str(at))
                for value in self._values(one):
                    yield structs.replace(value, pattern=value.pattern or unknown), row

    def _rows_of_fields(self, selector: ScriptSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        given: list[tuple[Node, Mapping[str, str]]] = []
        for node in self._calls(selector.call or "") if selector.call is not None else ():
            arguments = self.script.arguments(node)
            if meant := selector.meant(arguments):
                others: Mapping[str, str] = {str(number): self._only(one) for number, one in enumerate(arguments, 1)}
                given += ((one, others) for one in meant)
        if selector.assign is not None:
            given += ((value, {}) for value in self._set_to(selector.assign))
        for whole, others in given:
            for value, owner in self._in_table(whole, selector):
                yield value, {**others, **{key: self._only(one) for key, one in self.script.items(owner)}}

    def _only(self, node: Node) -> str:
        """What an argument is, where it can be one thing only."""
        meanings = {meaning for meaning, _ in self.script.meanings(node)}
        return meanings.pop() if len(meanings) == 1 else "*"

    def _calls(self, name: str) -> list[Node]:
        found = [self.script.calls[callee] for callee in self._callees(name)]
        return found[0] if len(found) == 1 else sorted(chain.from_iterable(found), key=lambda node: node.start_byte)

    def _callees(self, name: str) -> list[str]:
        """What is called and has such a name; one that begins with `*` has any owner."""
        if not name.startswith("*"):
            return [name] if name in self.script.calls else []
        end = name[1:]
        return [callee for callee in self.script.calls if callee.endswith(end)]

    def _values(self, node: Node) -> Iterator[Value]:
        script = self.script
        if node.type in script.STRING and not script.known:
            # Most are a text as it stands.
            yield Value(script.unquoted(script.string_of(node)), script.start(node))
            return
        for meaning, stands in dict.fromkeys(self.script.meanings(node)):
            literal = stands.type in self.script.STRING or "*" not in meaning
            yield Value(meaning, self.script.start(stands), pattern=not literal)

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        spans: dict[Where, tuple[int, int]] = {}
        for where in wheres:
            if isinstance(where, int):
                node = self._node_at(where)
                spans[where] = (where, self.script.end(node) if node is not None else where)
        return spans

    def places(self, selector: ScriptSelector) -> Iterator[tuple[Where, Any]]:
        """What is known in part only may still be one number, with its sign before it."""
        for value in self.select(selector):
            source = self.script.text.string[slice(*self.spans([value.where])[value.where])]
            plain = value.pattern and (reads_as_number(source) or source in _NAMED)
            yield value.where, source if plain else None if value.pattern else value.text

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        """A text stays one, in its quotes where it can; a number stays a number."""
        old = self.script.text.string[slice(*span)]
        if self._bare_key(span[0]):
            yield from (Edit(*span, new) for new in keys_written(self.script, str(value)))
            return
        if reads_as_number(old) or old in _NAMED:
            words = as_words(value, old)
            if words is not None and (reads_as_number(words) or words in _NAMED):
                yield Edit(*span, words)
            return
        if self.script.is_text(old):
            words = as_words(value, self.script.unquoted(old))
            if words is not None:
                yield from (Edit(*span, new) for new in self.script.quoted(old, words))

    def _bare_key(self, start: int) -> bool:
        """Whether a key stands there that is written as a plain name."""
        node = self._node_at(start)
        return node is not None and self.script.is_bare_key(node)

    def _node_at(self, start: int) -> Node | None:
        byte = len(self.script.text.string[:start].encode("utf-8", "surrogatepass"))
        return self.script.root.named_descendant_for_byte_range(byte, byte + 1)

    def parts(self, selector: ScriptSelector, ways: Sequence[str]) -> PartTable:
        """Calls with their arguments by number (`1`, `2/at`), or tables with their items."""
        return PartTable.of(self._parts(selector, [tuple(way.split("/")) for way in ways]), ways)

    def _parts(self, selector: ScriptSelector, steps: Sequence[tuple[str, ...]]) -> Iterator[Parts]:
        for record, given in self._records(selector):
            found = (self._at(given, way) for way in steps)
            yield Parts(self.script.start(record), tuple(None if one is None else self._part(one) for one in found))

    def records(self, selector: ScriptSelector) -> Iterator[tuple[Where, Any]]:
        """Calls and tables, each as the texts and numbers in it."""
        for record, given in self._records(selector):
            yield self.script.start(record), {key: self._only(value) for key, value in given}

    def _records(self, selector: ScriptSelector) -> Iterator[tuple[Node, list[tuple[str, Node]]]]:
        """The calls or tables that a selector means, and what is in each by its number or key."""
        script = self.script
        if selector.call is not None and not selector.field:
            for call in self._calls(selector.call):
                yield call, [(str(number), one) for number, one in enumerate(script.arguments(call), 1)]
            return
        if selector.call is not None:
            given = [selector.meant(script.arguments(call)) for call in self._calls(selector.call)]
            whole = [one for ones in given for one in ones]
        else:
            whole = list(self._set_to(selector.assign or ""))
        tables = [one for node in whole for one, _ in self._fields(node, selector.field)] if selector.field else whole
        yield from ((table, list(script.items(table))) for table in tables if table.type in script.LISTS)

    def _at(self, given: list[tuple[str, Node]], way: tuple[str, ...]) -> Node | None:
        first, *rest = way
        node = next((value for key, value in given if key == first), None)
        return node if node is None or not rest else self._at(list(self.script.items(node)), tuple(rest))

    def _part(self, node: Node) -> Part:
        script = self.script
        if node.type in script.LISTS:
            return Part(script.start(node), tuple(self._part(one) for _, one in script.items(node)))
        source = script.string_of(node)
        said = source if reads_as_number(source) or source in _NAMED else self._only(node)
        return Part(script.start(node), None if "*" in said else said)

    def ways(self, record: Where) -> tuple[str, ...]:
        node = next((one for one in self._tables() if self.script.start(one) == record), None)
        return tuple(key for key, _ in self.script.items(node)) if node is not None else ()

    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        node = next((one for one in self._tables() if self.script.start(one) == record), None)
        if node is None or any("/" in way for way in values):
            return None
        lines = ",\n".join(pair(self.script, way, value) for way, value in values.items())
        return Edits(tuple(put_into(self.script, node, lines)))

    def _tables(self) -> Iterator[Node]:
        waiting = [self.script.root]
        while waiting:
            node = waiting.pop()
            if node.type in self.script.LISTS:
                yield node
            waiting += node.named_children

    def existing(self, seat: ScriptSeat) -> Iterator[ExistingEntry]:
        return existing(self.script, seat)

    def put(self, seat: ScriptSeat, body: Body) -> Placement:
        return put(self.script, seat, body)


def _whole(script: Script, node: Node) -> Node:
    """The text that a string is a part of, where it is put together of several."""
    node = script.formatted_by(node) or node
    while (above := node.parent) is not None and any(child.type in _JOINS for child in above.children):
        node = above
    return node


_WAYS: dict[str, Callable[[ScriptDocument, ScriptSelector], Iterator[Value]]] = {
    "call": ScriptDocument._arguments,
    "assign": ScriptDocument._assigned,
    "members": ScriptDocument._members,
    "function": ScriptDocument._functions,
    "imports": ScriptDocument._imports,
    "strings": ScriptDocument._strings,
    "globals": ScriptDocument._globals,
    "query": ScriptDocument._queried,
}
"""How values are found, by the key of a selector that asks for it."""
