"""Packs as people publish them, each with the hook sheet that a person wrote for it; and how near a draft comes."""

from __future__ import annotations

import atexit
import functools
import json
import re
import shutil
import tempfile
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec

from hookset.authoring.draft import Draft, Site, drafted
from hookset.config.layouts import named_layout, shipped_layout
from hookset.packs import HookSheet, open_pack, with_sheet
from hookset.packs.hooksheet import ExcludeEntry, WhenEntry
from hookset.project import begin, read_stock
from hookset.trees import FolderTree
from tests.shipped import started
from tests.test_house import ROOT, tool

OWN_LAYOUT = ROOT / "docs/own-layout/salt-fen.toml"
FOLDER = Path(__file__).parent / "published"
_DATA = Path(__file__).parents[1] / "src" / "hookset" / "demo" / "data"


@dataclass(frozen=True)
class Score:
    """What of a draft is right, by what a person found. Names are for people to read."""

    files_right: int
    files_wrong: tuple[str, ...]
    files_lacking: tuple[str, ...]
    right: int
    wrong_sure: tuple[str, ...]
    wrong_unsure: tuple[str, ...]
    lacking: tuple[str, ...]
    seats_right: int
    """Entries whose words are right, with the right seat or not, are `seats_of`."""
    seats_of: int


_IN_THE_DEMO = {"fog-bell": "fog_bell_v0.4", "heronry": "Heronry 1.0", "silt": "silt-0.9-final"}


def folder_of(name: str) -> Path:
    """The pack itself: those that the demo has are there."""
    shared = _IN_THE_DEMO.get(name)
    return _DATA / "published" / shared if shared else FOLDER / name / "pack"


def names() -> list[str]:
    return sorted(folder.name for folder in FOLDER.iterdir() if (folder / "right.toml").is_file())


@functools.cache
def _salt_fen() -> Path:
    """The map of the page on layouts of one's own, made once."""
    folder = Path(tempfile.mkdtemp())
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    tool("make_salt_fen").make(folder)
    return folder / "salt-fen"


def laid_out(layout: str, folder: Path) -> Path:
    """A copy of the map of a layout, with its project file."""
    if layout != "salt-fen":
        return started(layout.replace("split-lua", "brackwater"), folder)
    root = shutil.copytree(_salt_fen(), folder / "salt-fen")
    shutil.copy(OWN_LAYOUT, folder)
    (root / "hookset.toml").write_text(begin(root, "../salt-fen.toml", ()).text, encoding="utf-8")
    return root


def site_for(layout: str) -> Site:
    """The demo's map of a layout, with a bridge at hand."""
    if layout == "salt-fen":
        return Site(named_layout(str(OWN_LAYOUT), Path()), FolderTree(_salt_fen()), folder="salt-fen")
    folder = _DATA / ("brackwater" if layout == "split-lua" else layout)
    stock = read_stock([_DATA / "base.stock.json"] if layout == "split-lua" else [])
    return Site(shipped_layout(layout), FolderTree(folder), stock, ("lift-bridge",), folder.name)


def right_sheet(name: str) -> HookSheet:
    return msgspec.convert(tomllib.loads((FOLDER / name / "right.toml").read_text(encoding="utf-8")), HookSheet)


@functools.lru_cache(maxsize=4)
def draft_of(name: str) -> Draft:
    """What a test changes nothing of: several look at it one after the other."""
    return drafted(site_for(right_sheet(name).pack.layouts[0]), open_pack(folder_of(name)))


def score(name: str, draft: Draft) -> Score:
    right = right_sheet(name)
    pack = open_pack(folder_of(name))
    right_files = set(with_sheet(pack, _only_files(right), "right").targets.items())
    files = set(with_sheet(pack, _only_files(draft.sheet), "draft").targets.items())
    wanted = list(_units(right))
    found = [
        (unit, draft.reason("hook", index).sure)
        for index, hook in enumerate(draft.sheet.hook)
        for unit in _units_of(hook)
    ]
    found += [(_excluded(one), draft.reason("excludes", n).sure) for n, one in enumerate(draft.sheet.excludes)]
    left = list(wanted)
    good = 0
    wrong_sure: list[str] = []
    wrong_unsure: list[str] = []
    for unit, sure in found:
        if unit in left:
            left.remove(unit)
            good += 1
        else:
            (wrong_sure if sure else wrong_unsure).append(_shown(unit))
    bodies = [unit[1:] for unit in wanted]
    same_body = [unit for unit, _ in found if unit[1:] in bodies]
    return Score(
        len(files & right_files),
        tuple(sorted(f"{path} -> {target}" for target, path in files - right_files)),
        tuple(sorted(f"{path} -> {target}" for target, path in right_files - files)),
        good,
        tuple(wrong_sure),
        tuple(wrong_unsure),
        tuple(_shown(unit) for unit in left),
        sum(unit in wanted for unit in same_body),
        len(same_body),
    )


def _only_files(sheet: HookSheet) -> bytes:
    rows = "".join(
        f"[[files]]\nfrom = {json.dumps(f.from_)}\nto = {json.dumps(f.to)}\n{_chosen(f.when)}" for f in sheet.files
    )
    rows += "".join(
        f'[[setting]]\nname = "{s.name}"\ntype = "text"\ndefault = "{s.default}"\nchoices = {json.dumps(s.choices)}\n'
        for s in sheet.setting
        if s.choices
    )
    return f'[pack]\nname = "x"\nversion = "1"\n{rows}'.encode()


def _chosen(when: WhenEntry | None) -> str:
    """Of files for one place, for which choice one is."""
    return f'when = {{ setting = "{when.setting}", equals = "{when.equals}" }}\n' if when and when.setting else ""


Unit = tuple[str, str, str, str]


def _units(sheet: HookSheet) -> Iterator[Unit]:
    for hook in sheet.hook:
        yield from _units_of(hook)
    yield from map(_excluded, sheet.excludes)


def _excluded(one: ExcludeEntry) -> Unit:
    return "excludes", one.kind, one.name, one.version


def _units_of(hook: Any) -> Iterator[Unit]:
    """(seat with what it goes by, language, the entry, its condition): one for each key of what sets single keys."""
    by = hook.replaces or hook.before or hook.after
    seat = (
        hook.seat
        + (f"{hook.file} {''.join(by.split())}" if by else "")
        + (json.dumps(hook.at, sort_keys=True) if hook.at else "")
    )
    when = json.dumps(msgspec.to_builtins(hook.when), sort_keys=True) if hook.when else ""
    for variant, body in (hook.each or {"": hook.record if hook.record is not None else hook.text}).items():
        if isinstance(body, Mapping) and (
            hook.each or hook.seat in ("scripts", "moments", "options", "noises", "on-object", "node-itself")
        ):
            for key, value in body.items():
                yield seat, variant, json.dumps({key: _plain(value)}, sort_keys=True), when
        elif isinstance(body, Mapping):
            yield seat, variant, json.dumps(_plain(body), sort_keys=True), when
        else:
            text = re.sub(r"""require\s*(["'][^"']*["'])""", r"require(\1)", str(body))
            yield seat, variant, "".join(text.split()).rstrip(";"), when


def _plain(value: Any) -> Any:
    if isinstance(value, Mapping):
        return {key: _plain(inner) for key, inner in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(inner) for inner in value]
    return str(float(value)) if isinstance(value, int | float) or _number(value) else value


def _number(value: str) -> bool:
    try:
        float(value)
    except ValueError:
        return False
    return True


def _shown(unit: Unit) -> str:
    return " ".join(part for part in unit if part)[:160]
