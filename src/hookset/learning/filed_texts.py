"""Texts that are files: written how, and how likely that is by accident."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Collection, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.candidate import Candidate, folder_of
from hookset.learning.evidence import NUMBER, Pool, shape_of, tail
from hookset.learning.filed import Files, FileWriting
from hookset.learning.place import Place
from hookset.learning.sampling import ENOUGH_TOLD, SELDOM, few

__all__ = ["FILED", "FiledTexts"]

_STEPPED, _DOTTED = 0.002, 0.03
"""The chance that what is written like a path without its ending is one."""
_LIKE_FOLDER = 1.5
"""By how much likelier files are whose folder is called like what names them."""
_CALLED_FILE = 9.0
"""The same where what names several says itself that it is a file."""
_SEVERAL = 3
_MOST_APART = 3
"""Files in one folder of which none is there: so many are no mistake."""
_LEAST_BARE = 0.02
"""The chance that a word is a file, at least: files are often called after what they are for."""


FILED = re.compile(
    r"(?:^|[_-])(?i:dir|directory|folder|file|filename|path)$|[a-z](?:Dir|Directory|Folder|File|FileName|Path)$"
)
"""How a key ends that says what a file or a folder is called."""


class FiledTexts(Struct, frozen=True):
    """The files of a map, and by what else texts are known."""

    files: Files
    pool: Pool
    whole: Mapping[str, int]
    """In how many vocabularies a text is."""

    def best(self, place: Place, texts: Sequence[str]) -> Candidate | None:
        """The files that most of the texts at a place are."""
        if place.form not in ("value", "call", "key", "name") or all(map(NUMBER.fullmatch, texts)):
            return None
        found = self.among(texts, place.owners)
        if found is None or found.share < 1:
            return found
        if FILED.search(place.word) and len(texts) >= _SEVERAL:
            return replace(found, chance=found.chance - _CALLED_FILE)
        like = found.spelled and _like_folder(place.word, found.files)
        return replace(found, chance=found.chance - _LIKE_FOLDER) if like else found

    def among(self, texts: Sequence[str], owners: Mapping[str, Sequence[str]]) -> Candidate | None:
        """The files that texts are; `owners` are files that say each of them."""
        wordy = [text for text in texts if any(map(str.isalpha, text))]
        if len(wordy) > ENOUGH_TOLD and not self.files.any_called(few(wordy), SELDOM):
            return None
        said = [(text, path) for text in wordy for path in owners[text]]
        writing = self.files.writing_of([text for text, _ in said], [path for _, path in said]) if said else None
        if writing is None:
            return None
        hits = [text for text in texts if self.files.mostly_found(text, owners[text], writing)]
        if not hits or self.files.mostly_own(hits, owners, writing):
            return None
        # A path with an ending is no word that others use by accident; a bare word may be.
        chance = min(0.5, len(self.files.paths) / 20_000) if not writing.suffix else self._bare(texts, writing)
        marks = (writing.joint,) if writing.joint else ("/", "\\")
        written = ("." in text.rpartition("/")[2] or any(mark in text for mark in marks) for text in hits)
        spelled = sum(written) * 2 > len(hits)
        if spelled and writing.suffix:
            # A whole way to a file is no accident; a word with a dot in it may be.
            stepped = sum(any(mark in text for mark in marks) for text in hits) * 2 > len(hits)
            chance = _STEPPED if stepped else _DOTTED
        elif spelled:
            chance = min(chance, 0.05) * 0.02
        apart = _apart(texts, hits)
        if apart:
            texts = [text for text in texts if folder_of(text) != apart]
        met, asked = len(hits), len(texts)
        if writing.beside:
            # The same word in several folders is a file of its own in each.
            asked = sum(len(owners[text]) for text in texts)
            met = sum(self.files.found(text, path, writing) for text in texts for path in owners[text])
        log = min(0.0, tail(met, asked, min(0.9, chance)) + math.log10(writing.freedom))
        return Candidate(log, frozenset(hits), texts, files=writing, spelled=spelled, apart=apart)

    def _bare(self, texts: Sequence[str], writing: FileWriting) -> float:
        """How likely one of some words is a file by accident, whose ending it leaves out."""
        there = self.files.shapes_of(writing)
        asked = Counter(map(shape_of, texts))
        elsewhere = sum(self.whole.get(text, 0) for text in texts) / len(texts)
        return max(_LEAST_BARE, self.pool.chance(asked, elsewhere, there, 0.0))


def _like_folder(word: str, files: FileWriting | None) -> bool:
    """Whether what names files is called like the folder that they lie in: `sound_file` in `sounds/effects`."""
    steps = {
        step.lower().rstrip("s") for folder in (files.under if files is not None else ()) for step in folder.split("/")
    }
    return any(len(step) > 2 and step in word.lower() for step in steps)


def _apart(texts: Sequence[str], hits: Collection[str]) -> str:
    """The folder that several begin with which are not there, and none that is."""
    known = frozenset(hits)
    missing = Counter(folder for text in texts if text not in known and (folder := folder_of(text)))
    folder, often = missing.most_common(1)[0] if missing else ("", 0)
    alone = often >= _MOST_APART and often <= len(known) and not any(folder_of(text) == folder for text in known)
    return folder if alone else ""
