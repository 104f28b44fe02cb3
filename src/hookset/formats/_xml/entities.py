"""What a file calls by names of its own: `&crew;`, declared in its document type.

Those that stand for text are read as that text. Those that stand for elements, or for another file, are not looked
into, and told: elements are counted as they stand in the file.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from lxml import etree

__all__ = ["declared_in", "text_of", "unseen_in"]

_OWN = "<!ENTITY"


def declared_in(string: str, root: Any) -> Mapping[str, str | None]:
    """The text that each declared name stands for; None for elements and other files."""
    subset = root.getroottree().docinfo.internalDTD if _OWN in string else None
    if subset is None:
        return {}
    found = ((entity.name, entity.content) for entity in subset.entities())
    return {name: None if text is None or "<" in text or "&" in text else text for name, text in found}


def text_of(element: Any, declared: Mapping[str, str | None]) -> str:
    """What stands in an element before another one does."""
    said = [element.text or ""]
    for child in element if declared else ():
        if child.tag is not etree.Entity:
            break
        said += (declared.get(child.name) or "", child.tail or "")
    return "".join(said)


def unseen_in(string: str, root: Any, declared: Mapping[str, str | None]) -> Iterator[tuple[str, int]]:
    """What is not looked into, each with where it stands first."""
    used = dict.fromkeys(node.name for node in root.iter(etree.Entity)) if declared else {}
    for name in used:
        if declared.get(name) is None:
            at = max(string.find(f"&{name};", string.find("]") + 1), 0)
            yield f"has `&{name};` in it, which stands for what is written elsewhere: that is not looked into", at
