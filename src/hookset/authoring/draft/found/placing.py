"""Where each file of a pack goes in a map: by what the notes say, by the shape of its folders, by what asks for it, by
what it is."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hookset.authoring.draft.cites import Why, as_said
from hookset.authoring.draft.found.directions import directed
from hookset.authoring.draft.found.keeping import keeping_said, left_said
from hookset.authoring.draft.found.kin import beside_kin
from hookset.authoring.draft.found.merging import merged_said
from hookset.authoring.draft.found.needs import condition_entry
from hookset.authoring.draft.found.sorting import sorted_by_notes
from hookset.authoring.draft.notes import Notes, is_licence, is_notes
from hookset.authoring.draft.said.conditions import of_folder
from hookset.authoring.draft.site import Site
from hookset.model import with_article
from hookset.packs.hooksheet import WhenEntry
from hookset.packs.sorts import Sort
from hookset.trees import joined, unsafe_reason

__all__ = ["Left", "Placed", "Placing", "fitting", "placing_of"]

_PREVIEW = re.compile(r"preview|screen.?shot|thumb|banner|cover|promo|vorschau|^logo|^icon", re.IGNORECASE)
_OTHER = re.compile(
    r"^(?:src|source|sources|raw|psd|shop|store|workshop|single.?player|docs?|example|beispiel|old|older|previous|test|spec)"
    r"s?$",
    re.IGNORECASE,
)
_WORKED_IN = re.compile(r"\.(?:xcf|psd|psb|kra|blend\d?|ase|aseprite|max|mb|skp|afphoto|aup3?|flp|als)$", re.IGNORECASE)
_JUNK = re.compile(
    r"(?:^|/)(?:__MACOSX|\.git|\.vscode|\.idea|\.github|\.gitlab|\.circleci)/"
    r"|(?:^|/)(?:\.DS_Store|Thumbs\.db|desktop\.ini|\.gitignore|\.gitattributes)$|~$|\.(?:bak|tmp|orig|swp)$",
    re.IGNORECASE,
)
_STRING = re.compile(r"""["']([^"'\n]{2,200})["']|>([^<>\n]{2,200})<|=\s*([\w./\\-]+\.\w{2,4})\b""")


class Placed(Struct, frozen=True):
    """A file, and where it goes."""

    path: str
    target: str
    sure: bool
    why: Why
    keep_mine: bool = False
    """One that the map has stays."""
    when: WhenEntry | None = None
    """What it depends on."""


class Left(Struct, frozen=True):
    """A file that stays out."""

    path: str
    why: str
    sure: bool = True


class Placing(Struct, frozen=True):
    """Where the files of a pack go in the map."""

    placed: tuple[Placed, ...]
    left: tuple[Left, ...]
    shared: tuple[tuple[str, str], ...] = ()
    """(path, file of the map): a pack's own copy of a file that every map has one of."""


def placing_of(
    site: Site, sorts: Mapping[str, Sort], notes: Sequence[Notes], copied: str, texts: Mapping[str, str]
) -> Placing:
    """Every file of a pack. `copied` is all that the notes give to be copied, `texts` the pack's scripts and tables by
    their path."""
    placed: dict[str, Placed] = {}
    left: dict[str, Left] = {}
    shared: list[tuple[str, str]] = []
    rest: list[str] = []
    said = {path: (target, cite) for path, target, cite in directed(site, tuple(sorts), notes)}
    out = dict(left_said(notes, tuple(sorts)))
    merged = frozenset(merged_said(site, notes, tuple(sorts)))
    for path, sort in sorts.items():
        if (why := _leftover(path, sort)) and path not in said:
            left[path] = Left(path, why)
        elif path in merged:
            left[path] = Left(path, "for a file of the map, by the notes", sure=False)
        elif path in said:
            placed[path] = Placed(path, said[path][0], True, said[path][1])
        elif (target := _by_shape(site, path)) is not None:
            if site.is_shared(target):
                shared.append((path, target))
                left[path] = Left(path, f"the map has its own {target}, which takes what is new in this one")
            elif path in out:
                left[path] = Left(path, f"stays out, by {out[path]}")
            else:
                placed[path] = Placed(path, target, True, as_said("lies as in the map"))
        elif path in out:
            left[path] = Left(path, f"stays out, by {out[path]}")
        else:
            rest.append(path)
    by_notes = {path: (folder, where) for path, folder, where in sorted_by_notes(site, sorts, notes)}
    kin = {path: (folder, told) for path, folder, told in beside_kin(site, texts, tuple(sorts))}
    asked = _asked_paths(site, (copied, *texts.values()))
    from_top = dict(_from_top(site, rest, (copied, *texts.values())))
    for path in rest:
        one = (
            _by_notes(path, by_notes)
            or from_top.get(path)
            or _by_kin(path, kin)
            or _by_asking(site, path, asked)
            or _by_sort(site, path, sorts[path], placed)
        )
        if one is not None:
            placed[path] = one
        else:
            left[path] = Left(path, "of no folder that this layout has", sure=False)
    keeping = dict(keeping_said(notes, tuple(sorts)))
    certain = [_on_terms(site, one, one.path in keeping) for one in placed.values()]
    return Placing(tuple(_single(certain, left)), tuple(left.values()), tuple(shared))


def _on_terms(site: Site, one: Placed, keep_mine: bool) -> Placed:
    """A file with what it depends on."""
    condition = of_folder(one.path)
    return replace(one, keep_mine=keep_mine, when=condition_entry(site, condition) if condition is not None else None)


def _by_notes(path: str, by_notes: Mapping[str, tuple[str, Why]]) -> Placed | None:
    if path not in by_notes:
        return None
    folder, where = by_notes[path]
    return Placed(path, f"{folder}/{posixpath.basename(path)}", True, where)


def _by_kin(path: str, kin: Mapping[str, tuple[str, str]]) -> Placed | None:
    if path not in kin:
        return None
    folder, told = kin[path]
    return Placed(
        path, f"{folder}/{posixpath.basename(path)}", True, as_said(f"where the map keeps what says `{told}`")
    )


def _single(placed: Iterable[Placed], left: dict[str, Left]) -> Iterator[Placed]:
    """Two files cannot go to one place: the one that is surer does."""
    taken: dict[tuple[str, WhenEntry | None], Placed] = {}
    for one in sorted(placed, key=lambda one: (not one.sure, len(one.path), one.path)):
        first = taken.setdefault((one.target.casefold(), one.when), one)
        if first is one and unsafe_reason(one.target) is None:
            continue
        left[one.path] = Left(one.path, f"{first.path} goes to {one.target} as well", sure=False)
    yield from sorted((one for one in taken.values() if one.path not in left), key=lambda one: one.path)


def _leftover(path: str, sort: Sort) -> str:
    """Why a file does not belong to the map; empty if it may."""
    name, parts = posixpath.basename(path), path.split("/")
    if _JUNK.search(path):
        return "left over by a program"
    if sort.runs:
        return f"a program ({sort.form}), which a map has no use for"
    if is_licence(path):
        return "the licence"
    if is_notes(path):
        return "notes"
    if _WORKED_IN.search(path):
        return "what somebody worked in, and no game reads"
    if sort.word in ("archive", "film", "source", "font"):
        return with_article(sort.form or sort.word)
    if sort.word == "picture" and (len(parts) == 1 or _PREVIEW.search(name)) and _PREVIEW.search(name):
        return "a picture of the pack"
    if any(_OTHER.match(part) for part in parts[:-1]):
        return "not for maps, by the name of its folder"
    return ""


def _by_shape(site: Site, path: str) -> str | None:
    """The path in the map, where the pack's folders are those of the map at some depth."""
    parts = path.split("/")
    best: tuple[int, str] | None = None
    for depth in range(len(parts)):
        target = site.spelt("/".join(parts[depth:]))
        strength = _strength(site, target)
        if strength and (best is None or strength > best[0]):
            best = (strength, target)
    return best[1] if best is not None else None


def fitting(site: Site, path: str) -> int:
    """3 for a file that some rule of the layout means where it lies, seen from some folder of the pack; less for one
    that lies in a folder of the layout; 0 for any other."""
    target = _by_shape(site, path)
    return _strength(site, target) if target is not None else 0


def _strength(site: Site, path: str) -> int:
    """How much a path looks like one of this layout."""
    if any(rule.match(path) is not None for rule in site.layout.reads if rule.files[0].pattern[:1] not in "*{"):
        return 3
    folder = posixpath.dirname(path)
    if folder and folder.casefold() in site.folders:
        return 2
    top = path.split("/")[0]
    return 1 if folder and top.casefold() in site.folders else 0


def _asked_paths(site: Site, sources: Iterable[str]) -> dict[str, list[str]]:
    """Paths that texts ask for, by the file's name: as they stand, and below the folders that such paths count from."""
    under = {""} | {base for rule in site.layout.reads for refer in rule.refers for base in refer.under}
    found: dict[str, list[str]] = {}
    for source in sources:
        for match in _STRING.finditer(source):
            text = next(group for group in match.groups() if group).replace("\\", "/")
            for base in sorted(under):
                path = joined(base, text)
                if path is not None and "/" in path:
                    found.setdefault(posixpath.basename(path).casefold(), []).append(path)
            # A module: `packs.lamp_row`.
            if re.fullmatch(r"\w+(?:\.\w+)+", text):
                for path in _module_paths(site, text):
                    found.setdefault(posixpath.basename(path).casefold(), []).append(path)
    return found


def _from_top(site: Site, paths: Sequence[str], sources: Iterable[str]) -> Iterator[tuple[str, Placed]]:
    """Files that the pack itself names by their whole paths in the map, `res://horn/horn.tscn`, and what lies with them
    in their folders."""
    tops = sorted({kind.entry.top for kind in site.layout.kinds.values() if kind.entry.top})
    if not tops:
        return
    marks = "|".join(map(re.escape, tops))
    named = {match[1] for source in sources for match in re.finditer(rf"(?:{marks})([\w./ -]+\.\w{{1,6}})", source)}
    taken_off: dict[str, str] = {}
    for path in paths:
        whole = next((one for one in sorted(named, key=len) if path == one or path.endswith(f"/{one}")), None)
        if whole is not None and "/" in whole:
            taken_off.setdefault(path.split("/")[0], path.removesuffix(whole))
            yield path, Placed(path, whole, True, as_said("the pack calls it so"))
    for path in paths:
        lead = taken_off.get(path.split("/")[0])
        if (
            lead is not None
            and path.startswith(lead)
            and not any(path.endswith(f"/{one}") or path == one for one in named)
        ):
            yield (
                path,
                Placed(path, path.removeprefix(lead), True, as_said("lies with what the pack calls by its path")),
            )


def _module_paths(site: Site, module: str) -> Iterator[str]:
    """Where the file of a module can lie, by the layout's `{module}` names."""
    for rule in site.layout.reads:
        for define in rule.defines:
            if "module" in define.name.fields:
                for glob in rule.files:
                    front, _, ending = glob.pattern.partition("**/*")
                    for side in (*site.layout.sides, site.layout.both) if "{side}" in front else ("",):
                        yield front.replace("{side}", side) + module.replace(".", "/") + ending


def _by_asking(site: Site, path: str, asked: Mapping[str, list[str]]) -> Placed | None:
    """Where something asks for a file of that name."""
    targets = [
        one for one in dict.fromkeys(asked.get(posixpath.basename(path).casefold(), ())) if _strength(site, one) >= 2
    ]
    strong = [one for one in targets if _strength(site, one) == 3] or targets
    if not strong:
        return None
    return Placed(path, strong[0], len(strong) == 1, as_said("asked for by this path"))


def _by_sort(site: Site, path: str, sort: Sort, placed: Mapping[str, Placed]) -> Placed | None:
    """Where the map keeps its own of that ending."""
    ending = posixpath.splitext(path)[1].casefold()
    if not ending or sort.word not in ("picture", "sound", "model", "script", "data", "unknown"):
        return None
    others = Counter(posixpath.dirname(one) for one in site.tree.paths() if one.casefold().endswith(ending))
    folder = posixpath.dirname(path)
    neighbours = (one for one in placed.values() if posixpath.dirname(one.path) == folder)
    beside = Counter(posixpath.dirname(one.target) for one in neighbours)
    best = beside.most_common(1) or others.most_common(1)
    if not best or not best[0][0]:
        return None
    return Placed(
        path, f"{best[0][0]}/{posixpath.basename(path)}", False, as_said(f"where the map has other {ending} files")
    )
