"""The learned rules as a layout file, with what speaks for each as a comment."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct

from hookset.learning.arrangement import Arrangement
from hookset.learning.arrangement_text import arrangement_text, loaded_by_name
from hookset.learning.descriptors import LearnedDescriptor
from hookset.learning.evidence import NUMBER
from hookset.learning.filed import FileWriting
from hookset.learning.guess import Guess
from hookset.learning.kinds import FILE, ROW, LearnedKind
from hookset.learning.lists import SPLITS
from hookset.learning.loading import LearnedLoading
from hookset.learning.manifests import LearnedManifest
from hookset.learning.material import SCRIPTS, Material, Sort
from hookset.learning.place import Place
from hookset.learning.sides import LearnedSides
from hookset.learning.toml_values import one_line, shortened, value_text
from hookset.learning.vocabulary import Vocabulary

__all__ = ["addition_text", "evidence_text", "files_writing", "layout_text", "place_text"]

_MARKS = 6
_OF_FILE = {"name": "{path}:{value}"}
"""How names are told from those of other files."""
_WEAK_SHOWN = 40
_SHOWN = 3
"""Patterns of the files of a rule that are shown, and one more."""


class _Part(Struct, frozen=True):
    """One of `defines` or `refers`, and why."""

    said: Mapping[str, Any]
    why: str


def layout_text(
    name: str,
    material: Material,
    guesses: Mapping[Guess, str],
    kinds: Sequence[LearnedKind],
    arrangement: Arrangement,
    weak: Sequence[Guess] = (),
) -> str:
    """A layout that runs. `guesses` are its rules, each with the kind that it refers to; `weak` are left out, and
    told."""
    manifest, loading = arrangement.manifest, arrangement.loading
    sides = arrangement.sides
    lines = [*_head(name, material, sides), *_described(arrangement.descriptor)]
    lines += _marks(material)
    lines += _kinds(kinds, FILE, guesses, manifest, loading, sides)
    lines += _rule_of_files(FILE)
    lines += _reads(material, guesses, kinds, arrangement)
    lines += _media(material)
    lines += arrangement_text(arrangement)
    lines += _left_out(weak)
    return "\n".join(lines) + "\n"


def addition_text(
    material: Material,
    guesses: Mapping[Guess, str],
    kinds: Sequence[LearnedKind],
    arrangement: Arrangement,
    weak: Sequence[Guess],
    known: Collection[str],
) -> str:
    """What goes behind a layout at hand, which has the `known` kinds."""
    count = len(material.tree.paths())
    lines = ["", f"# Added by `hookset layout learn`, from {count:,} files: what the rules above do not see."]
    lines += _described(arrangement.descriptor)
    files = next((kind for guess, kind in guesses.items() if guess.files is not None and kind not in known), "")
    lines += _kinds([kind for kind in kinds if not kind.known], files, guesses, None, None, None)
    lines += _rule_of_files(files) if files else ()
    lines += _reads(material, guesses, kinds, arrangement)
    lines += arrangement_text(arrangement)
    lines += _left_out(weak)
    return "\n".join(lines) + "\n"


def _reads(
    material: Material, guesses: Mapping[Guess, str], kinds: Sequence[LearnedKind], arrangement: Arrangement
) -> Iterator[str]:
    """What is read, sort by sort."""
    manifest, loading = arrangement.manifest, arrangement.loading
    defines: dict[Sort, list[_Part]] = {}
    refers: dict[Sort, list[_Part]] = {}
    outside = {one.place.sort for kind in kinds for one in kind.vocabularies if one.outside}
    inside = {_way(one) for kind in kinds for one in kind.vocabularies if not one.outside}
    sides = arrangement.sides
    for kind in kinds:
        for vocabulary in kind.vocabularies:
            if vocabulary.kind or (vocabulary.outside and _way(vocabulary) in inside):
                # The map's own files are read so already.
                continue
            said = {"kind": kind.name, **_asked(vocabulary.place), **(_OF_FILE if vocabulary.own else {})}
            count = len(vocabulary.names)
            sample = ", ".join(shortened(one) for one in list(vocabulary.names)[:3])
            defines.setdefault(vocabulary.place.sort, []).append(_Part(said, f"{count:,} names: {sample}"))
    for guess, kind_name in guesses.items():
        said = _referring(guess, kind_name)
        if sides is not None and guess in sides.asked:
            said["side"] = sides.asked[guess]
        if loading is not None and manifest is not None and guess in manifest.guesses:
            # A list ships files, it does not load them.
            said["uses"] = False
        refers.setdefault(guess.place.sort, []).append(_Part(said, evidence_text(guess)))
    if manifest is not None:
        why = "rows of the list of what is in the map"
        defines.setdefault(manifest.sort, []).extend(_Part({"kind": ROW, **one}, why) for one in manifest.asked)
    told: list[tuple[object, ...]] = []
    described = arrangement.descriptor.sort if arrangement.descriptor is not None else None
    for sort in dict.fromkeys((*material.sorts, *defines, *refers)):
        if sort in defines or sort in refers or sort is described:
            globs = _globs(sort, sides)
            read = (globs, sort.format, [part.said for part in (*defines.get(sort, ()), *refers.get(sort, ()))])
            if read in told:
                # The same of the other side.
                continue
            told.append(read)
            yield from _read(sort, globs, defines.get(sort, ()), refers.get(sort, ()), sort in outside)


def evidence_text(guess: Guess) -> str:
    """In words: in how many places, examples, what does not fit, what else it may be."""
    evidence = guess.evidence
    text = f"{guess.band}: names in {evidence.hits:,} of {evidence.texts:,} places"
    text += f", {evidence.names:,} different: {', '.join(shortened(one) for one in evidence.examples)}"
    if evidence.misfits:
        shown = ", ".join(shortened(one.text) for one in evidence.misfits[:3])
        text += f"; not {shown}" + (" …" if len(evidence.misfits) > 3 else "")
    if evidence.chance > -300:
        text += f"; by chance 1 in 10^{max(0, round(-evidence.chance))}"
    return text + (f"; else {evidence.runner_up}" if evidence.runner_up else "")


def place_text(place: Place) -> str:
    """A place in words."""
    said = ", ".join(f"{key} = {value_text(value)}" for key, value in place.asked.items() if key != "when")
    beside = {**place.asked.get("when", {}), **place.when}
    when = "".join(f" where {key} {_condition(word)}" for key, word in beside.items())
    shown = place.sort.globs if len(place.sort.globs) <= _SHOWN + 1 else place.sort.globs[:_SHOWN]
    more = len(place.sort.globs) - len(shown)
    files = ", ".join(shown) + (f" and {more} more patterns" if more else "")
    return f"{files}: {said or 'whole lines'}{when}"


def _condition(word: Any) -> str:
    return f"is like {word['match']}" if isinstance(word, Mapping) else f"is {word}"


def _way(vocabulary: Vocabulary) -> tuple[str, str]:
    """What is asked of which files."""
    endings = sorted({glob[glob.rfind(".") :] for glob in vocabulary.place.sort.globs})
    return repr(endings), repr(_asked(vocabulary.place))


def _asked(place: Place) -> dict[str, Any]:
    said = dict(place.asked)
    if place.when:
        said["when"] = dict(place.when)
    return said


def _referring(guess: Guess, kind: str) -> dict[str, Any]:
    said = {"kind": kind, **_asked(guess.place)}
    if guess.files is not None:
        said |= files_writing(guess.files)
        if guess.files.joint:
            said["name"] = f"{{value|slashes:{guess.files.joint}}}"
    if guess.targets and guess.targets[0].own:
        said |= _OF_FILE
    if guess.split:
        said["split"] = SPLITS[guess.split].pattern
    if guess.files is not None and "only" not in said and any(text.startswith("/") for text in guess.place.counts):
        # Such paths count from where the others do.
        said["only"] = "^/*(?P<value>.+)$"
    if guess.endings:
        said["only"] = f"(?:{'|'.join(map(re.escape, guess.endings))})$"
    if skipped := [*_skipped(guess)]:
        # What is meant of a text may be a part of it, and that is what is looked at here.
        front, group, _ = said.get("only", "").partition("(?P<value>")
        ahead = front.removeprefix("^") if group and front.startswith("^") else ""
        said["skip"] = "|".join(f"^{ahead}{one.removeprefix('^')}" for one in skipped)
    if guess.unless:
        said["unless"] = dict(guess.unless)
    if guess.band not in ("sure", "confirmed"):
        said["severity"] = "warning"
    return said


def _skipped(guess: Guess) -> Iterator[str]:
    """What texts look like that are not meant."""
    if guess.apart:
        yield f"^{re.escape(guess.apart)}" if guess.apart.endswith(":") else rf"^{re.escape(guess.apart)}[/\\]"
    if guess.no_numbers or _beside_numbers(guess):
        yield f"^(?:{NUMBER.pattern})$"
    if guess.nothing:
        yield f"^(?:{'|'.join(map(re.escape, guess.nothing))})$"


def _beside_numbers(guess: Guess) -> bool:
    """Whether numbers may stand where names do, which are no texts in scripts."""
    among = guess.place.sort.format in SCRIPTS and guess.place.form != "key"
    return among and not any(map(NUMBER.fullmatch, guess.place.counts))


def files_writing(files: FileWriting) -> dict[str, Any]:
    """How files are written, in the words of the layout language."""
    said: dict[str, Any] = {}
    if files.beside:
        said["beside"] = True
    if files.under:
        said["under"] = files.under[0] if len(files.under) == 1 else list(files.under)
    if files.suffix:
        said["suffix"] = files.suffix[0] if len(files.suffix) == 1 else list(files.suffix)
    return said


def _head(name: str, material: Material, sides: LearnedSides | None) -> Iterator[str]:
    yield f"# Learned by `hookset layout learn` from {len(material.tree.paths()):,} files: look through it."
    yield "# A rule says before it in how many places it holds. Those of the band `likely` only warn."
    yield ""
    yield "[layout]"
    yield f"name = {value_text(name)}"
    yield f"title = {value_text(f'learned from {name}')}"
    if sides is not None:
        yield f"# {sides.fits:,} of {sides.uses:,} uses find their name on the side on which they run."
        yield f"sides = {value_text(list(sides.names))}"
        if sides.both:
            yield f"both = {value_text(sides.both)}"
    yield 'ignore = ["**/.git/**", ".git/**", "**/Thumbs.db", "**/.DS_Store", "**/desktop.ini", "**/*.bak", "**/*~"]'


def _described(descriptor: LearnedDescriptor | None) -> Iterator[str]:
    if descriptor is None:
        return
    yield ""
    yield f"# {' '.join(filter(None, descriptor.says))}"
    yield "[descriptor]"
    yield f"file = {value_text(descriptor.file)}"
    yield f"name = {value_text(_plainly(descriptor.name))}"
    if descriptor.version:
        yield f"version = {value_text(_plainly(descriptor.version))}"


def _plainly(asked: Mapping[str, Any]) -> Any:
    """What a format is asked with: an address alone is a text."""
    return asked["at"] if asked.keys() == {"at"} else dict(asked)


def _marks(material: Material) -> Iterator[str]:
    """What such maps are known by."""
    marks = [(sort.globs[0], sort.format) for sort in material.sorts if len(sort.globs) == 1 and sort.documents]
    marks.sort(key=lambda one: ("*" in one[0], len(one[0])))
    for glob, form in marks[:_MARKS]:
        yield ""
        yield "[[recognise]]"
        yield f"file = {value_text(glob)}"
        yield f"says = {value_text(f'a file of the format {form}')}"


def _kinds(
    kinds: Sequence[LearnedKind],
    files: str,
    guesses: Iterable[Guess],
    manifest: LearnedManifest | None,
    loading: LearnedLoading | None,
    sides: LearnedSides | None,
) -> Iterator[str]:
    """The kinds; `files` is what that of all files is called, empty where it needs none."""
    if manifest is not None:
        yield from ("", f"[kinds.{ROW}]", 'label = "row"', 'separators = "either"')
    if files:
        yield ""
        yield f"[kinds.{files}]"
        yield 'label = "file"'
        yield "path = true"
        if any(guess.files is not None and guess.files.separators == "either" for guess in guesses):
            yield 'separators = "either"'
        if any(guess.files is not None and guess.files.folded for guess in guesses):
            yield 'case = "folded"'
    for kind in kinds:
        yield ""
        yield f"[kinds.{kind.name}]"
        yield f"label = {value_text(kind.name.replace('-', ' '))}"
        if sides is not None and kind.name in sides.kinds:
            yield "sided = true"
        if kind.once:
            yield "unique = true"
        if kind.first is not None:
            yield f"numbers = {{ first = {kind.first} }}"
        if loading is not None and any(loaded_by_name(one, loading) for one in kind.vocabularies):
            yield "reached = true"
        if kind.folded:
            yield 'case = "folded"'
        if kind.by_language:
            yield 'each = "language"'


def _rule_of_files(kind: str) -> Iterator[str]:
    yield ""
    yield "[[read]]"
    yield 'files = "**"'
    yield 'format = "any"'
    yield f'defines = [{{ kind = "{kind}", name = "{{path}}" }}]'


def _read(
    sort: Sort, globs: Sequence[str], defines: Sequence[_Part], refers: Sequence[_Part], outside: bool
) -> Iterator[str]:
    yield ""
    if outside:
        yield "# Files of the base game."
    yield "[[read]]"
    yield f"files = {value_text(globs[0] if len(globs) == 1 else list(globs))}"
    if sort.but:
        yield f"but = {value_text(sort.but[0] if len(sort.but) == 1 else list(sort.but))}"
    yield f"format = {value_text(sort.format)}"
    if outside:
        yield "may_be_empty = true"
    if len(sort.encodings) > 1:
        yield f"encodings = {value_text(list(sort.encodings))}"
    if sort.options:
        yield f"options = {value_text(dict(sort.options))}"
    for word, parts in (("defines", defines), ("refers", refers)):
        if parts:
            yield f"{word} = ["
            for part in parts:
                yield f"  # {one_line(part.why)}"
                yield f"  {value_text(dict(part.said))},"
            yield "]"


def _globs(sort: Sort, sides: LearnedSides | None) -> tuple[str, ...]:
    """The patterns of a sort; with what stands for the side, or for the language, where there is a file for each."""
    if sides is not None and sort in sides.sorts:
        return sides.globs(sort)
    if not sort.languages or sort.format == "any":
        return sort.globs
    return tuple(dict.fromkeys(pattern for files in sort.languages.values() for _, pattern in files))


def _media(material: Material) -> Iterator[str]:
    for form, paths in material.media.items():
        endings = sorted({path[path.rfind(".") :] for path in paths})
        yield ""
        yield "[[read]]"
        yield f"files = {value_text([f'**/*{ending}' for ending in endings])}"
        yield f"format = {value_text(form)}"


def _left_out(weak: Sequence[Guess]) -> Iterator[str]:
    if not weak:
        return
    yield ""
    yield "# Too little speaks for these:"
    for guess in weak[:_WEAK_SHOWN]:
        what = "files" if guess.files is not None else guess.targets[0].kind or place_text(guess.targets[0].place)
        yield f"#   {one_line(f'{place_text(guess.place)} -> {what}; {evidence_text(guess)}')}"
    if len(weak) > _WEAK_SHOWN:
        yield f"#   and {len(weak) - _WEAK_SHOWN:,} more"
