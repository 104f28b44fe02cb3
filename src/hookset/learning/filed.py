"""Texts that name files: from where their path counts, and what of it they leave out."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from hookset.learning.evidence import shape_of
from hookset.learning.languages import in_english

__all__ = ["FileWriting", "Files", "files_named"]

_MOST_CANDIDATES = 40
"""Files of one name that are compared."""
_JOINT = "::"
"""Between the steps of the way to a script, in some languages."""
_FURTHER = 0.05
"""As many files more as another folder, or ending, must explain beside the first one."""
_OTHERWISE, _OTHERWISE_SHARE = 3, 0.1
"""Files that are written in another letter case than theirs, before that is no mistake."""
_FOLDERS = 3
"""Folders in which files name others beside them."""
_MARKS = re.compile(r"(?<=\w)[~+=^!]{1,2}$")
_PICTURES = frozenset((".png", ".jpg", ".jpeg", ".bmp", ".tga", ".gif", ".webp"))
"""Endings of what shows a thing that is called so, where another file says what it is."""
_MOST_FOLDERS = 4
"""Folders that the paths at one place count from."""


class FileWriting(Struct, frozen=True):
    """How files are written at a place."""

    under: tuple[str, ...] = ()
    """The folders that paths count from, `""` for the map's top; without any, only from there."""
    beside: bool = False
    """They count from the folder of the file that says so, and from the others only where nothing is there."""
    suffix: tuple[str, ...] = ()
    """Endings that are left out."""
    separators: str = "/"
    folded: bool = False
    """Letter case does not count."""
    joint: str = ""
    """What stands between the steps of a path, where that is no slash."""

    @property
    def freedom(self) -> int:
        """Among how many ways of writing this one was chosen, roughly."""
        return 1 + 20 * len(self.under) + 5 * self.beside + 10 * len(self.suffix) + 3 * self.folded


class Files(Struct, frozen=True, dict=True):
    """The files of a map and of what it may count on."""

    paths: frozenset[str]

    @cached_property
    def _by_name(self) -> Mapping[str, list[str]]:
        """By the last part of the path, in small letters, with and without its ending."""
        found: dict[str, list[str]] = {}
        for path in sorted(self.paths):
            name = posixpath.basename(path).lower()
            for key in {name.removesuffix(suffix) for suffix in _suffixes(name)}:
                found.setdefault(key, []).append(path)
        return found

    @cached_property
    def _by_tail(self) -> Mapping[str, list[str]]:
        """By the last two parts of the path, in the same way: hundreds of files may be called alike."""
        found: dict[str, list[str]] = {}
        for path in sorted(self.paths):
            tail = "/".join(path.lower().rsplit("/", 2)[-2:])
            for key in {tail.removesuffix(suffix) for suffix in _suffixes(tail)}:
                found.setdefault(key, []).append(path)
        return found

    def _called(self, plain: str, folder: str) -> Iterator[str]:
        """The files that a path may mean: a few of those that are called alike, and of those it means by more than
        that."""
        low = plain.lower()
        alike = self._by_name.get(posixpath.basename(low), ())
        if len(alike) <= _MOST_CANDIDATES:
            yield from alike
        elif "/" in low:
            yield from self._by_tail.get("/".join(low.rsplit("/", 2)[-2:]), ())[:_MOST_CANDIDATES]
        else:
            mine = [path for path in alike if posixpath.dirname(path) == folder]
            yield from dict.fromkeys((*mine, *alike[:_MOST_CANDIDATES]))

    @cached_property
    def endings(self) -> frozenset[str]:
        """The endings of files, those before another as well: a file may be packed, and be named as it was before."""
        parts = (posixpath.splitext(path.lower()) for path in self.paths)
        return frozenset(one for front, last in parts for one in (posixpath.splitext(front)[1], last))

    def writing_of(self, texts: Sequence[str], owners: Sequence[str]) -> FileWriting | None:
        """The way of writing by which most of some texts are files; `owners` are the files that say so."""
        ways: Counter[tuple[str, bool, str]] = Counter()
        by_text: dict[str, dict[tuple[str, bool, str], None]] = {}
        exactly: Counter[tuple[str, bool, str]] = Counter()
        slashes = any("\\" in text for text in texts)
        joint = _JOINT if any(_JOINT in text for text in texts) and not any("/" in text for text in texts) else ""
        for text, owner in zip(texts, owners, strict=True):
            plain = text.replace("\\", "/") if not joint else text.replace(joint, "/")
            for under, beside, suffix, exact in dict.fromkeys(self._ways(plain, posixpath.dirname(owner))):
                ways[under, beside, suffix] += 1
                by_text.setdefault(text, {})[under, beside, suffix] = None
                exactly[under, beside, suffix] += exact
        if not ways:
            return None
        # Beside their own file in several folders is no accident; in one, another way may be meant.
        apart = len(set(map(posixpath.dirname, owners))) >= _FOLDERS
        best, often = max(
            ways.items(),
            key=lambda one: (
                *(one[1], one[0][1] if apart else not one[0][1], not one[0][2], -len(one[0][0])),
                # Of several that are beside one another no picture of it, and what most in that folder are.
                one[0][2] not in _PICTURES,
                self._often(one[0][0], one[0][2]),
                in_english(one[0][0]),
            ),
        )
        _, beside, _ = best
        # What the best way explains are no files by another one that happen to be called alike.
        left = [found for found in by_text.values() if best not in found]
        folders = Counter(way[0] for found in left for way in found if way[1:] == (False, best[2]))
        there = Counter(way[2] for found in left for way in found if way[:2] == best[:2])
        tops = [*([] if beside else [best[0]]), *_enough(folders, often)]
        # In the same folder, and called so but for the ending: two of them are none.
        endings = [best[2], *_enough(there, 0)]
        return FileWriting(
            tuple(tops) if any(tops) else (),
            beside,
            tuple(one for one in endings if one) if best[2] else (),
            "either" if slashes else "/",
            _folded(often, exactly[best]),
            joint,
        )

    def _often(self, folder: str, ending: str) -> int:
        """How many files in a folder, and in those within it, have an ending."""
        return self._endings_in.get(folder, Counter[str]())[ending]

    @cached_property
    def _endings_in(self) -> Mapping[str, Counter[str]]:
        """How many files have each ending, by the folders that they are in."""
        found: dict[str, Counter[str]] = {}
        for (folder, ending), often in Counter(map(_folder_and_ending, self.paths)).items():
            for above in _way_up(folder):
                found.setdefault(above, Counter())[ending] += often
        return found

    def any_called(self, texts: Sequence[str], share: float) -> bool:
        """Whether there are files called as the last parts of some texts, for such a share of them."""
        called = (re.split(r"[/\\]|::", text.lower())[-1] for text in texts)
        return sum(name in self._by_name for name in called) >= share * len(texts)

    def _ways(self, text: str, folder: str) -> Iterator[tuple[str, bool, str, bool]]:
        """(the folder it counts from, whether it counts from its own file's, the ending, letter by letter)"""
        plain = text.removeprefix("./").strip("/")
        if not plain or len(plain) > 300 or ".." in plain.split("/")[1:]:
            return
        if text.startswith("../"):
            whole = posixpath.normpath(posixpath.join(folder, text))
            yield from (("", True, suffix, True) for suffix in ("",) if whole in self.paths)
            return
        for path in self._called(plain, folder):
            low, written = path.lower(), plain.lower()
            for suffix in _suffixes(path):
                whole = written + suffix.lower()
                if low != whole and not low.endswith(f"/{whole}"):
                    continue
                under = path[: len(path) - len(whole)].rstrip("/")
                exact = path.endswith(plain + suffix)
                yield under, False, suffix, exact
                if under == folder and folder:
                    yield "", True, suffix, exact

    def shapes_of(self, writing: FileWriting) -> Mapping[str, int]:
        """What the files are called like that can be meant, written so: how many of each shape."""
        if writing not in self._shapes:
            self._shapes[writing] = Counter(map(shape_of, self._called_so(writing)))
        return self._shapes[writing]

    @cached_property
    def _shapes(self) -> dict[FileWriting, Mapping[str, int]]:
        return {}

    def _called_so(self, writing: FileWriting) -> Iterator[str]:
        """What the files are called that can be meant, written so."""
        for folder in writing.under or ("",):
            top = f"{folder}/" if folder else ""
            for path in self.paths:
                if path.startswith(top) and path.endswith(writing.suffix):
                    yield path[len(top) : len(path) - max(map(len, filter(path.endswith, writing.suffix)), default=0)]

    @cached_property
    def _folded(self) -> Mapping[str, str]:
        return {path.lower(): path for path in sorted(self.paths, reverse=True)}

    @cached_property
    def _exact(self) -> Mapping[str, str]:
        return {path: path for path in self.paths}

    def found(self, text: str, owner: str, writing: FileWriting) -> bool:
        """Whether a text is a file, written so."""
        return self.path_of(text, owner, writing) is not None

    def mostly_found(self, text: str, owners: Sequence[str], writing: FileWriting) -> bool:
        """Whether a text is a file for most of those that say so."""
        asked = owners if writing.beside else owners[:1]
        return 2 * sum(self.found(text, owner, writing) for owner in asked) > len(asked)

    def mostly_own(self, texts: Sequence[str], owners: Mapping[str, Sequence[str]], writing: FileWriting) -> bool:
        """Whether most of some texts are the very files that say so: that is what those call themselves."""
        found = [self.path_of(text, owner, writing) == owner for text in texts for owner in owners[text]]
        return 2 * sum(found) > len(found)

    def path_of(self, text: str, owner: str, writing: FileWriting) -> str | None:
        """The file that a text is, written so: as far as letter case counts; None where there is none."""
        plain = text.replace("\\", "/") if writing.separators == "either" else text
        plain = plain.replace(writing.joint, "/") if writing.joint else plain
        plain = plain.removeprefix("./")
        folders = (posixpath.dirname(owner), *writing.under) if writing.beside else (writing.under or ("",))
        known = self._folded if writing.folded else self._exact
        for folder in folders:
            for suffix in ("", *writing.suffix):
                path = posixpath.normpath(posixpath.join(folder, plain.lstrip("/") + suffix))
                there = known.get(path.lower() if writing.folded else path)
                if there is not None:
                    return there
        return None


def _folder_and_ending(path: str) -> tuple[str, str]:
    return posixpath.dirname(path), posixpath.splitext(path)[1]


def _way_up(folder: str) -> Iterator[str]:
    """A folder, and those that it is in, up to the map's top."""
    while folder:
        yield folder
        folder = posixpath.dirname(folder)
    yield ""


def _suffixes(path: str) -> tuple[str, ...]:
    """What of a path may be left out: nothing, its ending, and that with marks before it, which say how the file is
    used: `bell~.wav` is the bell that goes on."""
    ending = posixpath.splitext(path)[1]
    marks = _MARKS.search(path, 0, len(path) - len(ending)) if ending else None
    return tuple(dict.fromkeys(("", ending, f"{marks[0]}{ending}" if marks is not None else "")))


def files_named(texts: Iterable[str], writing: FileWriting) -> list[str]:
    """The files that some texts are, written so, which nobody has seen; none where each counts from its own folder."""
    if writing.beside:
        return []
    top, ending = next(iter(writing.under), ""), next(iter(writing.suffix), "")
    plain = (text.replace(writing.joint, "/") if writing.joint else text.replace("\\", "/") for text in texts)
    return [posixpath.normpath(posixpath.join(top, text.lstrip("/") + ending)) for text in plain]


def _folded(meant: int, exactly: int) -> bool:
    """Whether letter case does not count, by how many files are written in theirs: a few in another are mistakes."""
    return exactly == 0 or meant - exactly >= max(_OTHERWISE, _OTHERWISE_SHARE * meant)


def _enough(counted: Counter[str], often: int) -> list[str]:
    """What counts often enough to be no accident, the most frequent first."""
    return [one for one, count in counted.most_common(_MOST_FOLDERS - 1) if count >= max(2, often * _FURTHER)]
