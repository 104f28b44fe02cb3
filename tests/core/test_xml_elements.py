"""XML is read by two parsers: what a file says must not depend on which of them has read it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from itertools import accumulate
from typing import Any
from unittest.mock import patch

import pytest
from hypothesis import event, given, settings
from hypothesis import strategies as st
from lxml import etree

from hookset.formats import Unreadable, format_named, spliced
from hookset.formats._xml import cut, scan
from hookset.formats._xml.cut import CutElements, CutTexts
from hookset.formats._xml.elements import elements_of, elements_of_tree, texts_of
from hookset.formats._xml.scan import scanned
from hookset.formats._xml.spans import ElementSpans
from hookset.formats.base import AlreadyThere, Body, Clash, Edits, NoSeat, WrongBody
from hookset.trees import Text

XML = format_named("xml")

NASTY = [
    '<?xml version="1.0" encoding="utf-8"?>\n<a xmlns:p="urn:x" xml:lang="de" p:q="1"><b c="d&amp;e" f=\'g&#65;\n\t h\'/>'
    "text &lt; <!-- c --><![CDATA[ <x> ]]><?pi d?><p:z/></a>",
    '<r><o id="x" name="ä ü">t</o><o xml:id="one" xml:space="preserve"/></r>',
    '<a xmlns="urn:d" xmlns:b="https://old.quay/b"><b:c d="&quot;"/><e xmlns=""/></a>',
    "<a><b></b ><c\n/></a >\n<!-- end -->\n",
    "<m>\r\n  <o a='1' b=\"it's\">\r\n    <!-- before --> later\r\n  </o>\r\n</m>\r\n",
    "<!DOCTYPE m [<!ELEMENT m ANY>]>\n<m><o/></m>",
    "<m><o a='&#x1F600;'/><o a='\u2028'/><o>😀</o></m>",
    "<a" + "><a" * 300 + ">" + "</a>" * 301,
    "<m><o a='1'><i>one</i><i k='2'>two</i></o>tail<o a='2'>x<i/>y</o></m>",
]
PLAINER = [
    "<m>'<o a=\"it's > that\" longer_name_of_it\n=\n'1' \t b=\"&lt;&#10;\t\r\n&#x41;\"/>\">'<o2 longer_name_of_at=''/></m>".replace(
        "'1'", '"1"'
    ).replace("''", '""'),
    "<?xml version='1.0'?>\n<möwe größe='1\"' a='é' b='x>y'>\n<!-- <o a='> --><![CDATA[<o>]]><?see <o>?><o größe='2'/></möwe>",
    "<m/>",
    "<m a='1'\n/><!-- -->",
    "<m a='1' b=\"2\"/>",
    f"<m {'a' * 1100}='1'/>",
    f"<m{' ' * 1100}a='1'/>",
    f"<m a='{'>' * 2200}' b=\"'\"/>",
]
PIECES = [
    "&", "<", ">", '"', "'", "&#0;", "&#x1;", "\x01", "\ufffe", ":", 'xmlns=""', 'xmlns:q=""', "--", "]]>", "&foo;", "é",
    "·", "\u0300", "a:b:c", " x=y ", "<![CDATA[", "<!", "?>", "=", " ", "/", "\u2028", "😀", 'xmlns:xml="urn:y" ',
    'xml:id="1" ', ' p:q="1" p2:q="1"', 'version="1.1"', "<!DOCTYPE a>", 'encoding="latin-1"', "\r", "\x85", '𐀀="1"',
    'xmlns:p="urn x" ', 'xmlns="no address" ', '<?xml version="1.0"?>', "xml:id", "</a>", "<b/>",
]  # fmt: skip
PATHS = ["//o", "//o/@a", "//b/@c", "/m/o/i", "//i", "//o[@a='1']", "//o[not(@a)]", "//c", "/r/o[@id]/@name"]


@st.composite
def mutated(draw: st.DrawFn) -> str:
    """XML that somebody has damaged in one or two places."""
    text = draw(st.sampled_from([*NASTY, *PLAINER]))
    for _ in range(draw(st.integers(0, 2))):
        at = draw(st.integers(0, min(len(text), 200)))
        gone = draw(st.integers(0, 3))
        text = text[:at] + draw(st.sampled_from(["", *PIECES])) + text[at + gone :]
    return text


@st.composite
def plain(draw: st.DrawFn) -> str:
    """XML as any program might write it."""
    quotes = draw(st.sampled_from(['"', "'", "\"'"]))
    blanks = st.sampled_from([" ", " ", "\n", "\t  ", "\r\n"])
    texts = ["", "", "\n", 'it\'s > "that"', "<!-- <o a='> -->", "<![CDATA[<o>]]>", "<?see <o>?>", "é", "&lt;"]

    def element(depth: int) -> str:
        keys = draw(st.lists(st.sampled_from(["a", "key", "größe", "longer_name_of_it"]), unique=True, max_size=3))
        said = "".join(draw(blanks) + key + draw(st.sampled_from(["=", "=", " = "])) + value() for key in keys)
        tag = draw(st.sampled_from(["o", "möwe", "Thing_of_it"]))
        inside = "".join(element(depth - 1) for _ in range(draw(st.integers(0, 3)))) if depth else ""
        around = draw(st.sampled_from(texts)), draw(st.sampled_from(texts))
        return (
            f"<{tag}{said}>{around[0]}{inside}{around[1]}</{tag}>"
            if inside or draw(st.booleans())
            else f"<{tag}{said}/>"
        )

    def value() -> str:
        quote = draw(st.sampled_from(quotes))
        other = "'" if quote == '"' else '"'
        pieces = st.sampled_from(["1", "x>y", "é", "&amp;&#10;&quot;", "\t\r\n", "/", other, "a=b"])
        return quote + "".join(draw(st.lists(pieces, max_size=3))) + quote

    return draw(st.sampled_from(["", '<?xml version="1.0"?>\n'])) + element(draw(st.integers(1, 3)))


def opened(text: str, **options: Any) -> Any:
    return XML.open(Text(text, "utf-8"), XML.options(**options))


def by_tree(text: str) -> Any | None:
    """What lxml makes of it with the settings that files are read by; None for what is not XML."""
    parser = etree.XMLParser(encoding="utf-8", resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        return etree.fromstring(text.encode("utf-8", "surrogatepass"), parser)
    except etree.XMLSyntaxError:
        return None


@settings(max_examples=60)
@given(mutated())
def test_columns_are_what_the_tree_says(text: str) -> None:
    columns, root = elements_of(Text(text, "utf-8")), by_tree(text)
    if columns is None:
        return
    assert root is not None, "taken for XML, which it is not"
    tree = elements_of_tree(root)
    assert (columns.tags, columns.attributes, columns.parents) == (tree.tags, tree.attributes, tree.parents)
    assert texts_of(Text(text, "utf-8")) == [one.text or "" for one in root.iter(etree.Element)]


@settings(max_examples=60)
@given(mutated())
def test_a_file_is_read_exactly_where_it_is_xml(text: str) -> None:
    root = by_tree(text)
    if root is None or "<!ENTITY" in text:
        with pytest.raises(Unreadable):
            opened(text)
        return
    document = opened(text)
    numbers = {one: str(number) for number, one in enumerate(root.iter(etree.Element))}
    assert [document._text(number) for number in range(len(numbers))] == [said.strip() for said in document.texts]
    for path in PATHS:
        found = [value.where for value in document.select(XML.selector(at=path))]
        wanted: Any = etree.XPath(path)(root)
        assert found == [
            f"{numbers[one.getparent()]}@{one.attrname}" if hasattr(one, "attrname") else numbers[one] for one in wanted
        ]


@pytest.mark.no_cover
@settings(max_examples=60)
@given(st.one_of(mutated(), plain(), plain()), st.sampled_from((None, 2, 3)))
def test_a_scan_finds_what_a_parser_does(text: str, at_once: int | None) -> None:
    with in_pieces(at_once):
        found = scanned(Text(text, "utf-8"))
        event(f"scanned: {found is not None}")
        if found is not None:
            check_a_scan(text, found)


@contextmanager
def in_pieces(at_once: int | None) -> Iterator[None]:
    """Files of a few lines looked at as large ones are: a part after the other, with more names than one byte tells."""
    with ExitStack() as patches:
        for module, name in (
            (scan, "_AT_ONCE"),
            (cut, "_JOINED"),
            (cut, "_PIECE"),
            (cut, "_TOGETHER"),
            (cut, "_SPARSE"),
        ):
            if at_once is not None:
                patches.enter_context(patch.object(module, name, at_once))
        if at_once is not None:
            patches.enter_context(patch.object(scan, "_FEW_NAMES", 1))
        yield


def check_a_scan(text: str, found: CutElements) -> None:
    columns = elements_of(Text(text, "utf-8"))
    assert columns is not None, "taken for XML of the plain kind, which it is not"
    assert (found.tags, list(found.attributes)) == (columns.tags, columns.attributes)
    assert list(found.parents) == columns.parents
    assert found.columns.starts.tolist() == list(ElementSpans(Text(text, "utf-8")).starts)
    numbers = [*range(len(columns.tags)), 0]
    for name in {key for said in columns.attributes for key in said} | {"none"}:
        assert found.said(numbers, name) == columns.said(numbers, name)
        for few in ([number, number // 2] for number in range(len(columns.tags))):
            assert found.said(few, name) == columns.said(few, name)
        assert [said.get(name) for said in found.saying(numbers, [name])] == columns.said(numbers, name)
    assert {tag: list(rows) for tag, rows in found.named.items() if rows} == columns.named
    assert [found.children.get(number) for number in range(-1, len(numbers))] == [
        columns.children.get(number) for number in range(-1, len(numbers))
    ]
    assert dict(found.children) == columns.children
    assert list(found.each(numbers)) == list(columns.each(numbers))
    for name in {key for said in columns.attributes for key in said}:
        said = found.column(range(len(columns.tags)), name)
        assert isinstance(said, CutTexts)
        texts = [(row, one) for row, one in enumerate(columns.said(range(len(columns.tags)), name)) if one is not None]
        joined = said.joined()
        assert joined.utf8.decode() == "".join(f"{one} " for _, one in texts)
        assert list(joined.rows) == [row for row, _ in texts]
        assert list(joined.ends) == [end - 1 for end in accumulate(len(one.encode()) + 1 for _, one in texts)]


def test_a_file_has_as_many_names_as_it_likes() -> None:
    text = "<a>" + "".join(f'<b{number} c{number}="{number}"/>' for number in range(300)) + "</a>"
    columns = elements_of(Text(text, "utf-8"))
    assert columns is not None
    for at_once in (None, 100):
        with in_pieces(at_once):
            found = scanned(Text(text, "utf-8"))
            assert found is not None
            assert (found.tags, list(found.attributes)) == (columns.tags, columns.attributes)


def test_most_files_can_be_scanned() -> None:
    assert [scanned(Text(text, "utf-8")) is not None for text in (*NASTY, *PLAINER)] == [
        False, False, False, True, False, False, True, False, True, *(True,) * 4, *(False,) * 4,
    ]  # fmt: skip


def test_files_that_both_read_need_no_tree() -> None:
    assert [elements_of(Text(text, "utf-8")) is not None for text in NASTY] == [
        True, False, True, True, True, False, True, False, True,
    ]  # fmt: skip


def test_too_deep_a_file_is_told() -> None:
    with pytest.raises(Unreadable, match="nested too deeply"):
        opened(NASTY[7])


# Documents read by columns, and the same ones read by a tree, are asked the same.


def both(text: str, monkeypatch: pytest.MonkeyPatch) -> Iterator[Any]:
    yield opened(text)
    with monkeypatch.context() as patched:
        patched.setattr("hookset.formats.xml.elements_of", lambda _: None)
        yield opened(text)


THINGS = """<?xml version="1.0"?>
<Quay name="old">
  <Things>
    <Thing key="a" at="1 2 3"><link to="b"/><note>  stands here </note></Thing>
    <Thing key="b"><Thing key="c" at="0 0 0"><link key="x" to="a"/><link key="y" to="b"/></Thing></Thing>
    <!-- <Thing key="no"/> -->
    <Thing key="d" at="4 5 6">words<note/>more</Thing>
  </Things>
  <Texts><Text key="hello">Hello &amp; <![CDATA[<you>]]></Text><Text key="empty"/></Texts>
</Quay>
"""


def told(document: Any) -> Iterator[Any]:
    """Whatever can be asked of a document."""
    things = XML.selector(at="//Thing")
    for path in ("//Thing/@key", "//Thing", "//link/@to", "//Text", "/Quay/Texts/Text/@key", "//Thing[note]/@key"):
        yield list(document.select(XML.selector(at=path)))
        yield [(value, dict(beside)) for value, beside in document.rows(XML.selector(at=path))]
    yield [(where, record) for where, record in document.records(things)]
    table = document.parts(things, ["@key", "@at", "link/@to", "link[@key='y']/@to", "note", "nothing/@at"])
    yield [list(column) for column in table.columns], list(table.wheres)
    yield list(document.around(things))
    yield [document.ways(str(number)) for number in range(14)]
    yield [document.wording(f"{number}@key") for number in range(14)]
    wheres = [value.where for path in ("//Thing/@key", "//note") for value in document.select(XML.selector(at=path))]
    yield document.spans(wheres)
    yield [document.unit(where) for where in wheres]


def test_all_that_is_asked_of_them_is_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    columns, tree = (list(told(document)) for document in both(THINGS, monkeypatch))
    assert columns == tree
    links = opened(THINGS).parts(XML.selector(at="//Thing"), ["link/@to"]).columns[0]
    assert [part and (part.where, part.value) for part in links] == [("3@to", "b"), None, ("7@to", "a"), None]
    assert columns[0][0].text == "a" and columns[1][1][1]["key"] == "b"


ENTRIES: list[tuple[dict[str, str], Body]] = [
    ({"into": "//Things"}, Body(text='<Thing key="new"/>')),
    ({"into": "//Things"}, Body(text='<Thing at="4 5 6" key="d">words<note/>more</Thing>')),
    ({"into": "//Things"}, Body(text='<Thing key="d" at="4 5 6">other words<note/></Thing>')),
    ({"into": "//Things", "at": "start"}, Body(text='<Thing key="new"/>')),
    ({"into": "//Thing[@key='b']"}, Body(text='<link to="a"/>')),
    ({"into": "//Thing[@key='gone']"}, Body(text='<link to="a"/>')),
    ({"before": "//Thing[@key='b']"}, Body(text='<Thing key="new"/>')),
    ({"after": "//Thing"}, Body(text='<Thing key="new"/>')),
    ({"before": "/Quay"}, Body(text="<Quay/>")),
    ({"into": "//Text[@key='empty']"}, Body(text="<b/>")),
    ({"on": "//Thing[@key='a']"}, Body(record={"at": "1 2 3", "lit": True})),
    ({"on": "//Thing[@key='a']"}, Body(record={"at": "9 9 9"})),
    ({"on": "//Thing"}, Body(record={"lit": "1"})),
    ({"into": "//Things"}, Body(text="<Thing")),
    ({"into": "//Things"}, Body(text="<Lamp/>")),
    ({"into": "//Thing[@key='d']"}, Body(text="<note/>")),
]


SET = {0, 2, 3, 4, 6, 7, 9, 10, 14}


@pytest.mark.parametrize("number", range(len(ENTRIES)))
def test_entries_go_to_the_same_place(number: int, monkeypatch: pytest.MonkeyPatch) -> None:
    seat, body = ENTRIES[number]
    made = [document.put(XML.seat(**seat), body) for document in both(THINGS, monkeypatch)]
    assert made[0] == made[1]
    assert isinstance(
        made[0], Edits if number in SET else AlreadyThere if number in (1, 15) else NoSeat | Clash | WrongBody
    )
    standing = [[one.body for one in document.existing(XML.seat(**seat))] for document in both(THINGS, monkeypatch)]
    assert standing[0] == standing[1]


@pytest.mark.parametrize(
    "values",
    [
        {"@at": "7 8 9"}, {"link/@to": "d"}, {"note": "else"}, {"lamp/@lit": "yes", "lamp/@hue": "3"}, {"sign": "words"},
        {"link[@key='z']/@to": "a"}, {"Thing": "no"}, {"@at": "a < b & \"c\""}, {"odd way": "1"},
    ],
)  # fmt: skip
@pytest.mark.parametrize("record", ["5", "99"])
def test_parts_are_added_at_the_same_place(
    values: dict[str, str], record: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = [document.adding(record, values) for document in both(THINGS, monkeypatch)]
    assert made[0] == made[1]
    if made[0] is not None:
        after = spliced(THINGS, made[0].edits)
        table = opened(after).parts(XML.selector(at="//Thing"), [*values])
        said = {way: [part.value for part in column if part is not None] for way, column in zip(values, table.columns)}  # noqa: B905
        assert all(text in said[way] for way, text in values.items())


@pytest.mark.parametrize(
    ("before", "path", "entry", "after"),
    [
        (
            '<q:m xmlns:q="urn:q"><q:box/></q:m>\n',
            "//*[local-name()='box']",
            "<q:o/>",
            '<q:m xmlns:q="urn:q"><q:box>\n  <q:o/>\n</q:box></q:m>\n',
        ),
        ("<m>\n  <box></box>\n</m>\n", "//box", "<o/>", "<m>\n  <box>\n    <o/>\n  </box>\n</m>\n"),
        ("<m>\n  <box/>\n</m>\n", "/m/box", "<o/>", "<m>\n  <box>\n    <o/>\n  </box>\n</m>\n"),
    ],
)
def test_an_element_that_was_closed_is_opened_by_its_own_name(before: str, path: str, entry: str, after: str) -> None:
    placed = opened(before).put(XML.seat(into=path), Body(text=entry))
    assert isinstance(placed, Edits), placed
    assert spliced(before, placed.edits) == after


def test_an_entry_in_another_prefix_is_there_already() -> None:
    text = '<q:m xmlns:q="urn:q"><q:box><q:o a="1"> x </q:o></q:box></q:m>'
    document = opened(text, namespaces={"n": "urn:q"})
    placed = document.put(XML.seat(into="//*[local-name()='box']"), Body(text='<q:o a="1">x</q:o>'))
    assert placed.where == "2", placed
    assert [value.text for value in document.select(XML.selector(at="//n:o/@a"))] == ["1"]


def many(count: int, attribute: Callable[[int], str]) -> str:
    return "<m>" + "".join(f'<o key="k{number}"{attribute(number)}/>' for number in range(count)) + "</m>"


def test_of_many_elements_only_some_say_it() -> None:
    document = opened(many(1000, lambda n: f' a="{n}"' if n % 3 else ""))
    columns = document.columns(XML.selector(at="//o/@a"))
    assert columns.texts == [str(n) for n in range(1000) if n % 3]
    assert [columns.where(row) for row in (0, 1, 2)] == ["2@a", "3@a", "5@a"]
    assert document.spans([columns.where(1)]) == {
        "3@a": (text_at := many(3, lambda n: f' a="{n}"' if n % 3 else "").rindex('2"'), text_at + 1)
    }
