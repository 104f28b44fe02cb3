"""Places in XML: attributes and texts by what their element is called, and by what is around it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from msgspec.structs import replace

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.beside import variants
from hookset.learning.places.inside import named_around, places_inside
from hookset.learning.said import Said, joined

__all__ = ["element_places"]

_XML = "http://www.w3.org/XML/1998/namespace"
_VALUES = frozenset(("value", "val", "v"))
_NAMES = ("name", "key", "n", "k")
_TRANSLATED = ("translatable", "translate")
_YES = ("yes", "true", "1")
_Way = tuple[str, str, str]
"""(what is around the element, the element, the attribute: empty for its text)"""


def element_places(sort: Sort) -> Iterator[Place]:
    """Attributes and texts, of each element and of each pair of elements of which one is in the other."""
    spaces = _spaces(sort)
    if spaces:
        options = {"namespaces": {prefix: uri for uri, prefix in spaces.items()}}
        sort = replace(sort, options={**sort.options, **options})
    by_tag: dict[tuple[str, str], dict[str, Said]] = {}
    for (around, tag, name), said in _found(sort, spaces).items():
        by_tag.setdefault((tag, name), {})[around] = said
    known: dict[str, list[Place]] = {}
    for (tag, name), parents in by_tag.items():
        whole = joined(list(parents.values()))
        place = _place(sort, f"//{tag}", tag, name, whole, next(iter(parents)) if len(parents) == 1 else "")
        known.setdefault(tag, []).append(place)
        yield place
        for around, said in parents.items() if len(parents) > 1 else ():
            if around:
                yield replace(_place(sort, f"//{around}/{tag}", tag, name, said, around), general=place)
    for tag, places in known.items():
        names = _names_of(places)
        inside = named_around(sort, names[0]) if names else {}
        for place in variants(places, lambda _, where: str(where).partition("@")[0], names):
            ((key, word),) = place.when.items()
            if "'" not in word and key != tag:
                at = str(place.asked["at"]).replace(f"//{tag}", f"//{tag}[@{key}='{word}']")
                valued = place.word in _VALUES
                pair = replace(place, asked={"at": at}, word=word if valued else place.word, when={})
                yield pair
                if inside and valued:
                    yield from places_inside(pair, inside)


def _names_of(places: Sequence[Place]) -> tuple[str, ...]:
    """Where elements give values names, `<property name="sound" value="creak"/>`: the attribute with the name."""
    words = {place.word for place in places}
    return tuple(name for name in _NAMES if name in words) if words & _VALUES else ()


def _found(sort: Sort, spaces: dict[str, str]) -> dict[_Way, Said]:
    """All texts by what they are of."""
    found: dict[_Way, Said] = {}
    for path, document in sort.documents.items():
        for number, element in enumerate(_elements(document)):
            tag = _named(element.tag, spaces)
            above = element.getparent()
            around = "" if above is None else _named(above.tag, spaces)
            for written, value in element.attrib.items():
                if value:
                    name = _named(written, spaces)
                    found.setdefault((around, tag, name), Said()).add(value, path, f"{number}@{name}")
            text = (element.text or "").strip()
            if text and not len(element) and "\n" not in text and not _is_for_people(element):
                found.setdefault((around, tag, ""), Said()).add(text, path, str(number))
    return found


def _is_for_people(element: Any) -> bool:
    """Whether an element says of its text that it is to be translated."""
    return any(str(element.get(key, "")).lower() in _YES for key in _TRANSLATED)


def _spaces(sort: Sort) -> dict[str, str]:
    """A prefix for each namespace, by its URI: the one that files use, where they use one."""
    found: dict[str, str] = {}
    for document in sort.documents.values():
        for element in _elements(document):
            for prefix, uri in element.nsmap.items():
                # An element can be in none though those around it are in one: `xmlns=""`.
                if uri and uri not in found:
                    wanted = prefix or f"n{len(found) + 1}"
                    found[uri] = wanted if wanted not in found.values() else f"{wanted}{len(found) + 1}"
    return found


def _named(tag: str, spaces: dict[str, str]) -> str:
    """A name as XPath has it."""
    if not tag.startswith("{"):
        return tag
    uri, _, name = tag[1:].partition("}")
    return f"xml:{name}" if uri == _XML else f"{spaces[uri]}:{name}" if uri in spaces else name


def _elements(document: Any) -> Iterator[Any]:
    from lxml import etree

    yield from document.root.iter(etree.Element)


def _place(sort: Sort, way: str, tag: str, name: str, said: Said, around: str) -> Place:
    at = f"{way}/@{name}" if name else way
    return Place(sort, {"at": at}, "value", name or tag, tag if name else around, said)
