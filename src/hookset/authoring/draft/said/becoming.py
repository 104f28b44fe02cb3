"""Texts that are to become others ("change `a` to `b`", "before: … after: …"), and those that are shown as wrong."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Sequence

from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.words import words

__all__ = ["became", "is_new_version", "is_wrong"]

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
        if old is None and chunk.near:
            behind = chunk.near[-1].text.partition(chunk.text)[2]
            rather = re.match(rf"\W*(?:{table['rather']})\s+(?:{_OLD})", behind, re.IGNORECASE)
            old = (rather["old"] or rather["element"]) if rather is not None else None
        # Only a name of what changes: which text of the file that is, is not said.
        named = old is not None and "".join(old.split()) in "".join(chunk.text.split())
        return None if named else old
    rather = re.search(rf"(?<!\w)(?:{table['rather']})\W+?(?:{_OLD})\W*$", chunk.said, re.IGNORECASE)
    if rather is not None:
        return rather["old"] or rather["element"]
    if above is not None and not above.inline and chunk.near and above.near and above.notes == chunk.notes:
        said, first = chunk.near[-1].text.strip(), above.near[-1].text.strip()
        changed = re.search(rf"(?<!\w)(?:{table['change']})\b(?:[^.;]|\.(?=\w))*\W*$", above.said, re.IGNORECASE)
        linked = re.fullmatch(rf"\W*(?:(?:there|it|them|dort|das|là)\s+)?(?:{table['to']})\W*", said, re.IGNORECASE)
        labels = _is(first, table["old"]) and _is(said, table["new"])
        only_more = _are_among(above.text.split("\n"), chunk.text.split("\n"))
        becomes = re.fullmatch(rf"\W*(?:{words()['assigns']['becomes']})\W*", said, re.IGNORECASE)
        told = (changed and linked) or labels or becomes
        return textwrap.dedent(above.text).strip() if told and not only_more else None
    return None


def _are_among(old: Sequence[str], new: Sequence[str]) -> bool:
    """Whether all old lines are among the new ones, in their order: something only comes to them."""
    rest = iter(line.strip() for line in new)
    return all(line.strip() in rest for line in old if line.strip())


def is_new_version(chunk: Chunk, before: bool) -> bool:
    """Whether a text is said to be how something of the map is to be; `before` whether the one above it was."""
    if chunk.gap is not None or not chunk.near:
        return False
    table, said = words(), chunk.near[-1].text
    if chunk.inline:
        # What only names what is to change says nothing of how it is to be.
        said = said.partition(chunk.text)[0] if re.search(r"[=:>]", chunk.text) else ""
        before = False
    source = "|".join((table["becomes"]["change"], table["becomes"]["like"], table["assigns"]["becomes"]))
    goes_on = rf"\W*(?:{table['parts']['goes-on']})\b"
    told = re.search(rf"(?<![\w-])(?:{source})(?![\w-])", said, re.IGNORECASE) is not None
    return told or (before and re.match(goes_on, said, re.IGNORECASE) is not None)


def is_wrong(chunk: Chunk) -> bool:
    """Whether a text is shown as one that nobody should copy."""
    return not chunk.inline and bool(chunk.near) and _ends(chunk.near[-1].text, words()["becomes"]["wrong"])


def _is(said: str, source: str) -> bool:
    return re.fullmatch(rf"\W*(?:{source})\W*", said, re.IGNORECASE) is not None


def _ends(said: str, source: str) -> bool:
    """Whether a label at the end of a line says so: `In main.lua, WRONG:`."""
    return re.search(rf"(?:^|[\s,;(])(?:{source})\W*[:：]\W*$", said, re.IGNORECASE) is not None
