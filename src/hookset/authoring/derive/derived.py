"""A template pack under a new name: files and what they say renamed alike, and what is left of the old name told."""

from __future__ import annotations

import posixpath
import re
import tomllib
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet

from msgspec import Struct

from hookset.authoring.derive.tokens import Form, forms_of, pattern_of, words_of
from hookset.authoring.draft import Site
from hookset.authoring.draft.dry_run import dry_run
from hookset.config.layouts import Layout
from hookset.formats.toml import written
from hookset.packs import SHEET_NAME, Pack, SheetedPack, with_sheet
from hookset.trees import Content, EmptyTree, Inline, Member, Overlay

__all__ = ["Derived", "Renaming", "derived"]

_NEED = re.compile(r"(?m)(?:^#[^\n]*\n)*^\[\[needs\]\][^\n]*\n(?:(?!\[|#)[^\n]*\n)*")
"""A table of a hook sheet, with the remarks above it."""
_TELLING = 4
"""Letters of a word that can be a template's own."""
_TEXT = 8 << 20
"""Bytes of a file that is read for the old name."""


class Renaming(Struct, frozen=True):
    """One form of the old name, and where it was."""

    form: Form
    places: int
    in_names: int
    """Of files and folders."""
    files: tuple[str, ...]


class Derived(Struct, frozen=True):
    """A pack made from a template, with what was renamed in it."""

    name: str
    files: Mapping[str, Content]
    """All of the new pack, by path."""
    table: tuple[Renaming, ...]
    left_alone: tuple[tuple[str, int], ...]
    """Longer words that have the old name in them, and how often."""
    still: tuple[str, ...]
    """Where the new pack still names the template: `path: what`."""
    shared: tuple[tuple[str, str], ...]
    """(kind, name): what both packs would define, so that a map cannot have both."""
    blanks: tuple[str, ...]
    claims: tuple[str, ...]


def derived(pack: SheetedPack, layout: Layout, name: str, also: Mapping[str, str], keep: Sequence[str]) -> Derived:
    """`name` is the new pack's; `also` are further words and what they become; `keep` are texts that stay.

    Where the template calls its things otherwise than it is called, the word that most names of its files have in
    common is a further one, if less is both packs' then.
    """
    forms = [*forms_of(words_of(pack.sheet.pack.name), words_of(name))]
    for old, new in also.items():
        forms += [Form(old, new), *(form for form in forms_of(words_of(old), words_of(new)) if form.old != old)]
    made = _derived(pack, layout, name, forms, keep)
    word = _own_word(pack, forms) if made.shared else ""
    if not word:
        return made
    other = _derived(pack, layout, name, [*forms, *forms_of(words_of(word), words_of(name))], keep)
    return other if len(other.shared) < len(made.shared) else made


def _own_word(pack: SheetedPack, forms: Sequence[Form]) -> str:
    """The word that most names of the pack's files have in common, of such the longest, as it is written where its own
    words can be told (`YourDepot`); empty for none."""
    known = {form.old.casefold() for form in forms}
    found: Counter[str] = Counter()
    for target in pack.targets:
        found.update({word.casefold() for word in re.findall(r"[^\W_]+", posixpath.basename(target))} - known)
    word, often = max(found.items(), key=lambda one: (one[1], len(one[0])), default=("", 0))
    if len(word) < _TELLING or 2 * often <= len(pack.targets):
        return ""
    texts = "\n".join(text for path in pack.tree.paths() for text in (path, _text(pack, path)) if text is not None)
    spelt = Counter(match.group() for match in re.finditer(re.escape(word), texts, re.IGNORECASE))
    return max(spelt, key=lambda one: (len(words_of(one)), spelt[one]))


def _derived(pack: SheetedPack, layout: Layout, name: str, forms: Sequence[Form], keep: Sequence[str]) -> Derived:
    forms = sorted(dict.fromkeys(form for form in forms if form.old not in keep), key=lambda form: -len(form.old))
    counts: Counter[Form] = Counter()
    in_names: Counter[Form] = Counter()
    where: dict[Form, list[str]] = {}
    longer: Counter[str] = Counter()
    files: dict[str, Content] = {}
    still: list[str] = []
    for path in pack.tree.paths():
        target, found = _renamed(path, forms, keep)
        in_names.update(found)
        text = _text(pack, path)
        if text is None:
            files[target] = Member(pack.tree, path)
            if (bad := _named_in_bytes(pack, path, forms)) is not None:
                still.append(f"{target}: it is binary and names {bad} inside")
            continue
        new, found = _renamed(text, forms, keep)
        counts.update(found)
        for form in {*found}:
            where.setdefault(form, []).append(path)
        longer.update(_longer(text, forms))
        if path == SHEET_NAME:
            new = _own_head(new, pack, name)
        files[target] = Inline(new.encode("utf-8", "surrogateescape")) if new != text else Member(pack.tree, path)
    if not pack.tree.has(SHEET_NAME):
        new, found = _renamed(pack.written.text.string, forms, keep)
        counts.update(found)
        for form in found:
            where.setdefault(form, []).append(pack.written.where)
        files[SHEET_NAME] = Inline(_own_head(new, pack, name).encode())
    made = _sheeted(pack, files, name)
    before, after = (_defined(layout, one) for one in (pack, made))
    brought = {(need.kind, need.name) for need in made.sheet.needs} & after
    if brought:
        # What the template wants of the map for its author's own things, the new pack has among its own.
        files[SHEET_NAME] = Inline(_without_needs(files[SHEET_NAME].read().decode(), brought).encode())
        made = _sheeted(pack, files, name)
    return Derived(
        name=name,
        files=dict(sorted(files.items())),
        table=tuple(
            Renaming(form, counts[form], in_names[form], tuple(where.get(form, ())))
            for form in forms
            if counts[form] or in_names[form]
        ),
        left_alone=tuple(longer.most_common(12)),
        still=tuple(still),
        shared=tuple(sorted(_single(layout, pack, before) & _single(layout, made, after))),
        blanks=tuple(blank.name for blank in pack.sheet.blank),
        claims=tuple(claim.kind for claim in pack.sheet.claim),
    )


def _text(pack: SheetedPack, path: str) -> str | None:
    """A file as text; None for what is none."""
    if pack.tree.size(path) > _TEXT:
        return None
    data = pack.tree.read(path)
    return None if b"\0" in data else data.decode("utf-8", "surrogateescape")


def _renamed(text: str, forms: Sequence[Form], keep: Sequence[str]) -> tuple[str, Counter[Form]]:
    """The text with every form in its place taken by the new one, and how often that was."""
    found: Counter[Form] = Counter()
    kept = {f"\ue000{number}\ue001": one for number, one in enumerate(keep)}
    for mark, one in kept.items():
        text = text.replace(one, mark)
    marks: dict[str, str] = {}
    for number, form in enumerate(forms):
        mark = f"\ue002{number}\ue003"
        text, count = pattern_of(form).subn(mark, text)
        if count:
            found[form] = count
            marks[mark] = form.new
    for mark, one in {**marks, **kept}.items():
        text = text.replace(mark, one)
    return text, found


def _longer(text: str, forms: Sequence[Form]) -> Iterator[str]:
    """Words that have a form in them and are others."""
    for form in forms:
        for match in re.finditer(rf"[A-Za-z0-9]*{re.escape(form.old)}[A-Za-z0-9]*", text):
            if match.group() != form.old and pattern_of(form).search(match.group()) is None:
                yield match.group()


def _named_in_bytes(pack: SheetedPack, path: str, forms: Sequence[Form]) -> str | None:
    if pack.tree.size(path) > _TEXT:
        return None
    data = pack.tree.read(path)
    return next((form.old for form in forms if len(form.old) > 4 and form.old.encode() in data), None)


def _own_head(text: str, pack: SheetedPack, name: str) -> str:
    """The hook sheet's head with the new name, and where the pack comes from."""
    head = pack.sheet.pack
    made = f"{head.name} {head.version}" + (f" by {', '.join(head.authors)}" if head.authors else "")
    text = re.sub(r"(?m)^name = .*$", lambda _: f"name = {written(name)}", text, count=1)
    return re.sub(r"(?m)^(version = .*)$", lambda m: f"{m[1]}\nmade_from = {written(made)}", text, count=1)


def _sheeted(pack: SheetedPack, files: Mapping[str, Content], name: str) -> SheetedPack:
    tree = Overlay(EmptyTree(), files)
    return with_sheet(Pack(pack.source, tree, None, None), files[SHEET_NAME].read(), f"{name}/{SHEET_NAME}")


def _without_needs(text: str, gone: AbstractSet[tuple[str, str]]) -> str:
    """A hook sheet without these needs, each a table with the remarks above it."""

    def left(table: re.Match[str]) -> str:
        need = tomllib.loads(table.group())["needs"][0]
        return "" if (need.get("kind"), need.get("name")) in gone else table.group()

    return _NEED.sub(left, text)


def _defined(layout: Layout, pack: SheetedPack) -> set[tuple[str, str]]:
    """(kind, name) of all that a pack defines, files and entries."""
    done = dry_run(Site(layout), pack)
    return {(d.kind, d.name) for file in done.analysis.web.files for d in file.definitions}


def _single(layout: Layout, pack: SheetedPack, defined: AbstractSet[tuple[str, str]]) -> set[tuple[str, str]]:
    """What must be single and a pack would define or bring: a map could not have two of them."""
    kinds = {name for name, kind in layout.kinds.items() if kind.entry.unique and not kind.entry.pool}
    single = {(kind, name) for kind, name in defined if kind in kinds}
    supplied = {("file", blank.into) for blank in pack.sheet.blank if blank.into}
    return single | supplied | {("file", target) for target in pack.targets}
