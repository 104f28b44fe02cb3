"""Texts that are to become others ("change `a` to `b`", "before: … after: …"), and those that are shown as wrong."""

from __future__ import annotations

import re

from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.said.words import words

__all__ = ["became", "is_wrong"]

_OLD = r"[`\"“„«](?P<old>[^`\"”“„«»\n]{3,200})[`\"”“»]|(?P<element><[^<>\n]{3,200}>)"


def became(chunk: Chunk, above: Chunk | None) -> str | None:
    """The text that another is to become; None where it is said to be none. `above` is the text before it in the
    notes."""
    table = words()["becomes"]
    if chunk.inline:
        said = chunk.near[-1].text.partition(chunk.text)[0] if chunk.near else ""
        pattern = rf"(?<!\w)(?:{table['change']})\b[^.;]*?(?:{_OLD})\W{{0,3}}(?:{table['to']})\W*$"
        match = re.search(pattern, said, re.IGNORECASE)
        old = (match["old"] or match["element"]) if match is not None else None
    elif above is not None and not above.inline and chunk.near and above.near and above.notes == chunk.notes:
        said, first = chunk.near[-1].text.strip(), above.near[-1].text.strip()
        changed = re.search(rf"(?<!\w)(?:{table['change']})\b[^.;]*\W*$", first, re.IGNORECASE)
        linked = re.fullmatch(rf"\W*(?:{table['to']})\W*", said, re.IGNORECASE)
        labels = _is(first, table["old"]) and _is(said, table["new"])
        old = above.text if (changed and linked) or labels else None
    else:
        return None
    # Only a name of what changes: which text of the file that is, is not said.
    return old if old is not None and "".join(old.split()) not in "".join(chunk.text.split()) else None


def is_wrong(chunk: Chunk) -> bool:
    """Whether a text is shown as one that nobody should copy."""
    return not chunk.inline and bool(chunk.near) and _ends(chunk.near[-1].text, words()["becomes"]["wrong"])


def _is(said: str, source: str) -> bool:
    return re.fullmatch(rf"\W*(?:{source})\W*", said, re.IGNORECASE) is not None


def _ends(said: str, source: str) -> bool:
    """Whether a label at the end of a line says so: `In main.lua, WRONG:`."""
    return re.search(rf"(?:^|[\s,;(])(?:{source})\W*[:：]\W*$", said, re.IGNORECASE) is not None
