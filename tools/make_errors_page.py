"""Writes docs/errors.md: every code of an error or a stop, what it means, and the sentences that come with it.

python tools/make_errors_page.py [FILE]
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import get_args

from hookset.model import Code

ROOT = Path(__file__).parent.parent
CARRIERS = {
    "CouldNotError": "could not",
    "NoLayoutError": "refused",
    "RefusedError": "refused",
    "Stop": "stop",
    "Unfillable": "stop",
    "WrongUseError": "wrong use",
}
HEAD = """# Errors and stops by their codes

With `--json` each error, and each stop of a plan, has a `code`. A program that calls Hook Set tells them from each
other by it: the sentences are for people and may change, a code stays as it is. This page is made of the code itself by
`tools/make_errors_page.py`; what stands in braces is filled in.

| word | it means | exit code |
|---|---|---|
| wrong use | the command line, or what it names, cannot mean anything here | 2 |
| refused | Hook Set could go on, and will not without your word | 1 |
| stop | the same, for one thing of a plan: all are told together, and some can be answered | 1 |
| could not | the input is damaged, or the machine would not let us | 3 |
| bug | a fault of Hook Set's own | 4 |

Findings of a check have codes of their own: [the checks](checks.md).
"""
MEANINGS: Mapping[Code, str] = {
    "already-installed": "That version of the pack is in the map.",
    "ambiguous-name": "Several things are called so; say which.",
    "anchor-missing": "An entry is to go before or after something that the file does not hold.",
    "archive-differs": "Read back, the archive that was just written is not what it should be.",
    "archive-lacks-file": "Something that must be shipped would not be.",
    "bug": "An error that nobody foresaw; the file that is named has what is needed to mend it.",
    "bytes-not-kept": "What a file held before is no longer there, so it cannot be put back.",
    "called-by-path": "A thing of this kind has its path for a name: move the file instead.",
    "change-not-yours": "A change was begun or made by somebody else, or on another machine.",
    "change-unfinished": "The disk failed in the middle of a change; the next command ends it.",
    "changed-by-you": "A file, or an entry, is not as Hook Set has left it, and would be lost.",
    "changed-meanwhile": "Another program wrote to a file while the command ran.",
    "changed-since-kept": "A pack on the shelf is not the one that was put there.",
    "circle-of-needs": "Packs need each other in a circle.",
    "command-not-allowed": "A layout or a pack would run a program that you have not allowed.",
    "conflicting-options": "Options that exclude each other, or one without the other that it belongs to.",
    "damaged-archive": "The archive cannot be unpacked.",
    "damaging-edit": "The edit would leave a file that reads otherwise than it should.",
    "disk-full": "There is no room for what would be written.",
    "doing-the-same": "An installed pack is there for the same thing.",
    "draft-not-agreed": "The pack has no hook sheet, and nobody has agreed to the drafted one.",
    "draft-not-whole": "The draft leaves lines of the notes that are not understood.",
    "empty-pack": "There are no files in it.",
    "entry-exists": "The file has an entry of that name, which says something else.",
    "file-exists": "There is a file already, and it is not written over.",
    "in-prefab": "The thing stands in a prefab, which may be used in several places.",
    "incomplete-hook": "A seat asks for something that the hook does not say.",
    "incomplete-option": "An option or an argument does not say all that it has to.",
    "journal-damaged": "The record of a change cannot be believed, so nothing is done by it.",
    "layout-not-extended": "Learned rules cannot be added to the layout at hand.",
    "layout-not-recognised": "None of the shipped layouts fits the map.",
    "layout-not-said": "It is not known which layout the files follow.",
    "link": "A link stands where only a file or a folder of the map may be.",
    "locked-archive": "The archive has a password.",
    "map-busy": "Another run is changing the map right now.",
    "map-has-errors": "The check tells errors, or would tell them afterwards.",
    "map-lacks-value": "The map does not say something that an entry is to be filled with.",
    "name-taken": "Something else has the name that a pack brings.",
    "need-not-met": "The pack needs another, or a name, that is not there.",
    "needed-by-others": "Other packs need the one that is to go.",
    "newer-form": "The file was written by a newer Hook Set.",
    "no-ground": "Nobody knows how high the ground is there.",
    "no-hook-sheet": "The pack says nothing of how it is installed.",
    "no-map": "There is no map project here, or nothing that could be one.",
    "no-plain-file": "A device, a pipe or a socket, which is not read.",
    "no-pool": "The layout has no numbers or names of the kind that the pack claims.",
    "no-terminal": "The command would ask, and there is nobody to answer.",
    "none-free": "All numbers or names of a kind are taken, or the one that is wished for is.",
    "none-in-map": "A hook is for every thing of a name, and the map has none.",
    "not-copied": "A thing cannot be copied so that it reads back as it should.",
    "not-found": "There is no such file, folder, archive or pack.",
    "not-in-layout": "The layout does not say what the command needs to know.",
    "not-installed": "The map has no such pack.",
    "not-listed": "A table of the map lacks a row, and it cannot be set.",
    "not-renamable": "Nothing here has a name that could be changed everywhere.",
    "not-settable": "What is to be written cannot be written there.",
    "not-tunable": "The setting decides what is installed: install again with another value.",
    "not-writable": "The system does not let us write.",
    "nothing-delivered": "Nothing was put there that could be taken back.",
    "nothing-learned": "No rule was found.",
    "nothing-to-undo": "No change is left that could be undone, or no undo that could be taken back.",
    "other-case": "Two paths differ in letter case only.",
    "other-layout": "The pack is made for maps of another layout.",
    "out-of-memory": "There is not enough memory.",
    "package-missing": "A Python package that this needs is not installed.",
    "path-outside-map": "Something would be written, or read, that is no part of the map.",
    "program-failed": "A program did not start, or did not end well.",
    "program-not-found": "A program that a step needs is not installed.",
    "renamed-value": "A renamed thing is named by a value of the sheet as well.",
    "same-thing": "Nothing would change.",
    "seat-missing": "The file has no such place for entries, or the map has no such file.",
    "several-files": "Several files could be meant.",
    "slow-pattern": "A pattern tries more than there is time for.",
    "step-failed": "A build step did not make what it should.",
    "steps-in-archive": "Steps are not run in a map that is one archive.",
    "syntax-error": "The file does not follow its own grammar.",
    "system-refused": "The system refused something that nobody foresaw.",
    "too-large": "Larger than what is read or written.",
    "too-many": "More than what is taken at once.",
    "two-of-a-name": "Two packs of one command have the same name.",
    "unexpected-content": "The file is something else than what is asked for.",
    "unknown-command": "The word is no command that could be allowed.",
    "unknown-destination": "No destination is called so, or none is known.",
    "unknown-encoding": "Nobody knows this encoding.",
    "unknown-engine": "No engine is called so.",
    "unknown-kind": "The layout has no kind of that name.",
    "unknown-layout": "No layout is called so.",
    "unknown-name": "Nothing is called so; the nearest name is told.",
    "unknown-number": "The list has no such number.",
    "unknown-seat": "The layout has no such seat.",
    "unknown-step": "The layout has no such step.",
    "unread-archive": "An archive of a sort that is not read.",
    "unreadable-file": "The system does not let us read.",
    "unsafe-archive": "Members of the archive would do harm.",
    "word-not-said": "A pack uses a word from a short list that this map has otherwise; say which is meant.",
    "wrong-decision": "What was decided in a walk cannot be done.",
    "wrong-encoding": "Bytes that are no text in the encoding, or a text that the encoding cannot hold.",
    "wrong-ending": "The ending of the file says no form in which that is written.",
    "wrong-entry": "An entry is not what goes into the place.",
    "wrong-name": "No name that this can have.",
    "wrong-path": "No path that a file of a map can have.",
    "wrong-place": "Numbers that are no place, or no turn.",
    "wrong-root": "The folder cannot be that of a base game.",
    "wrong-rows": "Rows or keys of the file are not what they should be; each is told with its line.",
    "wrong-usage": "The command line has an option, a value or a word that the command does not have.",
    "wrong-value": "The value is not one that the setting, the blank or the option takes.",
}


def sentences() -> Iterator[tuple[str, str, str]]:
    """Code, word and sentence of each place that says what is wrong."""
    for path in sorted((ROOT / "src" / "hookset").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in CARRIERS):
                continue
            if len(node.args) > 1 and isinstance(node.args[0], ast.Constant) and node.args[0].value != "bug":
                yield str(node.args[0].value), CARRIERS[node.func.id], said(node.args[1])


def said(node: ast.expr) -> str:
    """A sentence as it stands in the code, with braces for what is filled in. Empty where it is made elsewhere."""
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.JoinedStr):
        return "".join(said(part) for part in node.values)
    if isinstance(node, ast.FormattedValue):
        return f"{{{word_of(node.value)}}}"
    if isinstance(node, ast.BinOp):
        return said(node.left) + said(node.right)
    return ""


def word_of(node: ast.expr) -> str:
    """What is filled in, in a word, if it has one."""
    if isinstance(node, ast.Name):
        return node.id.strip("_")
    return node.attr if isinstance(node, ast.Attribute) else "…"


def page() -> str:
    codes: tuple[Code, ...] = get_args(Code)
    known: dict[str, dict[str, set[str]]] = {code: {} for code in codes}
    for code, word, sentence in sentences():
        known[code].setdefault(word, set()).add(sentence)
    parts = [HEAD, f"{len(known)} codes.\n"]
    for code in sorted(codes):
        parts.append(f"## `{code}`\n\n{MEANINGS[code]}\n")
        rows = [f"- *{word}*: {one}" for word, all_ in sorted(known[code].items()) for one in sorted(all_ - {""})]
        parts.append("\n".join(rows) + "\n" if rows else "")
    return "\n".join(part for part in parts if part)


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "errors.md"
    target.write_text(page(), encoding="utf-8")
