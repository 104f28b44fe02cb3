"""Where notes have single files: `horn.wav -> sounds/bridge/`, a row of a table, another name."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Sequence

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.notes.tables import cells_of
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import words
from hookset.trees import joined

__all__ = ["directed"]

_TO = re.compile(
    r"\s*(?:->|-->|=>|→|»)\s*"
    r"|\s+(?:in ?to|to|in|nach|dans|vers)\s+(?:the |your |den |das |die |le )?(?:folder |directory |ordner |dossier )?",
    re.IGNORECASE,
)
_NEXT_FILE = re.compile(r"(?:[,;]|(?<=[.!]))\s+(?:and |und |et )?(?=[\w./\\-]*[\w-]\.\w{2,5}\s)", re.IGNORECASE)
"""Between two clauses, of which the second begins with a file."""
_WHOLE = re.compile(r"(?<![\w/.-])([\w-]+)[/\\](?![\w.-])")
"""A folder by itself: `server/`."""
_FOLDER = re.compile(r"[`\"'“]?(?P<folder>(?:[\w.-]+[/\\])*[\w.-]+[/\\]?)[`\"'”]?")


def directed(site: Site, paths: Sequence[str], notes: Sequence[Notes]) -> Iterator[tuple[str, str, Why]]:
    """(file, where it goes, the line) for what the notes say of single files: `horn.wav -> sounds/bridge/`."""
    named: dict[str, list[str]] = {}
    for path in paths:
        named.setdefault(posixpath.basename(path).casefold(), []).append(path)
    for one in notes:
        for line, clause in ((row, clause) for row in one.lines for clause in _clauses(row.text)):
            pieces = _into_new(clause) or _in_cells(site, clause) or _TO.split(clause, maxsplit=1)
            if len(pieces) != 2:
                continue
            files = [word for word in re.findall(r"[\w./\\-]*[\w-]\.\w{2,5}", pieces[0]) if _base(word) in named]
            # Only the word right behind: what is said further on may be of other files.
            match = _FOLDER.match(pieces[1])
            said = match["folder"] if match is not None else ""
            folder = said if _is_folder(site, said) else None
            # A full stop behind a file ends the sentence.
            if folder is not None and not files:
                yield from _folders(site, paths, pieces[0], folder, at_line(one.path, line.number))
            renamed = _as_file(site, said.rstrip(".")) if len(files) == 1 else None
            if renamed is not None and site.is_shared(renamed):
                # What is in it belongs into the map's own.
                continue
            if renamed is not None and posixpath.splitext(renamed)[1] == posixpath.splitext(files[0])[1]:
                for path in _the_one(named[_base(files[0])], files[0]):
                    yield path, renamed, at_line(one.path, line.number)
                continue
            for word in files if folder is not None else ():
                candidates = named[_base(word)]
                where = site.spelt(f"{folder.replace(chr(92), '/').strip('/')}/x")[:-2] if folder else ""
                if len(candidates) == 1:
                    path = candidates[0]
                    target = joined(where, posixpath.basename(path))
                    if target is not None:
                        yield path, target, at_line(one.path, line.number)


def _clauses(text: str) -> list[str]:
    """A line, in its clauses where each says where files go: "horn.lua goes to scripts/, horn.wav to sounds/"."""
    found: list[str] = []
    held = ""
    for piece in _NEXT_FILE.split(text):
        held = f"{held}, {piece}" if held else piece
        if _TO.search(piece):
            found.append(held)
            held = ""
        elif held.endswith((".", "!")):
            # What is said next begins with a file of its own.
            held = ""
    return found if len(found) > 1 and text.count("|") < 2 else [text]


def _folders(site: Site, paths: Sequence[str], said: str, folder: str, why: Why) -> Iterator[tuple[str, str, Why]]:
    """The files of folders that go whole into one of the map that has such: "server/ and client/ go into scripts/"."""
    where = folder.replace("\\", "/").strip("/")
    for name in _WHOLE.findall(said):
        inside = [path for path in paths if path.casefold().startswith(f"{name.casefold()}/")]
        there = site.folders.get(f"{where}/{name}".casefold())
        if inside and there is not None:
            yield from ((path, f"{there}/{path[len(name) + 1 :]}", why) for path in inside)


def _as_file(site: Site, said: str) -> str | None:
    """The path of a file in the map's folders; None for what is none."""
    folder, _, name = said.replace("\\", "/").strip("/").rpartition("/")
    if not re.search(r"\.\w{1,5}$", name) or not _is_folder(site, folder):
        return None
    return joined(site.spelt(f"{folder}/x")[:-2], name)


def _the_one(candidates: Sequence[str], said: str) -> Sequence[str]:
    """The file that is meant: the only one of its name, or the only one whose path ends so."""
    flat = said.replace("\\", "/").strip("/").casefold()
    ending = [path for path in candidates if path.casefold() == flat or path.casefold().endswith(f"/{flat}")]
    found = ending or candidates
    return found if len(found) == 1 else ()


def _into_new(text: str) -> list[str]:
    """What a line says of files and of a folder that is to be made for them: "make a folder ferry in sounds"."""
    match = re.search(words()["in"]["new-folder"], text, re.IGNORECASE)
    if match is None:
        return []
    return [f"{text[: match.start()]} {text[match.end() :]}", f"{match['where'].strip('/')}/{match['new']}"]


def _in_cells(site: Site, text: str) -> list[str]:
    """What a row of a table says of files and a folder: the cells, and the one that is a folder of the map; nothing for
    what is no such row."""
    cells = cells_of(text) if text.count("|") > 1 else []
    folders = [cell for cell in cells if _is_folder(site, cell)]
    return [" ".join(cell for cell in cells if cell not in folders), folders[0]] if len(folders) == 1 else []


def _base(word: str) -> str:
    return posixpath.basename(word.replace("\\", "/")).casefold()


def _is_folder(site: Site, folder: str) -> bool:
    flat = folder.replace("\\", "/").strip("/")
    return bool(flat) and flat.split("/")[0].casefold() in site.folders and not re.search(r"\.\w{2,4}$", flat)
