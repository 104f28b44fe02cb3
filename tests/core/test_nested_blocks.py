"""Nested blocks in the styles of many hands: whatever is written is read back, and an edit leaves all else."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hookset.formats import AlreadyThere, Edits, NoSeat, Unreadable, WrongBody, format_named, spliced
from hookset.formats.base import Body
from hookset.trees import Text

BLOCK = format_named("block")


@dataclass(frozen=True)
class Style:
    """How somebody writes their blocks."""

    options: dict[str, Any]
    opening: str
    closing: str
    between: str
    ending: str
    remark: str
    newline: str = "\n"


STYLES = (
    Style({}, " {", "}", " ", "", "// no { block }"),
    Style({}, "\n{", "}", "\t", "", "# }", newline="\r\n"),
    Style({"opens": "(", "closes": ")", "assign": "=", "ends": ";"}, " (", ")", " = ", ";", "/* ( */"),
    Style({"assign": "=", "comments": ("--",)}, " {", "}", "=", "", "-- {"),
    Style({"assign": ":", "ends": ",", "separators": ""}, " {", "}", ": ", ",", "// ,"),
    Style(
        {"opens": "(", "closes": ")", "leading": True, "comments": (";",), "separators": ""}, "", ")", " ", "", "; no ("
    ),
    Style({"indented": True, "quotes": '`"'}, "", "", " ", "", "# no { block }"),
    Style({"indented": True, "assign": "="}, "", "  ", "=", "", "/* no block */", newline="\r\n"),
    Style({"tagged": True, "opens": "<", "closes": ">", "comments": ("#",)}, "", "", " ", "", "# </no>"),
    Style({"tagged": True, "opens": "[", "closes": "]", "assign": "="}, "", "", "=", "", "// [no]", newline="\r\n"),
)
WORDS = st.sampled_from(["lamp", "post_1", "quay", "tide", "gate"])
TEXTS = st.one_of(WORDS, st.sampled_from(["a b", "1.5", "-3", "it's", "x/y.png", "ä"]))
Block = tuple[str, list[str], list[Any]]
"""Word, names, and what is in it: pairs of a key and its values, and blocks."""
BLOCKS: st.SearchStrategy[Block] = st.recursive(
    st.tuples(WORDS, st.lists(TEXTS, max_size=2), st.lists(st.tuples(WORDS, st.lists(TEXTS, min_size=1, max_size=3)))),
    lambda inner: st.tuples(WORDS, st.lists(TEXTS, max_size=2), st.lists(inner, max_size=3)),
    max_leaves=8,
)


def quoted(text: str) -> str:
    return text if text.isidentifier() and text.isascii() else f'"{text}"'


def written(block: Block, style: Style, lead: str = "") -> str:
    word, names, inside = block
    if style.options.get("leading"):
        return _list(word, names, inside, style, lead)
    said = " ".join([word, *map(quoted, names)])
    opening, closing = said + style.opening.replace("\n", f"\n{lead}"), style.closing
    tagged = bool(style.options.get("tagged"))
    if tagged:
        opens, closes = style.options["opens"], style.options["closes"]
        opening, closing = f"{opens}{said}{closes}", f"{opens}/{word}{closes}"
    lines = [lead + opening]
    for one in inside:
        if len(one) == 2:
            # Without quotes all that stands behind the mark is one value.
            whole = tagged and bool(style.options.get("assign"))
            values = " ".join(f'"{value}"' if whole else quoted(value) for value in one[1])
            lines.append(f"{lead}  {one[0]}{style.between}{values}{style.ending} {style.remark}")
        else:
            lines.append(written(one, style, f"{lead}  "))
    return "\n".join([*lines, lead + closing])


def _list(word: str, names: list[str], inside: list[Any], style: Style, lead: str) -> str:
    said = " ".join([word, *map(quoted, names)])
    each = [one if len(one) == 3 else (*one, []) for one in inside]
    lines = [f"{lead}({said}", *(_list(one[0], one[1], one[2], style, f"{lead}  ") for one in each)]
    return "\n".join(lines) + (")" if len(lines) < 3 else f" {style.remark}\n{lead})")


def opened(text: str, style: Style = STYLES[0]) -> Any:
    return BLOCK.open(Text(text, "utf-8"), BLOCK.options(**style.options))


def found(text: str, at: str, style: Style = STYLES[0], arg: int = 1) -> list[str]:
    return [value.text for value in opened(text, style).select(BLOCK.selector(at=at, arg=arg))]


def names_in(block: Block, word: str) -> list[str]:
    here = block[1][:1] if block[0] == word else []
    return here + [name for one in block[2] if len(one) == 3 for name in names_in(one, word)]


def values_in(block: Block, key: str) -> list[str]:
    found_: list[str] = []
    for one in block[2]:
        if len(one) == 2 and one[0] == key:
            found_ += one[1]
        elif len(one) == 3:
            found_ += values_in(one, key)
    return found_


def lines_in(block: Block, word: str) -> list[list[str]]:
    """What lines say that begin with a word, where each is a key and a block."""
    here = [block[1]] if block[0] == word else []
    for one in block[2]:
        here += lines_in(one, word) if len(one) == 3 else [one[1]] if one[0] == word else []
    return here


def named(block: Block, word: str, style: Style) -> list[str]:
    if not style.options.keys() & {"indented", "leading"}:
        return names_in(block, word)
    return [name for values in lines_in(block, word) for name in values[:1]]


@pytest.mark.no_cover
@pytest.mark.parametrize("style", STYLES)
@settings(max_examples=25)
@given(blocks=st.lists(BLOCKS, max_size=4))
def test_what_is_written_is_read(style: Style, blocks: list[Block]) -> None:
    text = "\n".join(written(block, style) for block in blocks).replace("\n", style.newline)
    for word in ("lamp", "quay"):
        assert found(text, f"**/{word}/@1", style) == [name for block in blocks for name in named(block, word, style)]
        values = [value for block in blocks for value in values_in(block, word)]
        if style.options.keys() & {"indented", "leading"}:
            values = [value for block in blocks for line in lines_in(block, word) for value in line]
        assert found(text, f"**/{word}", style, arg=0) == values
    document = opened(text, style)
    every = list(document.select(BLOCK.selector(at="**/*", arg=0)))
    spans = document.spans([value.where for value in every])
    assert all(text[slice(*spans[value.where])] == value.text for value in every)


@pytest.mark.no_cover
@pytest.mark.parametrize("style", STYLES)
@settings(max_examples=25)
@given(blocks=st.lists(BLOCKS, max_size=3), new=BLOCKS, at=st.sampled_from(["start", "end"]))
def test_a_block_is_set_and_is_there(style: Style, blocks: list[Block], new: Block, at: str) -> None:
    text = "\n".join(written(block, style) for block in [*blocks, ("shed", ["own"], [])]).replace("\n", style.newline)
    seat = BLOCK.seat(into="shed[own]", at=at)
    placed = opened(text, style).put(seat, Body(text=written(new, style)))
    assert isinstance(placed, Edits), placed
    after = spliced(text, placed.edits)
    assert isinstance(opened(after, style).put(seat, Body(text=written(new, style))), AlreadyThere)
    # What was there is there still, in its order; the new one is in the block that was meant.
    for word in ("lamp", "quay"):
        before = [name for block in blocks for name in named(block, word, style)]
        assert found(after, f"**/{word}/@1", style) == before + named(new, word, style)
        assert found(after, f"shed/**/{word}/@1", style) == named(new, word, style)


@pytest.mark.parametrize(
    ("at", "after"),
    [
        ("end", "quay {\n  lamp { hue {\n  red } }\n  tide 2\n}\n"),
        ("start", "quay {\n  tide 2\n  lamp { hue {\n  red } }}\n"),
    ],
)
def test_a_block_that_is_closed_beside_others_takes_its_own(at: str, after: str) -> None:
    text = "quay {\n  lamp { hue {\n  red } }}\n"
    placed = opened(text).put(BLOCK.seat(into="quay", at=at), Body(text="tide 2"))
    assert spliced(text, placed.edits) == after
    beside = "quay { lamp { hue {\n  red } }\n}\n"
    placed = opened(beside).put(BLOCK.seat(into="quay", at=at), Body(text="tide 2"))
    assert found(spliced(beside, placed.edits), "quay/tide") == ["2"]


QUAY = """quay "old" {
    lamp "first" { at 1 2 3; bright yes }
    lamp "second" {
        at "4 5 6"
        works_on "first"
        lamp "inner" { at 7 8 9 }
    }
}
"""


def test_records_with_what_is_in_them() -> None:
    document = opened(QUAY)
    records = [record for _, record in document.records(BLOCK.selector(at="**/lamp/at"))]
    assert records == []
    lamps = BLOCK.selector(at="**/lamp")
    said = [record for _, record in document.records(lamps)]
    assert [one["@1"] for one in said] == ["first", "second", "inner"]
    assert said[1] == {"@1": "second", "at": "4 5 6", "works_on": "first"}
    rows = {value.text: beside for value, beside in document.rows(BLOCK.selector(at="**/works_on"))}
    assert rows == {"first": {"@1": "second", "at": "4 5 6", "works_on": "first"}}


def test_parts_of_records_and_what_is_around_them() -> None:
    document = opened(QUAY)
    lamps = BLOCK.selector(at="**/lamp")
    table = document.parts(lamps, ["@1", "at", "lamp/@1", "nothing", "@7"])
    names, at, inner, nothing, seventh = ([part and part.value for part in column] for column in table.columns)
    assert names == ["first", "second", "inner"]
    assert [[one.value for one in said] if isinstance(said, tuple) else said for said in at] == [
        ["1", "2", "3;", "bright", "yes"], "4 5 6", ["7", "8", "9"],
    ]  # fmt: skip
    assert (inner, nothing, seventh) == ([None, "inner", None], [None] * 3, [None] * 3)
    outer = document.around(lamps)
    assert [QUAY[one:].split()[1] if one is not None else None for one in outer] == [None, None, '"second"']
    (second,) = (where for where, record in document.records(lamps) if record["@1"] == "second")
    assert document.ways(second) == ("at", "works_on")
    assert QUAY[document.field(second, "works_on") :].startswith('first"')
    assert document.field(second, "nothing") == second
    assert document.unit(second).body.text.startswith('lamp "second" {')


@pytest.mark.parametrize(
    ("values", "line"),
    [
        ({"bright": "no"}, "        bright no\n"),
        ({"bright": True}, "        bright true\n"),
        ({"hue": [1, 2.5]}, "        hue 1 2.5\n"),
        ({"hue": "a", "size": 2}, "        hue a\n        size 2\n"),
    ],
)
def test_values_are_added_to_a_record(values: dict[str, Any], line: str) -> None:
    document = opened(QUAY)
    (second,) = (where for where, record in document.records(BLOCK.selector(at="**/lamp")) if record["@1"] == "second")
    made = document.adding(second, values)
    assert made is not None
    assert spliced(QUAY, made.edits) == QUAY.replace("{ at 7 8 9 }\n", "{ at 7 8 9 }\n" + line)


@pytest.mark.parametrize("values", [{"lamp/at": "1"}, {"@1": "x"}, {"a": {"b": 1}}])
def test_what_cannot_be_added_is_not(values: dict[str, Any]) -> None:
    document = opened(QUAY)
    where = next(where for where, _ in document.records(BLOCK.selector(at="**/lamp")))
    assert document.adding(where, values) is None
    assert document.adding(1, {"a": "b"}) is None


@pytest.mark.parametrize(
    ("seat", "body", "kind"),
    [
        ({"into": "quay/lamp"}, Body(text="bright no"), NoSeat),
        ({"into": "mill"}, Body(text="bright no"), NoSeat),
        ({"into": "quay"}, Body(text="lamp {"), WrongBody),
        ({"into": "quay"}, Body(text="  "), WrongBody),
        ({"into": "quay"}, Body(record={"a": 1}), WrongBody),
        ({"into": "quay/lamp[second]"}, Body(text='at   "4 5 6"'), AlreadyThere),
        ({"into": "quay/lamp[second]"}, Body(text='lamp "inner"\n{ at 7 8 9 }'), AlreadyThere),
    ],
)
def test_what_is_not_set(seat: dict[str, str], body: Body, kind: type) -> None:
    assert isinstance(opened(QUAY).put(BLOCK.seat(**seat), body), kind)


@pytest.mark.parametrize("at", ["a//b", "a/[x]", "@1x", "a[", "/a", ""])
def test_ways_that_lead_nowhere(at: str) -> None:
    if not at:
        assert list(opened(QUAY).existing(BLOCK.seat(into=at)))
        return
    with pytest.raises(ValueError, match="is no step"):
        BLOCK.selector(at=at)


BOATS = """boat `Heron`
\tcargo	# of today
\t\t"Ship's Biscuit" 40
\t\tCoffee\t2

  # not yet: boat Loon
boat "Heron" "Heron (old)"
\t`a \\ text`
\tcargo
\t\t\tRope
\t\tTar
\tafter Heron"""
LINES: dict[str, Any] = {"indented": True, "quotes": '"`'}


def boats(text: str = BOATS) -> Any:
    return BLOCK.open(Text(text, "utf-8"), BLOCK.options(**LINES))


@pytest.mark.parametrize(
    ("at", "texts"),
    [
        ("boat/@1", ["Heron", "Heron"]), ("boat/@-1", ["Heron", "Heron (old)"]), ("boat/@2", ["Heron (old)"]),
        ("boat/cargo/@0", ["Ship's Biscuit", "Coffee", "Rope", "Tar"]), ("boat/cargo/@-1", []), ("boat/cargo/*", ["40", "2"]),
        ("boat", ["Heron", "Heron"]), ("boat/cargo/Coffee/@1", ["2"]),
        ("boat/@0", ["a \\ text", "after"]), ("boat/after", ["Heron"]), ("@0", []), ("@1", []),
    ],
)  # fmt: skip
def test_blocks_by_how_far_in_lines_stand(at: str, texts: list[str]) -> None:
    document = boats()
    values = list(document.select(BLOCK.selector(at=at)))
    assert [value.text for value in values] == texts
    spans = document.spans([value.where for value in values])
    assert [BOATS[slice(*spans[value.where])] for value in values] == texts
    assert [value.text for value, _ in document.rows(BLOCK.selector(at=at))] == texts


def test_lines_are_set_at_the_depth_of_their_block() -> None:
    for into in ("boat[Heron]/cargo", "boat[Loon]", "boat"):
        assert isinstance(boats().put(BLOCK.seat(into=into), Body(text="Tar")), NoSeat)
    one = BOATS.replace("Heron (old)", "x").replace('boat "Heron"', "boat Loon")
    for at, old, new in (
        ("end", "\t\tCoffee\t2\n", "\t\tCoffee\t2\n\t\tTar 3\n"),
        ("start", "of today\n", "of today\n\t\tTar 3\n"),
    ):
        placed = boats(one).put(BLOCK.seat(into="boat[Heron]/cargo", at=at), Body(text="Tar 3"))
        assert spliced(one, placed.edits) == one.replace(old, new)
    placed = boats(one).put(BLOCK.seat(into="boat/cargo/Coffee"), Body(text="fine"))
    assert spliced(one, placed.edits) == one.replace("Coffee\t2\n", "Coffee\t2\n\t\t\tfine\n")
    placed = boats(one).put(BLOCK.seat(into="boat[Loon]"), Body(text="crew\n  two"))
    assert spliced(one, placed.edits) == f"{one}\n\tcrew\n\t\ttwo"
    (loon,) = (one_ for one_ in boats(one).existing(BLOCK.seat()) if "Loon" in one_.body.text)
    assert one[loon.start : loon.end].startswith("boat Loon") and loon.end == len(one)
    where = next(where for where, record in boats(one).records(BLOCK.selector(at="boat")) if record["@1"] == "Loon")
    assert spliced(one, boats(one).adding(where, {"crew": "two"}).edits).endswith("after Heron\n\tcrew two")


def test_where_nothing_is_a_quote_all_are_words() -> None:
    document = BLOCK.open(Text("boat Heron\n\tsize 4\n", "utf-8"), BLOCK.options(indented=True, quotes=""))
    assert [value.text for value in document.select(BLOCK.selector(at="boat/@1"))] == ["Heron"]
    assert [value.text for value in document.select(BLOCK.selector(at="boat/size", arg=0))] == ["4"]


def test_a_text_in_quotes_ends_on_its_line() -> None:
    with pytest.raises(Unreadable, match="does not fit"):
        boats('boat "Heron\n\tcargo')
    with pytest.raises(Unreadable, match="nested too deeply"):
        boats("\n".join(" " * depth + "boat" for depth in range(300)))


WHARF = """; what there is
(wharf (name "old")
  (boats
    (boat "Heron" (at 1 2))
    (boat "Loon"
      (at 3 4)))
  (tiles 0 0 1))
"""
LISTS: dict[str, Any] = {"opens": "(", "closes": ")", "leading": True, "comments": (";",), "separators": ""}


def wharf(text: str = WHARF) -> Any:
    return BLOCK.open(Text(text, "utf-8"), BLOCK.options(**LISTS))


@pytest.mark.parametrize(
    ("seat", "text", "old", "new"),
    [
        ({"into": "wharf/boats"}, '(boat "Rail")', "(at 3 4)))", '(at 3 4))\n    (boat "Rail"))'),
        ({"into": "wharf/boats", "at": "start"}, '(boat "Rail")', "(boats\n", '(boats\n    (boat "Rail")\n'),
        ({"into": "wharf/boats/boat[Heron]"}, "(lit)", " (at 1 2))", " (at 1 2)\n      (lit))"),
        ({"into": "wharf", "at": "start"}, "(lit)", '(wharf (name "old")', '(wharf\n  (lit)\n  (name "old")'),
        ({}, '(wharf (name "new"))', "0 0 1))\n", '0 0 1))\n(wharf (name "new"))\n'),
    ],
)
def test_lists_are_set_in_lists(seat: dict[str, str], text: str, old: str, new: str) -> None:
    placed = wharf().put(BLOCK.seat(**seat), Body(text=text))
    after = spliced(WHARF, placed.edits)
    assert after == WHARF.replace(old, new)
    assert isinstance(wharf(after).put(BLOCK.seat(**seat), Body(text=text)), AlreadyThere)


def test_lists_are_records() -> None:
    boats_ = BLOCK.selector(at="wharf/boats/boat")
    document = wharf()
    assert [record for _, record in document.records(boats_)] == [
        {"@1": "Heron", "at": "1 2"},
        {"@1": "Loon", "at": "3 4"},
    ]
    where = next(where for where, record in document.records(boats_) if record["@1"] == "Loon")
    assert document.unit(where).body.text.startswith('(boat "Loon"')
    added = spliced(WHARF, document.adding(where, {"crew": "two men", "size": [1, 2]}).edits)
    assert '(at 3 4)\n      (crew "two men")\n      (size 1 2)))' in added


@pytest.mark.parametrize("text", ["(a (b)", "a b", "(a))", "(" * 300 + ")" * 300, "(a) b"])
def test_what_is_no_list(text: str) -> None:
    with pytest.raises(Unreadable):
        wharf(text)


def test_many_numbers_are_taken_apart_when_somebody_asks() -> None:
    numbers = [str(number * 7 % 900) for number in range(500)]
    text = f'(map (tiles {" ".join(numbers[:300])}\n {" ".join(numbers[300:])}) (name "a" 1))'
    document = wharf(text)
    selector = BLOCK.selector(at="map/tiles", arg=0)
    values = list(document.select(selector))
    assert [value.text for value in values] == numbers
    spans = document.spans([value.where for value in values])
    assert [text[slice(*spans[value.where])] for value in values] == numbers
    for arg, said in ((1, numbers[:1]), (450, numbers[449:450]), (501, [])):
        assert [value.text for value in document.select(BLOCK.selector(at="map/tiles", arg=arg))] == said
    assert [value.text for value in document.select(BLOCK.selector(at="map/tiles/@-1"))] == numbers[-1:]
    assert [value.text for value in document.select(BLOCK.selector(at="map/name/@-1"))] == ["1"]
    entry = document.entries[0].inside[0]
    assert (len(entry.values), entry.values[3].text, bool(entry.values)) == (500, numbers[3], True)
    with pytest.raises(IndexError):
        entry.values[500]


RULES = "Heron:\n\tRides@calm:\n\t\tBoat: Skiff\n\tChases: Tern\nTern:\n\tChases: Eel\n"


def test_the_words_of_blocks_can_be_names() -> None:
    document: Any = BLOCK.open(Text(RULES, "utf-8"), BLOCK.options(indented=True, assign=":"))
    asked = BLOCK.selector(keys="")
    assert [value.text for value in document.select(asked)] == ["Heron", "Tern"]
    assert [beside["Chases"] for _, beside in document.rows(asked)] == ["Tern", "Eel"]
    assert [value.text for value in document.select(BLOCK.selector(keys="Heron"))] == ["Rides@calm", "Chases"]
    assert [value.text for value in document.select(BLOCK.selector(at="*/Rides?*/Boat"))] == ["Skiff"]
    spans = document.spans([value.where for value in document.select(asked)])
    assert [RULES[slice(*span)] for span in spans.values()] == ["Heron", "Tern"]


@pytest.mark.parametrize("asked", [{}, {"at": "a", "keys": "b"}, {"keys": "a[b"}])
def test_either_values_or_words_are_meant(asked: dict[str, str]) -> None:
    with pytest.raises(ValueError, match=r"keys|step"):
        BLOCK.selector(**asked)


NUMBERS = st.lists(
    st.one_of(st.integers(-9, 999).map(str), st.sampled_from(["0.25", "-1.5", "+3"])), min_size=33, max_size=90
)


@given(st.lists(st.one_of(NUMBERS, st.lists(st.sampled_from(["moor", "1.2.3", "4-5", "7."]), max_size=3)), max_size=4))
def test_all_among_many_numbers_is_read(parts: list[list[str]]) -> None:
    """Whole ones, others, and what only begins like a number."""
    said = [one for part in parts for one in part]
    spaced = "".join(f"{one}{'  ' if number % 7 else chr(10)}" for number, one in enumerate(said))
    document = wharf(f"(map (tiles {spaced}))")
    assert [value.text for value in document.select(BLOCK.selector(at="map/tiles", arg=0))] == said
