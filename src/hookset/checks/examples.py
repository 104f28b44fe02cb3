"""A small map that is whole, and what a check's example changes in it."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field

__all__ = ["FILES", "LAYOUT", "Example"]

LAYOUT = """
[layout]
name = "example"
title = "a few files of each sort"
may_be_empty = true
sides = ["server", "client"]
[kinds.file]
label = "file"
path = true
[kinds.sound]
label = "sound"
unique = true
[kinds.text]
label = "text"
unique = true
each = "language"
[kinds.deed]
label = "deed"
sided = true
unique = true
reached = true
[kinds.thing]
label = "thing"
unique = true
[kinds.row]
label = "row"
unique = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
[[read]]
files = "{side}/*.lua"
format = "lua"
defines = [{ kind = "deed", call = "on", arg = 1 }]
refers = [
  { kind = "sound", call = "play", arg = 1 },
  { kind = "text", call = "say", arg = 1 },
  { kind = "file", call = "load", arg = 1, under = ["server", "client"], suffix = ".lua" },
]
[[read]]
files = "sounds.json"
format = "json"
defines = [{ kind = "sound", at = "$[*].name" }]
refers = [{ kind = "file", at = "$[*].file", under = "sounds" }]
record = { at = "$[*]", schema = { required = ["name", "file"] } }
[[read]]
files = "texts/{variant}.ini"
format = "ini"
defines = [{ kind = "text", keys = true }]
[[read]]
files = "things.csv"
format = "csv"
defines = [{ kind = "thing", column = "name" }]
refers = [
  { kind = "deed", column = "deed", side = "server" },
  { kind = "file", column = "picture", under = "pictures" },
]
[[read]]
files = "manifest.txt"
format = "lines"
uses = false
defines = [{ kind = "row" }]
refers = [{ kind = "file" }]
[reached]
files = ["server/main.lua", "client/main.lua", "*", "texts/*", "units/**"]
[manifest]
file = "manifest.txt"
row = "row"
must_list = ["sounds/**", "pictures/**"]
must_not_list = ["notes/**"]
seat = "manifest"
[[seat]]
name = "manifest"
title = "at the end of the manifest"
file = "manifest.txt"
[[seat]]
name = "loads"
title = "under the last load of the server's main script"
file = "server/main.lua"
put = { after = "last", otherwise = "top", call = "load" }
"""
FILES = {
    "server/main.lua": 'load("gate")\n',
    "server/gate.lua": 'on("open", function() play("creak") end)\n',
    "client/main.lua": 'say("gate.opens")\n',
    "sounds.json": '[\n  { "name": "creak", "file": "creak.wav" }\n]\n',
    "sounds/creak.wav": "…",
    "pictures/gate.png": "…",
    "texts/en.ini": "gate.opens = The gate opens\n",
    "texts/de.ini": "gate.opens = Das Tor geht auf\n",
    "things.csv": "name,deed,picture\ngate,open,gate.png\n",
    "manifest.txt": "sounds/creak.wav\npictures/gate.png\n",
}
"""A map of that layout in which nothing is wrong."""


class Example(Struct, frozen=True, kw_only=True):
    """Files that differ from that map; None for one that is not there."""

    fails: Mapping[str, str | None]
    """With these the check tells something."""
    passes: Mapping[str, str | None] = field(default_factory=dict)
    """With these it does not, though they look alike."""
    layout: str = ""
    """What the layout says over and above."""
    stock: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """Names of the base game, by kind."""
    project: str = ""
    """What hookset.toml says about checks, when it fails."""
    set_by_pack: tuple[str, str, str] | None = None
    """(seat, path, text) of an entry that a pack has set."""
    left_unplaced: str = ""
    """A place of a pack at which nothing stands where the check fails, and something where it passes."""
    left_blank: str = ""
    """A blank of a pack, which is open where the check fails and filled where it passes."""
    tuned: tuple[str, ...] = ()
    """Files in which `TOLL` is the value of one setting of a pack."""
    excluded: tuple[str, str] | None = None
    """(kind, name) of what a pack cannot stand beside."""
    brought_by_pack: tuple[str, ...] = ()
    """Files that a pack has brought."""
    links: tuple[str, ...] = ()
    """Links to folders, when it fails."""
    idle: bool = False
    """Whether parts of the layout that mean nothing are told."""
