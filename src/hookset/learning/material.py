"""The files of a map by their sorts: which are read alike, in which format and with which of its options. Where the
ending does not say it, that is found by trying."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from hookset.config.layouts import Layout
from hookset.formats import Document, Unreadable, format_named, open_file
from hookset.learning.dialects import (
    Dialect,
    dialect_by,
    dialects_of,
    headed_dialect,
    is_header,
    known_format,
    script_dialect,
)
from hookset.learning.expressions import folder_expressions
from hookset.learning.families import families_of
from hookset.learning.globs import MOST_GLOBS, globs_for, meets
from hookset.learning.headed import headed
from hookset.learning.heads import no_head, own_head, word_head
from hookset.learning.languages import languages_of
from hookset.learning.prose import is_for_people
from hookset.learning.sorting import MOST_ALONE, told_apart
from hookset.model import CouldNotError
from hookset.trees import Tree

__all__ = ["ENCODINGS", "SCRIPTS", "Material", "Sort", "Unread", "material_of"]

ENCODINGS = ("utf-8", "cp1252")
_LARGEST = 8 << 20
"""Bytes of a file that is looked into: what is larger is data that programs wrote."""
_MOST_BYTES = 256 << 20
_MOST_FILES = 20_000
_MOST_NUMBERS = 2 << 20
"""Bytes of files of an ending that are mostly lines of numbers: meshes and the like, that programs wrote. The smallest
of them say as much of what all are like."""
_SAMPLED = 1 << 16
"""Bytes of each that say what its lines are."""
_POINTS = 0.2
"""Of the lines of meshes: how many have the numbers of a point, at least."""
_ASKED = 40
"""Files that were not looked into of which it is found out what they are."""
_TRIED = 6
"""Files of an ending on which formats are tried."""
_FEW_DAMAGED = 10
"""Of so many files one may be damaged."""
_QUICKLY = 32 << 10
"""Bytes of a file that a grammar reads in no time, whatever it is."""
_MANY_BARE, _FEW_ENDINGS = 20, 3
"""Files without an ending, and of one, of which the latter may be none."""
_POINT = re.compile(rb"\.\d+[ \t,;]+[-+]?\d*\.\d")
_NUMBERS = re.compile(rb"^[ \t]*[-+]?\.?\d|" + _POINT.pattern)
_OURS, _PARTS = re.compile(rb"^\[(?:layout|\[read)\]", re.M), 2
"""The parts that every layout has."""
_BINARY = re.compile(rb"[\x00-\x08\x0e-\x1a\x1c-\x1f]")


class Sort(Struct, frozen=True, eq=False):
    """Files that are read alike."""

    format: str
    options: Mapping[str, Any]
    documents: Mapping[str, Document]
    """By path."""
    globs: tuple[str, ...] = ()
    """Patterns that mean these files, and no others of their ending."""
    encodings: tuple[str, ...] = ENCODINGS[:1]
    but: tuple[str, ...] = ()
    """Patterns of files of other endings that those mean as well: they have none, or one of their own each."""
    languages: Mapping[str, Sequence[tuple[str, str]]] = field(default_factory=dict)
    """The files of each language, with the pattern in which `{variant}` stands for it and which means no others."""

    @property
    def paths(self) -> tuple[str, ...]:
        """The files, in order."""
        return tuple(self.documents)


class Unread(Struct, frozen=True):
    """Files that were not looked into."""

    ending: str
    files: int
    why: str


class Material(Struct, frozen=True):
    """What is known of the files of a map before anything is known of its game."""

    tree: Tree
    sorts: tuple[Sort, ...]
    unread: tuple[Unread, ...] = ()
    media: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """Paths of pictures and sounds, by the format that reads them."""


SCRIPTS = ("lua", "ecmascript", "gdscript")
_STRICT = ("json", "toml", "xml", "yaml")
_LOOSE = ("block", "csv", "ini", "lines", "text")
"""Formats in which there is little to be wrong."""
_PAGES = frozenset((".html", ".htm", ".css", ".qss", ".svg", ".fodt", ".fods", ".fodg", ".fodp"))
_MEDIA = {
    "picture": (".png", ".jpg", ".jpeg", ".bmp", ".tga", ".gif", ".webp"),
    "audio": (".wav", ".ogg", ".mp3", ".flac", ".opus"),
}
_MEDIA_OF = {ending: form for form, endings in _MEDIA.items() for ending in endings}


def material_of(tree: Tree, layout: Layout | None = None) -> Material:
    """Sort the files of a tree, and read what can be read: as a layout at hand does, where that looks into them."""
    ours = frozenset(path for path in tree.paths() if _is_ours(tree, path))
    by_ending = _by_ending(path for path in tree.paths() if path not in ours)
    sorts: list[Sort] = []
    unread = [Unread(".toml", len(ours), "layouts, hook sheets or the map's own hookset.toml")] if ours else []
    media: dict[str, tuple[str, ...]] = {}
    alike = {*ours}
    left, files = _MOST_BYTES, _MOST_FILES
    for ending, paths in sorted(by_ending.items()):
        if ending in _MEDIA_OF:
            form = _MEDIA_OF[ending]
            media[form] = (*media.get(form, ()), *paths)
            continue
        if ending in _PAGES and layout is None:
            unread.append(Unread(ending, len(paths), "pages and drawings for people, not for the game"))
            continue
        meant, too_large = _within(tree, paths, left, files)
        left -= sum(map(tree.size, meant))
        files -= len(meant)
        if too_large:
            unread.append(
                Unread(ending, too_large, "larger than what people write by hand, or more than is looked into")
            )
        found = list(_read_as(tree, meant, layout)) if layout is not None else []
        done = {path for sort in found for path in sort.documents}
        rest = [path for path in meant if path not in done]
        if not known_format(ending) and _of_numbers(tree, rest):
            few, _ = _within(tree, sorted(rest, key=tree.size), _MOST_NUMBERS, files)
            unread.append(Unread(ending, len(rest) - len(few), "more lines of numbers than people write by hand"))
            alike |= {*rest} - {*few}
            rest = sorted(few)
            meant = [*done, *rest]
        found += _read_apart(tree, ending, rest)
        sorts += found
        known = {path for sort in found for path in sort.documents}
        not_read = [path for path in meant if path not in known]
        unread += _not_read(tree, ending, not_read)
        # Among many that can be read they are what somebody has to mend: what reads those is to say so.
        tagged = any(sort.options.get("tagged") for sort in found)
        alike |= _damaged(tree, ending, not_read, tagged, len(known))
    # Files that are like those that were read are meant by the same patterns.
    told = [path for path in tree.paths() if path not in alike]
    named = list(_with_globs(sorts, told))
    unread += (
        Unread(ending, number, "scattered among files of other forms, by no pattern of their names")
        for sort in named
        if _scattered(sort)
        for ending, number in Counter(posixpath.splitext(path)[1] for path in sort.documents).items()
    )
    return Material(tree, tuple(sort for sort in named if not _scattered(sort)), tuple(unread), media)


def _is_ours(tree: Tree, path: str) -> bool:
    """Whether a file is one of Hook Set's own, of which none says anything of the game: layout, sheet, settings."""
    if not path.endswith(".toml"):
        return False
    named = path.endswith(".hooksheet.toml") or posixpath.basename(path) == "hookset.toml"
    return named or len(set(_OURS.findall(_text(tree, path) or b""))) == _PARTS


def _not_read(tree: Tree, ending: str, paths: Sequence[str]) -> Iterator[Unread]:
    """Why files were not looked into that could be: by what some of them are, where there are many."""
    if not paths:
        return
    if form := known_format(ending):
        yield Unread(ending, len(paths), f"no {format_named(form).title} that can be read")
        return
    some = paths[:: len(paths) // _ASKED + 1]
    texts = [data.decode("utf-8", "replace") for path in some if (data := _text(tree, path)) is not None]
    pages = 2 * sum(map(is_for_people, texts)) > len(some)
    why = "texts for people, as far as can be told" if pages else "in no format that is known here"
    yield Unread(ending, len(paths), why)


def _scattered(sort: Sort) -> bool:
    """Whether hundreds of files would have to be named one by one that may be in their format by chance: texts for
    people can be read as almost anything."""
    return len(sort.globs) > MOST_GLOBS and sort.format in _LOOSE


def _of_numbers(tree: Tree, paths: Sequence[str]) -> bool:
    """Whether files hold more lines of numbers than is looked into."""
    if sum(map(tree.size, paths)) <= _MOST_NUMBERS:
        return False
    texts = [data[:_SAMPLED] for path in _some(tree, paths) if (data := _text(tree, path)) is not None]
    lines = [line for data in texts for line in data.splitlines()]
    points = sum(_POINT.search(line) is not None for line in lines)
    numbers = sum(_NUMBERS.search(line) is not None for line in lines)
    return points > _POINTS * len(lines) and 2 * numbers > len(lines)


def _by_ending(paths: Iterable[str]) -> dict[str, list[str]]:
    """Paths by their ending. Where many files have none, a dot in the name of a few others begins no ending."""
    found: dict[str, list[str]] = {}
    for path in paths:
        found.setdefault(posixpath.splitext(path)[1].lower(), []).append(path)
    bare = found.get("", [])
    for ending in [*found] if len(bare) >= _MANY_BARE else ():
        told = known_format(ending) or ending in _MEDIA_OF or is_header(ending)
        if ending and len(found[ending]) <= _FEW_ENDINGS and not told:
            bare += found.pop(ending)
    return found


def _read_apart(tree: Tree, ending: str, paths: Sequence[str]) -> list[Sort]:
    """The files of one ending. Where all together are lists of lines at best, or texts of several forms, those that are
    called alike in several folders may be written in a way of their own, and the rest in each folder at the top."""
    found = list(_read(tree, ending, paths))
    forms = {sort.format for sort in found}
    says_nothing = bool(ending) and not known_format(ending)
    mixed = says_nothing and _mixed(found, paths)
    named = families_of(paths, mixed) if mixed or (says_nothing and forms & {"lines", "text"}) else {}
    if len(named) < 2:
        lost = sum(len(sort.documents) for sort in found if _scattered(_known(sort, paths))) if mixed else 0
        return (list(_read_as_script(tree, paths)) if 2 * lost > len(paths) else []) or found
    apart = [
        sort for name, mine in named.items() for sort in _read(tree, ending, mine, "" if name.endswith("/") else name)
    ]
    # Lines of a language are in no other form for being called alike.
    return apart if mixed or "lines" in forms or {sort.format for sort in apart} - {"lines", "text"} else found


def _read_as_script(tree: Tree, paths: Sequence[str]) -> Iterator[Sort]:
    """Files that are in no form all together, nor are called alike, as scripts of one language: of those only the
    regular parts are taken. Texts for people are none."""
    texts = [data for path in _some(tree, paths) if (data := _text(tree, path)) is not None]
    if 2 * sum(is_for_people(data.decode("utf-8", "replace")) for data in texts) <= len(texts):
        yield from _by_head(dialect := script_dialect(texts), dict(_opened(tree, paths, dialect)))


def _mixed(found: Sequence[Sort], paths: Sequence[str]) -> bool:
    """Whether the files of an ending are texts of several forms: most can be read in none, or those of one lie among
    the others."""
    left = len(paths) - sum(len(sort.documents) for sort in found)
    return 2 * left > len(paths) or (
        (left > 0 or len(found) > 1) and any(_scattered(_known(sort, paths)) for sort in found)
    )


def _within(tree: Tree, paths: Sequence[str], left: int, files: int) -> tuple[list[str], int]:
    """The files that are looked into, and how many are not."""
    meant: list[str] = []
    for path in paths:
        size = tree.size(path)
        if size <= _LARGEST and size <= left and len(meant) < files:
            meant.append(path)
            left -= size
    return meant, len(paths) - len(meant)


def _read_as(tree: Tree, paths: Iterable[str], layout: Layout) -> Iterator[Sort]:
    """The files that a layout looks into, as it does."""
    known: dict[str, tuple[Dialect, list[str]]] = {}
    for path in paths:
        dialect = dialect_by(layout, path)
        if dialect is not None:
            known.setdefault(repr((dialect.format, dialect.options)), (dialect, []))[1].append(path)
    for dialect, mine in known.values():
        yield from _by_head(dialect, dict(_opened(tree, mine, dialect)))


def _read(tree: Tree, ending: str, paths: Sequence[str], name: str = "") -> Iterator[Sort]:
    """The files of one ending: those that one dialect reads, then the rest with what reads those. What all are called
    by `name` is of one sort."""
    told = [] if known_format(ending) else list(_headed(tree, paths))
    yield from told
    below = {path for sort in told for path in sort.documents}
    left = [path for path in paths if path not in below]
    while left:
        texts = [data for path in _some(tree, left) if (data := _text(tree, path)) is not None]
        if not texts:
            return
        found: dict[str, tuple[Document, str]] = {}
        dialects = list(dialects_of(ending, texts))
        in_lines = any(one.format == "lines" for one in dialects)
        for dialect in dialects:
            if len(left) > _TRIED and _in_other_language(dialect, texts):
                continue
            dialect, found = _fitted(tree, left, dialect)
            if not ending and dialect.format == "lines" and dialect.options.get("fields"):
                dialect = replace(dialect, head=word_head)
            if name and dialect.head is own_head:
                dialect = replace(dialect, head=no_head)
            others = [path for path in left if path not in found]
            if in_lines and dialect.options.get("indented") and not _are_few(others, len(found)):
                # How far in lines stand means nothing, where some files have it otherwise.
                continue
            if 2 * len(found) > len(left) or (found and len(left) <= _TRIED):
                yield from _by_head(dialect, found)
                break
        if not found:
            return
        left = [path for path in left if path not in found]
        damaged = _damaged(tree, ending, left, bool(dialect.options.get("tagged")), len(found))
        left = [path for path in left if path not in damaged]
        if dialect.format == "text":
            # What is for people beside a language for programs is in no other form of that.
            left = [path for path in left if not is_for_people((_text(tree, path) or b"").decode("utf-8", "replace"))]


def _fitted(tree: Tree, paths: Sequence[str], dialect: Dialect) -> tuple[Dialect, dict[str, tuple[Document, str]]]:
    """What a dialect reads, with what those files need besides."""
    found = dict(_opened(tree, paths, dialect))
    if (loose := _with_any_escape(dialect, found, tree)) is not dialect:
        dialect, found = loose, dict(_opened(tree, paths, loose))
    if dialect.format in SCRIPTS and (known := _expressions(found, tree)):
        dialect = replace(dialect, options={**dialect.options, "known": known})
        found = dict(_opened(tree, paths, dialect))
    return dialect, found


def _damaged(tree: Tree, ending: str, left: Sequence[str], tagged: bool, read: int) -> frozenset[str]:
    """Those of the files that are `left` which are of the form of those that were `read`, by their ending or by the
    tags of blocks in them: that one is damaged is no reason to read it in another form."""
    if not _are_few(left, read):
        return frozenset()
    if known_format(ending) in _STRICT:
        return frozenset(left)
    forms = ((path, dialects_of(ending, [_text(tree, path) or b""])) for path in (left if tagged else ()))
    return frozenset(path for path, found in forms if any(one.options.get("tagged") for one in found))


def _are_few(damaged: Sequence[str], read: int) -> bool:
    return len(damaged) * _FEW_DAMAGED <= read


def _with_any_escape(dialect: Dialect, found: Mapping[str, tuple[Document, str]], tree: Tree) -> Dialect:
    """Scripts in Lua of which some can be read only as Lua 5.1 does, which takes any letter behind a backslash."""
    broken = [path for path, (document, _) in found.items() if document.problems] if dialect.format == "lua" else []
    if not broken:
        return dialect
    loose = replace(dialect, options={**dialect.options, "escapes": "any"})
    mended = any(not document.problems for _, (document, _) in _opened(tree, broken[:_TRIED], loose))
    return loose if mended else dialect


def _in_other_language(dialect: Dialect, texts: Sequence[bytes]) -> bool:
    """Whether several files are surely in no language that a grammar would have to read whole: to try it on all of them
    takes long, and much memory."""
    small = [text for text in texts if len(text) <= _QUICKLY] if dialect.format in SCRIPTS else []
    return bool(small) and not dialect.tolerant and not any(_parses(dialect, text) for text in small)


def _parses(dialect: Dialect, data: bytes) -> bool:
    """Whether the format reads all of a file."""
    form = format_named(dialect.format)
    try:
        return not open_file(form, data, ENCODINGS, msgspec.convert(dict(dialect.options), form.options))[1].problems
    except (Unreadable, CouldNotError):
        return False


def _expressions(found: Mapping[str, tuple[Document, str]], tree: Tree) -> dict[str, str]:
    """What stands for folders in some scripts."""
    return folder_expressions({path: document for path, (document, _) in found.items()}, tree.paths())


def _headed(tree: Tree, paths: Sequence[str]) -> Iterator[Sort]:
    """The files that say texts below their keys: those are names, though the texts are for people."""
    mine = sorted(headed(paths, lambda path: (_text(tree, path) or b"").decode("utf-8", "replace")))
    if mine:
        dialect = headed_dialect([_text(tree, path) or b"" for path in _some(tree, mine)])
        yield from _by_head(dialect, dict(_opened(tree, mine, dialect)))


def _some(tree: Tree, paths: Sequence[str]) -> Sequence[str]:
    """A few of many, from all over, and the largest, which says most."""
    step = max(1, len(paths) // _TRIED)
    return tuple(dict.fromkeys((*paths[::step][:_TRIED], max(paths, key=tree.size))))


def _text(tree: Tree, path: str) -> bytes | None:
    """The bytes of a file, if they are a text."""
    try:
        data = tree.read(path)
    except CouldNotError:
        return None
    return None if _BINARY.search(data[:4096]) else data


def _opened(tree: Tree, paths: Iterable[str], dialect: Dialect) -> Iterator[tuple[str, tuple[Document, str]]]:
    """The files that a dialect reads, each with its encoding."""
    form = format_named(dialect.format)
    options = msgspec.convert(dict(dialect.options), form.options)
    for path in paths:
        try:
            data = tree.read(path)
            if form.binary:
                yield path, (form.open(data, options), "")
            elif not _BINARY.search(data[:4096]):
                text, document = open_file(form, data, ENCODINGS, options)
                if dialect.format == "text" and not dialect.for_people and is_for_people(text.string):
                    continue
                if not document.problems or dialect.tolerant:
                    # All are kept, as text; the bytes are a second copy of each.
                    yield path, (document, (text if dialect.format in SCRIPTS else text.without_bytes()).encoding)
        except (Unreadable, CouldNotError):
            continue


def _by_head(dialect: Dialect, documents: Mapping[str, tuple[Document, str]]) -> Iterator[Sort]:
    """Files that say different things at their top are of different sorts, though they are written alike."""
    for found in told_apart(dialect, {path: document for path, (document, _) in documents.items()}):
        old = any(documents[path][1] == ENCODINGS[1] for path in found)
        yield Sort(dialect.format, dialect.options, found, encodings=ENCODINGS if old else ENCODINGS[:1])


def _with_globs(sorts: Sequence[Sort], paths: Sequence[str]) -> Iterator[Sort]:
    """Each sort with its patterns. Those that lie mixed with others of their form are one sort with them: no layout
    should name hundreds of files one by one."""
    apart: dict[tuple[str, str], list[Sort]] = {}
    mixed: dict[tuple[str, str], list[Sort]] = {}
    for sort in sorts:
        known = _known(sort, paths)
        form = sort.format, repr(sorted(sort.options.items()))
        (apart if len(known.globs) <= MOST_ALONE else mixed).setdefault(form, []).append(known)
    for form, alike in mixed.items():
        whole = _known(_together(alike), paths)
        if len(whole.globs) > MOST_GLOBS:
            # Without those that lie among them they are too many to be named.
            whole = _known(_together([*alike, *apart.pop(form, ())]), paths)
        apart.setdefault(form, []).append(whole)
    yield from (sort for found in apart.values() for sort in found)


def _together(alike: Sequence[Sort]) -> Sort:
    documents = {path: document for sort in alike for path, document in sort.documents.items()}
    encodings = max((sort.encodings for sort in alike), key=len)
    return Sort(alike[0].format, alike[0].options, documents, encodings=encodings)


def _known(sort: Sort, paths: Sequence[str]) -> Sort:
    """The sort with its patterns."""
    mine = frozenset(sort.documents)
    endings = {posixpath.splitext(path)[1] for path in mine}
    others = [path for path in paths if path not in mine and posixpath.splitext(path)[1] in endings]
    globs = globs_for(sorted(mine), others)
    wide = [glob for glob in globs if glob.endswith("/*")]
    meant = (path for path in paths if path not in mine and any(meets(glob, path) for glob in wide))
    but = tuple(sorted({f"**/*{posixpath.splitext(path)[1]}" for path in meant}))
    return replace(sort, globs=globs, but=but, languages=_languages(sorted(mine), others))


def _languages(mine: Sequence[str], others: Sequence[str]) -> Mapping[str, Sequence[tuple[str, str]]]:
    """The files by language; empty where what stands for them stands for some of the others as well."""
    found = languages_of(mine)
    if len(found) < 2:
        return {}
    patterns = {pattern for files in found.values() for _, pattern in files}
    meant = [re.compile(re.escape(one).replace(re.escape("{variant}"), "[^/]+")) for one in patterns]
    return {} if any(one.fullmatch(path) for one in meant for path in others) else found
