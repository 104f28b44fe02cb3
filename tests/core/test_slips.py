"""Slips of the pen in layouts and hook sheets: each is told with its own line, whatever key it is in."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from hookset.config.layouts import shipped_names
from hookset.config.layouts.load import layout_source, load_layout
from hookset.model import HooksetError
from hookset.packs import open_pack, with_sheet
from hookset.project import read_project
from tests.packs import made_pack
from tests.published import FOLDER, folder_of, names
from tests.refusals import refused
from tests.test_house import ROOT

KEY = re.compile(r"(?:^|[{,]|\{ )\s*(?P<key>[a-z_]+) = ")
FREE = re.compile(
    r"(?:when|unless|properties|take|at|record|each|words|ask|dependentRequired|options|has)\w* = \{|properties\.|^title"
)
"""Tables whose keys are the writer's own words, or the format's."""
OTHERS = (
    (re.compile(r'"(?:[^"\\]|\\.)*"'), "17.5"),
    (re.compile(r"'[^']*'"), "17.5"),
    (re.compile(r"true|false"), '"maybe"'),
    (re.compile(r"\d+(?:\.\d+)?"), '"many"'),
)
"""A value, and one of another type."""
WORDS = ("volume", "track")
"""Tables in which a number will do as well as a way to one."""


def slips(text: str, every: int) -> Iterator[tuple[str, int]]:
    """The text with one slip, and its line: a letter too many in a key, or a value of another type. Of all there are,
    each `every`th."""
    lines = text.splitlines()
    quoted, table, count = False, "", 0
    for number, line in enumerate(lines):
        whole, quoted = quoted, quoted ^ ((line.count("'''") + line.count('"""')) % 2 == 1)
        heading = re.match(r"\[+([a-z_.]+)", line)
        table = heading[1] if heading else table
        if whole or quoted or line.lstrip().startswith("#") or table.partition(".")[0] in (*WORDS, "words"):
            continue
        if ".record" in table or ".each" in table or ".words" in table:
            continue
        for match in KEY.finditer(line):
            if FREE.search(line[: match.start("key") + 1]) or "schema" in line[: match.end()]:
                continue
            for slip in (_typed(line, match), _of_another_type(line, match)):
                count += 1
                if slip is not None and count % every == 0:
                    yield "\n".join([*lines[:number], slip, *lines[number + 1 :]]), number + 1


def _typed(line: str, match: re.Match[str]) -> str:
    return f"{line[: match.end('key')]}x{line[match.end('key') :]}"


def _of_another_type(line: str, match: re.Match[str]) -> str | None:
    rest = line[match.end() :]
    if rest.startswith(("'''", '"""')):
        return None
    for pattern, other in OTHERS:
        found = pattern.match(rest)
        if found is not None:
            return line[: match.end()] + other + rest[found.end() :]
    return None


def lines_told(error: HooksetError, file: str = "own.toml") -> set[int]:
    pattern = re.compile(rf"{re.escape(file)}:(\d+)")
    return {int(found[1]) for one in (error.where, *error.details) for found in [pattern.search(one)] if found}


@pytest.mark.no_cover
@pytest.mark.parametrize("name", shipped_names())
def test_a_slip_in_a_layout_is_told_with_its_line(name: str) -> None:
    count = 0
    for text, line in slips(layout_source(name), 13):
        with refused("wrong-rows", f"{line}: {text.splitlines()[line - 1]}") as told:
            load_layout(text.encode(), "own.toml")
        assert line in lines_told(told.value), (line, text.splitlines()[line - 1], told.value.details)
        count += 1
    assert count > 10


SHEETS = names()


@pytest.mark.no_cover
@pytest.mark.parametrize("start", range(6))
def test_a_slip_in_a_hook_sheet_is_told_with_its_line(start: int) -> None:
    count = 0
    for name in SHEETS[start::6]:
        pack = open_pack(folder_of(name))
        for text, line in slips((FOLDER / name / "right.toml").read_text("utf-8"), 17):
            with refused("wrong-rows", f"{name}:{line}: {text.splitlines()[line - 1]}") as told:
                _ = with_sheet(pack, text.encode(), "own.toml").targets
            assert line in lines_told(told.value), (name, line, text.splitlines()[line - 1], told.value.details)
            count += 1
    assert count > 20


HEAD = '[pack]\nname = "own"\nversion = "1"\n'


@pytest.mark.parametrize(
    ("body", "line"),
    [
        ('[[setting]]\nname = "n"\ntype = "int"\nrange = [1, 5]\ndefault = "many"', 8),
        ('[[setting]]\nname = "n"\ntype = "int"\nrange = [1, 5]\ndefault = 9', 8),
        ('[[setting]]\nname = "n"\ntype = "int"\nrange = [5, 1]\ndefault = 3', 7),
        ('[[setting]]\nname = "n"\ntype = "int"\ndefault = 1.5', 7),
        ('[[setting]]\nname = "n"\ntype = "int"\ndefault = true', 7),
        ('[[setting]]\nname = "n"\ntype = "bool"\ndefault = 1', 7),
        ('[[setting]]\nname = "n"\ntype = "bool"\nrange = [0, 1]\ndefault = true', 7),
        ('[[setting]]\nname = "n"\ntype = "text"\nchoices = ["a", "b"]\ndefault = "c"', 8),
        ('[[setting]]\nname = "n"\ntype = "text"\nchoices = ["a", 2]\ndefault = "a"', 7),
        ('[[setting]]\nname = "n"\ntype = "int"\ndefault = 1\n[[setting]]\nname = "n"\ntype = "int"\ndefault = 2', 9),
        ('[[needs]]\nkind = "pack"\nname = "x"\nversion = "newer"', 7),
        ('[[excludes]]\nkind = "pack"\nname = "x"\nversion = "older"', 7),
        ('[[files]]\nfrom = "none/**"', 5),
        ('[[files]]\nfrom = "files/**"\nto = "../up"', 6),
        ('[[files]]\nfrom = "files/**"\nto = ".hookset"', 6),
        ('[[files]]\nfrom = "files/**"\nto = "{next:sound:1}"', 6),
        ('[[hook]]\nseat = "a"\nchange = "b"\ntext = "x"', 4),
        ('[[hook]]\nseat = "a"', 4),
        ('[[hook]]\nseat = "a"\ntext = "x"\nrecord = { a = 1 }', 4),
        ('[[hook]]\nseat = "a"\ntext = "x"\nafter = "y"', 7),
        ('[[hook]]\nfile = "a"\ntext = "x"\nafter = "y"\nbefore = "z"', 4),
        ('[[hook]]\nseat = "a"\ntext = "x"\nplace = "p"', 7),
        ('[[place]]\nname = "p"', 4),
        ('[[place]]\nname = "p"\n[[place]]\nname = "p"\n[[hook]]\nseat = "a"\ntext = "x"\nplace = "p"', 7),
    ],
)
def test_what_a_sheet_says_that_cannot_be_is_told_with_its_line(body: str, line: int, tmp_path: Path) -> None:
    file = made_pack(tmp_path, "own", "", {"files/a.txt": "a"})
    with refused("wrong-rows") as told:
        _ = with_sheet(open_pack(file), (HEAD + body + "\n").encode(), "own.toml").targets
    assert lines_told(told.value) == {line}, told.value.details


READS = """
[[read]]
files = "map.json"
format = "json"
[[read]]
files = "b.lua"
format = "lua"
[[seat]]
name = "b"
title = "t"
file = "b.lua"
put = { at = "end", inside = "function start" }
"""
LAYOUT = '[layout]\nname = "own"\ntitle = "t"\n[kinds.bell]\nlabel = "bell"\n'


@pytest.mark.parametrize(
    ("body", "line"),
    [
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nrefers = [{ kind = "bel", at = "$.a" }]', 9),
        ('[[read]]\nfiles = "a.json"\nformat = "jsn"', 8),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nrefers = [{ kind = "bell", at = "$.a[" }]', 9),
        ('[[read]]\nfiles = "a.xml"\nformat = "xml"\nrefers = [{ kind = "bell", at = "//a[" }]', 9),
        ('[[read]]\nfiles = "a.txt"\nformat = "text"\nrefers = [{ kind = "bell", match = "(" }]', 9),
        ('[[read]]\nfiles = "a.txt"\nformat = "text"\nrefers = [{ kind = "bell", match = "x" }]', 9),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nrefers = [{ kind = "bell" }]', 9),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nrefers = [{ kind = "bell", at = "$.a", only = "[" }]', 9),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nrefers = [{ kind = "bell", at = "$.a", name = "{nam}" }]', 9),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nside = "server"', 9),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\nencodings = ["utf-9"]', 9),
        ('[[seat]]\nname = "s"\ntitle = "t"\nfile = "b.lua"\nput = { after = { cal = "x" } }', 10),
        ('[[seat]]\nname = "s"\ntitle = "t"\nfile = "a.rar"\nput = { at = "end" }', 9),
        ('[descriptor]\nfile = 3\nname = "$.name"', 7),
        ('[descriptor]\nfile = "map.json"\nname = "$.name["', 8),
        ('[[count]]\nkind = "bel"\nleast = 1', 7),
        ('[kinds.bell2]\nlabel = "b"\ncase = "foldet"', 8),
        (
            '[[read]]\nfiles = "a.json"\nformat = "json"\n[read.record]\nat = "$"\n[read.record.schema]\nrequierd = ["a"]',
            12,
        ),
        ('[[read]]\nfiles = "a.json"\nformat = "json"\n[read.record]\nat = "$"\n[read.record.schema]\ntype = 3', 12),
        (
            '[[read]]\nfiles = "a.json"\nformat = "json"\n[read.record]\nat = "$"\n'
            "[read.record.schema]\nproperties.a = { anyOf = [{ minimun = 3 }] }",
            12,
        ),
    ],
)
def test_what_a_layout_says_that_cannot_be_is_told_with_its_line(body: str, line: int) -> None:
    with refused("wrong-rows") as told:
        load_layout((LAYOUT + body + READS).encode(), "own.toml")
    assert lines_told(told.value) == {line}, told.value.details


PAGE = (ROOT / "docs/project-file.md").read_text("utf-8")
PROJECT = PAGE.partition("```toml\n")[2].partition("```")[0]


def test_the_project_file_of_the_page_can_be_read() -> None:
    file, terms = read_project(PROJECT.encode())
    assert (file.map.name, file.map.layout, len(terms.accepted)) == ("brackwater", "split-lua", 1)


def test_a_slip_in_the_project_file_is_told_with_its_line() -> None:
    count = 0
    for text, line in slips(PROJECT, 1):
        if "severity = {" in text.splitlines()[line - 1]:
            continue
        with refused("wrong-rows", f"{line}: {text.splitlines()[line - 1]}") as told:
            read_project(text.encode())
        assert line in lines_told(told.value, "hookset.toml"), (line, told.value.details)
        count += 1
    assert count > 20


@pytest.mark.parametrize(
    ("old", "new", "line"),
    [
        ('unused-file = "off"', 'unused-file = "of"', 23),
        ('severity = { unused-file = "off", untranslated = "error" }', "severity = 3", 23),
        ('stock = ["../base.stock.json", "../game.stock"]', 'stock = "../base.stock.json"', 9),
        ('roots = ["../library", "../extras.zip"]', "roots = [3]", 10),
        ("players = 4", "players = -4", 5),
        ("players = 4", 'players = "four"', 5),
    ],
)
def test_what_a_project_file_says_that_cannot_be_is_told_with_its_line(old: str, new: str, line: int) -> None:
    assert PROJECT.count(old) == 1
    with refused("wrong-rows") as told:
        read_project(PROJECT.replace(old, new).encode())
    assert lines_told(told.value, "hookset.toml") == {line}, told.value.details
