"""Files wound back to before an entry, in pieces and as a whole."""

from __future__ import annotations

import importlib
from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.config.layouts import load_layout, shipped_layout
from hookset.edits import EntryState, entry_state
from hookset.edits.place import Put, line_above, line_below, put
from hookset.formats import Edit, spliced
from hookset.project import LedgerEdit, LedgerHook
from hookset.trees import EmptyTree, Inline, Overlay, Tree

# The package has a function of that name.
replay = importlib.import_module("hookset.edits.replay")
BASE = "".join(f"row {number} of the list\n" for number in range(900))


def hook(order: int, string: str, at: int, old: str, new: str) -> tuple[str, LedgerHook]:
    """One edit as the ledger stores it, and the text with it."""
    edit = LedgerEdit(new=new, old=old, above=line_above(string, at), below=line_below(string, at + len(old)))
    stored = LedgerHook(order=order, seat="rows", path="list.txt", part="", key=str(order), text=new, edits=(edit,))
    return spliced(string, [Edit(at, at + len(old), new)]), stored


def set_in_turn(places: Sequence[tuple[int, bool, bool]]) -> tuple[str, list[LedgerHook]]:
    """Entries at some of the lines, or within the entry that was set last, some of which are there twice."""
    string, hooks, last = BASE, list[LedgerHook](), -1
    for number, (line, nested, twice) in enumerate(places, 1):
        text = "same\n" if twice else f"entry {number} <a>\n"
        if nested and last >= 0 and string.startswith("entry", last):
            end = string.index(">", last)
            string, one = hook(number, string, end, ">", f">\n  within {number}\n</b>")
        else:
            last = string.index(f"row {line} ")
            string, one = hook(number, string, last, "", text)
        hooks.append(one)
    return string, hooks


PLACES = st.lists(
    st.tuples(st.integers(0, 899), st.booleans(), st.just(False) | st.booleans()), min_size=1, max_size=12
)


@given(PLACES)
def test_a_file_is_wound_back_in_pieces_as_it_is_as_a_whole(places: list[tuple[int, bool, bool]]) -> None:
    string, hooks = set_in_turn(places)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(replay, "_COPIED", 1 << 30)
        whole = replay.without_later(replay.Sought(string), hooks[0], hooks)
        patch.setattr(replay, "_COPIED", 0)
        patch.setattr(replay, "_AROUND", 40)
        pieces = replay.without_later(replay.Sought(string), hooks[0], hooks)
    assert pieces.string == whole.string
    assert sorted((one.order, at) for one, at in pieces.taken) == sorted((one.order, at) for one, at in whole.taken)


def test_what_was_set_within_an_entry_is_known() -> None:
    string, hooks = set_in_turn([(10, False, False), (10, True, False), (700, False, False)])
    earlier = replay.without_later(replay.Sought(string), hooks[0], hooks)
    assert [one.order for one in replay.set_within(earlier, hooks[0])] == [2]


SORTED = """
[layout]
name = "sorted"
title = "one list"
[kinds.ware]
label = "ware"
[[read]]
files = "list.txt"
format = "lines"
defines = [{ kind = "ware" }]
[[seat]]
name = "wares"
title = "in the list"
file = "list.txt"
put = { at = "sorted" }
"""


def test_what_would_be_set_elsewhere_now_stays_where_it_is() -> None:
    layout = load_layout(SORTED.encode(), "sorted.toml")
    tree: Tree = Overlay(EmptyTree(), {"list.txt": Inline(b"a\nc\nz\n")})
    hooks: list[LedgerHook] = []
    for order, text in enumerate(("m", "n"), 1):
        made = put(layout, tree, LedgerHook(order=order, seat="wares", path="list.txt", key=text, text=text))
        assert isinstance(made, Put)
        tree = Overlay(EmptyTree(), {"list.txt": made.content})
        hooks.append(made.hook)
    assert tree.read("list.txt") == b"a\nc\nm\nn\nz\n"
    # The builder has put something above: set now, both would go before it.
    mine = Overlay(EmptyTree(), {"list.txt": Inline(b"y\n" + tree.read("list.txt"))})
    done = replay.replay(layout, mine, "list.txt", hooks, {1: None}, "drop")
    assert done.content.read() == b"y\na\nc\nn\nz\n"


def test_what_was_set_within_another_is_live_only_where_both_are_read() -> None:
    layout = shipped_layout("scene-graph")
    scene = '<Basin>\n  <Things>\n    <Thing key="old"/>\n  </Things>\n</Basin>\n'
    tree: Tree = Overlay(EmptyTree(), {"scene/a.xml": Inline(scene.encode())})
    hooks: list[LedgerHook] = []
    for order, (seat, at, text) in enumerate(
        (
            ("nodes", {}, '<Thing key="a"/>'),
            ("nodes", {}, '<Thing key="z"/>'),
            ("on-node", {"node": "a"}, '<Thing key="b"/>'),
        ),
        1,
    ):
        asked = LedgerHook(order=order, seat=seat, at=at, path="scene/a.xml", key=text, text=text)
        made = put(layout, tree, asked)
        assert isinstance(made, Put), made
        tree = Overlay(EmptyTree(), {"scene/a.xml": made.content})
        hooks.append(made.hook)
    assert entry_state(layout, tree, hooks[0], hooks) is EntryState.AS_SET
    string = tree.read("scene/a.xml").decode()
    start, end = string.index('    <Thing key="a"'), string.index('    <Thing key="z"')
    line = string[end : string.index("\n", end) + 1]
    # A comment around both, and around a copy of the line below: their texts stand between the same neighbours.
    commented = f"{string[:start]}    <!--\n{string[start:end]}{line}    -->\n{string[end:]}"
    gone = Overlay(EmptyTree(), {"scene/a.xml": Inline(commented.encode())})
    assert entry_state(layout, gone, hooks[0], hooks) is EntryState.GONE
