"""YAML 1.1 into nodes with their places, and nodes into data.

The events come from libyaml, which is ten times as fast as a parser in Python; what is made of them is made here, so
that depth and aliases are bounded, tags of a game's own are no obstacle, and keys are what is written.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import yaml
from msgspec import Struct

from hookset.formats.base import Unreadable
from hookset.formats.pointers import escaped
from hookset.trees import excerpt

__all__ = ["YamlOptions", "data_of", "is_text", "keys_given_twice", "last_of", "node_of"]

_DEPTH = 200
_LARGEST_GROWN = 5_000_000
_TOO_DEEP = "is nested too deeply to be a file that somebody made"
_MISTAKES: tuple[tuple[type[Exception], str], ...] = (
    (yaml.scanner.ScannerError, "a value, its quotes or its indentation cannot be read"),
    (yaml.parser.ParserError, "a bracket, a colon or a line does not fit what stands before it,"),
    (yaml.composer.ComposerError, "an anchor or an alias is wrong"),
)
"""What the parser's kinds of error mean. Its own words differ from release to release."""
_RESOLVER: Any = yaml.resolver.Resolver()
_MAKES: Any = yaml.constructor.SafeConstructor()
_SIMPLE = {
    "tag:yaml.org,2002:int": _MAKES.construct_yaml_int,
    "tag:yaml.org,2002:float": _MAKES.construct_yaml_float,
    "tag:yaml.org,2002:bool": _MAKES.construct_yaml_bool,
    "tag:yaml.org,2002:null": _MAKES.construct_yaml_null,
}


class YamlOptions(Struct, frozen=True, forbid_unknown_fields=True):
    documents: bool = False
    """Whether files hold several documents, each after `---`: they are read as a list of them."""


def node_of(string: str, options: YamlOptions) -> Any:
    """The node that a file is made of; None for an empty one. Raises Unreadable."""
    try:
        documents = list(_composed(string))
    except yaml.MarkedYAMLError as error:
        where = min(error.problem_mark.index, len(string)) if error.problem_mark is not None else 0
        if _open_brackets(string, where) > _DEPTH:
            raise Unreadable(_TOO_DEEP, 0) from error
        kind = next((words for sort, words in _MISTAKES if isinstance(error, sort)), "it cannot be read")
        raise Unreadable(f"is not YAML: {kind} {excerpt(string, where)}", where) from error
    except yaml.reader.ReaderError as error:
        where = min(error.position, len(string)) if isinstance(error.position, int) else 0
        raise Unreadable("is not YAML: it holds a character that YAML does not allow", where) from error
    except (yaml.YAMLError, ValueError) as error:
        raise Unreadable("is not YAML", 0) from error
    if options.documents:
        whole: Any = yaml.SequenceNode("", documents)
        whole.start_mark, whole.end_mark = (
            (documents[0].start_mark, documents[-1].end_mark) if documents else (None, None)
        )
        return whole
    if len(documents) > 1:
        said = "holds several documents; a layout reads them as a list by `options = { documents = true }`"
        raise Unreadable(said, documents[1].start_mark.index)
    return documents[0] if documents else None


def _open_brackets(string: str, where: int) -> int:
    """How many brackets are open at an offset, about: those in quotes are counted, too."""
    head = string[:where]
    return head.count("[") + head.count("{") - head.count("]") - head.count("}")


class _Composing:
    """Nodes made of events. What is open is around what comes next."""

    def __init__(self) -> None:
        self._around: list[Any] = []
        self._keys: list[Any] = []
        """For each open node, the key that waits for its value."""
        self._anchors: dict[str | None, Any] = {}
        self.document: Any = None

    def begin(self) -> None:
        """Another document."""
        self._anchors, self.document = {}, None

    def take(self, event: Any) -> None:
        """Raises Unreadable."""
        if isinstance(event, yaml.CollectionEndEvent):
            self._around.pop().end_mark = event.end_mark
            self._keys.pop()
            return
        node = self._aliased(event) if isinstance(event, yaml.AliasEvent) else self._made(event)
        if node is None:
            return
        self._add(node)
        if isinstance(event, yaml.CollectionStartEvent):
            if len(self._around) > _DEPTH:
                raise Unreadable(_TOO_DEEP, 0)
            self._around.append(node)
            self._keys.append(None)

    def _aliased(self, event: Any) -> Any:
        node = self._anchors.get(event.anchor)
        if node is None:
            raise Unreadable(f"names `*{event.anchor}`, which nothing above is called", event.start_mark.index)
        if node in self._around:
            raise Unreadable(f"has `*{event.anchor}` within what it stands for", event.start_mark.index)
        return node

    def _made(self, event: Any) -> Any:
        """The node that begins here; None where none does."""
        start, end = event.start_mark, event.end_mark
        if isinstance(event, yaml.ScalarEvent):
            plain = "plain" if event.implicit[0] else event.tag or "text"
            node: Any = yaml.ScalarNode(plain, event.value, start, end, style=event.style)
        elif isinstance(event, yaml.CollectionStartEvent):
            made: Any = yaml.MappingNode if isinstance(event, yaml.MappingStartEvent) else yaml.SequenceNode
            node = made(event.tag, [], start, None, flow_style=event.flow_style)
        else:
            return None
        if event.anchor:
            self._anchors[event.anchor] = node
        return node

    def _add(self, node: Any) -> None:
        """To what is around it."""
        if not self._around:
            self.document = node
        elif isinstance(self._around[-1], yaml.SequenceNode):
            self._around[-1].value.append(node)
        elif self._keys[-1] is None:
            self._keys[-1] = node
        else:
            self._around[-1].value.append((self._keys[-1], node))
            self._keys[-1] = None


def _composed(string: str) -> Iterator[yaml.Node]:
    """A node for each document."""
    composing = _Composing()
    events: Any = yaml.parse(string, Loader=yaml.CSafeLoader)
    for event in events:
        if isinstance(event, yaml.DocumentStartEvent):
            composing.begin()
        elif isinstance(event, yaml.DocumentEndEvent):
            if composing.document is not None:
                yield composing.document
        else:
            composing.take(event)


def data_of(root: yaml.Node | None) -> Any:
    """Nodes as data. Keys are texts as they are written; what an alias names is one and the same object wherever it
    stands. Raises Unreadable."""
    if root is None:
        return None
    try:
        if _grown(root, {}) > _LARGEST_GROWN:
            raise Unreadable("grows beyond all bounds where its aliases are written out", 0)
        return _data(root, {})
    except RecursionError as error:
        raise Unreadable(_TOO_DEEP, 0) from error


def _data(node: Any, known: dict[int, Any]) -> Any:
    if id(node) in known:
        return known[id(node)]
    if isinstance(node, yaml.ScalarNode):
        return _scalar_of(node)
    if isinstance(node, yaml.SequenceNode):
        made: Any = [_data(one, known) for one in node.value]
    else:
        made = _mapping(node, known)
    known[id(node)] = made
    return made


def _mapping(node: yaml.MappingNode, known: dict[int, Any]) -> dict[str, Any]:
    """With the keys of what `<<` brings, which the mapping's own come before."""
    merged: dict[str, Any] = {}
    own: dict[str, Any] = {}
    for key, value in node.value:
        if not isinstance(key, yaml.ScalarNode):
            raise Unreadable("has more than a text for a key", key.start_mark.index)
        if key.value == "<<" and key.tag == "plain":
            brought = _data(value, known)
            for one in reversed(brought if isinstance(brought, list) else [brought]):
                merged |= one if isinstance(one, dict) else {}
        else:
            own[key.value] = _data(value, known)
    return merged | own


def _scalar_of(node: yaml.ScalarNode) -> Any:
    value = node.value
    if node.tag != "plain" or (value and value[0] not in _RESOLVER.yaml_implicit_resolvers):
        return value
    make = _SIMPLE.get(_RESOLVER.resolve(yaml.ScalarNode, value, (True, False)))
    if make is None:
        return value
    try:
        return make(node)
    except ValueError:
        return value


def is_text(plain: str) -> bool:
    """Whether a scalar without quotes is a text, and no number, date, truth value or null."""
    return bool(_RESOLVER.resolve(yaml.ScalarNode, plain, (True, False)) == "tag:yaml.org,2002:str")


def _grown(node: yaml.Node, known: dict[int, int]) -> int:
    """How many nodes there would be if every alias were written out."""
    if id(node) not in known:
        known[id(node)] = 1
        if isinstance(node, yaml.MappingNode):
            known[id(node)] += sum(_grown(value, known) for _, value in node.value)
        elif isinstance(node, yaml.SequenceNode):
            known[id(node)] += sum(_grown(value, known) for value in node.value)
    return known[id(node)]


def keys_given_twice(nodes: dict[str, Any]) -> list[str]:
    """Pointers of the keys that a mapping has once more, each as often as it is there once more."""
    found: list[str] = []
    for at, node in nodes.items():
        if isinstance(node, yaml.MappingNode):
            keys = [str(key.value) for key, _ in node.value if key.value != "<<"]
            if len(set(keys)) < len(keys):
                found += (f"{at}/{escaped(key)}" for index, key in enumerate(keys) if key in keys[:index])
    return found


def last_of(node: Any) -> Any:
    """The last thing written in a node: a block's own end lies past the comments below it."""
    while isinstance(node, yaml.CollectionNode) and node.value and not node.flow_style:
        node = node.value[-1][1] if isinstance(node, yaml.MappingNode) else node.value[-1]
    return node
