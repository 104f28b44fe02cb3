"""Files of which one is taken: three skins for one picture that the model asks for."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.authoring.draft.cites import Why, as_said
from hookset.authoring.draft.found.placing import Placing
from hookset.authoring.draft.found.seating import Known
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.conditions import kebab, of_folder
from hookset.authoring.draft.said.sentences import sentences_of
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import words
from hookset.packs.hooksheet import FilesEntry, SettingEntry, WhenEntry

__all__ = ["Alternative", "alternatives_in", "without_alternatives"]

_TWO = 2
_NEAR = 8
"""Lines of notes between where a file is named that is asked for, and the files that can be it."""


class Alternative(Struct, frozen=True):
    """One path in the map, and the files of the pack that can become it."""

    target: str
    name: str
    """Of the setting that chooses."""
    files: Mapping[str, str]
    """By the choice: the file."""
    why: Why
    says: str

    @property
    def setting(self) -> SettingEntry:
        """The choice as a setting; the one that is named first is the default."""
        choices = tuple(self.files)
        return SettingEntry(name=self.name, type="text", default=choices[0], choices=choices, says=self.says)

    @property
    def entries(self) -> Iterator[FilesEntry]:
        """The files, each for its choice."""
        for choice, path in self.files.items():
            to = self.target
            if posixpath.basename(path) == posixpath.basename(to):
                to = posixpath.dirname(to) or "."
            yield FilesEntry(from_=path, to=to, when=WhenEntry(setting=self.name, equals=choice))


def alternatives_in(
    site: Site, placing: Placing, known: Known, paths: Sequence[str], notes: Sequence[Notes]
) -> Iterator[Alternative]:
    """Each path that the pack asks for, that nobody has, and for which the pack has more than one file."""
    asked = {name for kind, name in known.asked if kind in site.layout.path_kinds}
    wanted = {posixpath.basename(path).casefold() for path in asked}
    own = {one.path: one.target for one in placing.placed}
    there = {*own.values()}
    taken: set[str] = set()
    for target, found in _said(site, own, paths, notes):
        taken |= set(found.values())
        yield _named(target, found, notes)
    for target in sorted(asked):
        ending = posixpath.splitext(target)[1].casefold()
        if not ending or site.tree.has(target) or site.stock.sides(next(iter(site.layout.path_kinds)), target):
            continue
        free = [path for path in paths if path.casefold().endswith(ending) and path not in taken]
        # With and without another pack: that is decided by the map.
        free = [path for path in free if of_folder(path) is None]
        # What is asked for by its own path is no other's alternative: the texts of two languages.
        free = [path for path in free if own.get(path, target) == target or own[path] not in asked]
        same = [path for path in free if posixpath.basename(path).casefold() == posixpath.basename(target).casefold()]
        if target in there and len(same) < _TWO:
            continue
        others = [path for path in free if posixpath.basename(path).casefold() not in wanted]
        found = _in_folders(same) or _by_stem(target, others) or _in_one_folder(target, others, notes)
        if len(found) >= _TWO:
            taken |= set(found.values())
            yield _named(target, found, notes)


def _said(
    site: Site, own: Mapping[str, str], paths: Sequence[str], notes: Sequence[Notes]
) -> Iterator[tuple[str, dict[str, str]]]:
    """Files of which a sentence says that one is taken, and what it is called then: "take one of soft.wav and hard.wav,
    call it creak.wav"."""
    table = words()["choices"]
    for sentence in sentences_of(notes):
        text = sentence.text.replace("\\", "/")
        called = re.search(
            rf"(?<!\w)(?:{table['called']})\s+[`\"'“]?(?P<name>[\w-]+\.\w{{2,5}})\b", text, re.IGNORECASE
        )
        if (
            called is None
            or re.search(rf"(?<![\w-])(?:{table['one-of']}|{table['one-file']})(?![\w-])", text, re.IGNORECASE) is None
        ):
            continue
        named = set(re.findall(r"[\w./-]+\.\w{2,5}\b", text))
        ending = posixpath.splitext(called["name"])[1].casefold()
        found = {
            posixpath.splitext(posixpath.basename(path))[0]: path
            for path in paths
            if path.casefold().endswith(ending) and named & {path, posixpath.basename(path)}
        }
        beside = [path for path in site.tree.paths() if posixpath.basename(path) in named]
        folders = {posixpath.dirname(path) for path in beside or [own.get(path, path) for path in found.values()]}
        if len(found) >= _TWO and len(folders) == 1:
            yield posixpath.join(folders.pop(), called["name"]), found


def _in_folders(same: Sequence[str]) -> dict[str, str]:
    """Files of one name in folders beside each other: `skins/oak/skin.png`, `skins/iron/skin.png`."""
    folders = [posixpath.dirname(path) for path in same]
    if len({posixpath.dirname(folder) for folder in folders}) != 1 or not all(folders):
        return {}
    return {posixpath.basename(folder): path for folder, path in zip(folders, same, strict=True)}


def _by_stem(target: str, paths: Sequence[str]) -> dict[str, str]:
    """Files that are called after it: `ball_red.png`, `ball_black.png` for `ball.png`."""
    stem = re.escape(posixpath.splitext(posixpath.basename(target))[0])
    found: dict[str, str] = {}
    for path in paths:
        match = re.fullmatch(
            rf"{stem}[_ .-]+(?P<choice>\w[\w-]*)", posixpath.splitext(posixpath.basename(path))[0], re.I
        )
        if match is not None:
            found[match["choice"]] = path
    return found


def _in_one_folder(target: str, paths: Sequence[str], notes: Sequence[Notes]) -> dict[str, str]:
    """Files of a folder that the notes list where they name the target."""
    by_folder: dict[str, list[str]] = {}
    for path in paths:
        by_folder.setdefault(posixpath.dirname(path), []).append(path)
    places = _named_in(notes, posixpath.basename(target))
    for folder, files in by_folder.items():
        near = [path for path in files if _is_near(places, _named_in(notes, posixpath.basename(path)))]
        if folder and len(files) >= _TWO and len(near) == len(files):
            return {posixpath.splitext(posixpath.basename(path))[0]: path for path in files}
    return {}


def _named_in(notes: Sequence[Notes], name: str) -> list[tuple[str, int]]:
    low = name.casefold()
    return [(one.path, line.number) for one in notes for line in one.lines if low in line.text.casefold()]


def _is_near(some: Sequence[tuple[str, int]], others: Sequence[tuple[str, int]]) -> bool:
    return any(path == other and abs(at - there) <= _NEAR for path, at in some for other, there in others)


def _named(target: str, found: Mapping[str, str], notes: Sequence[Notes]) -> Alternative:
    """With its name, and the choices in the order in which the notes name them."""
    text = "\n".join(line.text.casefold() for one in notes for line in one.lines)
    order = sorted(found, key=lambda choice: (text.find(choice.casefold()) % (len(text) + 1), choice))
    places = _named_in(notes, posixpath.basename(target)) or _named_in(notes, order[0])
    why = Why((places[0],)) if places else as_said(f"{len(found)} files of the pack can be it")
    says = next(
        (line.text for one in notes for line in one.lines if places and (one.path, line.number) == places[0]), ""
    )
    name = kebab(posixpath.splitext(posixpath.basename(target))[0])
    return Alternative(target, name, {choice: found[choice] for choice in order}, why, says.strip(" -*|.")[:120])


def without_alternatives(placing: Placing, alternatives: Sequence[Alternative]) -> Placing:
    """The files without those of which one is chosen."""
    ones = {path: one for one in alternatives for path in one.files.values()}
    targets = {one.target for one in alternatives}
    placed = tuple(one for one in placing.placed if one.path not in ones and one.target not in targets)
    left = tuple(one for one in placing.left if one.path not in ones)
    return replace(placing, placed=placed, left=left)
