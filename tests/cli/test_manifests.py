"""Lists of what a build ships: rows of several sorts, a list for each side, names of the base game, in any format."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import pytest

from tests.conftest import Ran, run_hookset, snapshot

LAYOUT = r"""
[layout]
name = "dock"
title = "scripts for two sides, a list of what is shipped for each"
sides = ["server", "client"]
[descriptor]
file = "map.ini"
name = { section = "map", key = "name" }
version = { section = "map", key = "version" }
[[recognise]]
file = "map.ini"
says = "a descriptor"
[kinds.file]
label = "file"
path = true
[kinds.effect]
label = "effect"
why = "nothing is seen there"
[kinds.row]
label = "row"
sided = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
[[read]]
files = "map.ini"
format = "ini"
[[read]]
files = "scripts/{side}/**/*.run"
format = "text"
options = { comments = ['--[^\n]*'], strings = [] }
refers = [
  { kind = "file", match = '^use (?P<value>\S+)', under = "scripts", suffix = ".run" },
  { kind = "file", match = '^show (?P<value>\S+)', under = "shapes", suffix = ".gltf" },
  { kind = "effect", match = '^puff (?P<value>\S+)' },
]
[[read]]
files = "{side}.list"
format = "lines"
uses = false
options = { fields = "blanks", comment = ["--"] }
defines = [{ kind = "row" }]
refers = [
  { kind = "file", field = 2, when = { 1 = "script" }, under = "scripts", suffix = ".run" },
  { kind = "file", field = 2, when = { 1 = "shape" } },
  { kind = "effect", field = 2, when = { 1 = "effect" } },
]
[reached]
files = ["map.ini", "*.list", "scripts/*/main.run"]
[manifest]
file = "server.list"
row = "row"
[[manifest.rows]]
files = "scripts/server/**"
row = "script server/{inner}"
seat = "server-list"
[[manifest.rows]]
files = "scripts/client/**"
row = "script client/{inner}"
seat = "client-list"
[[manifest.rows]]
files = "shapes/**"
row = "shape {path}"
seat = "server-list"
[[manifest.rows]]
kind = "effect"
row = "effect {value}"
seat = "client-list"
[build]
archive = "{name}.zip"
first = ["map.ini"]
ships = "listed"
[[seat]]
name = "server-list"
title = "at the end of the server's list"
file = "server.list"
[[seat]]
name = "client-list"
title = "at the end of the client's list"
file = "client.list"
[[seat]]
name = "server-use"
title = "under the last use of the server's main script"
file = "scripts/server/main.run"
put = { after = "^use ", otherwise = "end" }
[[seat]]
name = "client-use"
title = "under the last use of the client's main script"
file = "scripts/client/main.run"
put = { after = "^use ", otherwise = "end" }
"""
FILES = {
    "map.ini": "[map]\nname = dry-dock\nversion = 1\n",
    "server.list": "-- what the server gets\r\nscript   server/main\r\nscript   server/lock\r\nshape    shapes/lock.gltf\r\n",
    "client.list": "script client/main\nscript client/lock\neffect mist\n",
    "scripts/server/main.run": "use server/lock\n",
    "scripts/server/lock.run": "show lock\n",
    "scripts/client/main.run": "use client/lock\n",
    "scripts/client/lock.run": "-- puff steam\npuff mist\n",
    "shapes/lock.gltf": "{}",
}
PACK = {
    "hooksheet.toml": """
[pack]
name = "capstan"
version = "1.0"
[[files]]
from = "content/**"
[[hook]]
seat = "server-use"
text = "use server/capstan"
[[hook]]
seat = "client-use"
text = "use client/capstan\\npuff sparks"
""",
    "content/scripts/server/capstan.run": "show capstan\n",
    "content/scripts/client/capstan.run": "puff mist\npuff steam\n",
    "content/shapes/capstan.gltf": "{}",
}


def lay(folder: Path, files: dict[str, str]) -> Path:
    for path, text in files.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text, encoding="utf-8", newline="")
    return folder


@pytest.fixture
def dock(tmp_path: Path) -> Path:
    """A map of that layout, started, and a pack beside it."""
    (tmp_path / "dock.toml").write_text(LAYOUT, encoding="utf-8")
    stock = {"stock": 1, "title": "The base game", "names": [{"kind": "effect", "names": ["mist", "steam", "sparks"]}]}
    (tmp_path / "base.stock.json").write_text(json.dumps(stock), encoding="utf-8")
    lay(tmp_path / "capstan", PACK)
    root = lay(tmp_path / "dry-dock", FILES)
    done = run_hookset(root, "start", "--layout", "../dock.toml", "--stock", "../base.stock.json")
    assert done.code == 0, done.err
    return root


def told(root: Path) -> list[tuple[str, str, str]]:
    return [(f["code"], f["path"], f["message"]) for f in run_hookset(root, "check", "--json").data["findings"]]


def edited(root: Path, path: str, old: str, new: str) -> None:
    text = (root / path).read_bytes().decode()
    assert old in text
    (root / path).write_bytes(text.replace(old, new).encode())


def test_rows_of_every_sort_are_read(dock: Path) -> None:
    assert told(dock) == []


@pytest.mark.parametrize(
    ("path", "old", "new", "code", "at", "words"),
    [
        ("server.list", "script   server/lock\r\n", "", "not-in-manifest", "scripts/server/main.run", "server.list has no row"),
        ("client.list", "script client/lock\n", "", "not-in-manifest", "scripts/client/main.run", "client.list has no row"),
        ("client.list", "effect mist\n", "", "name-not-in-manifest", "scripts/client/lock.run", "effect `mist` is used here"),
        ("client.list", "effect mist", "effect mits", "missing-name", "client.list", "effect `mits` is defined nowhere"),
        ("server.list", "server/lock", "server/lok", "row-without-file", "server.list", "scripts/server/lok.run"),
        ("server.list", "shape    ", "shape ", "", "", ""),
        ("server.list", "shape    shapes/lock.gltf\r\n", "", "not-in-manifest", "scripts/server/lock.run", "is used, but"),
    ],
)  # fmt: skip
def test_what_is_wrong_in_a_list_is_told(
    path: str, old: str, new: str, code: str, at: str, words: str, dock: Path
) -> None:
    edited(dock, path, old, new)
    found = told(dock)
    assert bool(found) == bool(code)
    assert not code or any(c == code and p == at and words in message for c, p, message in found), found


def test_a_row_in_the_other_side_s_list_is_none(dock: Path) -> None:
    edited(dock, "client.list", "script client/lock\n", "")
    edited(dock, "server.list", "script   server/lock\r\n", "script   server/lock\r\nscript client/lock\r\n")
    assert [message for code, _, message in told(dock) if code == "not-in-manifest"] == [
        "`scripts/client/lock.run` is used on the client, and only the server has a row for it"
    ]


def test_lacking_rows_are_mended_in_the_right_list(dock: Path) -> None:
    before = snapshot(dock)
    edited(dock, "server.list", "script   server/lock\r\n", "")
    edited(dock, "client.list", "script client/lock\neffect mist\n", "")
    assert run_hookset(dock, "check", "--mend").code == 0
    assert told(dock) == []
    after = snapshot(dock)
    assert after["server.list"].endswith(b"shapes/lock.gltf\r\nscript   server/lock\r\n")
    assert sorted(after["client.list"].splitlines()) == sorted(before["client.list"].splitlines())


def test_a_pack_that_brings_a_list_of_its_own_gets_no_rows_beside_it(dock: Path) -> None:
    included = """
[[read]]
files = "lists/*.list"
format = "lines"
uses = false
side = "client"
options = { fields = "blanks" }
defines = [{ kind = "row" }]
refers = [{ kind = "effect", field = 2, when = { 1 = "effect" } }]
[[read]]
files = "client.list"
format = "lines"
options = { fields = "blanks" }
refers = [{ kind = "file", field = 2, when = { 1 = "include" }, under = "lists" }]
"""
    (dock.parent / "dock.toml").write_text(LAYOUT + included, encoding="utf-8")
    sheet = PACK["hooksheet.toml"] + '[[hook]]\nseat = "client-list"\ntext = "include capstan.list"\n'
    rows = "script client/capstan\neffect steam\neffect sparks\n"
    lay(dock.parent / "capstan", {"hooksheet.toml": sheet, "content/lists/capstan.list": rows})
    assert run_hookset(dock, "install", "../capstan").code == 0
    assert (dock / "client.list").read_text() == FILES["client.list"] + "include capstan.list\n"
    assert told(dock) == []


def test_a_pack_gets_rows_in_both_lists_and_for_what_the_game_has(dock: Path) -> None:
    before = snapshot(dock)
    assert run_hookset(dock, "install", "../capstan").code == 0
    assert told(dock) == []
    after = snapshot(dock)
    assert (
        after["server.list"] == before["server.list"] + b"script   server/capstan\r\nshape    shapes/capstan.gltf\r\n"
    )
    # The effect `mist` has its row already; what the entry itself uses gets one like what the files use.
    assert after["client.list"] == before["client.list"] + b"script client/capstan\neffect steam\neffect sparks\n"
    again = run_hookset(dock, "install", "../capstan")
    assert again.code == 0
    assert snapshot(dock) == after
    assert run_hookset(dock, "remove", "capstan").code == 0
    assert snapshot(dock) == before


def test_only_what_is_listed_is_shipped(dock: Path) -> None:
    (dock / "notes.txt").write_text("mine")
    assert run_hookset(dock, "build", "--to", "..").code == 0
    with zipfile.ZipFile(dock.parent / "dry-dock.zip") as archive:
        assert sorted(archive.namelist()) == sorted(path for path in FILES if not path.endswith(".list"))


def test_rows_are_no_entries_worth_a_line_of_their_own(dock: Path) -> None:
    shown = run_hookset(dock, "inspect", "../capstan").out
    assert "manifest" in shown
    assert "6 rows" in shown


FORMS = [
    pytest.param(
        "list.json", "json", '{\n  "ship": [\n    { "sort": "shape", "of": "lock" }\n  ]\n}\n',
        'defines = [{ kind = "row", at = "$.ship[*].of", name = "{row.sort} {value}" }]', 'put = { into = "/ship" }',
        'record = { sort = "shape", of = "{stem}" }', '{ "sort": "shape", "of": "lock" },\n    {"sort": "shape", "of": "crane"}',
        id="json",
    ),
    pytest.param(
        "list.xml", "xml", '<Ship>\n  <Item sort="shape" of="lock"/>\n</Ship>\n',
        'defines = [{ kind = "row", at = "//Item/@of", name = "{row.sort} {value}" }]', 'put = { into = "/Ship" }',
        "text = '<Item sort=\"shape\" of=\"{stem}\"/>'", '<Item sort="shape" of="lock"/>\n  <Item sort="shape" of="crane"/>\n',
        id="xml",
    ),
    pytest.param(
        "list.csv", "csv", "sort;of\nshape;lock\n",
        'defines = [{ kind = "row", column = "of", name = "{row.sort} {value}" }]', "",
        'record = { sort = "shape", of = "{stem}" }', "shape;lock\nshape;crane\n",
        id="csv",
    ),
    pytest.param(
        "list.ini", "ini", "[shape]\nlock = yes\n",
        'defines = [{ kind = "row", keys = true, name = "{row.section} {value}" }]', 'put = { section = "shape" }',
        "record = { lock2 = true }", "lock2 = true",
        id="ini",
    ),
    pytest.param(
        "list.blk", "block", "ship {\n\tshape lock\n}\n",
        'defines = [{ kind = "row", at = "ship/shape", name = "shape {value}" }]', 'put = { into = "ship" }',
        'text = "shape {stem}"', "\tshape lock\n\tshape crane\n",
        id="block",
    ),
]  # fmt: skip


@pytest.mark.parametrize(("path", "form", "text", "defines", "put", "row", "after"), FORMS)
def test_lists_can_be_of_any_format(
    path: str, form: str, text: str, defines: str, put: str, row: str, after: str, tmp_path: Path
) -> None:
    layout = f"""
[layout]
name = "any-list"
title = "a list of its own form"
[kinds.file]
label = "file"
path = true
[kinds.row]
label = "row"
[[read]]
files = "**"
format = "any"
defines = [{{ kind = "file", name = "{{path}}" }}]
[[read]]
files = "{path}"
format = "{form}"
uses = false
{defines}
[[read]]
files = "use.txt"
format = "lines"
refers = [{{ kind = "file" }}]
[reached]
files = ["use.txt", "{path}"]
[manifest]
file = "{path}"
row = "row"
[[manifest.rows]]
files = "shapes/*"
row = "shape {{stem}}"
seat = "list"
{row}
[[seat]]
name = "list"
title = "in the list"
file = "{path}"
{put}
"""
    (tmp_path / "any.toml").write_text(layout, encoding="utf-8")
    files = {
        path: text,
        "use.txt": "shapes/lock.gltf\nshapes/crane.gltf\n",
        "shapes/lock.gltf": "{}",
        "shapes/crane.gltf": "{}",
    }
    root = lay(tmp_path / "map", files)
    assert run_hookset(root, "start", "--layout", "../any.toml").code == 0
    assert [(code, at) for code, at, _ in told(root)] == [("not-in-manifest", "use.txt")]
    mended: Ran = run_hookset(root, "check", "--mend")
    if form == "ini":
        # What such a row says does not answer to what it is called: nothing is set that would not help.
        assert mended.code == 1
        return
    assert mended.code == 0, mended.out
    assert after in (root / path).read_text(encoding="utf-8")
    assert told(root) == []
