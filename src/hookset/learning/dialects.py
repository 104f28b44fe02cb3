"""In which form a text is written that nobody has said anything about: the formats that may read it, the likeliest
first, with their options."""

from __future__ import annotations

import itertools
import posixpath
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from hookset.config.layouts import Layout
from hookset.formats import Document, format_named
from hookset.learning.heads import data_head, keyed_head, no_head, own_head, section_head, xml_head
from hookset.learning.prose import SEEN, are_for_people, prosaic
from hookset.trees import Text

__all__ = [
    "BRACKETED",
    "KEYED",
    "Dialect",
    "dialect_by",
    "dialects_of",
    "headed_dialect",
    "is_header",
    "known_format",
    "script_dialect",
]

Head = Callable[[str, Document], Any]

_BY_ENDING = {
    "json": (".json", ".gltf", ".geojson", ".jsonc", ".json5"),
    "glb": (".glb",),
    "xml": (".xml", ".svg", ".xsd", ".dae"),
    "yaml": (".yaml", ".yml"),
    "toml": (".toml",),
    "csv": (".csv", ".tsv"),
    "ini": (".ini",),
    "lua": (".lua",),
    "ecmascript": (".js", ".mjs"),
    "gdscript": (".gd",),
    "resource": (".tscn", ".tres", ".godot", ".import"),
    "po": (".po", ".pot"),
}
_KNOWN = {ending: form for form, endings in _BY_ENDING.items() for ending in endings}
_BY_PATH = ("any", "audio", "picture")
"""Formats by which no texts are read."""
_SCRIPTS = ("lua", "ecmascript", "gdscript")
_HEADS: Mapping[str, Head] = {
    **dict.fromkeys(("glb", "json", "toml", "yaml"), data_head),
    "xml": xml_head,
}
_LOOSE = ("ini", "csv")
"""Formats whose endings are used for other things as well."""
_HEADERS = (".h", ".hh", ".hpp")
"""Constants for programs in C, which scripts and tables use as well."""
_ENTITY = re.compile(r"^[ \t]*\"classname\"[ \t]+\"[^\"\r\n]+\"[ \t]*$", re.M)
"""What each thing in a map of a level editor has."""
_COMMENTS = ("//", "#", "--", ";", "%", "'")
_CALL = re.compile(r"\b[A-Za-z_][\w.:]{0,80}(?:\(|[ \t]+\([^()]*\)[ \t]*[;{])")
"""A word with a blank before the parenthesis is as often one of a text for people."""
_SECTION = re.compile(r"[ \t]*\[[^\]\r\n]+\][ \t]*$")
_PAIR = re.compile(r"[ \t]*[\w.\- ]+[=:][ \t]*\S")
_ASSIGNED = re.compile(r"^[ \t]*[\w.\-\"]+[ \t]*=", re.M)
KEYED = re.compile(r"^[ \t]*(?P<value>[\w.\-]+)(?:[ \t]*[:=][ \t]*|[ \t]+)\"(?!.*\"[ \t]+\w+[ \t]+\")", re.M)
"""A key and one text in quotes, on a line of its own."""
BRACKETED = re.compile(r"[ \t]*(?:[*+-][ \t]*)?\[\+?\w[\w.-]*\][ \t]*[^\s\[\]]")
"""A key in square brackets with a value behind it, perhaps with a mark before it that begins a row."""
_CONTINUED = ("indent", "backslash", "commas", "brackets", "quotes")
"""What makes values go on, the loosest first: what the others do as well is not said."""
_LISTS = 5
"""Lists in round brackets, before that is how the values of keys are written."""
_TELLING = 1_000
"""Lines of a part of a text that say in which form it is."""
_TRIED = 40
"""Files in which it is tried what makes values go on."""
_SET = re.compile(r"[ \t]*;?\w[\w.\-]*(?:\[[\w.@]+\])?[ \t]*=[ \t]*\S|[ \t]*[;#]")
"""A key with a value, perhaps for one language, or a comment."""
_MOSTLY, _NEARLY, _OFTEN, _SOME = 0.6, 0.9, 0.3, 0.03
_BRACE_ENDS = re.compile(r"[{}][ \t]*$")
_BRACES = re.compile(r"[{}]")
_TOKEN = re.compile(r"\"[^\"]*\"|[^\s\"]+")
_ROUND = re.compile(r"(?:^|\s)\(\s*[\w\"][^()]*\)[ \t]*$")
"""A list in round brackets, at the end of a line."""
_CALLED = re.compile(r"\w\(")
_TAGS = {
    "[]": re.compile(r"[ \t]*\[(?P<ends>/)?\+?(?P<word>[A-Za-z_][\w.\-]*)[^\]\r\n]*\]"),
    "<>": re.compile(r"[ \t]*<(?P<ends>/)?(?P<word>[A-Za-z_][\w.\-]*)[^>\r\n]*>[ \t]*$"),
}
"""What blocks begin and end with, by its brackets."""
_LIST = re.compile(r"[ \t]*(?:\([A-Za-z_][\w.\-]*[\s)]|\)[ \t)]*$|;|[ \t]*[-\d. ]+\)*$|\"(?:[^\"\\]|\\.)*\"[ \t)]*$)")
"""Lines of lists in brackets that begin with their word: such a list, the end of some, a comment, numbers, a text."""
_QUOTED_WORD = re.compile(r"\"[^\"]*\"|[A-Za-z_][\w.\-]*")
_KEY = re.compile(r"[A-Za-z_]\w*")
_HEAD = re.compile(r"\s*[\w.:/\\'\"-]+(?:\s|$)")
"""A word that a line may begin with which says what the line is."""
_ATTRIBUTES = re.compile(r"[ \t]*#?[A-Za-z][\w.]*[ \t]+[A-Za-z_]\w*=[ \t]*[^\s=]")
"""A word, and behind it keys with their values."""
_COLON = re.compile(r"[ \t]*[^\s:#\-][^\s:#]*:(?:\s|$)")
"""A key of one word with a colon."""
_KEY_SET = re.compile(r"(?<![\w.])[A-Za-z_]\w*[ \t]*=[ \t]*(?:[\"\[(]|[-\d.]|[A-Za-z_])")
"""A key that is set to something, in a language that is not known here."""
_ORDER = re.compile(r"[ \t]*#[ \t]*(?:include|define|undef|if|ifdef|ifndef|elif|else|endif|pragma|import)\b", re.I)
"""What begins like a comment, and is an order to what reads the file first."""


class Dialect(Struct, frozen=True):
    """A format with its options."""

    format: str
    options: Mapping[str, Any] = field(default_factory=dict)
    head: Head = no_head
    """What files have in common that say things of the same sort at their top."""
    tolerant: bool = False
    """Whether files with mistakes in them are read all the same, as far as they can be."""
    for_people: bool = False
    """Whether what is in them is for people, but for the keys above it."""


def dialects_of(ending: str, texts: Sequence[bytes]) -> Iterator[Dialect]:
    """The ways in which some files of an ending may be written. Most need not be right: whoever asks tries them."""
    known = _KNOWN.get(ending, "")
    if known == "glb":
        yield Dialect("glb", head=data_head)
        return
    written = [_decoded(text) for text in texts]
    if ending in _HEADERS or 2 * sum(_ENTITY.search(text) is not None for text in written) > len(written):
        yield _script(("//",))
    if known:
        yield from _of_format(known, written)
    if known == "yaml":
        by_text = [found for text in written if (found := [one[:SEEN] for one in text.splitlines() if one.strip()])]
        yield from _keyed(by_text, _marks([line for lines in by_text for line in lines]))
    if not known or known in _LOOSE:
        yield from (one for one in _guessed(written) if one.format != known)
    if known == "ini" and not _sets(written):
        yield _ini(written)


def dialect_by(layout: Layout, path: str) -> Dialect | None:
    """How a layout at hand reads a file; None where it does not look into it."""
    for rule in layout.reads:
        form = format_named(rule.format)
        if rule.format in _BY_PATH or rule.match(path) is None:
            continue
        plain = msgspec.to_builtins(form.options())
        options = {key: value for key, value in msgspec.to_builtins(rule.options).items() if plain.get(key) != value}
        head = _HEADS.get(rule.format, no_head)
        return Dialect(rule.format, options, head, tolerant=rule.format in _SCRIPTS)
    return None


def is_header(ending: str) -> bool:
    """Whether files of an ending are constants for programs."""
    return ending in _HEADERS


def known_format(ending: str) -> str:
    """The format that an ending stands for; empty where it says nothing."""
    return _KNOWN.get(ending, "")


def _decoded(data: bytes) -> str:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def _of_format(form: str, texts: Sequence[str]) -> Iterator[Dialect]:
    if form == "json":
        yield Dialect("json", {}, data_head)
        yield Dialect("json", {"comments": True, "trailing_commas": True}, data_head)
    elif form in ("yaml", "toml"):
        yield Dialect(form, {}, data_head)
    elif form == "xml":
        yield Dialect("xml", {}, xml_head)
    elif form == "csv":
        yield from _tables(texts)
    elif form == "ini":
        if _sets(texts):
            yield _ini(texts)
    elif form in _SCRIPTS:
        yield Dialect(form, tolerant=True)
    else:
        yield Dialect(form)


def _guessed(texts: Sequence[str]) -> Iterator[Dialect]:
    starts = Counter(text.lstrip()[:1] for text in texts)
    first = starts.most_common(1)[0][0] if starts else ""
    yield from _tagged(texts)
    if first == "<":
        yield Dialect("xml", {}, xml_head)
    if first in ("{", "["):
        yield from _of_format("json", texts)
    # A line of any length is told by how it begins.
    whole = [found for text in texts if (found := [one[:SEEN] for one in text.splitlines() if one.strip()])]
    marks = _marks([line for found in whole for line in found])
    by_text = [*map(_telling, whole)]
    lines = [line for found in by_text for line in found]
    # What stands in comments is written for people in every file.
    if lines and _share(by_text, _LIST.match) > _MOSTLY and any(line.lstrip().startswith("(") for line in lines):
        # What is translated in it is no reason to take it for prose.
        yield Dialect("block", {"opens": "(", "closes": ")", "leading": True, "comments": [";"], "separators": ""})
    told = [found for text in by_text if (found := [line for line in text if not line.lstrip().startswith(marks)])]
    if told and _share(told, BRACKETED.match) > _MOSTLY:
        yield replace(_script(marks), head=_name_head)
    if not lines or (2 * sum(map(prosaic, told or by_text)) > len(told or by_text) and not _in_columns(texts, by_text)):
        return
    by_text = [text for text in by_text if not prosaic(text)] or by_text
    lines = [line for text in by_text for line in text]
    blocks = [*_keyed(by_text, marks), *_indented(by_text, marks)]
    if _share(by_text, KEYED.match) > _MOSTLY and not any(map(_BRACE_ENDS.search, lines)):
        yield from blocks
        yield _script(marks)
    if _share(by_text, _CALL.search) > 0.12:
        # A grammar that reads all of it is the language.
        yield from (Dialect(language) for language in ("lua", "ecmascript", "gdscript"))
        yield _script(marks)
        return
    if _share(by_text, _ATTRIBUTES.match) > _MOSTLY:
        yield _script(marks)
    sections = any(map(_SECTION.match, lines)) and (_share(by_text, _PAIR.match) > 0.5 or _sectioned(by_text))
    if sections or _share(by_text, _SET.match) > _NEARLY:
        yield _ini(texts)
    if _share(by_text, _BRACES.search) > _SOME:
        yield from _blocks(lines, marks)
    yield from blocks
    yield from _tables(texts)
    if first != "<" and _share(by_text, _KEY_SET.search) > _OFTEN:
        yield _script(_marks([line for text in by_text if not are_for_people(text) for line in text]))
    yield from _listed(lines, marks)


def _telling(lines: Sequence[str]) -> Sequence[str]:
    """The lines by which a text is told: of very many those at the top and in the middle."""
    if len(lines) <= 2 * _TELLING:
        return lines
    middle = len(lines) // 2
    return [*lines[:_TELLING], *lines[middle : middle + _TELLING]]


def _sets(texts: Sequence[str]) -> bool:
    """Whether there are sections, or anything is set: what is called `.ini` may be lines of words."""
    lines = [line[:SEEN] for text in texts for line in text.splitlines() if line.strip()]
    return any(map(_SECTION.match, lines)) or _OFTEN * len(lines) < sum("=" in line for line in lines)


def _in_columns(texts: Sequence[str], by_text: Sequence[Sequence[str]]) -> bool:
    """Whether texts for people stand in tables, or behind their keys: then those are what there is to read."""
    keyed = _share(by_text, KEYED.match) > _MOSTLY or _share(by_text, _SET.match) > _NEARLY
    return keyed or any(True for _ in _tables(texts))


def _sectioned(texts: Sequence[Sequence[str]]) -> bool:
    """Whether files begin with a section, below comments: what follows may be long texts and lists."""
    firsts = (next((line for line in lines if not line.lstrip().startswith((";", "#"))), "") for lines in texts)
    return sum(_SECTION.match(line) is not None for line in firsts) * 10 > len(texts) * 8


def _share(texts: Sequence[Sequence[str]], told: Callable[[str], object]) -> float:
    """In how many lines something is, on the average: a long file says no more than a short one."""
    shares = [sum(1 for line in lines if told(line)) / len(lines) for lines in texts if lines]
    return sum(shares) / len(texts) if texts else 0.0


def _marks(lines: Sequence[str]) -> tuple[str, ...]:
    """What comments begin with: what lines begin with that are no more than that."""
    often = Counter(
        mark for line in lines for mark in _COMMENTS if line.lstrip().startswith(mark) and not _ORDER.match(line)
    )
    found = [mark for mark in _COMMENTS if often[mark]]
    if "//" in found:
        found = [mark for mark in found if mark != "#" or often[mark] * 20 >= len(lines)]
    return tuple(found)


def _ini(texts: Sequence[str]) -> Dialect:
    """With what makes values go on in the next line, where fewer lines are without a key by it."""
    some = texts[:: len(texts) // _TRIED + 1]
    least, ways = _bare(some, ()), list(_CONTINUED)
    fewer = _bare(some, ways) if least else 0
    if least and fewer * 10 < least * 9:
        for way in _CONTINUED:
            others = [one for one in ways if one != way]
            if _bare(some, others) <= fewer:
                ways = others
        least = fewer
    else:
        ways = []
    return Dialect("ini", {**({"bare": True} if least else {}), **({"continued": ways} if ways else {})}, section_head)


def _bare(texts: Sequence[str], ways: Sequence[str]) -> int:
    """How many lines are neither sections nor keys with values."""
    form = format_named("ini")
    options = msgspec.convert({"bare": True, "continued": ways}, form.options)
    documents: list[Any] = [form.open(Text(text, "utf-8"), options) for text in texts]
    return sum(not pair.value and "=" not in pair.key for document in documents for pair in document.pairs)


def _script(marks: Sequence[str]) -> Dialect:
    patterns = [rf"{re.escape(mark)}[^\n]*" for mark in marks if mark in ("//", "#", "--", ";", "%")]
    return Dialect("text", {"comments": [*patterns, r"/\*[\s\S]*?\*/"]}, _ending_head)


def script_dialect(texts: Sequence[bytes]) -> Dialect:
    """A language of which nothing is known, with what its comments begin with."""
    return _script(_marks([line[:SEEN] for text in texts for line in _decoded(text).splitlines() if line.strip()]))


def headed_dialect(texts: Sequence[bytes]) -> Dialect:
    """Texts for people below their keys, with comments on lines of their own."""
    lines = [line[:SEEN] for text in texts for line in _decoded(text).splitlines() if line.strip()]
    comments = [rf"^[ \t]*{re.escape(mark)}[^\n]*" for mark in _marks(lines) if mark in ("//", "#", ";")]
    return Dialect("text", {"comments": comments} if comments else {}, for_people=True)


def _ending_head(path: str, _: Document) -> str:
    return posixpath.splitext(path)[1]


def _name_head(path: str, _: Document) -> str:
    return posixpath.basename(path)


def _blocks(lines: Sequence[str], marks: Sequence[str]) -> Iterator[Dialect]:
    options: dict[str, Any] = {"comments": [one for one in marks if one in ("//", "#", "--", ";")] or ["//"]}
    if sum(1 for line in lines if _ASSIGNED.search(line)) * 4 > len(lines):
        options["assign"] = "="
    if sum(line.rstrip().endswith(";") for line in lines) * 3 > len(lines):
        options["ends"] = ";"
        options["comments"] = [one for one in options["comments"] if one != ";"] or ["//"]
    listed = sum(_ROUND.search(line) is not None for line in lines)
    if listed >= _LISTS and listed > sum(_CALLED.search(line) is not None for line in lines):
        options["separators"] = ",()"
    if _one_value_each(lines, options["comments"]):
        options["values"] = 1
    yield Dialect("block", options)
    yield Dialect("block", {**options, "nameless": True})


def _tagged(texts: Sequence[str]) -> Iterator[Dialect]:
    """Blocks between tags, with keys on lines of their own in them. What is translated in it is no reason to take it
    for prose."""
    lines = [line[:SEEN] for text in texts for line in text.splitlines() if line.strip()]
    pages = any(text.lstrip().startswith(("<?", "<!")) for text in texts)
    for brackets, tag in _TAGS.items():
        if pages and brackets == "<>":
            continue
        found = [one for line in lines if (one := tag.match(line))]
        begun = Counter(one["word"] for one in found if not one["ends"])
        ended = Counter(one["word"] for one in found if one["ends"])
        between = [line for line in lines if tag.match(line) is None]
        if not ended or ended.total() < _SOME * len(lines) or (begun & ended).total() < _NEARLY * ended.total():
            continue
        assigned = sum(1 for line in between if _SET.match(line))
        worded = sum(1 for line in between if _HEAD.match(line))
        if max(assigned, worded) < _MOSTLY * len(between) or (brackets == "<>" and "=" in "".join(_beside(found))):
            continue
        options: dict[str, Any] = {"tagged": True, "opens": brackets[0], "closes": brackets[1]}
        if assigned >= _MOSTLY * len(between):
            options["assign"] = "="
        comments = [one for one in _marks(lines) if one in ("//", "#", "--", ";")] or ["#"]
        yield Dialect("block", {**options, "comments": comments})


def _beside(tags: Iterable[re.Match[str]]) -> Iterator[str]:
    """What stands in tags behind their words: in XML, attributes."""
    return (one[0][one.end("word") - one.start() :] for one in tags)


def _keyed(texts: Sequence[Sequence[str]], marks: Sequence[str]) -> Iterator[Dialect]:
    """Keys with a colon, and others that stand further in below them: by tabs, perhaps, which no YAML may have."""
    comments = [one for one in marks if one in ("//", "#", "--", ";")] or ["#"]
    begins = tuple(comments)
    plain = ([line for line in lines if not line.lstrip().startswith(begins)] for lines in texts)
    content = [lines for lines in plain if lines]
    inner = sum(_lead(line) > 0 for lines in content for line in lines)
    if content and _share(content, _COLON.match) > _NEARLY and 3 * inner >= sum(map(len, content)):
        yield Dialect("block", {"indented": True, "assign": ":", "comments": comments}, keyed_head)


def _indented(texts: Sequence[Sequence[str]], marks: Sequence[str]) -> Iterator[Dialect]:
    """Blocks without brackets: lines that stand further in, step by step, below lines that begin alike."""
    comments = [one for one in marks if one in ("//", "#", "--", ";")]
    content = [[line for line in lines if not line.lstrip().startswith(tuple(comments))] for lines in texts]
    pairs = [pair for lines in content for pair in itertools.pairwise(lines)]
    steps = Counter(step for above, below in pairs if (step := _lead(below) - _lead(above)) > 0)
    heads = [above for above, below in pairs if _lead(below) > _lead(above)]
    inner = sum(_lead(line) > 0 for lines in content for line in lines)
    if not heads or 3 * inner < sum(map(len, content)) or steps.most_common(1)[0][1] < _NEARLY * len(heads):
        return
    words = [found[0] for head in heads if (found := _TOKEN.findall(head))]
    if sum(head.rstrip().endswith((":", ",", "=", "\\", "(", "[")) for head in heads) * 5 > len(heads):
        return
    if _share(content, _KEY_SET.search) > _OFTEN:
        return
    plain = sum(_QUOTED_WORD.fullmatch(word) is not None for word in words)
    if plain >= _NEARLY * len(heads) and 2 * len(set(words)) <= len(words):
        quotes = "".join(dict.fromkeys(('"', *("`" for line in itertools.chain(*content) if line.lstrip()[:1] == "`"))))
        yield Dialect(
            "block", {"indented": True, "comments": comments, **({} if quotes == '"' else {"quotes": quotes})}
        )


def _lead(line: str) -> int:
    return len(line) - len(line.lstrip())


def _one_value_each(lines: Sequence[str], comments: Sequence[str]) -> bool:
    """Whether each key has one value, and several may stand in one line. Lists of values speak against it."""
    for_it = against = 0
    for line in lines:
        plain = line
        for mark in comments:
            plain = plain.partition(mark)[0] if '"' not in plain.partition(mark)[2] else plain
        for part in _BRACES.split(plain):
            words = _TOKEN.findall(part)
            if len(words) < 3 or not _KEY.fullmatch(words[0]):
                continue
            pairs = len(words) >= 4 and len(words) % 2 == 0
            if pairs and all((_KEY.fullmatch(word) is not None) == (at % 2 == 0) for at, word in enumerate(words)):
                for_it += 1
            else:
                against += 1
    return for_it > 2 * against


def _tables(texts: Sequence[str]) -> Iterator[Dialect]:
    """Rows of as many cells each, with columns that are called something."""
    comments = _marks([line for text in texts for line in text.splitlines()]) or ("#",)
    for delimiter in ("\t", ",", ";", "|"):
        rows = [
            line.split(delimiter)
            for text in texts
            for line in text.splitlines()
            if line.strip() and not line.startswith(comments)
        ]
        counts = Counter(map(len, rows))
        if not rows or max(counts) < 2:
            continue
        width, often = counts.most_common(1)[0]
        if width < 2 or often * 10 < len(rows) * 8 or len(rows) < 3:
            continue
        heads = [
            next(line for line in text.splitlines() if line.strip() and not line.startswith(comments)).split(delimiter)
            for text in texts
            if any(line.strip() and not line.startswith(comments) for line in text.splitlines())
        ]
        named = all(
            len({*head}) == len(head) and all(re.match(r"\s*\"?[A-Za-z_]", cell) for cell in head) for head in heads
        ) and (len(texts) == 1 or len({tuple(head) for head in heads}) < len(heads) or len(heads) < 3)
        said = {} if comments == ("#",) else {"comment": list(comments)}
        yield Dialect("csv", {"delimiter": delimiter, **({} if named else {"header": False}), **said})


def _listed(lines: Sequence[str], marks: Sequence[str]) -> Iterator[Dialect]:
    comment = [one for one in marks if one != "'"] or ["#"]
    content = [line for line in lines if not line.lstrip().startswith(tuple(comment))]
    if not content or max(map(len, content)) > 400:
        return
    fields = sum(1 for line in content if len(line.split()) > 1) * 2 > len(content)
    if fields and sum(1 for line in content if _HEAD.match(line)) * 5 < len(content) * 3:
        # Drawn with characters, or marked up for people.
        return
    # Each list has names of its own; rows of fields say the same in every file.
    options = {"comment": comment, **({"fields": "blanks"} if fields else {})}
    yield Dialect("lines", options, no_head if fields else own_head)
