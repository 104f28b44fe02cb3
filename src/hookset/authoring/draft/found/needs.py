"""What must be there first, and what the builder has to supply."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import chain
from typing import Literal

from hookset.authoring.draft.cites import Why, as_said, at_line
from hookset.authoring.draft.dry_run import DryRun
from hookset.authoring.draft.found.lacking import UNFILLED
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.conditions import Condition, kebab
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import words
from hookset.model import Definition
from hookset.packs.hooksheet import BlankEntry, NeedEntry, WhenEntry

__all__ = ["blanks_for", "condition_entry", "needs_for", "needs_said", "unknown_files", "unnamed"]

_KINDS: Mapping[str, Literal["picture", "sound", "model"]] = {
    **dict.fromkeys((".png", ".jpg", ".jpeg", ".dds", ".webp", ".tga", ".bmp"), "picture"),
    **dict.fromkeys((".wav", ".ogg", ".mp3", ".flac"), "sound"),
    **dict.fromkeys((".gltf", ".glb", ".obj"), "model"),
}
_SIZE = re.compile(r"(\d{1,5})\s*[x×]\s*(\d{1,5})")
_LARGEST = re.compile(r"(\d+(?:[.,]\d+)?)\s*(kB|KB|MB|kb)")
_TICKED = re.compile(r"[`*\"'“„](?P<name>[\w.-]{3,60})[`*\"'”“]")
_VERSION = re.compile(
    r"(?:(?:in|at least|mindestens|au moins)\W+)?(?:v(?:er(?:sion)?)?\W{0,2})?(?P<number>\d+(?:\.\d+){0,3})(?!\w|\.\d)"
)
_OWN = re.compile(
    r"\b(?:your own|yourself|of your own|supply|own|selbst|deine?n? eigene\w*|eigene[nrs]?)\b", re.IGNORECASE
)
_FILE = re.compile(
    r"(?<![\w/.-])(?:[\w-]+/)*[\w-]+"
    r"\.(?:lua|mjs|js|wav|ogg|mp3|png|jpg|dds|gltf|glb|xml|json|toml|yaml|csv|ini|po)\b"
)


def blanks_for(
    site: Site, dry_run: DryRun, notes: Sequence[Notes], targets: Sequence[str]
) -> Iterator[tuple[BlankEntry, Why]]:
    """Files that the pack asks for and nobody has, and those that the notes say are the builder's to make; with where
    that is said."""
    wanted: dict[str, Why] = {}
    for one in dry_run.missing:
        if (
            UNFILLED not in one.reference.name
            and one.reference.kind in site.layout.path_kinds
            and posixpath.splitext(one.reference.name)[1]
        ):
            wanted.setdefault(one.reference.name, as_said(f"{one.reference.path} asks for it, and it is nowhere"))
    said = {(path, number): text for path, number, text in _lines(notes)}
    for (path, number), text in said.items():
        for target in targets:
            if target in text and _OWN.search(text) and posixpath.splitext(target)[1] in _KINDS:
                wanted.setdefault(target, at_line(path, number))
    for target, why in wanted.items():
        ending = posixpath.splitext(target)[1].lower()
        line = next((text for text in said.values() if target in text or posixpath.basename(target) in text), "")
        size, largest = _SIZE.search(line), _LARGEST.search(line)
        yield (
            BlankEntry(
                name=kebab(posixpath.splitext(posixpath.basename(target))[0]),
                kind=_KINDS.get(ending, "file"),
                into=target,
                says=line.strip(" ()-*").strip()[:120],
                size=(int(size[1]), int(size[2])) if size and _KINDS.get(ending) == "picture" else None,
                largest=_bytes(largest) if largest else None,
            ),
            why,
        )


def _bytes(match: re.Match[str]) -> int:
    return int(float(match[1].replace(",", ".")) * (1_000_000 if match[2].lower() == "mb" else 1000))


def _lines(notes: Sequence[Notes]) -> Iterator[tuple[str, int, str]]:
    return ((one.path, line.number, line.text) for one in notes for line in one.lines if not line.sign)


def needs_for(site: Site, dry_run: DryRun) -> Iterator[tuple[NeedEntry, Why]]:
    """Names of the map's own that the pack uses, and names that nobody has."""
    done: set[tuple[str, str]] = set()
    own = {
        (d.kind, d.name)
        for file in dry_run.analysis.web.files
        if file.path in dry_run.targets
        for d in file.definitions
    }
    brought = own | {(d.kind, d.name) for d in _new(site, dry_run)}
    missing = {(one.reference.kind, one.reference.name) for one in dry_run.missing}
    for file in dry_run.analysis.web.files:
        if file.path not in dry_run.targets and file.path not in dry_run.changed:
            continue
        for reference in file.references:
            key = (reference.kind, reference.name)
            if (
                UNFILLED in reference.name
                or key in done
                or key in brought
                or reference.pattern
                or reference.kind in site.of_paths
                or site.layout.kinds[reference.kind].entry.mapped
            ):
                continue
            done.add(key)
            theirs = file.path in dry_run.changed and bool(site.index.get(*key))
            if key in missing and site.tree.paths() and site.layout.kinds[reference.kind].entry.unique:
                why = f"{file.path} asks for it, and neither the pack nor the map has it"
                yield NeedEntry(kind=key[0], name=key[1]), as_said(why)
            elif site.index.get(*key) and not theirs and not site.stock.sides(*key):
                yield NeedEntry(kind=key[0], name=key[1]), as_said(f"{file.path} uses it; this map has it")


def _new(site: Site, dry_run: DryRun) -> Iterator[Definition]:
    """What files of the map would define that they do not now."""
    for file in dry_run.analysis.web.files:
        for block in file.defined if file.path in dry_run.changed else ():
            known, key = site.index.known(block.kind), site.layout.kinds[block.kind].key
            fresh = (row for row, name in enumerate(block.names) if key(name) not in known)
            yield from (block.definition(file.path, row) for row in fresh)


def unnamed(site: Site, dry_run: DryRun) -> Iterator[str]:
    """What the pack's scripts register for things in the map to name, and nothing names."""
    named = {
        (block.kind, name)
        for file in dry_run.analysis.web.files
        for block in file.referred
        for name in chain(block.names, *block.others.values())
    }
    for file in dry_run.analysis.web.files:
        rule = site.layout.text_rule(file.path)
        if file.path not in dry_run.targets or rule is None:
            continue
        registered = {define.kind for define in rule.defines if getattr(define.selector, "call", None)}
        for definition in file.definitions:
            key = (definition.kind, definition.name)
            if definition.kind in registered and key not in named:
                label = site.layout.kinds[definition.kind].label
                yield f"{file.path} registers the {label} {definition.name}, and nothing in the map would name it"


def needs_said(site: Site, notes: Sequence[Notes], known: Sequence[str]) -> Iterator[tuple[NeedEntry, Why]]:
    """What the notes say is needed: a name that they quote and the layout's map or stock knows, or a pack."""
    for path, number, text in _lines(notes):
        for source in words()["about"]["need"]:
            match = re.search(source, text, re.IGNORECASE)
            if match is None:
                continue
            for quoted in _TICKED.finditer(text):
                named = [kind for kind in site.layout.kinds if _has(site, kind, quoted["name"])]
                for kind in named[:1]:
                    yield NeedEntry(kind=_placed(site, kind), name=quoted["name"]), at_line(path, number)
            asked = kebab(match["what"])
            for pack in known:
                if kebab(pack) in asked:
                    version = _version_behind(pack, text[match.start("what") :])
                    yield NeedEntry(kind="pack", name=pack, version=version), at_line(path, number)


def _version_behind(pack: str, said: str) -> str:
    """The version that words ask for right behind the name of a pack; a later one will do as well."""
    called = r"[\W_]*".join(map(re.escape, re.findall(r"\w+", pack)))
    match = re.search(rf"(?<!\w){called}(?:[\W_]*pack(?:age)?)?\W{{1,3}}{_VERSION.pattern}", said, re.IGNORECASE)
    return f">={match['number']}" if match is not None else ""


def _has(site: Site, kind: str, name: str) -> bool:
    known = bool(site.index.get(kind, name)) or bool(site.stock.sides(kind, name))
    return kind not in site.layout.path_kinds and known


def _placed(site: Site, kind: str) -> str:
    """The kind whose names are things that stand in the map, where a name is both that and a sort of thing."""
    return f"object-{kind}" if f"object-{kind}" in site.layout.kinds else kind


def condition_entry(site: Site, condition: Condition) -> WhenEntry:
    """What an entry or a file depends on: a pack; where one was installed by hand, the file that is called like it."""
    stem = site.stems.get(condition.pack) if condition.pack not in site.packs else None
    if stem is not None:
        pattern = f"**/{stem}.*"
        return WhenEntry(without_file=pattern) if condition.without else WhenEntry(file=pattern)
    if condition.without:
        return WhenEntry(without=condition.pack)
    return WhenEntry(pack=condition.pack, version=condition.version)


def unknown_files(site: Site, notes: Sequence[Notes], paths: Sequence[str]) -> Iterator[tuple[str, Why]]:
    """Files that the notes name and that are neither in the pack nor in the map."""
    known = {posixpath.basename(path).casefold() for path in (*paths, *site.tree.paths())}
    known |= {posixpath.basename(seat_file.path).casefold() for seat_file in site.seat_files}
    done: set[str] = set()
    for path, number, text in _lines(notes):
        for match in _FILE.finditer(text.replace("\\", "/")):
            name = posixpath.basename(match.group()).casefold()
            if name not in known and name not in done:
                done.add(name)
                yield match.group(), at_line(path, number)
