"""Entries that begin with a line of a form and go on to the next such line: texts below their keys."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import AlreadyThere, Edits, WrongBody, format_named, spliced
from hookset.formats.base import Body
from hookset.formats.format import Snippet
from hookset.trees import Text
from tests.conftest import run_hookset
from tests.core.test_learning import written

TEXT = format_named("text")
BEGINS = r"^[A-Z][A-Z0-9_]+[ \t\r]*$"
SEAT = TEXT.seat(at="end", begins=BEGINS)
NOTED: dict[str, Any] = {"comments": (r"^#[^\n]*",)}
SPACED = "English\n\n# OLD_KEY\n\nQUAY_LAMP\nA lamp.\nIt burns.\n\nQUAY_BELL\nA bell.\n"
DENSE = "QUAY_LAMP\nA lamp.\nQUAY_BELL\nA bell."
NEW = "QUAY_ROPE\nA rope.\n\nOf hemp.\nQUAY_POST\nA post."


def opened(text: str) -> Any:
    return TEXT.open(Text(text, "utf-8"), TEXT.options(**NOTED))


def test_an_entry_goes_on_to_the_next_one() -> None:
    found = list(opened(SPACED).existing(SEAT))
    assert [one.body.text for one in found] == ["QUAY_LAMP\nA lamp.\nIt burns.", "QUAY_BELL\nA bell."]
    assert "".join(SPACED[one.start : one.end] for one in found) == SPACED[SPACED.index("QUAY") :].replace("\n\n", "\n")


@pytest.mark.parametrize("newline", ["\n", "\r\n"])
@pytest.mark.parametrize(
    ("text", "at", "after"),
    [
        (SPACED, "end", SPACED + "\nQUAY_ROPE\nA rope.\n\nOf hemp.\n\nQUAY_POST\nA post.\n"),
        (
            SPACED,
            "start",
            SPACED.replace("QUAY_LAMP", "QUAY_ROPE\nA rope.\n\nOf hemp.\n\nQUAY_POST\nA post.\n\nQUAY_LAMP"),
        ),
        (DENSE, "end", f"{DENSE}\n{NEW}\n"),
        (DENSE, "start", f"{NEW}\n{DENSE}"),
        ("# none yet\n", "end", f"# none yet\n{NEW}\n"),
    ],
    ids=["below", "above", "without blank lines", "above them", "the first ones"],
)
def test_new_ones_stand_as_the_others_do(text: str, at: str, after: str, newline: str) -> None:
    text, after = text.replace("\n", newline), after.replace("\n", newline)
    seat = TEXT.seat(at=at, begins=BEGINS)
    placed = opened(text).put(seat, Body(text=NEW))
    assert isinstance(placed, Edits), placed
    assert spliced(text, placed.edits) == after
    assert isinstance(opened(after).put(seat, Body(text=NEW)), AlreadyThere)


@pytest.mark.parametrize("seat", [{"after": "^x", "begins": BEGINS}, {"begins": BEGINS}, {"at": "end", "begins": "("}])
def test_seats_that_cannot_be(seat: dict[str, Any]) -> None:
    with pytest.raises(ValueError, match=r"goes with at|says where|no regular expression"):
        TEXT.seat(**seat)


@pytest.mark.parametrize("body", [Body(), Body(text=" \n"), Body(record={"a": 1})])
def test_what_is_no_entry(body: Body) -> None:
    assert isinstance(opened(SPACED).put(SEAT, body), WrongBody)


def test_each_of_several_is_pasted() -> None:
    pasted = TEXT.pasted(SEAT, Snippet(NEW, TEXT.options(**NOTED)))
    assert [one.body.text for one in pasted] == ["QUAY_ROPE\nA rope.\n\nOf hemp.", "QUAY_POST\nA post."]


@given(st.text(st.sampled_from("AB_\n #x"), max_size=40))
def test_whatever_the_text_nothing_else_changes(text: str) -> None:
    placed = opened(text).put(SEAT, Body(text="NEW_KEY\nSaid."))
    assert isinstance(placed, Edits)
    after = spliced(text, placed.edits)
    assert after.count("NEW_KEY\nSaid.\n") == 1
    before, _, behind = after.partition("NEW_KEY\nSaid.\n")
    assert (before + behind).replace("\n", "") == text.replace("\n", "")


LAYOUT = """[layout]
name = "texts"
title = "texts by their keys"
[kinds.text]
label = "text"
[[read]]
files = "words/{variant}.txt"
format = "text"
defines = [{ kind = "text", match = '^(?P<value>[A-Z][A-Z0-9_]+)[ \\t\\r]*$' }]
[[read]]
files = "boats/*.boat"
format = "text"
refers = [{ kind = "text", match = 'says "(?P<value>[^"]+)"' }]
[[seat]]
name = "text"
title = "a text"
file = "words/{variant}.txt"
kind = "text"
put = { at = "end", begins = '^[A-Z][A-Z0-9_]+[ \\t\\r]*$' }
"""
PLAIN = """Ferry pack

INSTALLATION
Put ferry.boat into boats/.

Add to words/en.txt:

FERRY_NAME
Ferry

FERRY_TOLD
It carries
the others.

Have fun!
"""
MARKED = """# Ferry pack

Put `ferry.boat` into `boats/`. Add to `words/en.txt`:

```
FERRY_NAME
Ferry

FERRY_TOLD
It carries
the others.
```
"""


@pytest.mark.parametrize(("name", "notes"), [("readme.txt", PLAIN), ("readme.md", MARKED)])
def test_notes_show_them_and_they_come_and_go(name: str, notes: str, tmp_path: Path) -> None:
    root, pack = tmp_path / "map", tmp_path / "ferry"
    for folder in (root / "words", root / "boats", pack):
        folder.mkdir(parents=True)
    (root / "texts.toml").write_text(LAYOUT, encoding="utf-8")
    english = root / "words/en.txt"
    english.write_bytes(SPACED.replace("\n", "\r\n").encode())
    (root / "boats/punt.boat").write_text('says "QUAY_LAMP"\n', encoding="utf-8")
    (pack / "ferry.boat").write_text('says "FERRY_NAME"\nsays "FERRY_TOLD"\n', encoding="utf-8")
    (pack / name).write_text(notes, encoding="utf-8")
    assert run_hookset(root, "start", "--layout", "texts.toml").code == 0
    before = english.read_bytes()
    drafted = run_hookset(root, "draft", str(pack), "--json").data
    assert not drafted["not_understood"]
    assert run_hookset(root, "install", str(pack)).code == 0
    new = b"\r\nFERRY_NAME\r\nFerry\r\n\r\nFERRY_TOLD\r\nIt carries\r\nthe others.\r\n"
    assert english.read_bytes() == before + new
    assert run_hookset(root, "check").code == 0
    assert run_hookset(root, "remove", "ferry").code == 0
    assert english.read_bytes() == before


def test_records_of_a_language_of_its_own_are_learned_drafted_and_installed(tmp_path: Path) -> None:
    lot, boats = random.Random(6), [f"BOAT_{number}" for number in range(20)]
    fleet = "".join(f'Boat\n\tname = "{one}"\n\n\ttows = "{lot.choice(boats)}"\n' for one in boats)
    piers = "".join(f'Pier\n\tname = "PIER_{number}"\n\tfirst = "{lot.choice(boats)}"\n' for number in range(9))
    trips = "".join(f'Trip\n\tto = "PIER_{lot.randrange(9)}"\n\tby = "{lot.choice(boats)}"\n' for _ in range(30))
    root = tmp_path / "map"
    written(root, {"fleet.boat": f"// all of them\n{fleet}{piers}", "trips.boat": trips})
    notes = 'Ferry\n\nAdd to fleet.boat:\n\nBoat\n\tname = "BOAT_FERRY"\n\n\ttows = "BOAT_3"\n'
    written(tmp_path / "ferry", {"readme.txt": notes})
    assert run_hookset(root, "layout", "learn", "--to", "fleet.toml").code == 0
    assert run_hookset(root, "start", "--layout", "fleet.toml").code == 0
    before = (root / "fleet.boat").read_text(encoding="utf-8")
    drafted = run_hookset(root, "draft", str(tmp_path / "ferry"), "--json").data
    assert [not drafted["not_understood"], run_hookset(root, "install", str(tmp_path / "ferry")).code] == [True, 0]
    new = 'Boat\n\tname = "BOAT_FERRY"\n\n\ttows = "BOAT_3"\n'
    assert (root / "fleet.boat").read_text(encoding="utf-8") == before + new
    assert run_hookset(root, "trace", "BOAT_FERRY").code == 0
    assert run_hookset(root, "remove", "ferry").code == 0
    assert (root / "fleet.boat").read_text(encoding="utf-8") == before
