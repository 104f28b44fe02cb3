"""Where further entries go: at the end of lists and tables, under imports, in the functions that start modules."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Callable, Container, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct

from hookset.formats._script.tables import tables_at
from hookset.learning.guess import Guess
from hookset.learning.kinds import LearnedKind
from hookset.learning.loading import LearnedLoading
from hookset.learning.material import SCRIPTS, Material, Sort
from hookset.learning.place import Place
from hookset.learning.places.code import FUNCTION, QUALIFIED, code_of
from hookset.learning.vocabulary import NAMING

__all__ = ["LearnedSeat", "seats_of"]

_MOST = 40
_STARTED = 3
"""Modules that a function calls before it is the one that starts them."""
_RECORD = re.compile(r"^(?P<word>[A-Za-z_]\w*)[ \t]*\r?\n(?=[ \t]+\S)", re.M)
"""The word of a record, above what is in it."""
_MOST_WORDS = 24
_IMPORT = re.compile(r"^[ \t]*(?P<word>[A-Za-z_]\w*)[ \t]+[\w.:/\\\-]+[ \t]*;?[ \t\r]*$", re.M)
_STEP = re.compile(r"\.([^\W\d]\w*)")
_ROWS = re.compile(r"(?P<list>\$(?:\.[^\W\d]\w*)*)\[\*\](?:\.[^\W\d]\w*)?")
_TOP_BLOCK = re.compile(r"[^/*]+/[^/]+")
_WORD = re.compile(r"[^\W\d][\w.:-]*")
_DEEP, _SEVERAL, _EACH = 3, 3, 2
"""Steps of the way to a value that stands in a block in another one, files that each have one, and calls in each script
on the average."""

_Found = tuple[str, Mapping[str, Any], str]
"""(file, the spot in the words of its format, where that is)"""


class LearnedSeat(Struct, frozen=True):
    """A spot for entries."""

    name: str
    title: str
    file: str
    """A path; with `{variant}` where there is a file for each language."""
    put: Mapping[str, Any]
    kind: str = ""
    """The kind of which there is a file for each language."""


def seats_of(
    material: Material, guesses: Sequence[Guess], kinds: Sequence[LearnedKind], loading: LearnedLoading | None
) -> tuple[LearnedSeat, ...]:
    """The seats, each once; those for what scripts import come first."""
    loaded = loading.by_name if loading is not None else frozenset[str]()
    found: dict[tuple[str, str], LearnedSeat] = {}
    taken: set[str] = set()

    def add(one: _Found, name: str, variant: str = "") -> None:
        file, put, title = one
        key = file, repr(sorted(put.items()))
        if key not in found and len(found) < _MOST:
            found[key] = LearnedSeat(_free(name, taken), title, file, put, name if variant else "")

    for sort in material.sorts:
        for one, name in _of_code(sort, guesses, loaded):
            add(one, name)
    for kind in kinds:
        for vocabulary in kind.vocabularies:
            seat = None if vocabulary.outside else _of_place(material, vocabulary.place)
            if seat is not None:
                variant = _by_language(vocabulary.place.sort, seat[0])
                several = "|" in str(seat[1].get("begins", ""))
                name = posixpath.splitext(posixpath.basename(seat[0]))[0] if several else kind.name
                add((variant, seat[1], f"in {variant}, for each language") if variant else seat, name, variant)
    for guess in guesses:
        if guess.evidence.band == "sure" and (each := _in_each_file(guess.place)) is not None:
            add(each, _word_of(each[0]))
    for guess in guesses:
        seat = (
            _of_place(material, guess.place)
            if guess.place.form in ("value", "call") and not guess.place.parts
            else None
        )
        if seat is not None and guess.evidence.band == "sure" and _mainly(guess.place, seat[0]):
            add(seat, posixpath.splitext(posixpath.basename(seat[0]))[0])
    return tuple(found.values())


def _free(name: str, taken: set[str]) -> str:
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "seat"
    free = next(one for one in (plain, *(f"{plain}-{n}" for n in range(2, 1000))) if one not in taken)
    taken.add(free)
    return free


def _by_language(sort: Sort, file: str) -> str:
    """The pattern of a file of which there is one for each language; empty where there is not."""
    patterns = [dict(files) for files in sort.languages.values()]
    mine = next((one[file] for one in patterns if file in one), "")
    return mine if sum(mine in one.values() for one in patterns) > 1 else ""


def _of_place(material: Material, place: Place) -> _Found | None:
    """Where one more of what stands at a place would go: in the file that has most of them. Entries are set in the
    format in which a file is read first."""
    make = _BY_FORMAT.get(place.sort.format)
    files = Counter(place.said.paths)
    first = (sort for sort in material.sorts if sort.format == place.sort.format)
    if make is None or not files or not any(place.said.paths[0] in sort.documents for sort in first):
        return None
    if len(files) > 2 and len(files) * 2 > len(place.said.paths):
        # Each has a file of its own.
        return None
    file = files.most_common(1)[0][0]
    put = make(place, file)
    return None if put is None else (file, put, f"{_where(put)} of {file}")


def _in_each_file(place: Place) -> _Found | None:
    """What each of several files in a folder has, for one more of what is in it: a level, and what stands there, or
    the calls that a script of a room makes. Entries for it name the file."""
    put = _in_script(place, "") if place.sort.format in SCRIPTS and "call" in place.asked else None
    put = {"again": True} if place.sort.format == "ini" and "key" in place.asked and _in_records(place) else put
    often = Counter(dict.fromkeys(place.said.paths, 1)) if put is not None else _with_one_block(place)
    folders = Counter((posixpath.dirname(path), posixpath.splitext(path)[1]) for path in often)
    if len(folders) != 1 or (put is not None and len(place.said.texts) < _EACH * len(often)):
        return None
    ((folder, ending), files), *_ = folders.items()
    word = re.sub(r"\W", "", _word_of(f"{folder}/"))
    if files < _SEVERAL or not word or word[0].isdigit():
        return None
    block = str(place.asked.get("at", "")).partition("/")[0]
    put = put or {"into": block, "at": "end"}
    return f"{folder}/{{{word}}}{ending}", put, f"{_where(put)} of a file of {folder}"


def _in_records(place: Place) -> bool:
    """Whether what stands at a key stands in sections that are called alike, one behind the other."""
    inside: set[str] = set()
    for path in place.said.paths.different:
        found: Any = place.sort.documents[path]
        inside |= {pair.section for pair in found.pairs if pair.key == place.word}
    return len(inside) == 1 and inside != {""}


def _with_one_block(place: Place) -> Counter[str]:
    """The files that each have the block once in which the place stands in others; none where some have several."""
    way = str(place.asked.get("at", "")).split("/")
    if place.sort.format != "block" or len(way) < _DEEP or not _WORD.fullmatch(way[0]):
        return Counter()
    often: Counter[str] = Counter()
    for path in place.sort.paths:
        entries = getattr(place.sort.documents[path], "entries", ())
        often[path] = sum(entry.word.text == way[0] for entry in entries)
    return +often if max(often.values(), default=0) == 1 else Counter()


def _word_of(path: str) -> str:
    """What files of a folder are called."""
    folder = posixpath.basename(posixpath.dirname(path)).lower()
    return folder[:-1] if folder.endswith("s") and len(folder) > 3 else folder


def _mainly(place: Place, file: str) -> bool:
    """Whether most of what stands at a place is in one file, of which there is none for each language."""
    return 2 * place.said.paths.count(file) >= len(place.said.paths) and not _by_language(place.sort, file)


def _where(put: Mapping[str, Any]) -> str:
    into = put.get("into", put.get("section", ""))
    if put.get("call"):
        return f"below the last {put['call']}"
    return f"at the end of {into}" if into else "below their like" if put.get("at") == "grouped" else "at the end"


def _in_data(place: Place, _: str) -> Mapping[str, Any] | None:
    """The list whose elements are meant, or the table by names."""
    keys = str(place.asked.get("keys", ""))
    if keys and "*" not in keys and "[" not in keys:
        return {"into": _STEP.sub(r"/\1", keys[1:]), "form": "keys"}
    rows = _ROWS.fullmatch(str(place.asked.get("at", "")))
    return {"into": _STEP.sub(r"/\1", rows["list"][1:]), "form": "row"} if rows is not None else None


def _in_table(place: Place, _: str) -> Mapping[str, Any] | None:
    return {} if "column" in place.asked else None


def _in_lines(place: Place, _: str) -> Mapping[str, Any] | None:
    return {"at": "grouped"} if place.asked.get("when") or place.when else {"at": "end"}


def _in_blocks(place: Place, _: str) -> Mapping[str, Any] | None:
    """Blocks that stand in no other."""
    return {"at": "end"} if _TOP_BLOCK.fullmatch(str(place.asked.get("at", ""))) else None


def _in_sections(place: Place, _: str) -> Mapping[str, Any] | None:
    if place.asked.get("sections") or (place.form == "value" and place.word.lower() in NAMING):
        # Whole sections, each of another record; several are called alike where the name is in them.
        return {} if place.asked.get("sections") else {"again": True}
    return {"section": str(place.asked["section"])} if place.asked.get("keys") else None


def _in_elements(place: Place, file: str) -> Mapping[str, Any] | None:
    """The element around those that are meant, if there is one such in the file."""
    document: Any = place.sort.documents.get(file)
    tag = re.fullmatch(r"//(?:\w+/)?(?P<tag>\w+)/@\w+", str(place.asked.get("at", "")))
    root = getattr(document, "root", None)
    if tag is None or root is None:
        return None
    around = Counter(one.getparent() for one in root.iter(tag["tag"]) if one.getparent() is not None)
    if len(around) != 1:
        return None
    steps = [next(iter(around)), *next(iter(around)).iterancestors()]
    names = [str(one.tag) for one in reversed(steps)]
    alone = all(len(list(root.iter(one.tag))) == 1 for one in steps)
    return {"into": "/" + "/".join(names)} if alone and not any("{" in name for name in names) else None


def _in_script(place: Place, file: str) -> Mapping[str, Any] | None:
    """Below the calls by which it is done, or in the table by names or of records."""
    if table := str(place.asked.get("assign", "")):
        return _in_script_table(place, table, file)
    call = str(place.asked.get("call", ""))
    first = int(place.asked.get("arg", 1)) == 1 and "field" not in place.asked
    return {"after": "last", "call": call} if call and first and "*" not in call else None


def _in_script_table(place: Place, table: str, file: str) -> Mapping[str, Any] | None:
    """In what a name is set to, or what the file gives: by names, or one record more in a list of them."""
    steps = str(place.asked.get("field", "")).split(".")
    if place.asked.get("keys"):
        way = ".".join([table, *filter(None, steps)])
        return None if "*" in way else {"into": way}
    way = ".".join([table, *steps[:-2]])
    if len(steps) < 2 or steps[-2] != "*" or "*" in way:
        return None
    script: Any = getattr(place.sort.documents[file], "script", None)
    keys = [key for found in tables_at(script, way) for key, _ in script.items(found)] if script is not None else []
    return {"into": way, "form": "row"} if keys and all(map(str.isdecimal, keys)) else None


def _in_text(place: Place, file: str) -> Mapping[str, Any] | None:
    """Texts for people, by their keys; behind those, or below. Records that begin with their word on a line of its own,
    where the lines below it stand further in."""
    if place.form != "key":
        words = Counter(one["word"] for one in _RECORD.finditer(code_of(place.sort.documents[file])))
        below = str(place.asked.get("match", "")).startswith(rf"\b{place.around}[ \t]*\r?\n")
        alike = "|".join(word for word, _ in words.most_common(_MOST_WORDS))
        return {"at": "end", "begins": rf"^(?:{alike})[ \t\r]*$"} if below and place.around in words else None
    match = str(place.asked["match"])
    return {"at": "end", "begins": match.replace("?P<value>", "?:")} if match.endswith("$") else {"at": "end"}


_BY_FORMAT: dict[str, Callable[[Place, str], Mapping[str, Any] | None]] = {
    "json": _in_data,
    "toml": _in_data,
    "yaml": _in_data,
    "csv": _in_table,
    "lines": _in_lines,
    "block": _in_blocks,
    "ini": _in_sections,
    "xml": _in_elements,
    "lua": _in_script,
    "ecmascript": _in_script,
    "gdscript": _in_script,
    "text": _in_text,
}


def _of_code(sort: Sort, guesses: Sequence[Guess], loaded: frozenset[str]) -> Iterator[tuple[_Found, str]]:
    """In scripts of unknown languages: under the imports of the one that nobody imports, where it starts modules."""
    if sort.format != "text":
        return
    words = {guess.place.word for guess in guesses if guess.place.sort is sort and guess.files is not None}
    imports = {path: _imports(code_of(document), words) for path, document in sort.documents.items()}
    for ending in sorted({posixpath.splitext(path)[1] for path in sort.paths}):
        mine = [path for path in sort.paths if path.endswith(ending) and imports[path]]
        if not mine:
            continue
        main = max(mine, key=lambda path: (path not in loaded, len(imports[path]), path))
        word = Counter(one["word"] for one in imports[main]).most_common(1)[0][0]
        put = {"after": rf"^[ \t]*{re.escape(word)}[ \t]", "otherwise": "start"}
        yield (main, put, f"under the last {word} of {main}"), f"{ending.lstrip('.')}-imports"
        function = _starting(code_of(sort.documents[main]))
        if function is not None:
            header, name = function
            inside = {"inside": rf"^[ \t]*{re.escape(header)}\b", "at": "end"}
            yield (main, inside, f"at the end of {name} of {main}"), f"{ending.lstrip('.')}-{name}"


def _imports(code: str, words: Container[str]) -> list[re.Match[str]]:
    return [one for one in _IMPORT.finditer(code) if one["word"] in words]


def _starting(code: str) -> tuple[str, str] | None:
    """How the line of the function begins that calls functions of most modules, and what it is called."""
    heads = list(FUNCTION.finditer(code))
    often: Counter[tuple[str, str]] = Counter()
    for head, end in zip(heads, [*(one.start() for one in heads[1:]), len(code)], strict=True):
        modules = {one["mod"] for one in QUALIFIED.finditer(code, head.end(), end)}
        line = " ".join(code[head.start() : head.end()].partition("(")[0].split())
        often[line, head["value"]] = len(modules)
    best = often.most_common(1)
    return best[0][0] if best and best[0][1] >= _STARTED else None
