"""Every format that takes entries, in every encoding and with every line end: an edit adds what it adds, every
other byte stays, and reading afterwards sees what was there and what was set."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hookset.formats import AlreadyThere, Body, Edits, format_named, format_names, spliced, text_of
from hookset.formats.document import placement_at
from hookset.trees import Text, decode

NAMES = st.text("abcäöß_", min_size=1, max_size=8)
NOTES = st.text("abc äöé()[]{}=:,.!?<>&'", max_size=20).map(str.strip)
READ_ONLY = {"any", "audio", "picture", "glb"}


@dataclass(frozen=True)
class Sample:
    """How such a file is written with some names in it, and one more set."""

    lines: Callable[[str, Sequence[str]], list[str]]
    seat: dict[str, Any]
    entry: Callable[[str], Body]
    selector: dict[str, Any]
    options: dict[str, Any] = field(default_factory=dict)
    sides: tuple[str, ...] = ("start", "end")
    """Where in the seat an entry can go."""


SAMPLES = {
    "lines": Sample(lambda note, names: [f"# {note}", *names], {}, lambda name: Body(text=name), {}),
    "json": Sample(
        lambda note, names: ["{", f'  "note": "{note}", // {note}', '  "things": [ // all', *commas(names), "  ]", "}"],
        {"into": "/things"},
        lambda name: Body(record={"name": name}),
        {"at": "$.things[*].name"},
        {"comments": True, "trailing_commas": True},
    ),
    "toml": Sample(
        lambda note, names: [f"# {note}", "a = 1", *(f'[[things]]  # {note}\nname = "{name}"' for name in names)],
        {"into": "/things"},
        lambda name: Body(record={"name": name}),
        {"at": "$.things[*].name"},
        sides=("end",),
    ),
    "yaml": Sample(
        lambda note, names: [f"# {note}", "things:", *(f'  - name: "{name}"  # {note}' for name in names), "z: 1"],
        {"into": "/things"},
        lambda name: Body(record={"name": name}),
        {"at": "$.things[*].name"},
    ),
    "xml": Sample(
        lambda note, names: [f"<!-- {note} -->", "<Things>", *(f"\t<Thing name='{n}' />" for n in names), "</Things>"],
        {"into": "/Things"},
        lambda name: Body(text=f'<Thing name="{name}"/>'),
        {"at": "//Thing/@name"},
    ),
    "csv": Sample(
        lambda note, names: [f"# {note}", "name;more", *(f"{name};1" for name in names)],
        {},
        lambda name: Body(record={"name": name, "more": "2"}),
        {"column": "name"},
        sides=(),
    ),
    "ini": Sample(
        lambda note, names: [f"; {note}", "[things]", *(f"{name} = 1 ; {note}" for name in names), "[more]", "x = 2"],
        {"section": "things"},
        lambda name: Body(record={name: "2"}),
        {"section": "things", "keys": True},
        sides=(),
    ),
    "po": Sample(
        lambda note, names: [f"# {note}", *(f'msgid "{name}"\nmsgstr "x"\n' for name in names)],
        {},
        lambda name: Body(record={name: "x"}),
        {},
        sides=(),
    ),
    "lua": Sample(
        lambda note, names: [f"-- {note}", "function begin()", *(f"\tadd '{n}' -- {note}" for n in names), "end"],
        {"inside": "function begin"},
        lambda name: Body(text=f'add("{name}")'),
        {"call": "add"},
    ),
    "ecmascript": Sample(
        lambda note, names: [f"// {note}", "export function begin() {", *(f"  add('{n}') // x" for n in names), "}"],
        {"inside": "function begin"},
        lambda name: Body(text=f'add("{name}");'),
        {"call": "add"},
    ),
    "block": Sample(
        lambda note, names: [f"// {note}", "things", "{", *(f'\tthing "{name}" // x' for name in names), "}"],
        {"into": "things"},
        lambda name: Body(text=f'thing "{name}"'),
        {"at": "things/thing"},
    ),
    "text": Sample(
        lambda note, names: [f"rem {note}", "on begin (", *(f'  add "{name}"' for name in names), ")"],
        {"inside": "^on begin"},
        lambda name: Body(text=f'add "{name}"'),
        {"match": '^[ \t]*add "(?P<value>[^"]*)"'},
        {"comments": ["^rem[^\n]*"], "opens": "(", "closes": ")"},
    ),
    "gdscript": Sample(
        lambda note, names: [f"# {note}", "func begin():", *(f"\tadd('{n}') # {note}" for n in names), "\tpass"],
        {"inside": "function begin"},
        lambda name: Body(text=f'add("{name}")'),
        {"call": "add"},
    ),
    "resource": Sample(
        lambda note, names: [f"; {note}", "[things]", "", *(f'{name}="1" ; {note}' for name in names), "[more]", "x=2"],
        {"section": "things"},
        lambda name: Body(record={name: "2"}),
        {"section": "things", "keys": True},
        sides=(),
    ),
}  # fmt: skip


def commas(names: Sequence[str]) -> list[str]:
    return [f'    {{ "name": "{name}" }},' for name in names]


def test_no_format_is_left_out() -> None:
    assert SAMPLES.keys() | READ_ONLY == set(format_names())


@pytest.mark.no_cover
@pytest.mark.parametrize("form", SAMPLES)
@settings(max_examples=30, deadline=None)
@given(data=st.data())
def test_an_edit_adds_and_leaves_all_else(form: str, data: st.DataObject) -> None:
    sample, made = SAMPLES[form], format_named(form)
    names = data.draw(st.lists(NAMES, unique=True, max_size=4))
    fresh = data.draw(NAMES.filter(lambda name: name not in names))
    newline = data.draw(st.sampled_from(["\n", "\r\n"]))
    lines = [line.replace("\n", newline) for line in sample.lines(data.draw(NOTES), names)]
    string = newline.join(lines) + data.draw(st.sampled_from(["", newline, newline * 2]))
    encoding = data.draw(st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252"]))
    before = string.encode(encoding)
    encodings = ("cp1252",) if encoding == "cp1252" else ("utf-8", "cp1252")
    seat = made.seat(**sample.seat, **({"at": data.draw(st.sampled_from(sample.sides))} if sample.sides else {}))
    options, selector = made.options(**sample.options), made.selector(**sample.selector)

    text = text_of(made, before, encodings)
    assert text.string == string
    document = made.open(text, options)
    assert [value.text for value in document.select(selector)] == names
    placement = placement_at(document, seat, sample.entry(fresh))
    assert isinstance(placement, Edits), placement

    # What was replaced is blank, and every other byte is there as it was.
    assert all(not string[edit.start : edit.end].strip() for edit in placement.edits)
    after = text.encode(spliced(string, placement.edits))
    head = min(edit.start for edit in placement.edits)
    tail = len(string) - max(edit.end for edit in placement.edits)
    assert after.startswith(text.encode(string[:head]))
    assert after.endswith(
        string[len(string) - tail :].encode("utf-16-le" if encoding == "utf-16" else encoding.removesuffix("-sig"))
    )
    assert taken_out(after, text, placement) == string
    if newline == "\r\n" and newline in string:
        assert "\n" not in text_of(made, after, encodings).string.replace("\r\n", "")

    again = made.open(text_of(made, after, encodings), options)
    assert sorted(value.text for value in again.select(selector)) == sorted([*names, fresh])
    assert isinstance(placement_at(again, seat, sample.entry(fresh)), AlreadyThere)


def taken_out(after: bytes, text: Text, placement: Edits) -> str:
    """The text without what the edits have put in, and with what they have replaced."""
    string = decode(after, (text.encoding,)).string
    for edit in sorted(placement.edits, key=lambda one: one.start):
        # Those before it are taken out already, so that offsets are those of the text as it was.
        assert string[edit.start : edit.start + len(edit.text)] == edit.text
        string = string[: edit.start] + text.string[edit.start : edit.end] + string[edit.start + len(edit.text) :]
    return string
